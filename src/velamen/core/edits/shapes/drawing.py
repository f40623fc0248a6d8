"""Edits that make shapes: drawn by number or by hand, typed, combined, outlined, divided, mended."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.basic import BASICS
from velamen.core.constructions import construction
from velamen.core.edits.shapes.bring_in import free_name, with_line, with_region
from velamen.core.edits.shapes.choosing import (
    areas,
    chosen_shapes,
    free_shapes,
    names_of,
    replaced,
    with_shapes,
    without,
)
from velamen.core.edits.shapes.live_shapes import free_maker, letter_of, made, remade, with_maker
from velamen.core.errors import BadInput
from velamen.core.geometry import combine
from velamen.core.job.document import Job, change
from velamen.core.job.references import named_instead
from velamen.core.job.regions import region_of
from velamen.core.job.shape import LINES, RAIL, Around, Line, Shape, Text, plain
from velamen.core.materials.library import pick
from velamen.core.setting import Plain

COMBINED = {
    "union": ("joined", combine.union),
    "subtract": ("cut", combine.subtract),
    "intersect": ("shared", combine.intersect),
    "divide": ("divided", combine.divide),
}
ONE_OF_ALL = ("union", "intersect")  # ways after which all live on in one
NEAR = 8.0  # mm between ends of open lines that are joined
RAILS = 2  # on one shape


def draw_basic(job: Job, kind: str, typed: Mapping[str, Plain]) -> Job:
    """The job with a basic shape in the middle of the field."""
    basic = pick(BASICS, kind, "basic shape")
    return with_region(job, free_name(job, basic.title), basic.draw(typed))


def draw_outline(job: Job, region: Polygon, nodes: Sequence[Array] = (), cut_out_of: str = "") -> Job:
    """The job with an outline drawn by hand: a shape of its own, or a cut-out of another."""
    if not cut_out_of:
        return with_region(job, free_name(job, "Outline"), region, nodes=nodes)
    (shape,) = areas(job, [cut_out_of], size=True)
    left = combine.subtract([region_of(shape), region])
    if not left:
        raise BadInput(f"Nothing would be left of {shape.name!r}.")
    if sum(part.area for part in left) > region_of(shape).area - 0.5:
        raise BadInput(f"The outline does not lie on {shape.name!r}: draw the cut-out inside it.")
    inside = len(left) == 1 and len(left[0].interiors) == len(shape.rings) and bool(shape.nodes and nodes)
    whole = Polygon(shape.rings[0], [*shape.rings[1:], region.exterior.coords]) if inside else None
    if whole is not None and whole.is_valid:
        hole = [np.asarray(ring)[::-1][:, [0, 1, 4, 5, 2, 3]] for ring in nodes]
        return replaced(job, [shape], [whole], [*(np.asarray(ring) for ring in shape.nodes), *hole])
    return replaced(job, [shape], left)


def draw_line(job: Job, points: Array, kind: str = "line", on: str = "") -> Job:
    """The job with an open line drawn by hand: a shape of its own, or a direction or guide line on one."""
    pick(dict.fromkeys(("line", *LINES), 0), kind, "line")
    if not on:
        return with_line(job, Shape("", "Line", plain([points]), open=True))
    (shape,) = areas(job, [on])
    if not shapely.intersects(shapely.linestrings(points), region_of(shape)):
        raise BadInput(f"The line does not cross {shape.name!r}: draw it over the shape that it is for.")
    alike = [line for line in shape.lines if line.kind == kind]
    most = {"guide": _guides_of(job, on), RAIL: RAILS}.get(kind, len(alike) + 1)
    kept = alike[max(len(alike) - most + 1, 0) :]  # the oldest gives way
    others = [line for line in shape.lines if line.kind != kind or any(line is one for one in kept)]
    return with_shapes(job, [change(shape, lines=[*others, Line(kind, plain([points])[0])])])


def _guides_of(job: Job, shape: str) -> int:
    """How many guide lines what is sewn of a shape goes by."""
    return max((construction(one.construct).guides for one in job.pieces if one.shape == shape), default=1)


def lines_cleared(job: Job, ids: Sequence[str]) -> Job:
    """Chosen shapes without their direction and guide lines."""
    return with_shapes(job, [change(shape, lines=[]) for shape in free_shapes(job, ids)])


def draw_text(job: Job, text: Text, construct: str = "") -> Job:
    """The job with typed text as live shapes of one cloth, each sewn as a construction where one is given."""
    known = {one.id for one in job.pieces}
    drawn = with_maker(job, change(text, id=free_maker(job)))
    if not construct:
        return drawn
    name = construction(construct).name
    return change(drawn, pieces=[one if one.id in known else change(one, construct=name) for one in drawn.pieces])


def retyped(job: Job, text: Text) -> Job:
    """The job with a text of it typed anew: other words, typeface or numbers, where it lies."""
    known = next((one for one in job.makers if one.id == text.id and isinstance(one, Text)), None)
    if known is None:
        raise BadInput("That text has become plain shapes: type it anew.")
    free_shapes(job, [shape.id for shape in job.shapes if shape.maker == text.id])
    return remade(job, change(text, matrix=known.matrix))


def kerned(job: Job, shape_id: str, shift: float) -> Job:
    """One letter of a live text moved by mm along its line, all after it with it."""
    (shape,) = free_shapes(job, [shape_id])
    text = next((one for one in job.makers if one.id == shape.maker), None)
    if not isinstance(text, Text):
        raise BadInput(f"{shape.name!r} is a plain shape: only letters of a live text are kerned.")
    if text.joined or text.style != "lines":
        raise BadInput("Set the text as single letters to kern it.")
    members = [one.id for one in job.shapes if one.maker == text.id]
    nth = letter_of(text)[members.index(shape_id)]
    frame = np.array(text.matrix).reshape(3, 2)
    stretch = float(np.linalg.norm(frame[0]))
    more = shift / max(stretch, 1e-6)
    kerns = {**text.kerns, str(nth): round(text.kerns.get(str(nth), 0.0) + more, 4)}
    centred = text.width <= 0 and text.circle <= 0  # half of it goes to the left: the line's begin stays
    middle = frame[2] + frame[0] * more / 2 * centred
    matrix = (*(float(value) for value in frame[:2].ravel()), float(middle[0]), float(middle[1]))
    return remade(job, change(text, kerns=kerns, matrix=matrix))


def combined(job: Job, ids: Sequence[str], how: str) -> Job:
    """Chosen shapes combined; the results take the place of the first, the others go.

    For "subtract" the shape lowest in the stack is the one that is cut; open lines divide what
    they cross.
    """
    word, work = pick(COMBINED, how, "way to combine")
    lines = [shape for shape in chosen_shapes(job, ids) if shape.open] if how == "divide" else []
    chosen = areas(job, [one for one in ids if one not in {line.id for line in lines}], 1 if lines else 2, size=True)
    regions = [region_of(shape) for shape in chosen]
    if lines:
        cuts = [shapely.linestrings(np.asarray(line.rings[0])) for line in lines]
        found = combine.divide(regions, cuts)
        if len(found) <= len(regions):
            raise BadInput(f"The line does not cross {names_of(chosen)} from side to side.")
        job = without(job, [line.id for line in lines])
    else:
        found = work(regions)
    if not found:
        raise BadInput(f"Nothing is left of {names_of(chosen)} when {word}: they do not overlap.")
    return replaced(_named_as_first(job, chosen) if how in ONE_OF_ALL else job, chosen, found)


def kept_apart(job: Job, ids: Sequence[str], overlap: float) -> Job:
    """Chosen shapes cut by those above them, so that only `overlap` mm are left of what they share.

    See-through stitches lie beside one another so, and hold one another where they overlap.
    """
    chosen = areas(job, ids, 2, size=True)
    regions = [region_of(shape) for shape in chosen]
    for nth, (shape, region) in enumerate(zip(chosen, regions, strict=True)):
        rest = shapely.difference(region, shapely.union_all(regions[nth + 1 :]))
        found = combine.parts_of(shapely.intersection(region, shapely.buffer(rest, overlap, join_style="mitre")))
        if not found:
            raise BadInput(f"Nothing is left of {shape.name}: it lies wholly under the others.")
        if not shapely.equals(found[0], region) or len(found) > 1:
            job = replaced(job, [shape], found)
    return job


def _named_as_first(job: Job, chosen: Sequence[Shape]) -> Job:
    """The job with what names one of several shapes, or its piece, naming the first, in which they all live on."""
    first, *others = chosen
    piece_of = {piece.shape: piece.id for piece in reversed(job.pieces)}
    pieces = {piece_of[one.id]: piece_of[first.id] for one in others if {one.id, first.id} <= piece_of.keys()}
    return named_instead(job, {one.id: first.id for one in others}, pieces)


def offset(
    job: Job, ids: Sequence[str], distances: Sequence[float], sharp: bool, close: float, calm: float, live: bool
) -> Job:
    """The job with even outlines round the chosen shapes, put below them in the stack, the widest lowest.

    live: whether the outlines go on following the shapes.
    """
    chosen = areas_of(job, ids)
    first = min(nth for nth, piece in enumerate(job.pieces) if piece.shape in ids)
    for distance in sorted(distances):
        maker = Around(free_maker(job), [shape.id for shape in chosen], distance, sharp, close, calm)
        if live:
            job = with_maker(job, maker, at=first)
            continue
        for nth, (name, region) in enumerate(made(job, maker)):
            job = with_region(job, free_name(job, name), region, at=first + nth)
    return job


def areas_of(job: Job, ids: Sequence[str]) -> list[Shape]:
    """Chosen shapes that have an area, locked ones too: they are only looked at."""
    chosen = [shape for shape in chosen_shapes(job, ids) if not shape.open]
    if not chosen:
        raise BadInput("Choose at least 1 shape first: open lines have no outline.")
    return chosen


def with_shape(job: Job, like_id: str, region: Polygon) -> Job:
    """The job with a region as a shape of its own, its piece like that of another shape, on top of it."""
    nth = next((nth for nth, piece in enumerate(job.pieces) if piece.shape == like_id), len(job.pieces) - 1)
    (like,) = chosen_shapes(job, [like_id])
    at = nth + 1 if nth >= 0 else None
    return with_region(job, free_name(job, f"{like.name} cut-out"), region, at=at)


def mended(job: Job, ids: Sequence[str], mend: Callable[[Polygon], list[Polygon]]) -> Job:
    """Each chosen shape replaced by what a function makes of its region; unchanged ones keep their curves."""
    for shape in areas(job, ids, size=True):
        region = region_of(shape)
        found = mend(region)
        if not found:
            raise BadInput(f"Nothing would be left of {shape.name!r}.")
        if not (len(found) == 1 and shapely.equals_exact(found[0], region)):
            job = replaced(job, [shape], found)
    return job


def broken_up(job: Job, ids: Sequence[str]) -> Job:
    """Each chosen shape as its parts: the outline filled, and what its cut-outs showed as shapes above it."""
    for shape in areas(job, ids, size=True):
        region = region_of(shape)
        if not len(region.interiors):
            raise BadInput(f"{shape.name!r} has no cut-outs: it is one part already.")
        outer = Polygon(region.exterior)
        job = replaced(job, [shape], [outer, *(Polygon(hole) for hole in region.interiors)])
    return job


def split(job: Job, shape_id: str, one: tuple[float, float], other: tuple[float, float]) -> Job:
    """A shape cut in two along the straight line between two of its points."""
    (shape,) = areas(job, [shape_id], size=True)
    ends = np.array([one, other])
    along = (ends[1] - ends[0]) / max(float(np.linalg.norm(ends[1] - ends[0])), 1e-9)
    cut = shapely.linestrings(ends + np.array([-along, along]) * 0.05)
    found = combine.divide([region_of(shape)], [cut])
    if len(found) != 2:
        raise BadInput(f"The line between these points does not cut {shape.name!r} in two: choose points across it.")
    return replaced(job, [shape], found)


def joined_lines(job: Job, ids: Sequence[str]) -> Job:
    """Open lines joined at their nearest ends into one; one alone closed to a shape."""
    chosen = free_shapes(job, ids)
    if not all(shape.open for shape in chosen):
        raise BadInput("Only open lines are joined by their ends: use Join for shapes.")
    rows = [np.asarray(shape.rings[0]) for shape in chosen]
    if len(rows) == 1:
        region = Polygon(rows[0]) if len(rows[0]) > 2 else None
        if region is None or not region.is_valid or region.area < 0.5:
            raise BadInput(f"{chosen[0].name!r} cannot be closed: its ends would cross it.")
        return with_region(without(job, ids), free_name(job, "Outline"), region)
    line = rows.pop(0)
    while rows:
        gap, nth, mine, flip = min(
            (float(np.linalg.norm(line[-1 if mine else 0] - row[-1 if flip else 0])), nth, mine, flip)
            for nth, row in enumerate(rows) for mine in (False, True) for flip in (False, True)
        )  # fmt: skip
        if gap > NEAR:
            raise BadInput(f"The ends of these lines lie {gap:.1f} mm apart: bring them within {NEAR:g} mm.")
        row = rows.pop(nth)
        line = np.concatenate([line if mine else line[::-1], row[::-1] if flip else row])
    whole = change(chosen[0], rings=plain([line]), nodes=[])
    return with_shapes(without(job, [shape.id for shape in chosen[1:]]), [whole])


def widened(job: Job, ids: Sequence[str], width: float) -> Job:
    """Open lines turned into shapes of an even width in mm."""
    for shape in free_shapes(job, ids):
        if not shape.open:
            raise BadInput(f"{shape.name!r} is no open line: it has a width already.")
        line = shapely.linestrings(np.asarray(shape.rings[0]))
        found = combine.parts_of(shapely.buffer(line, width / 2, quad_segs=combine.arc(width / 2)))
        if not found:
            raise BadInput(f"{shape.name!r} is too short to become a shape.")
        job = with_region(without(job, [shape.id]), free_name(job, shape.name), found[0])
    return job
