"""Job documents read and written as JSON, brought to the present format, and checked to the last reference."""

from __future__ import annotations

from codecs import BOM_UTF8
from collections.abc import Callable, Mapping

import msgspec

from velamen.core.errors import BadInput
from velamen.core.job.document import FORMAT, Job, Piece, change, check_brief, check_repeat, check_strip, check_wanted
from velamen.core.job.needles import Needles, check_needles
from velamen.core.job.references import check_held, check_references, pruned
from velamen.core.job.shape import check_makers, check_place, check_shape
from velamen.core.materials.library import Library, pick


def read_job(data: bytes) -> Job:
    """Job from JSON of this or an earlier format. Raises BadInput with what is wrong and where."""
    return check_job(_decoded(data))


def stored_job(data: bytes) -> Job:
    """Job from JSON that was saved once: what is wrong with its shapes and pieces is told when they are built.

    Raises BadInput where it cannot be read at all.
    """
    job = pruned(_decoded(data))
    check_brief(job.brief, job.library)
    check_repeat(job.repeat)
    check_wanted(job.wanted)
    check_strip(job.strip)
    return job


def _decoded(data: bytes) -> Job:
    try:
        job = msgspec.json.decode(data.removeprefix(BOM_UTF8), type=Job)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BadInput(f"The job file cannot be read: {error}.") from None
    return migrated(job)


def write_job(job: Job) -> bytes:
    """Job as JSON, the same bytes for the same job."""
    return msgspec.json.encode(job, order="deterministic")


def needles_named(job: Job) -> list[str]:
    """Names of the needle points that shapes of a job are the outlines of, each once."""
    return list(dict.fromkeys(one.needles for one in job.shapes if one.needles))


def without_needles(job: Job) -> Job:
    """The job as it is kept beside its needle points."""
    return change(job, needles={}) if job.needles else job


def with_needles(job: Job, known: Mapping[str, Needles]) -> Job:
    """The job with the needle points that it names, as far as they are known, and no others."""
    wanted = {key: known[key] for key in needles_named(job) if key in known}
    return change(job, needles=wanted) if wanted.keys() != job.needles.keys() else job


def migrated(job: Job) -> Job:
    """A job of an earlier format as the present one has it."""
    while job.velamen_job in STEPS:
        job = change(STEPS[job.velamen_job](job), velamen_job=job.velamen_job + 1)
    if job.velamen_job != FORMAT:
        raise BadInput(f"The job file has format {job.velamen_job}, this version reads formats 1 to {FORMAT}.")
    return job


def _loose_references_dropped(job: Job) -> Job:
    """Format 1 passed over what its records named and was gone; format 2 has nothing such."""
    return pruned(check_held(job))


STEPS: Mapping[int, Callable[[Job], Job]] = {1: _loose_references_dropped}
"""From each format to the next. Records have only grown so far, by fields with defaults: one type reads all."""


def check_job(job: Job) -> Job:
    """The job itself when its figures can be and all that it refers to exists; BadInput otherwise."""
    library = job.library
    check_brief(job.brief, library)
    check_repeat(job.repeat)
    check_wanted(job.wanted)
    check_strip(job.strip)
    for kind, ids in (("shape", [one.id for one in job.shapes]), ("piece", [one.id for one in job.pieces])):
        if len(set(ids)) < len(ids):
            twice = next(one for one in ids if ids.count(one) > 1)
            raise BadInput(f"The job has two {kind}s with the id {twice!r}: give each its own.")
    for shape in job.shapes:
        check_shape(shape)
        if shape.die:
            pick(library.dies, shape.die, "cutting die")
    check_makers(job.makers)
    check_needles(job.needles, needles_named(job))
    for piece in job.pieces:
        _check_piece(piece, library)
    for route in job.routes:
        check_place(route.start, "A route")
        check_place(route.end, "A route")
    return check_references(job)


def _check_piece(piece: Piece, library: Library) -> None:
    if not piece.shape and not piece.around:
        raise BadInput(f"Piece {piece.name!r} has no shape, nor pieces that it goes round.")
    for place in (piece.start, piece.end, *(one.at for one in piece.local)):
        check_place(place, f"Piece {piece.name!r}")
    pick(library.cloths, piece.cloth, "cloth")
    for thread in (piece.thread, *piece.threads.values()):
        pick(library.threads, thread, "thread")
