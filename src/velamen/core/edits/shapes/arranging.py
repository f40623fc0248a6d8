"""Edits that arrange shapes: moved, turned, sized, lined up, repeated, grouped, locked, hidden."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.edits.shapes.bring_in import MAX_PIECES
from velamen.core.edits.shapes.choosing import chosen_shapes, free_shapes, grown, with_shapes, without
from velamen.core.edits.shapes.copying import copied, moved_local, turned_by_hand
from velamen.core.edits.shapes.live_shapes import carried, released
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.job.shape import Shape, transformed
from velamen.core.materials.hoops import field
from velamen.core.materials.library import pick

EDGES = {
    "left": (0, 0.0),
    "centre": (0, 0.5),
    "right": (0, 1.0),
    "top": (1, 0.0),
    "middle": (1, 0.5),
    "bottom": (1, 1.0),
}
SAME_SIZE = 1e-6  # of a factor that is none
FARTHEST = 1000.0  # mm from the middle of the field
DUPLICATE = 6.0  # mm that a duplicate lies beside what it is one of
FIELD_MARGIN = 4.0  # mm kept free round fitted shapes
FIT_ROUNDS = 40  # halvings: far below a hundredth of a millimetre


def moved(job: Job, ids: Sequence[str], matrix: Array, shift: Array) -> Job:
    """Chosen shapes under `point @ matrix + shift`, texts and outlines among them carried along."""
    rigid = np.allclose(matrix @ matrix.T, np.eye(2)) and np.linalg.det(matrix) > 0
    changed = [transformed(shape, matrix, shift) for shape in free_shapes(job, ids, size=not rigid)]
    for shape in changed:
        if max(float(np.abs(np.asarray(ring)).max()) for ring in shape.rings) > FARTHEST:
            raise BadInput(f"{shape.name!r} would lie more than {FARTHEST:g} mm from the middle of the field.")
    factor = float(np.sqrt(abs(np.linalg.det(matrix))))
    job = job if abs(factor - 1.0) < SAME_SIZE else grown(job, ids, factor)
    pieces = [
        change(one, local=moved_local(one, matrix, shift), by_hand=turned_by_hand(one, matrix))
        if (one.local or one.by_hand) and one.shape in ids else one
        for one in job.pieces
    ]  # fmt: skip
    return carried(with_shapes(change(job, pieces=pieces), changed), ids, matrix, shift)


def turned(job: Job, ids: Sequence[str], degrees: float) -> Job:
    """Chosen shapes turned together about their middle, clockwise as seen."""
    angle = np.radians(degrees)
    spin = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return _about_middle(job, ids, spin)


def mirrored(job: Job, ids: Sequence[str], across: str) -> Job:
    """Chosen shapes mirrored together left to right or top to bottom."""
    pick({"sideways": 0, "upright": 0}, across, "way to mirror")
    return _about_middle(job, ids, np.diag([-1.0, 1.0] if across == "sideways" else [1.0, -1.0]))


def sized(job: Job, ids: Sequence[str], width: float | None, height: float | None) -> Job:
    """Chosen shapes scaled together to a width or height in mm; with one of them given in proportion."""
    low, high = _bounds(chosen_shapes(job, ids))
    across, down = high - low
    x = width / across if width else None
    y = height / down if height else None
    if x is None and y is None:
        raise BadInput("A new size needs a width or a height.")
    return _about_middle(job, ids, np.diag([x or y or 1.0, y or x or 1.0]))


def fitted(job: Job, ids: Sequence[str]) -> Job:
    """Chosen shapes scaled together, in proportion, to fill the sewing field from its middle.

    A margin is kept for what is sewn beyond the outlines.
    """
    chosen = chosen_shapes(job, ids)
    hoop = job.library.hoops[job.brief.hoop]
    low, high = _bounds(chosen)
    across, down = high - low
    inside = shapely.buffer(field(hoop), -FIELD_MARGIN, join_style="mitre")
    if inside.is_empty:
        raise BadInput(f"The {hoop.name} field is too small to keep a margin of {FIELD_MARGIN:g} mm.")
    left, top, right, bottom = inside.bounds
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    small, large = 0.0, max((right - left) / across, (bottom - top) / down)
    for _ in range(FIT_ROUNDS):
        scale = (small + large) / 2
        box = shapely.box(*(middle - scale * (high - low) / 2), *(middle + scale * (high - low) / 2))
        small, large = (scale, large) if inside.covers(box) else (small, scale)
    centre = (low + high) / 2
    return moved(job, ids, np.eye(2) * small, middle - centre * small)


def aligned(job: Job, ids: Sequence[str], edge: str) -> Job:
    """Chosen shapes and groups lined up on an edge or middle of all of them; one alone on the field's middle."""
    axis, share = pick(EDGES, edge, "way to line up")
    units = _units(chosen_shapes(job, ids))
    low, high = _bounds([shape for unit in units for shape in unit])
    target = low[axis] + share * (high[axis] - low[axis]) if len(units) > 1 else 0.0
    for unit in units:
        one_low, one_high = _bounds(unit)
        at = one_low[axis] + (share if len(units) > 1 else 0.5) * (one_high[axis] - one_low[axis])
        shift = np.zeros(2)
        shift[axis] = target - at
        job = moved(job, [shape.id for shape in unit], np.eye(2), shift)
    return job


def distributed(job: Job, ids: Sequence[str], across: str) -> Job:
    """Chosen shapes and groups moved so that the gaps between neighbours are even; the outermost stay."""
    axis = pick({"sideways": 0, "upright": 1}, across, "way to distribute")
    units = _units(chosen_shapes(job, ids))
    if len(units) < 3:
        raise BadInput("Choose at least 3 shapes or groups first.")
    boxes = [_bounds(unit) for unit in units]
    order = sorted(range(len(units)), key=lambda nth: float(boxes[nth][0][axis] + boxes[nth][1][axis]))
    sizes = [float((boxes[nth][1] - boxes[nth][0])[axis]) for nth in order]
    begin, end = float(boxes[order[0]][0][axis]), float(boxes[order[-1]][1][axis])
    gap = (end - begin - sum(sizes)) / (len(order) - 1)
    at = begin
    for nth, size in zip(order, sizes, strict=True):
        shift = np.zeros(2)
        shift[axis] = at - float(boxes[nth][0][axis])
        job = moved(job, [shape.id for shape in units[nth]], np.eye(2), shift)
        at += size + gap
    return job


def duplicated(job: Job, ids: Sequence[str]) -> Job:
    """Chosen shapes once more, a little to the right and down."""
    return copied(job, job, ids, np.eye(2), np.array([DUPLICATE, DUPLICATE]))


def repeated(job: Job, ids: Sequence[str], columns: int, rows: int, gap: float) -> Job:
    """Chosen shapes repeated in a grid to the right and down, `gap` mm between their boxes."""
    chosen = chosen_shapes(job, ids)
    if not 1 <= columns * rows * len(chosen) <= MAX_PIECES + len(chosen):
        raise BadInput(f"{columns} × {rows} repeats are too many: at most {MAX_PIECES} pieces fit into a job.")
    low, high = _bounds(chosen)
    step = high - low + gap
    for nth in range(1, columns * rows):
        job = copied(job, job, ids, np.eye(2), step * (nth % columns, nth // columns))
    return job


def repeated_round(job: Job, ids: Sequence[str], count: int, radius: float) -> Job:
    """Chosen shapes repeated on a circle below them, each copy turned with it."""
    chosen = chosen_shapes(job, ids)
    if not 2 <= count <= MAX_PIECES:
        raise BadInput(f"{count} repeats round a circle: use 2 to {MAX_PIECES}.")
    low, high = _bounds(chosen)
    centre = (low + high) / 2 + (0.0, radius)
    for nth in range(1, count):
        angle = 2.0 * np.pi * nth / count
        spin = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        job = copied(job, job, ids, spin, centre - centre @ spin)
    return job


def renamed(job: Job, shape_id: str, name: str) -> Job:
    """A shape, and the piece that bears its name, under another name."""
    (shape,) = chosen_shapes(job, [shape_id])
    name = " ".join(name.split())[:60] or shape.name
    shapes = [change(one, name=name) if one.id == shape_id else one for one in job.shapes]
    pieces = [
        change(piece, name=name) if piece.shape == shape_id and piece.name == shape.name else piece
        for piece in job.pieces
    ]
    return change(job, shapes=shapes, pieces=pieces)


def removed(job: Job, ids: Sequence[str]) -> Job:
    """The job without the chosen shapes and their pieces; the rest of a text stays as plain shapes."""
    gone = {shape.id for shape in free_shapes(job, ids)}
    torn = [
        shape.id for shape in job.shapes
        if shape.id in gone and any(one.maker == shape.maker and one.id not in gone for one in job.shapes)
    ]  # fmt: skip
    return without(released(job, torn), list(gone))


def grouped(job: Job, ids: Sequence[str], together: bool) -> Job:
    """Chosen shapes put into one group, or taken out of theirs."""
    chosen = chosen_shapes(job, ids, 2 if together else 1)
    known = {shape.group for shape in job.shapes}
    name = next(one for one in (f"g{nth}" for nth in range(1, len(known) + 2)) if one not in known)
    return with_shapes(job, [change(shape, group=name if together else "") for shape in chosen])


def held(job: Job, ids: Sequence[str], what: str, on: bool) -> Job:
    """Chosen shapes locked against the hand or hidden on the board, or not."""
    pick({"locked": 0, "hidden": 0}, what, "way to hold")
    return with_shapes(job, [change(shape, **{what: on}) for shape in chosen_shapes(job, ids)])


def freed(job: Job, ids: Sequence[str]) -> Job:
    """Chosen shapes free of their die, and plain shapes where a text or an outline kept them alive."""
    chosen = chosen_shapes(job, ids)
    return released(with_shapes(job, [change(shape, die="") for shape in chosen]), [shape.id for shape in chosen])


def _units(shapes: Sequence[Shape]) -> list[list[Shape]]:
    """Shapes that go together: by text or group, all others alone."""
    units: dict[str, list[Shape]] = {}
    for shape in shapes:
        units.setdefault(shape.maker or shape.group or f"alone {shape.id}", []).append(shape)
    return list(units.values())


def _about_middle(job: Job, ids: Sequence[str], matrix: Array) -> Job:
    low, high = _bounds(chosen_shapes(job, ids))
    middle = (low + high) / 2
    return moved(job, ids, matrix, middle - middle @ matrix)


def _bounds(shapes: Sequence[Shape]) -> tuple[Array, Array]:
    points = np.concatenate([np.asarray(shape.rings[0]) for shape in shapes])
    return points.min(axis=0), points.max(axis=0)
