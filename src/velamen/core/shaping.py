"""Edits of a job's shapes: drawn, combined, offset, moved, turned, lined up, repeated, mended."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.artwork.basic import BASICS
from velamen.core.artwork.lettering import TYPEFACES, lettering, smallest_height, word
from velamen.core.bring_in import MAX_PIECES, with_region
from velamen.core.errors import BadInput
from velamen.core.geometry import combine
from velamen.core.geometry.region import rings_of
from velamen.core.job import Job, Shape, change
from velamen.core.matched import region_of
from velamen.core.materials.hoops import field
from velamen.core.materials.library import pick
from velamen.core.setting import Plain

Array = NDArray[np.float64]

COMBINED = {
    "union": ("joined", combine.union),
    "subtract": ("cut", combine.subtract),
    "intersect": ("shared", combine.intersect),
    "divide": ("divided", combine.divide),
}
EDGES = {
    "left": (0, 0.0),
    "centre": (0, 0.5),
    "right": (0, 1.0),
    "top": (1, 0.0),
    "middle": (1, 0.5),
    "bottom": (1, 1.0),
}
FARTHEST = 1000.0  # mm from the middle of the field
DUPLICATE = 6.0  # mm that a duplicate lies beside what it is one of
FIELD_MARGIN = 4.0  # mm kept free round fitted shapes
FIT_ROUNDS = 40  # halvings: far below a hundredth of a millimetre


def draw_basic(job: Job, kind: str, typed: Mapping[str, Plain]) -> Job:
    """The job with a basic shape in the middle of the field."""
    basic = pick(BASICS, kind, "basic shape")
    return with_region(job, _free_name(job, basic.title), basic.draw(typed))


def draw_outline(job: Job, region: Polygon, cut_out_of: str = "") -> Job:
    """The job with an outline drawn by hand: a shape of its own, or a cut-out of another."""
    if not cut_out_of:
        return with_region(job, _free_name(job, "Outline"), region)
    (shape,) = _chosen(job, [cut_out_of], 1)
    left = combine.subtract([region_of(shape), region])
    if not left:
        raise BadInput(f"Nothing would be left of {shape.name!r}.")
    if sum(part.area for part in left) > region_of(shape).area - 0.5:
        raise BadInput(f"The outline does not lie on {shape.name!r}: draw the cut-out inside it.")
    return _replaced(job, [shape], left)


def draw_text(
    job: Job, text: str, typeface: str, height: float, spacing: float, width: float, arch: float, joined: bool
) -> Job:
    """The job with typed text as shapes of one cloth: one a letter, or joined where letters touch."""
    least = smallest_height(typeface)
    if height < least:
        raise BadInput(
            f"At {height:g} mm the strokes of {TYPEFACES[typeface].split(',')[0]} fall under a millimetre: "
            f"use {least:g} mm or more, or a bolder typeface."
        )
    letters = lettering(text, typeface, height, spacing, width, arch)
    if joined:
        parts = [(" ".join(text.split())[:40], region) for region in reversed(word(letters))]
    else:
        parts = [(letter.text, region) for letter in letters for region in letter.regions]
    like = None
    for name, region in parts:
        job = with_region(job, _free_name(job, name), region, like=like)
        like = job.pieces[-1]
    return job


def combined(job: Job, ids: Sequence[str], how: str) -> Job:
    """Chosen shapes combined; the results take the place of the first, the others go.

    For "subtract" the shape lowest in the stack is the one that is cut.
    """
    word, work = pick(COMBINED, how, "way to combine")
    chosen = _chosen(job, ids, 2)
    found = work([region_of(shape) for shape in chosen])
    if not found:
        raise BadInput(f"Nothing is left of {_names(chosen)} when {word}: they do not overlap.")
    return _replaced(job, chosen, found)


def offset(job: Job, ids: Sequence[str], distance: float, sharp: bool, close: float, calm: float) -> Job:
    """The job with an even outline round the chosen shapes, put below them in the stack."""
    chosen = _chosen(job, ids, 1)
    found = combine.offset([region_of(shape) for shape in chosen], distance, sharp, close, calm)
    if not found:
        raise BadInput(f"{-distance:g} mm inside {_names(chosen)} nothing is left.")
    first = min(nth for nth, piece in enumerate(job.pieces) if piece.shape in ids)
    for nth, region in enumerate(found):
        name = _free_name(job, f"{chosen[0].name} {'outline' if distance > 0 else 'inset'}")
        job = with_region(job, name, region, at=first + nth)
    return job


def with_shape(job: Job, like_id: str, region: Polygon) -> Job:
    """The job with a region as a shape of its own, its piece like that of another shape, on top of it."""
    nth = next((nth for nth, piece in enumerate(job.pieces) if piece.shape == like_id), len(job.pieces) - 1)
    (like,) = _chosen(job, [like_id], 1)
    at = nth + 1 if nth >= 0 else None
    return with_region(job, _free_name(job, f"{like.name} cut-out"), region, at=at)


def mended(job: Job, ids: Sequence[str], mend: Callable[[Polygon], list[Polygon]]) -> Job:
    """Each chosen shape replaced by what a function makes of its region."""
    for shape in _chosen(job, ids, 1):
        found = mend(region_of(shape))
        if not found:
            raise BadInput(f"Nothing would be left of {shape.name!r}.")
        job = _replaced(job, [shape], found)
    return job


def moved(job: Job, ids: Sequence[str], matrix: Array, shift: Array) -> Job:
    """Chosen shapes under `point @ matrix + shift`."""
    changed = {}
    for shape in _chosen(job, ids, 1):
        rings = [np.asarray(ring) @ matrix + shift for ring in shape.rings]
        if max(float(np.abs(ring).max()) for ring in rings) > FARTHEST:
            raise BadInput(f"{shape.name!r} would lie more than {FARTHEST:g} mm from the middle of the field.")
        changed[shape.id] = _with_rings(shape, rings)
    return change(job, shapes=[changed.get(shape.id, shape) for shape in job.shapes])  # type: ignore[no-any-return]


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
    low, high = _bounds(_chosen(job, ids, 1))
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
    chosen = _chosen(job, ids, 1)
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
    """Chosen shapes lined up on an edge or the middle of all of them; one alone on the field's middle."""
    axis, share = pick(EDGES, edge, "way to line up")
    chosen = _chosen(job, ids, 1)
    low, high = _bounds(chosen)
    target = low[axis] + share * (high[axis] - low[axis]) if len(chosen) > 1 else 0.0
    for shape in chosen:
        one_low, one_high = _bounds([shape])
        at = one_low[axis] + (share if len(chosen) > 1 else 0.5) * (one_high[axis] - one_low[axis])
        shift = np.zeros(2)
        shift[axis] = target - at
        job = moved(job, [shape.id], np.eye(2), shift)
    return job


def distributed(job: Job, ids: Sequence[str], across: str) -> Job:
    """Chosen shapes moved so that the gaps between neighbours are even; the outermost stay."""
    axis = pick({"sideways": 0, "upright": 1}, across, "way to distribute")
    chosen = _chosen(job, ids, 3)
    boxes = {shape.id: _bounds([shape]) for shape in chosen}
    order = sorted(chosen, key=lambda shape: float(boxes[shape.id][0][axis] + boxes[shape.id][1][axis]))
    sizes = [float((boxes[shape.id][1] - boxes[shape.id][0])[axis]) for shape in order]
    begin, end = float(boxes[order[0].id][0][axis]), float(boxes[order[-1].id][1][axis])
    gap = (end - begin - sum(sizes)) / (len(order) - 1)
    at = begin
    for shape, size in zip(order, sizes, strict=True):
        shift = np.zeros(2)
        shift[axis] = at - float(boxes[shape.id][0][axis])
        job = moved(job, [shape.id], np.eye(2), shift)
        at += size + gap
    return job


def duplicated(job: Job, ids: Sequence[str]) -> Job:
    """Chosen shapes once more, a little to the right and down."""
    return _copied(job, _chosen(job, ids, 1), np.eye(2), np.array([DUPLICATE, DUPLICATE]))


def repeated(job: Job, ids: Sequence[str], columns: int, rows: int, gap: float) -> Job:
    """Chosen shapes repeated in a grid to the right and down, `gap` mm between their boxes."""
    chosen = _chosen(job, ids, 1)
    if not 1 <= columns * rows <= MAX_PIECES:
        raise BadInput(f"{columns} × {rows} repeats are too many: at most {MAX_PIECES} pieces fit into a job.")
    low, high = _bounds(chosen)
    step = high - low + gap
    for nth in range(1, columns * rows):
        job = _copied(job, chosen, np.eye(2), step * (nth % columns, nth // columns))
    return job


def repeated_round(job: Job, ids: Sequence[str], count: int, radius: float) -> Job:
    """Chosen shapes repeated on a circle below them, each copy turned with it."""
    chosen = _chosen(job, ids, 1)
    if not 2 <= count <= MAX_PIECES:
        raise BadInput(f"{count} repeats round a circle: use 2 to {MAX_PIECES}.")
    low, high = _bounds(chosen)
    centre = (low + high) / 2 + (0.0, radius)
    for nth in range(1, count):
        angle = 2.0 * np.pi * nth / count
        spin = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        job = _copied(job, chosen, spin, centre - centre @ spin)
    return job


def renamed(job: Job, shape_id: str, name: str) -> Job:
    """A shape, and the piece that bears its name, under another name."""
    (shape,) = _chosen(job, [shape_id], 1)
    name = " ".join(name.split())[:60] or shape.name
    shapes = [change(one, name=name) if one.id == shape_id else one for one in job.shapes]
    pieces = [
        change(piece, name=name) if piece.shape == shape_id and piece.name == shape.name else piece
        for piece in job.pieces
    ]
    return change(job, shapes=shapes, pieces=pieces)  # type: ignore[no-any-return]


def removed(job: Job, ids: Sequence[str]) -> Job:
    """The job without the chosen shapes and their pieces."""
    gone = {shape.id for shape in _chosen(job, ids, 1)}
    shapes = [shape for shape in job.shapes if shape.id not in gone]
    pieces = [piece for piece in job.pieces if piece.shape not in gone]
    return change(job, shapes=shapes, pieces=pieces)  # type: ignore[no-any-return]


def _chosen(job: Job, ids: Sequence[str], least: int) -> list[Shape]:
    """Chosen shapes in stack order."""
    known = {shape.id: shape for shape in job.shapes}
    stray = next((one for one in ids if one not in known), None)
    if stray is not None:
        raise BadInput("A chosen shape is no longer in the job: reload the page.")
    order = list(dict.fromkeys([piece.shape for piece in job.pieces] + [shape.id for shape in job.shapes]))
    chosen = [known[one] for one in order if one in set(ids)]
    if len(chosen) < least:
        raise BadInput(f"Choose at least {least} shape{'s' if least > 1 else ''} first.")
    return chosen


def _replaced(job: Job, chosen: Sequence[Shape], regions: Sequence[Polygon]) -> Job:
    """Chosen shapes replaced by regions: the first keeps id, name and piece, more get copies of that piece."""
    first, *others = chosen
    job = removed(job, [shape.id for shape in others]) if others else job
    whole, *more = regions
    job = change(job, shapes=[
        Shape(one.id, one.name, _plain(rings_of(whole))) if one.id == first.id else one for one in job.shapes
    ])  # fmt: skip
    nth = next((nth for nth, piece in enumerate(job.pieces) if piece.shape == first.id), None)
    for count, region in enumerate(more, 1):
        like = None if nth is None else job.pieces[nth]
        at = None if nth is None else nth + count
        job = with_region(job, _free_name(job, first.name), region, at=at, like=like)
    return job


def _copied(job: Job, chosen: Sequence[Shape], matrix: Array, shift: Array) -> Job:
    for shape in chosen:
        like = next((piece for piece in job.pieces if piece.shape == shape.id), None)
        copy = _with_rings(shape, [np.asarray(ring) @ matrix + shift for ring in shape.rings])
        job = with_region(job, _free_name(job, shape.name), region_of(copy), like=like)
    return job


def _about_middle(job: Job, ids: Sequence[str], matrix: Array) -> Job:
    low, high = _bounds(_chosen(job, ids, 1))
    middle = (low + high) / 2
    return moved(job, ids, matrix, middle - middle @ matrix)


def _bounds(shapes: Sequence[Shape]) -> tuple[Array, Array]:
    points = np.concatenate([np.asarray(shape.rings[0]) for shape in shapes])
    return points.min(axis=0), points.max(axis=0)


def _with_rings(shape: Shape, rings: Sequence[Array]) -> Shape:
    return Shape(shape.id, shape.name, _plain([np.round(ring, 4).tolist() for ring in rings]))


def _plain(rings: list[list[list[float]]]) -> list[list[tuple[float, float]]]:
    return [[(x, y) for x, y in ring] for ring in rings]


def _names(shapes: Sequence[Shape]) -> str:
    names = [shape.name for shape in shapes[:3]]
    return ", ".join(names) + (" and others" if len(shapes) > 3 else "")


def _free_name(job: Job, name: str) -> str:
    known = {shape.name for shape in job.shapes}
    stem = name.rstrip("0123456789").rstrip() or name
    return name if name not in known else next(
        one for one in (f"{stem} {nth}" for nth in range(2, MAX_PIECES + 2)) if one not in known
    )  # fmt: skip
