"""Artwork brought into a job: each region becomes a shape and a piece."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.svg import Artwork
from velamen.core.constructions import construction, usual
from velamen.core.errors import BadInput
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import NEAREST, Job, Piece, change
from velamen.core.job.shape import Shape, plain, reshaped
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.hoops import hoop_for
from velamen.core.materials.library import Library
from velamen.core.setting import Plain

MAX_PIECES = 500


def bring_in(job: Job, artwork: Artwork, construct: str, own: Mapping[str, Plain] | None = None) -> Job:
    """The job with a shape and a piece more for every region of the artwork.

    Plain cloths are taken in turn; each piece sews with the brief's thread, or the one nearest
    to its cloth. Open lines get a piece where they can be sewn so.
    """
    total = len(job.pieces) + len(artwork.drawn)
    if total > MAX_PIECES:
        raise BadInput(f"The job would have {total} pieces: at most {MAX_PIECES} fit into one.")
    kind = construction(construct)
    read = {}
    for key, text in (own or {}).items():
        setting = kind.setting(key)
        if setting is None:
            known = ", ".join(one.key for one in kind.settings)
            raise BadInput(f"{kind.title} has no value {key!r}: choose among {known}.")
        read[key] = setting.read(text)
    for drawn in artwork.drawn:
        job = with_region(job, drawn.name, drawn.region, construct=construct, own=read)
    for name, line in artwork.lines:
        job = with_line(job, Shape("", name, plain([line]), open=True))
        if kind.lines:
            job = _with_piece(job, job.shapes[-1], construct, read)
    return job


def with_region(
    job: Job,
    name: str,
    region: Polygon,
    at: int | None = None,
    like: Piece | None = None,
    construct: str = "",
    own: Mapping[str, Plain] | None = None,
    nodes: Sequence[Array] = (),
) -> Job:
    """The job with a shape and a piece more, on top of the stack or at a place in it.

    like: a piece whose construction, cloth, thread and own values the new one has; without
    one it is sewn as new areas are, with the next plain cloth and the brief's thread. nodes: the curves the
    region comes from, a list for each of its outlines.
    """
    if len(job.pieces) >= MAX_PIECES:
        raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
    nth = first_free([shape.id for shape in job.shapes] + [piece.id for piece in job.pieces])
    shape = reshaped(Shape(f"s{nth}", name, []), boundaries(region), nodes)
    if like is None:
        palette = job.library.everyday
        cloth = palette[len(job.pieces) % len(palette)]
        thread = job.brief.thread
        if thread == NEAREST:
            thread = nearest_thread(cloth.colour, job.library).key
        like = Piece("", "", "", construct or usual("area").name, cloth.key, thread, dict(own or {}))
    piece = change(like, id=f"p{nth}", name=name, shape=f"s{nth}")
    pieces = list(job.pieces)
    pieces.insert(len(pieces) if at is None else at, piece)
    return change(job, shapes=[*job.shapes, shape], pieces=pieces)


def fitting_hoop(artwork: Artwork, library: Library, margin: float = 6.0) -> str | None:
    """Key of the smallest hoop that holds an artwork with a margin in mm for its cover."""
    width, height = artwork.size
    hoop = hoop_for(library, width + margin, height + margin)
    return hoop.key if hoop else None


def first_free(ids: Sequence[str]) -> int:
    """The number after the highest that ids of one letter and a number have."""
    return 1 + max((int(one[1:]) for one in ids if one[1:].isdecimal()), default=0)


def with_line(job: Job, line: Shape) -> Job:
    """The job with an open line more, under an id and name of its own."""
    if len(job.shapes) >= 2 * MAX_PIECES:
        raise BadInput(f"The job has {len(job.shapes)} shapes: at most {2 * MAX_PIECES} fit into one.")
    nth = first_free([shape.id for shape in job.shapes] + [piece.id for piece in job.pieces])
    return change(job, shapes=[*job.shapes, change(line, id=f"s{nth}", name=free_name(job, line.name))])


def sewn_line(job: Job, ids: Sequence[str], construct: str = "") -> Job:
    """The job with a piece for every chosen open line that has none, sewn as a line."""
    known = {piece.shape for piece in job.pieces}
    lines = [shape for shape in job.shapes if shape.id in ids and shape.open and shape.id not in known]
    if not lines:
        raise BadInput("Choose an open line that is not sewn yet.")
    for line in lines:
        job = _with_piece(job, line, construct or usual("line").name)
    return job


def _with_piece(job: Job, line: Shape, construct: str, own: Mapping[str, Plain] | None = None) -> Job:
    """The job with a piece more that sews an open line, in the brief's thread or the first there is."""
    thread = job.brief.thread if job.brief.thread != NEAREST else next(iter(job.library.threads))
    cloth = job.library.everyday[0].key
    nth = first_free([shape.id for shape in job.shapes] + [piece.id for piece in job.pieces])
    piece = Piece(f"p{nth}", line.name, line.id, construct, cloth, thread, dict(own or {}))
    return change(job, pieces=[*job.pieces, piece])


def free_name(job: Job, name: str) -> str:
    """A name for a shape that no other shape of the job has."""
    return free_name_among({shape.name for shape in job.shapes}, name)


def free_name_among(known: Collection[str], name: str) -> str:
    """A name that is not among known ones."""
    stem = name.rstrip("0123456789").rstrip() or name
    return name if name not in known else next(
        one for one in (f"{stem} {nth}" for nth in range(2, len(known) + 3)) if one not in known
    )  # fmt: skip
