"""Builds of stored revisions: kept while they are looked at and through restarts, and the tag that names them."""

from __future__ import annotations

import atexit
import time
from collections import OrderedDict
from threading import Lock, Timer

from velamen.core.building.build import Build, build_job, take_up
from velamen.core.building.effort import is_little
from velamen.core.building.packed import opened, packed
from velamen.core.job.document import Job as Document
from velamen.core.job.reading import write_job
from velamen.web.jobs.models import Revision
from velamen.web.work import kept, tasks
from velamen.web.work.outside import outside

AT_HAND = 24  # builds kept in memory
QUIET = 2.0  # seconds without another edit after which a build is kept through restarts

_builds: OrderedDict[str, Build] = OrderedDict()  # by digest, those looked at last at the end
_last: dict[int, Build] = {}  # of each job, among them
_unkept: dict[int, tuple[float, str, Build]] = {}  # by job: the newest that is not kept yet, and when it came
_guard = Lock()


def tag_of(revision: Revision) -> str:
    """ETag of everything worked out from a revision."""
    return f'"{revision.digest}-{kept.version()}"'


def build_of(revision: Revision) -> Build:
    """The build of a revision; unchanged pieces are not computed again."""
    with _guard:
        known = _builds.get(revision.digest)
        before = _last.get(revision.job_id)
    if known is None:
        known = _kept(revision) or _worked_out(revision, before.job if before else None)
    with _guard:
        _builds[revision.digest] = _last[revision.job_id] = known
        _builds.move_to_end(revision.digest)
        while len(_builds) > AT_HAND:
            _, gone = _builds.popitem(last=False)
            for job in [job for job, build in _last.items() if build is gone]:
                del _last[job]
    return known


def build_ahead(revision: Revision) -> None:
    """Builds what takes long, so that whichever worker is to show it finds it kept."""
    if not is_little(revision.read()):
        build_of(revision)


def _key(digest: str) -> str:
    return f"build {digest}"


def _kept(revision: Revision) -> Build | None:
    """What was built before, by anyone, before a restart too."""
    data = kept.read(_key(revision.digest))
    if data is None:
        return None
    build = opened(data)
    take_up(build)
    return build


def _worked_out(revision: Revision, before: Document | None) -> Build:
    """A revision built: here where an edit leaves little to do, by another process otherwise."""
    document = revision.read()
    if is_little(document, before):
        build = build_job(document)
        _keep_later(revision, build)
        return build
    data = outside(f"Building {document.name}", tasks.build, write_job(document), once=_key(revision.digest))
    kept.keep(_key(revision.digest), data)
    build = opened(data)
    take_up(build)
    return build


def _keep_later(revision: Revision, build: Build) -> None:
    """Keeps a build once its job is left alone for a moment, so that no edit waits for that."""
    with _guard:
        begin = not _unkept
        _unkept[revision.job_id] = time.monotonic(), revision.digest, build
    if begin:
        _look_later()


def _look_later() -> None:
    timer = Timer(QUIET, _keep_quiet_ones)
    timer.daemon = True
    timer.start()


def _keep_quiet_ones() -> None:
    """Keeps what was left alone, and looks again while there is more."""
    _keep(time.monotonic() - QUIET)
    if _unkept:
        _look_later()


@atexit.register
def _keep_all() -> None:
    _keep(time.monotonic())


def _keep(before: float) -> None:
    with _guard:
        jobs = [job for job, (edited, _, _) in _unkept.items() if edited <= before]
        quiet = [_unkept.pop(job) for job in jobs]
    for _, digest, build in quiet:
        kept.keep(_key(digest), packed(build))
