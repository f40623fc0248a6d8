"""What was worked out, kept by content under the version of the program: through restarts, for all processes.

The oldest unused goes where there is too much. What cannot be kept is worked out again: a full disk ends nothing.
"""

from __future__ import annotations

import hashlib
import logging
import sqlite3
import sys
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import TypeVar, cast

import diskcache
from django.conf import settings

import velamen.core

T = TypeVar("T")
log = logging.getLogger(__name__)


@cache
def version() -> str:
    """Changes whenever the code or data of the core does, so that nothing stale is shown."""
    folder = Path(velamen.core.__file__).parent
    digest = hashlib.blake2b(sys.version.encode(), digest_size=6)
    for path in sorted(folder.rglob("*")):
        if path.suffix in (".py", ".toml"):
            digest.update(path.read_bytes())
    return digest.hexdigest()


def read(key: str) -> bytes | None:
    """What is kept under a key of this version."""
    return _try(lambda shelf: cast("bytes | None", shelf.get(f"{version()} {key}")))


def keep(key: str, data: bytes) -> None:
    """Keeps something under a key, as long as there is room."""
    _try(lambda shelf: shelf.set(f"{version()} {key}", data))


def _try(do: Callable[[diskcache.Cache], T]) -> T | None:
    if settings.KEPT_FOLDER is None:
        return None
    try:
        return do(_shelf(Path(settings.KEPT_FOLDER)))
    except (OSError, sqlite3.Error, diskcache.Timeout) as error:
        log.warning("Nothing kept: %s", error)
        return None


@cache
def _shelf(folder: Path) -> diskcache.Cache:
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return diskcache.Cache(
        str(folder), size_limit=settings.KEPT_SIZE, eviction_policy="least-recently-used", timeout=2
    )
