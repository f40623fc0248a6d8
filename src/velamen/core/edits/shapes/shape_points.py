"""Points of a shape moved, added and taken away, stretches straightened and outlines smoothed."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.edits.shapes import curve_nodes
from velamen.core.edits.shapes.choosing import areas, with_shapes
from velamen.core.edits.shapes.drawing import split
from velamen.core.edits.shapes.live_shapes import released
from velamen.core.errors import BadInput
from velamen.core.geometry.polyline import arc_lengths, ring_arc_lengths
from velamen.core.geometry.refit import corners_of
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import Job
from velamen.core.job.shape import Shape, reshaped

Point = tuple[int, int]
"""A ring of the shape, 0 the outer one, and a point in it."""

CORNER = np.radians(55.0)  # a turn from which a corner is kept when an outline is smoothed
EVEN = 0.5  # mm between the points of a smoothed outline, before it is thinned
THIN = 0.02  # mm a thinned outline may leave the smoothed one


def points_moved(job: Job, shape_id: str, points: Sequence[Point], shift: tuple[float, float], reach: float) -> Job:
    """Points of a shape moved by (x, y) mm, drawing their neighbours along.

    reach: mm along the outline on either side within which the others follow, less the
    farther they are, so that a curve stays a curve.
    """
    shape = _shape(job, shape_id)
    if shape.nodes:
        return curve_nodes.nodes_moved(job, shape_id, points, shift)
    rings = [np.array(ring) for ring in shape.rings]
    for ring in {ring for ring, _ in points}:
        chosen = np.array([nth for one, nth in points if one == ring])
        if not 0 <= ring < len(rings) or chosen.min() < 0 or chosen.max() >= len(rings[ring]):
            raise BadInput("That point is no longer in the shape: reload the page.")
        rings[ring] = rings[ring] + _follow(rings[ring], chosen, reach)[:, None] * np.array(shift)
    return _with(job, shape, rings)


def point_added(job: Job, shape_id: str, place: tuple[float, float]) -> Job:
    """A point more on the outline, at the place of it nearest to (x, y) mm."""
    shape = _shape(job, shape_id)
    if shape.nodes:
        return curve_nodes.node_added(job, shape_id, place)
    rings = [np.array(ring) for ring in shape.rings]
    lines = [shapely.linestrings(np.concatenate([ring, ring[:1]])) for ring in rings]
    spot = shapely.Point(place)
    nearest = int(np.argmin(shapely.distance(np.array(lines), spot)))
    along = float(shapely.line_locate_point(lines[nearest], spot))
    ring = rings[nearest]
    way = ring_arc_lengths(ring)
    after = min(int(np.searchsorted(way, along, side="right")), len(ring))
    new = shapely.get_coordinates(shapely.line_interpolate_point(lines[nearest], along))
    rings[nearest] = np.insert(ring, after, new, axis=0)
    return _with(job, shape, rings)


def points_removed(job: Job, shape_id: str, points: Sequence[Point]) -> Job:
    """Points taken away; a hole left with fewer than three goes with them."""
    shape = _shape(job, shape_id)
    if shape.nodes:
        return curve_nodes.nodes_removed(job, shape_id, points)
    rings = []
    for nth, ring in enumerate(np.array(one) for one in shape.rings):
        gone = [point for one, point in points if one == nth and 0 <= point < len(ring)]
        left = np.delete(ring, gone, axis=0)
        if len(left) >= 3:
            rings.append(left)
        elif nth == 0:
            raise BadInput(f"{shape.name!r} needs at least three points: remove the whole shape instead.")
    return _with(job, shape, rings)


def straightened(job: Job, shape_id: str, points: Sequence[Point]) -> Job:
    """The shorter stretch between two points of one ring made straight."""
    if len(points) != 2 or points[0][0] != points[1][0]:
        raise BadInput("Choose two points of one outline to straighten what lies between them.")
    shape = _shape(job, shape_id)
    if shape.nodes:
        return curve_nodes.stretch_straightened(job, shape_id, points)
    (at, one), (_, other) = sorted(points)
    if not 0 <= at < len(shape.rings) or other >= len(shape.rings[at]):
        raise BadInput("That point is no longer in the shape: reload the page.")
    ring = np.array(shape.rings[at])
    step = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
    inside = float(step[one:other].sum())
    if inside <= float(step.sum()) - inside:
        between = [(at, nth) for nth in range(one + 1, other)]
    else:
        between = [(at, nth) for nth in [*range(other + 1, len(ring)), *range(one)]]
    if not between:
        return job
    return points_removed(job, shape_id, between)


def split_at(job: Job, shape_id: str, one: Point, other: Point) -> Job:
    """A shape cut in two along the straight line between two of its points."""
    shape = _shape(job, shape_id)
    rows = shape.nodes or shape.rings
    if any(not (0 <= ring < len(rows) and 0 <= nth < len(rows[ring])) for ring, nth in (one, other)):
        raise BadInput("That point is no longer in the shape: reload the page.")
    (x, y), (u, v) = rows[one[0]][one[1]][:2], rows[other[0]][other[1]][:2]
    return split(job, shape_id, (x, y), (u, v))


def smoothed(region: Polygon, amount: float) -> Polygon:
    """A region whose outlines are smoothed over `amount` mm either way; sharp corners stay."""
    rings = [_smooth(ring, amount) for ring in boundaries(region)]
    calm = Polygon(rings[0], rings[1:])
    return calm if calm.is_valid and calm.area > 0 else region


def hole_removed(job: Job, shape_id: str, ring: int, keep: bool) -> tuple[Job, Polygon | None]:
    """A shape without one hole, and the hole as a region where it is to be kept as a shape."""
    shape = _shape(job, shape_id)
    if not 1 <= ring < len(shape.rings):
        raise BadInput("That hole is no longer in the shape: reload the page.")
    hole = Polygon(shape.rings[ring]) if keep else None
    nodes = [np.array(one) for nth, one in enumerate(shape.nodes) if nth != ring]
    if nodes:
        return curve_nodes.with_nodes(job, shape, nodes), hole
    rings = [np.array(one) for nth, one in enumerate(shape.rings) if nth != ring]
    return _with(job, shape, rings), hole


def _follow(ring: Array, chosen: NDArray[np.int64], reach: float) -> Array:
    """How far each point of a ring goes along with the chosen ones: 1 for those, less with distance."""
    weight = np.zeros(len(ring))
    if reach > THIN:
        step = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
        along, total = np.concatenate(([0.0], np.cumsum(step)[:-1])), float(step.sum())
        gap = np.abs(along[:, None] - along[chosen][None])
        near = np.minimum(gap, total - gap).min(axis=1)
        weight = np.where(near < reach, 0.5 + 0.5 * np.cos(np.pi * near / reach), 0.0)
    weight[chosen] = 1.0
    return weight


def _smooth(ring: Array, amount: float) -> Array:
    """One closed outline smoothed between its corners by a running mean that keeps their place."""
    corners = corners_of(ring, min(amount, shapely.length(shapely.linearrings(ring)) / 6), CORNER)
    if len(corners) == 0:
        return _thin(_mean_round(_even(np.concatenate([ring, ring[:1]]))[:-1], amount))
    rolled = np.roll(ring, -int(corners[0]), axis=0)
    ends = [*np.mod(corners - corners[0], len(ring)).tolist(), len(ring)]
    closed = np.concatenate([rolled, rolled[:1]])
    parts = [_thin(_mean_between(_even(closed[one : other + 1]), amount))[:-1] for one, other in pairwise(ends)]
    return np.concatenate(parts)


def _even(line: Array) -> Array:
    """A line in even steps of at most EVEN mm."""
    way = arc_lengths(line)
    at = np.linspace(0.0, way[-1], max(int(np.ceil(way[-1] / EVEN)), 2) + 1)
    return np.stack([np.interp(at, way, line[:, 0]), np.interp(at, way, line[:, 1])], axis=1)


def _mean_round(points: Array, amount: float) -> Array:
    half = min(max(round(amount / EVEN), 1), (len(points) - 1) // 2)
    padded = np.concatenate([points[-half:], points, points[:half]])
    return _running_mean(padded, 2 * half + 1)


def _mean_between(points: Array, amount: float) -> Array:
    """Running mean of an open line, its window shrinking towards the ends so that they stay."""
    half = max(round(amount / EVEN), 1)
    nth = np.arange(len(points))
    reach = np.minimum(half, np.minimum(nth, len(points) - 1 - nth))
    summed = np.concatenate([np.zeros((1, 2)), np.cumsum(points, axis=0)])
    return np.asarray((summed[nth + reach + 1] - summed[nth - reach]) / (2 * reach + 1)[:, None])


def _running_mean(points: Array, width: int) -> Array:
    summed = np.concatenate([np.zeros((1, 2)), np.cumsum(points, axis=0)])
    return np.asarray((summed[width:] - summed[:-width]) / width)


def _thin(line: Array) -> Array:
    return np.asarray(shapely.get_coordinates(shapely.simplify(shapely.linestrings(line), THIN)))


def _shape(job: Job, shape_id: str) -> Shape:
    (shape,) = areas(job, [shape_id], size=True)
    return shape


def _with(job: Job, shape: Shape, rings: Sequence[Array]) -> Job:
    """The job with a shape's rings replaced, when they still make one region."""
    region = Polygon(rings[0], list(rings[1:]))
    if not region.is_valid:
        raise BadInput(f"{shape.name!r} would cross itself or its cut-outs: move or take less.")
    return with_shapes(released(job, [shape.id]), [reshaped(shape, rings)])
