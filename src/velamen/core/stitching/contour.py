"""Contour rings: runs that echo the outline of a region, ring by ring or as one spiral."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import within
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import boundaries
from velamen.core.stitching.fill import linked
from velamen.core.stitching.run import run_along, start_ring_at
from velamen.core.stitching.strand import Strand, strand, tied

Lines = NDArray[np.object_]

STYLES = (("rings", "rings"), ("spiral", "spiral"))
CALM = 0.02  # mm of outline detail that rings do not follow
EXACT = 0.004  # mm to which rings keep their distance
BARE = 0.68  # spacings from a ring, beyond which a spot gets thread of its own
NEXT = 1.3  # spacings within which rings lie side by side
SMALL = 0.5  # mm; a shorter ring is not sewn
FINE = 0.25  # mm between places of a spiral


@dataclass(frozen=True)
class _Ring:
    depth: int
    line: Array


def contour(
    region: Polygon, role: str, spacing: float, length: float, style: str = "rings", pull: float = 0.0,
    start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """Rings inside a region, `spacing` mm apart, the first on its outline, as one strand.

    length: mm of a stitch; style: "rings", or "spiral" where each ring winds on into the next; pull:
    mm that the first ring lies outside; start: where sewing begins. Raises BadInput out of bounds.
    """
    within("spacing of contour rings", spacing, 0.2, 20.0)
    within("length of contour rings", length, 0.5, 12.0)
    rings = _rings(region, spacing, pull)
    lines = np.array([shapely.linearrings(ring.line) for ring in rings])
    sewn = []
    for root, children in _trees(rings, lines, spacing, start):
        ring = rings[root].line
        ring = start_ring_at(ring, ring[0] if start is None else np.array(start))
        path = _path(rings, lines, root, ring, children, spacing, style == "spiral")
        sewn.append(tied(strand(run_along(path, length), role)))
    return linked(sewn, region)


def _rings(region: Polygon, spacing: float, pull: float) -> list[_Ring]:
    """All rings from the outline inwards, and small ones where no ring comes near."""
    calm = shapely.simplify(region, CALM)
    whole = shapely.buffer(calm if calm.is_valid and not calm.is_empty else region, pull, quad_segs=4)
    found: list[_Ring] = []
    here, depth = whole, 0
    while not here.is_empty:
        found += [_Ring(depth, line) for part in shapely.get_parts(here) for line in boundaries(part)]
        depth += 1
        inner = shapely.simplify(shapely.buffer(here, -spacing), EXACT)
        rest = shapely.difference(shapely.buffer(here, -BARE * spacing), shapely.buffer(inner, BARE * spacing))
        for part in shapely.get_parts(rest):
            if part.geom_type == "Polygon" and part.length > 0.2:
                found.append(_Ring(depth, shapely.get_coordinates(part.exterior)[:-1]))
        here = inner
    return [ring for ring in found if len(ring.line) > 2 and (ring.depth == 0 or _length(ring.line) > SMALL)]


def _trees(
    rings: list[_Ring], lines: Lines, spacing: float, start: tuple[float, float] | None
) -> list[tuple[int, dict[int, list[int]]]]:
    """Rings as trees by which of them lie side by side: the first ring of each, and the children of every ring."""
    # Rings lie side by side where they are as deep as one another or one step apart, and near.
    depth = np.array([ring.depth for ring in rings])
    one, other = shapely.STRtree(lines).query(shapely.buffer(shapely.envelope(lines), NEXT * spacing))
    pairs = (one < other) & (np.abs(depth[one] - depth[other]) <= 1)
    one, other = one[pairs], other[pairs]
    shapely.prepare(lines)
    touch = shapely.dwithin(lines[one], lines[other], NEXT * spacing)
    near: dict[int, list[int]] = {}
    for a, b in zip(one[touch].tolist(), other[touch].tolist(), strict=True):
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    # The outermost ring left over begins a tree; what lies beside it hangs on it, generation by generation.
    roots = np.argsort(depth, kind="stable")
    if start is not None:
        roots = np.lexsort((shapely.distance(lines, shapely.Point(start)), depth))
    left, found = set(range(len(rings))), []
    for root in roots.tolist():
        if root not in left:
            continue
        left.discard(root)
        children: dict[int, list[int]] = {}
        queue = [root]
        for ring in queue:  # grows while it is walked: nearest generations first
            mine = [nth for nth in near.get(ring, ()) if nth in left]
            left.difference_update(mine)
            children[ring] = mine
            queue += mine
        found.append((root, children))
    return found


def _path(
    rings: list[_Ring], lines: Lines, root: int, ring: Array, children: dict[int, list[int]], spacing: float,
    spiral: bool,
) -> Array:  # fmt: skip
    """One line (n, 2) round a ring and all that hang on it, each entered where it comes nearest.

    spiral: from ring to ring it winds on into the longest child, and ends at the innermost.
    """
    turns: list[Array] = []
    main: int | None = root
    while main is not None:
        onward = max(children[main], key=lambda nth: float(shapely.length(lines[nth])), default=None)
        if not spiral or onward is None:
            turns.append(_with_detours(rings, lines, main, ring, children[main], children))
            break
        if main == root:
            turns.append(np.concatenate([ring, ring[:1]]))
        others = [nth for nth in children[main] if nth != onward]
        wound = _wound(ring, lines[onward], spacing)
        turns.append(_with_detours(rings, lines, main, wound[:-1], others, children, wound[-1:]))
        ring, main = start_ring_at(rings[onward].line, wound[-1]), onward
    return np.concatenate(turns)


def _with_detours(
    rings: list[_Ring], lines: Lines, here: int, ring: Array, mine: list[int], children: dict[int, list[int]],
    end: Array | None = None,
) -> Array:  # fmt: skip
    """A ring from its first place round to it, or to `end`, all that hang on it gone round on the way."""
    order = [(here, nth) for nth in mine]
    for _, ring_ in order:  # grows while it is walked
        order += [(ring_, nth) for nth in children[ring_]]
    inner: dict[int, list[tuple[Array, Array]]] = {}
    for parent, nth in reversed(order):
        outside = shapely.linearrings(ring) if parent == here else lines[parent]
        gate = shapely.get_coordinates(shapely.shortest_line(outside, lines[nth]))
        own = start_ring_at(rings[nth].line, gate[1])
        inner.setdefault(parent, []).append((gate[0], _inserted(own, own[:1], inner.pop(nth, []))))
    return _inserted(ring, ring[:1] if end is None else end, inner.pop(here, []))


def _inserted(ring: Array, end: Array, detours: list[tuple[Array, Array]]) -> Array:
    """A ring closed by `end`, with detours put in at the places where they leave it."""
    line = np.concatenate([ring, end])
    if not detours:
        return line
    way = arc_lengths(line)
    gates = np.stack([gate for gate, _ in detours])
    at = shapely.line_locate_point(shapely.LineString(line), shapely.points(gates))
    parts, done = [], 0
    for nth in np.argsort(at).tolist():
        upto = int(np.searchsorted(way, at[nth]))
        parts += [line[done:upto], gates[nth][None], detours[nth][1], gates[nth][None]]
        done = upto
    return np.concatenate([*parts, line[done:]])


def _wound(line: Array, onto: shapely.LinearRing, spacing: float) -> Array:
    """One turn along a ring that winds over to the next one on its way."""
    closed = shapely.segmentize(shapely.LineString(np.concatenate([line, line[:1]])), FINE)
    places = shapely.get_coordinates(closed)
    way = arc_lengths(places)
    goal = shapely.get_coordinates(shapely.shortest_line(shapely.points(places), onto))[1::2]
    off = goal - places
    far = np.maximum(np.linalg.norm(off, axis=1), 1e-9)
    return np.asarray(places + off * (way / way[-1] * np.minimum(spacing, far) / far)[:, None])


def _length(ring: Array) -> float:
    return float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum())
