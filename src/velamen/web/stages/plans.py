"""Builds of stored revisions, kept while they are looked at, and the tag that names them."""

from __future__ import annotations

import hashlib
from functools import cache, lru_cache
from pathlib import Path

import velamen.core
from velamen.core.building.build import Build, build_job
from velamen.core.memo import Keyed
from velamen.web.jobs.models import Revision


@cache
def core_version() -> str:
    """Changes whenever the code or data of the core does, so that no stale plan is served."""
    folder = Path(velamen.core.__file__).parent
    digest = hashlib.blake2b(digest_size=6)
    for path in sorted(folder.rglob("*")):
        if path.suffix in (".py", ".toml"):
            digest.update(path.read_bytes())
    return digest.hexdigest()


def tag_of(revision: Revision) -> str:
    """ETag of everything worked out from a revision."""
    return f'"{revision.digest}-{core_version()}"'


def build_of(revision: Revision) -> Build:
    """The build of a revision; unchanged pieces are not computed again."""
    return _built(Keyed(revision, revision.digest))


@lru_cache(maxsize=24)
def _built(keyed: Keyed[Revision]) -> Build:
    return build_job(keyed.it.read())
