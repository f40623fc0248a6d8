"""Edits of shapes made where they belong: on the spot, or in another process where outlines are long."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from velamen.core.building.progress import Told
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.job.document import Job
from velamen.core.job.reading import stored_job, write_job
from velamen.core.job.shape import Around
from velamen.core.materials.library import Library
from velamen.web.stages.shapes import before_after, edited
from velamen.web.stages.typed import ids_of
from velamen.web.work.outside import outside

WORKS_OUTLINES_OUT = frozenset(
    ["apart", "around", "break", "combine", "curves", "fill", "offset", "simplify", "smooth", "widen"]
)
MANY_POINTS = 1000  # measured: half a second of smoothing, a second of offsets in the slowest of combs


def reshaped(job: Job, asked: Mapping[str, str], unit: str, library: Library) -> tuple[Job, str, list[str]]:
    """As shapes.edited, live shapes following."""
    if not is_long(job, asked):
        return _reshaped(job, asked, unit, library)
    data, label, chosen = outside("Changing the shapes", _apart, write_job(job), _plain(asked), unit, library)
    return stored_job(data), label, chosen


def previewed(job: Job, asked: Mapping[str, str], unit: str) -> dict[str, object]:
    """As shapes.before_after."""
    if not is_long(job, asked):
        return before_after(job, asked, unit)
    return outside("Trying it on the outlines", _preview_apart, write_job(job), _plain(asked), unit)


def is_long(job: Job, asked: Mapping[str, str]) -> bool:
    """Whether an edit works out outlines of many points anew, those of live shapes too."""
    chosen = set(ids_of(asked))
    followers = [one for one in job.makers if isinstance(one, Around) and chosen & {*one.sources}]
    sources = {source for one in followers for source in one.sources}
    if asked.get("do") in WORKS_OUTLINES_OUT:
        sources |= chosen
    return _points(job, sources) > MANY_POINTS


def _plain(asked: Mapping[str, str]) -> dict[str, str]:
    """What a form sent by its last values, as a form's own mapping tells them."""
    return {key: asked[key] for key in asked}


def _points(job: Job, ids: Collection[str]) -> int:
    return sum(len(ring) for shape in job.shapes if shape.id in ids for ring in shape.rings)


def _reshaped(job: Job, asked: Mapping[str, str], unit: str, library: Library) -> tuple[Job, str, list[str]]:
    after, label, chosen = edited(job, asked, unit, library)
    return followed(after, job), label, chosen


def _apart(
    told: Told, document: bytes, asked: Mapping[str, str], unit: str, library: Library
) -> tuple[bytes, str, list[str]]:
    after, label, chosen = _reshaped(stored_job(document), asked, unit, library)
    return write_job(after), label, chosen


def _preview_apart(told: Told, document: bytes, asked: Mapping[str, str], unit: str) -> dict[str, object]:
    return before_after(stored_job(document), asked, unit)
