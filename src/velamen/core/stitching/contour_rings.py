"""Rings of a contour: where they lie, and which of them lie side by side."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.region import boundaries
from velamen.core.memo import worked_out

Lines = NDArray[np.object_]
Children = dict[int, list[int]]

CALM = 0.02  # mm of outline detail that rings do not follow
EXACT = 0.004  # mm to which rings keep their distance
BARE = 0.68  # spacings from a ring, beyond which a spot gets thread of its own
NEXT = 1.3  # spacings within which rings lie side by side
SMALL = 0.5  # mm; a shorter ring is not sewn
SPOT = 1.5  # spacings that a ring round a bare spot is across at most, if a turn that passes through is to do for it
CLEAR = 0.02  # of the way between two rings, left off at its ends where others are looked for


@dataclass(frozen=True)
class Ring:
    """depth: how many rings lie outside it; line: (n, 2); spot: whether it stands in a small bare spot."""

    depth: int
    line: Array
    spot: bool = False


@dataclass(frozen=True)
class Rings:
    """All rings of a region, the same as geometry, and the mm between them."""

    found: list[Ring]
    lines: Lines
    spacing: float

    @worked_out
    def tree(self) -> shapely.STRtree:
        """The rings by where they lie."""
        return shapely.STRtree(self.lines)

    @worked_out
    def walls(self) -> shapely.STRtree:
        """The sides of those that are more than spots."""
        sides = [
            np.stack([ring.line, np.roll(ring.line, -1, axis=0)], axis=1) for ring in self.found if not ring.spot
        ]
        return shapely.STRtree(shapely.linestrings(np.concatenate(sides)))

    def parted(self, places: Array, goal: Array) -> NDArray[np.bool_]:
        """Whether a ring that is no spot lies between each of two rows of places (n, 2)."""
        off = CLEAR * (goal - places)
        between = shapely.linestrings(np.stack([places + off, goal - off], axis=1))
        found = np.zeros(len(places), dtype=bool)
        found[self.walls.query(between, predicate="intersects")[0]] = True
        return found


def rings_of(region: Polygon, spacing: float, pull: float) -> Rings:
    """All rings from the outline inwards, and small ones where no ring comes near."""
    calm = shapely.simplify(region, CALM)
    whole = shapely.buffer(calm if calm.is_valid and not calm.is_empty else region, pull, quad_segs=4)
    found: list[Ring] = []
    here, depth = whole, 0
    while not here.is_empty:
        found += [Ring(depth, line) for part in shapely.get_parts(here) for line in boundaries(part)]
        depth += 1
        inner = shapely.simplify(shapely.buffer(here, -spacing), EXACT)
        rest = shapely.difference(shapely.buffer(here, -BARE * spacing), shapely.buffer(inner, BARE * spacing))
        for part in shapely.get_parts(rest):
            if part.geom_type == "Polygon" and part.length > 0.2:
                line = shapely.get_coordinates(part.exterior)[:-1]
                found.append(Ring(depth, line, float(np.linalg.norm(np.ptp(line, axis=0))) < SPOT * spacing))
        here = inner
    found = [ring for ring in found if len(ring.line) > 2 and (ring.depth == 0 or _length(ring.line) > SMALL)]
    return Rings(found, np.array([shapely.linearrings(ring.line) for ring in found]), spacing)


def trees(rings: Rings, start: tuple[float, float] | None) -> list[tuple[int, Children]]:
    """Rings as trees by which of them lie side by side: the first ring of each, and the children of every ring."""
    # Rings lie side by side where they are as deep as one another or one step apart, and near.
    lines, depth, reach = rings.lines, np.array([ring.depth for ring in rings.found]), NEXT * rings.spacing
    one, other = rings.tree.query(shapely.buffer(shapely.envelope(lines), reach))
    pairs = (one < other) & (np.abs(depth[one] - depth[other]) <= 1)
    one, other = one[pairs], other[pairs]
    shapely.prepare(lines)
    touch = shapely.dwithin(lines[one], lines[other], reach)
    one, other = one[touch], other[touch]
    ends = shapely.get_coordinates(shapely.shortest_line(lines[one], lines[other])).reshape(-1, 2, 2)
    open_ = ~rings.parted(ends[:, 0], ends[:, 1])
    near: dict[int, list[int]] = {}
    for a, b in zip(one[open_].tolist(), other[open_].tolist(), strict=True):
        near.setdefault(a, []).append(b)
        near.setdefault(b, []).append(a)
    # The outermost ring left over begins a tree; what lies beside it hangs on it, generation by generation.
    roots = np.argsort(depth, kind="stable")
    if start is not None:
        roots = np.lexsort((shapely.distance(lines, shapely.Point(start)), depth))
    left, found = set(range(len(lines))), []
    for root in roots.tolist():
        if root not in left:
            continue
        left.discard(root)
        children: Children = {}
        queue = [root]
        for ring in queue:  # grows while it is walked: nearest generations first
            mine = [nth for nth in near.get(ring, ()) if nth in left]
            left.difference_update(mine)
            children[ring] = mine
            queue += mine
        found.append((root, children))
    return found


def _length(ring: Array) -> float:
    return float(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1).sum())
