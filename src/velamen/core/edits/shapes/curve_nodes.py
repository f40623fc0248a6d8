"""Curve nodes of a shape: turned into, moved, added, taken away, made corners or smooth, their handles bent."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.edits.shapes.choosing import areas, with_shapes
from velamen.core.edits.shapes.live_shapes import released
from velamen.core.errors import BadInput
from velamen.core.geometry.curves import flatten_nodes
from velamen.core.geometry.refit import ring_nodes
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import Job
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Shape, reshaped

Point = tuple[int, int]
"""A ring of the shape, 0 the outer one, and a node in it."""

SIDES = {"before": slice(2, 4), "after": slice(4, 6)}
LIE = 30  # places on a curve that are tried for the nearest to a point


def curved(job: Job, ids: Sequence[str], tolerance: float) -> Job:
    """Chosen shapes as curves between corners, within a tolerance in mm of their outlines."""
    for shape in areas(job, ids, size=True):
        job = with_nodes(job, shape, [ring_nodes(ring, tolerance) for ring in boundaries(region_of(shape))])
    return job


def nodes_moved(job: Job, shape_id: str, points: Sequence[Point], shift: tuple[float, float]) -> Job:
    """Nodes moved by (x, y) mm with their handles."""
    shape, rings = _opened(job, shape_id, points)
    for ring, nth in points:
        rings[ring][nth] += np.tile(shift, 3)
    return with_nodes(job, shape, rings)


def handle_moved(job: Job, shape_id: str, point: Point, side: str, shift: tuple[float, float]) -> Job:
    """One handle of a node moved by (x, y) mm; at a smooth node the other one turns with it."""
    shape, rings = _opened(job, shape_id, [point])
    if side not in SIDES:
        raise BadInput("A node has a handle before and a handle after it.")
    node = rings[point[0]][point[1]]
    smooth = _is_smooth(node)
    node[SIDES[side]] += shift
    other = SIDES["after" if side == "before" else "before"]
    way, length = node[SIDES[side]] - node[:2], float(np.linalg.norm(node[other] - node[:2]))
    if smooth and np.linalg.norm(way) > 1e-6:
        node[other] = node[:2] - way / np.linalg.norm(way) * length
    return with_nodes(job, shape, rings)


def node_added(job: Job, shape_id: str, place: tuple[float, float]) -> Job:
    """A node more on the curve, at the place of it nearest to (x, y) mm; the outline stays as it is."""
    shape, rings = _opened(job, shape_id, [])
    best = min((_nearest(ring, np.array(place)), nth) for nth, ring in enumerate(rings))
    (_, curve, t), nth = best
    rings[nth] = _divided(rings[nth], curve, t)
    return with_nodes(job, shape, rings)


def nodes_removed(job: Job, shape_id: str, points: Sequence[Point]) -> Job:
    """Nodes taken away; a cut-out left with fewer than two goes with them."""
    shape, rings = _opened(job, shape_id, points)
    left = [np.delete(ring, [nth for one, nth in points if one == at], axis=0) for at, ring in enumerate(rings)]
    if len(left[0]) < 2:
        raise BadInput(f"{shape.name!r} needs at least two nodes: remove the whole shape instead.")
    return with_nodes(job, shape, [ring for ring in left if len(ring) > 1])


def nodes_made(job: Job, shape_id: str, points: Sequence[Point], kind: str) -> Job:
    """Nodes made corners, without handles, or smooth, their handles along the way between neighbours."""
    shape, rings = _opened(job, shape_id, points)
    if kind not in ("corner", "smooth"):
        raise BadInput("A node is a corner or smooth.")
    for ring, nth in points:
        nodes = rings[ring]
        node, back, ahead = nodes[nth], nodes[nth - 1], nodes[(nth + 1) % len(nodes)]
        if kind == "corner":
            node[2:] = np.tile(node[:2], 2)
            continue
        way = ahead[:2] - back[:2]
        way = way / max(float(np.linalg.norm(way)), 1e-9)
        node[2:4] = node[:2] - way * np.linalg.norm(node[:2] - back[:2]) / 3.0
        node[4:6] = node[:2] + way * np.linalg.norm(ahead[:2] - node[:2]) / 3.0
    return with_nodes(job, shape, rings)


def stretch_straightened(job: Job, shape_id: str, points: Sequence[Point]) -> Job:
    """The shorter stretch between two nodes of one outline made straight."""
    shape, rings = _opened(job, shape_id, points)
    if len(points) != 2 or points[0][0] != points[1][0]:
        raise BadInput("Choose two points of one outline to straighten what lies between them.")
    (at, one), (_, other) = sorted(points)
    nodes = rings[at]
    inside = np.arange(one + 1, other)
    outside = np.concatenate([np.arange(other + 1, len(nodes)), np.arange(one)])
    first, last, gone = (one, other, inside) if len(inside) <= len(outside) else (other, one, outside)
    nodes[first, 4:6], nodes[last, 2:4] = nodes[first, :2], nodes[last, :2]
    rings[at] = np.delete(nodes, gone, axis=0)
    return with_nodes(job, shape, rings)


def with_nodes(job: Job, shape: Shape, nodes: Sequence[Array]) -> Job:
    """The job with a shape's curves replaced, when they still make one region."""
    rings = [flatten_nodes(ring) for ring in nodes]
    if any(len(ring) < 3 for ring in rings):
        raise BadInput(f"{shape.name!r} would have no area left: keep another node, or make one smooth.")
    region = Polygon(rings[0], rings[1:])
    if not region.is_valid:
        raise BadInput(f"{shape.name!r} would cross itself or its cut-outs: move or take less.")
    return with_shapes(released(job, [shape.id]), [reshaped(shape, rings, nodes)])


def _opened(job: Job, shape_id: str, points: Sequence[Point]) -> tuple[Shape, list[Array]]:
    """A shape that may be changed, and its nodes, when the points are among them."""
    (shape,) = areas(job, [shape_id], size=True)
    rings = [np.array(ring, dtype=np.float64) for ring in shape.nodes]
    if not rings:
        raise BadInput(f"{shape.name!r} has no curve nodes: turn its outline into curves first.")
    if any(not (0 <= ring < len(rings) and 0 <= nth < len(rings[ring])) for ring, nth in points):
        raise BadInput("That point is no longer in the shape: reload the page.")
    return shape, rings


def _is_smooth(node: Array) -> bool:
    """Whether both handles of a node lie on one line through it."""
    back, ahead = node[2:4] - node[:2], node[4:6] - node[:2]
    size = float(np.linalg.norm(back) * np.linalg.norm(ahead))
    return size > 1e-9 and bool(abs(back[0] * ahead[1] - back[1] * ahead[0]) < 0.02 * size and back @ ahead < 0)


def _nearest(nodes: Array, place: Array) -> tuple[float, int, float]:
    """The nearest place on a ring's curves: how far off, which curve, and its parameter."""
    ahead = np.roll(nodes, -1, axis=0)
    control = np.stack([nodes[:, :2], nodes[:, 4:], ahead[:, 2:4], ahead[:, :2]], axis=1)
    t = np.linspace(0.02, 0.98, LIE)
    basis = np.stack([(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t**2, t**3], axis=1)
    off = np.linalg.norm(np.einsum("tk,nkd->ntd", basis, control) - place, axis=2)
    curve, nth = np.unravel_index(int(off.argmin()), off.shape)
    return float(off[curve, nth]), int(curve), float(t[nth])


def _divided(nodes: Array, curve: int, t: float) -> Array:
    """A ring's nodes with one more on a curve (de Casteljau)."""
    following = (curve + 1) % len(nodes)
    a, b, c, d = nodes[curve, :2], nodes[curve, 4:], nodes[following, 2:4], nodes[following, :2]
    ab, bc, cd = a + (b - a) * t, b + (c - b) * t, c + (d - c) * t
    abc, bcd = ab + (bc - ab) * t, bc + (cd - bc) * t
    spot = abc + (bcd - abc) * t
    nodes = nodes.copy()
    straight = np.allclose(a, b) and np.allclose(c, d)
    if not straight:
        nodes[curve, 4:], nodes[following, 2:4] = ab, cd
    new = np.concatenate([spot, spot, spot] if straight else [spot, abc, bcd])
    return np.insert(nodes, curve + 1, new, axis=0)
