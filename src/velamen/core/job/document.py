"""The job document: brief, shapes and pieces in stack order; read and written as JSON."""

from __future__ import annotations

from typing import Any, TypeVar

import msgspec
from msgspec import Struct

from velamen.core.errors import BadInput
from velamen.core.job.shape import Backdrop, Maker, Shape, check_makers, check_shape
from velamen.core.materials.library import Library, differing, library_with, pick, shipped
from velamen.core.setting import Plain

R = TypeVar("R", bound=Struct)

FORMAT = 1
LAYERS = 4  # of stabilizer, at most
HOOPING = (("hooped", "Hooped"), ("floated", "Floated on the hooped stabilizer"))
BASTED = "basting"
HOLD = (("none", "Nothing more"), (BASTED, "Basting"), ("adhesive", "Adhesive"))
NEAREST = "nearest"
EVERY = "*"
WIDEST = 1000.0  # mm
TOO_THICK = 9.0  # mm of pile, from which a base cannot be hooped flat


class Brief(Struct, frozen=True, forbid_unknown_fields=True):
    """What the job is sewn on. Keys refer to the material library.

    hooping: whether the base is hooped or floated; hold: what else holds it; thread: key of
    the thread that new pieces get, or "nearest" to each cloth; width: mm that artwork brought
    into the empty job is fitted to, 0 for its true size.
    """

    base: str = "firm_woven"
    stabilizer: str = "tear_away"
    stabilizer_layers: int = 1
    topping: str = "none"
    hoop: str = "h130x180"
    hooping: str = "hooped"
    hold: str = "none"
    thread: str = NEAREST
    width: float = 0.0


class Piece(Struct, frozen=True, forbid_unknown_fields=True):
    """A shape with a construction.

    shape: id of its shape, "" where it goes round other pieces; around: ids of those or of shapes, or EVERY;
    on: id of the piece on whose cloth it is sewn, after the tack-down and before the cover; own: values typed
    by the user, by setting key; threads: keys of other threads than its own, by role of pass;
    start, end: where its sewing should begin and end, mm, None to leave it open.
    """

    id: str
    name: str
    shape: str = ""
    construct: str = "applique"
    cloth: str = "sail_red"
    thread: str = "140"
    own: dict[str, Plain] = {}
    start: tuple[float, float] | None = None
    end: tuple[float, float] | None = None
    around: list[str] = []
    on: str = ""
    threads: dict[str, str] = {}


class Route(Struct, frozen=True, forbid_unknown_fields=True):
    """Pieces of one thread sewn on as one route, by their ids, from a place to another, mm, where given.

    Pieces that are gone, lay a cloth or have another thread than the first are passed over.
    """

    pieces: list[str]
    start: tuple[float, float] | None = None
    end: tuple[float, float] | None = None


class Job(Struct, frozen=True, forbid_unknown_fields=True):
    """A piece of work. pieces: in stack order, first sewn first.

    materials: rows of the shop's own library that the job uses, by kind and key, as they
    were when they were chosen; all other keys mean the shipped rows. makers: texts and outlines
    that keep shapes alive; backdrop: a picture to trace from; routes: groups sewn on without trims;
    order: keys of steps that are sewn in another order than the stack's, see sequencing.order.
    """

    velamen_job: int = FORMAT
    name: str = "Untitled"
    brief: Brief = Brief()
    shapes: list[Shape] = []
    pieces: list[Piece] = []
    materials: dict[str, dict[str, dict[str, Plain]]] = {}
    makers: list[Maker] = []
    backdrop: Backdrop | None = None
    routes: list[Route] = []
    order: list[str] = []

    @property
    def library(self) -> Library:
        """The materials this job knows."""
        return library_with(self.materials)


def brief_for(base_key: str, hoop: str = "h130x180", library: Library | None = None) -> Brief:
    """A brief with the stabilizer, topping and hooping that a base asks for."""
    base = pick((library or shipped()).bases, base_key, "base")
    marks = base.marks != "none"
    floats = marks or base.pile >= TOO_THICK
    return Brief(
        base_key, base.stabilizer, int(base.stabilizer_layers), base.topping, hoop,
        "floated" if floats else "hooped", "adhesive" if marks else BASTED if floats else "none",
    )  # fmt: skip


def materials_used(job: Job) -> dict[str, set[str]]:
    """Keys of all materials that a job names, by kind."""
    brief = job.brief
    return {
        "bases": {brief.base},
        "stabilizers": {brief.stabilizer},
        "toppings": {brief.topping},
        "hoops": {brief.hoop},
        "cloths": {piece.cloth for piece in job.pieces},
        "threads": {piece.thread for piece in job.pieces}
        | {thread for piece in job.pieces for thread in piece.threads.values()}
        | ({brief.thread} - {NEAREST})
        | {str(value) for piece in job.pieces for key, value in piece.own.items() if "_thread_" in key} - {"none"},
        "dies": {shape.die for shape in job.shapes if shape.die},
    }


def take_rows(job: Job, library: Library, wanted: dict[str, set[str]]) -> Job:
    """The job with the wanted rows (keys by kind) as a library has them now.

    Rows that those refer to come along; a row gone from the library stays as it was.
    """
    wanted = _with_referred(library, wanted)
    rows = differing(library, wanted)
    for kind, known in job.materials.items():
        asked = {key for key in wanted.get(kind, ()) if key in library.rows(kind)}
        kept = {key: fields for key, fields in known.items() if key not in asked}
        if kept or kind in rows:
            rows[kind] = {**kept, **rows.get(kind, {})}
    return change(job, materials=rows)


def with_materials(job: Job, library: Library) -> Job:
    """The job with every row it names as a library has it now, and no row it does not name."""
    fresh = take_rows(job, library, materials_used(job))
    used = _with_referred(library_with(fresh.materials), materials_used(fresh))
    rows = {
        kind: {key: fields for key, fields in known.items() if key in used.get(kind, ())}
        for kind, known in fresh.materials.items()
    }
    return change(fresh, materials={kind: known for kind, known in rows.items() if known})


def _with_referred(library: Library, wanted: dict[str, set[str]]) -> dict[str, set[str]]:
    cloths = [library.cloths[key] for key in wanted.get("cloths", ()) if key in library.cloths]
    bases = wanted.get("bases", set()) | {cloth.like for cloth in cloths}
    rows = [library.bases[key] for key in bases if key in library.bases]
    return {
        **wanted,
        "bases": bases,
        "stabilizers": wanted.get("stabilizers", set()) | {row.stabilizer for row in rows},
        "toppings": wanted.get("toppings", set()) | {row.topping for row in rows},
    }


def read_job(data: bytes) -> Job:
    """Job from JSON. Raises BadInput with what is wrong and where."""
    try:
        job = msgspec.json.decode(data, type=Job)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BadInput(f"The job file cannot be read: {error}.") from None
    return check_job(job)


def write_job(job: Job) -> bytes:
    """Job as JSON, the same bytes for the same job."""
    return msgspec.json.encode(job, order="deterministic")


def change(record: R, **fields: Any) -> R:
    """A copy of a record with some fields changed."""
    return msgspec.structs.replace(record, **fields)


def check_job(job: Job) -> Job:
    """The job itself when all that it refers to exists; BadInput otherwise."""
    if job.velamen_job != FORMAT:
        raise BadInput(f"The job file has format {job.velamen_job}, this version reads format {FORMAT}.")
    check_brief(job.brief, job.library)
    shapes = [shape.id for shape in job.shapes]
    for kind, ids in (("shape", shapes), ("piece", [piece.id for piece in job.pieces])):
        if len(set(ids)) < len(ids):
            twice = next(one for one in ids if ids.count(one) > 1)
            raise BadInput(f"The job has two {kind}s with the id {twice!r}: give each its own.")
    for shape in job.shapes:
        check_shape(shape)
    check_makers(job.makers, job.shapes)
    known = set(shapes)
    for piece in job.pieces:
        if not piece.shape and not piece.around:
            raise BadInput(f"Piece {piece.name!r} has no shape, nor pieces that it goes round.")
        if piece.shape and piece.shape not in known:
            raise BadInput(f"Piece {piece.name!r} refers to the shape {piece.shape!r}, which is not in the job.")
    return job


def check_brief(brief: Brief, library: Library) -> Brief:
    """The brief itself when its materials exist; BadInput otherwise."""
    pick(library.bases, brief.base, "base")
    pick(library.stabilizers, brief.stabilizer, "stabilizer")
    pick(library.toppings, brief.topping, "topping")
    pick(library.hoops, brief.hoop, "hoop")
    pick(dict(HOOPING), brief.hooping, "way of hooping")
    pick(dict(HOLD), brief.hold, "way of holding")
    if brief.thread != NEAREST:
        pick(library.threads, brief.thread, "thread")
    if not 0 <= brief.stabilizer_layers <= LAYERS:
        raise BadInput(f"{brief.stabilizer_layers} layers of stabilizer are out of range: use 0 to {LAYERS}.")
    if not 0 <= brief.width <= WIDEST:
        raise BadInput(f"A finished width of {brief.width:g} mm is out of range: use 0 to {WIDEST:g}.")
    return brief
