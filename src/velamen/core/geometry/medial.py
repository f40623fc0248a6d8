"""The medial axis of a region: the lines midway between its walls, and the places on them that it belongs to.

Found as the part inside the region of the Voronoi diagram of samples along its outlines, after
Ogniewicz and Kübler, "Hierarchic Voronoi skeletons" (1995): every line of it stands between two
samples, one on each side, at which a circle about it touches the walls.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import KDTree, Voronoi
from shapely import Polygon

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.region import boundaries, ready
from velamen.core.memo import kept

STEP = 0.25  # mm between samples of the walls
FINEST = 0.02  # mm, where walls lie close to one another
FEWEST = 240  # samples round a small region
MOST_SAMPLES = 24_000  # samples round a huge one
NEAR_WALLS = 3.0  # samples to the gap between two walls


@dataclass(frozen=True)
class Medial:
    """The medial axis as a graph.

    place: (v, 2) its nodes, mm; radius: (v,) mm from each to the nearest wall; edge: (e, 2) nodes;
    sides: (e, 2) samples of the walls on either side of an edge; wall: (n, 2) the samples, mm; ring:
    (n,) number of the ring each lies on, in the order of `boundaries`; along: (n,) mm along it;
    round: (r,) length of each ring.
    """

    place: Array
    radius: Array
    edge: Index
    sides: Index
    wall: Array
    ring: Index
    along: Array
    round: Array

    def apart(self) -> Array:
        """How much farther it is along the wall than straight from side to side of each edge, mm: (e,).

        Infinite between different rings. It grows along every branch, away from its tip.
        """
        one, other = self.sides.T
        off = np.abs(self.along[one] - self.along[other])
        off = np.minimum(off, self.round[self.ring[one]] - off)
        chord = np.linalg.norm(self.wall[one] - self.wall[other], axis=1)
        return np.where(self.ring[one] == self.ring[other], off - chord, np.inf)


@kept(64, lasting=True)
def medial_axis(region: Polygon) -> Medial:
    """The medial axis of a region, which several stitches ask for."""
    rings = boundaries(region)
    wall, ring, along, lengths = wall_samples(rings)
    if len(wall) < 4:
        return Medial(*(np.zeros((0, 2)), np.zeros(0)), *(np.zeros((0, 2), dtype=np.int64),) * 2, wall, ring, along,
                      lengths)  # fmt: skip
    diagram = Voronoi(wall, qhull_options="Qbb Qc QJ")
    edge, sides = np.asarray(diagram.ridge_vertices, dtype=np.int64), np.asarray(diagram.ridge_points, dtype=np.int64)
    inside = shapely.contains_xy(ready(region), diagram.vertices[:, 0], diagram.vertices[:, 1])
    known = (edge >= 0).all(axis=1)
    known &= inside[edge[:, 0]] & inside[edge[:, 1]]
    edge, sides = edge[known], sides[known]
    used, edge = np.unique(edge, return_inverse=True)
    edge = edge.reshape(-1, 2).astype(np.int64)
    place = diagram.vertices[used]
    radius = np.zeros(len(place))
    radius[edge.T] = np.linalg.norm(place[edge.T] - wall[sides[:, 0]][None], axis=2)
    return Medial(place, radius, edge, sides.astype(np.int64), wall, ring, along, lengths)


def wall_samples(rings: list[Array]) -> tuple[Array, Index, Array, Array]:
    """Samples of all rings: place, ring, way along it, and the rings' lengths; finer where walls are near."""
    sides = [np.roll(ring, -1, axis=0) - ring for ring in rings]
    size = [np.linalg.norm(side, axis=1) for side in sides]
    lengths = np.array([float(one.sum()) for one in size])
    begin = np.concatenate(rings)
    whole = np.concatenate(size)
    step = max(min(STEP, lengths.sum() / FEWEST), lengths.sum() / MOST_SAMPLES)
    count = np.maximum(np.ceil(whole / step), 1).astype(np.int64)
    owner, share = _parts(count)
    side = np.concatenate(sides)
    number = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    start = np.concatenate([np.concatenate(([0.0], np.cumsum(one)[:-1])) for one in size])
    wall = begin[owner] + share[:, None] * side[owner]
    along = start[owner] + share * whole[owner]
    gap = _gaps(wall, number[owner], along, lengths, step)
    part = whole[owner] / count[owner]
    more = np.maximum(np.ceil(NEAR_WALLS * part / np.maximum(gap, FINEST * NEAR_WALLS)), 1).astype(np.int64)
    if more.sum() > MOST_SAMPLES:
        more = np.ones_like(more)
    again, finer = _parts(more)
    inner = share[again] + finer / count[owner[again]]
    owner = owner[again]
    return begin[owner] + inner[:, None] * side[owner], number[owner], start[owner] + inner * whole[owner], lengths


def _parts(count: Index) -> tuple[Index, Array]:
    """Owner and share of each of `count` even parts."""
    owner = np.repeat(np.arange(len(count)), count)
    nth = numbered(count)
    return owner, nth / count[owner]


def _gaps(wall: Array, ring: Index, along: Array, lengths: Array, step: float) -> Array:
    """How far from each sample a wall runs that is not its own neighbourhood, mm, at most some steps."""
    near = KDTree(wall).query(wall, k=min(9, len(wall)), distance_upper_bound=NEAR_WALLS * step)
    far, index = near[0][:, 1:], np.minimum(near[1][:, 1:], len(wall) - 1)
    off = np.abs(along[index] - along[:, None])
    off = np.minimum(off, lengths[ring][:, None] - off)
    other = (ring[index] != ring[:, None]) | (off > 3.0 * far)
    return np.asarray(np.where(other & np.isfinite(far), far, np.inf).min(axis=1, initial=NEAR_WALLS * step))
