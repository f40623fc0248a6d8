"""The job document: brief, shapes and pieces in stack order; read and written as JSON."""

from __future__ import annotations

import math
from typing import Any

import msgspec
from msgspec import Struct

from velamen.core.errors import BadInput
from velamen.core.materials.library import bases, hoops, pick, stabilizers, toppings

Plain = float | str | bool

FORMAT = 1


class Brief(Struct, frozen=True, forbid_unknown_fields=True):
    """What the job is sewn on. Keys refer to the material library."""

    base: str = "firm_woven"
    stabilizer: str = "tear_away"
    stabilizer_layers: int = 1
    topping: str = "none"
    hoop: str = "h130x180"


class Shape(Struct, frozen=True, forbid_unknown_fields=True):
    """Geometry: rings in mm, the outer one first, y down, origin in the sewing field's centre."""

    id: str
    name: str
    rings: list[list[tuple[float, float]]]


class Piece(Struct, frozen=True, forbid_unknown_fields=True):
    """A shape with a construction. own: values typed by the user, by setting key."""

    id: str
    name: str
    shape: str
    construct: str = "applique"
    cloth: str = "sail_red"
    thread: str = "140"
    own: dict[str, Plain] = {}


class Job(Struct, frozen=True, forbid_unknown_fields=True):
    """A piece of work. pieces: in stack order, first sewn first."""

    velamen_job: int = FORMAT
    name: str = "Untitled"
    brief: Brief = Brief()
    shapes: list[Shape] = []
    pieces: list[Piece] = []

    def shape_of(self, piece: Piece) -> Shape:
        """The shape of a piece."""
        return next(shape for shape in self.shapes if shape.id == piece.shape)


def brief_for(base_key: str, hoop: str = "h130x180") -> Brief:
    """A brief with the stabilizer and topping that a base asks for."""
    base = pick(bases(), base_key, "base")
    return Brief(base_key, base.stabilizer, base.stabilizer_layers, base.topping, hoop)


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


def change(record: Any, **fields: Any) -> Any:
    """A copy of a record with some fields changed."""
    return msgspec.structs.replace(record, **fields)


def check_job(job: Job) -> Job:
    """The job itself when all that it refers to exists; BadInput otherwise."""
    if job.velamen_job != FORMAT:
        raise BadInput(f"The job file has format {job.velamen_job}, this version reads format {FORMAT}.")
    check_brief(job.brief)
    shapes = [shape.id for shape in job.shapes]
    for kind, ids in (("shape", shapes), ("piece", [piece.id for piece in job.pieces])):
        twice = next((one for one in ids if ids.count(one) > 1), None)
        if twice is not None:
            raise BadInput(f"The job has two {kind}s with the id {twice!r}: give each its own.")
    for shape in job.shapes:
        _check_rings(shape)
    for piece in job.pieces:
        if piece.shape not in shapes:
            raise BadInput(f"Piece {piece.name!r} refers to the shape {piece.shape!r}, which is not in the job.")
    return job


def check_brief(brief: Brief) -> Brief:
    """The brief itself when its materials exist; BadInput otherwise."""
    pick(bases(), brief.base, "base")
    pick(stabilizers(), brief.stabilizer, "stabilizer")
    pick(toppings(), brief.topping, "topping")
    pick(hoops(), brief.hoop, "hoop")
    if not 0 <= brief.stabilizer_layers <= 4:
        raise BadInput(f"{brief.stabilizer_layers} layers of stabilizer are out of range: use 0 to 4.")
    return brief


def _check_rings(shape: Shape) -> None:
    if not shape.rings or any(len(ring) < 3 for ring in shape.rings):
        raise BadInput(f"Shape {shape.name!r} has a ring of fewer than three points.")
    if not all(math.isfinite(x) and math.isfinite(y) for ring in shape.rings for x, y in ring):
        raise BadInput(f"Shape {shape.name!r} has a point that is not a finite number.")
