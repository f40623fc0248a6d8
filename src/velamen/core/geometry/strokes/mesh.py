"""Triangles between the samples of a region's outlines, and how they hang together: a shape's inside as a graph.

A triangle with one neighbour is a tip, with two a piece of a stroke, with three a junction. Its centre is as far
from the walls as its three samples, so that centres run along the middle of strokes.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from scipy.spatial import Delaunay
from shapely import Polygon

from velamen.core.arrays import Array, Index, Mask
from velamen.core.geometry.medial import wall_samples
from velamen.core.geometry.region import boundaries, ready

CONCAVE = np.radians(-35.0)  # turn of a wall below which it is a corner that looks into the region


@dataclass(frozen=True)
class Mesh:
    """The inside of a region in triangles.

    wall: (n, 2) samples of the outlines, mm; ring: (n,) number of the ring each lies on; along: (n,) mm along it;
    round: (r,) length of each ring; corner: (t, 3) samples of the triangles; beside: (t, 3) the triangle across from
    each corner, -1 where the wall is; centre: (t, 2) and radius: (t,) of the circle through its corners, mm.
    """

    wall: Array
    ring: Index
    along: Array
    round: Array
    corner: Index
    beside: Index
    centre: Array
    radius: Array

    @cached_property
    def first(self) -> Index:
        """Number of the first sample of each ring, and the number of all: (r + 1,)."""
        return np.searchsorted(self.ring, np.arange(len(self.round) + 1))

    @cached_property
    def middle(self) -> Array:
        """Centroids of the triangles: (t, 2), always inside."""
        return np.asarray(self.wall[self.corner].mean(axis=1))

    def mouth(self, triangle: int, other: int) -> tuple[int, int]:
        """The two samples that neighbouring triangles share."""
        one, two = self.mouths([triangle, other])[0]
        return int(one), int(two)

    def mouths(self, path: Sequence[int]) -> Index:
        """The two samples that each triangle of a path shares with the next: (n - 1, 2)."""
        here, onward = np.asarray(path[:-1]), np.asarray(path[1:])
        nth = np.argmax(self.beside[here] == onward[:, None], axis=1)
        return np.stack([self.corner[here, (nth + 1) % 3], self.corner[here, (nth + 2) % 3]], axis=1)

    def turns(self, samples: Index, over: Array | float) -> Array:
        """How the wall turns at samples over some mm either way, rad: (m,), less than 0 where it looks inside."""
        samples = np.asarray(samples)
        over = np.asarray(np.minimum(over, self.round[self.ring[samples]] / 6), dtype=np.float64)
        back, here, ahead = (self.place(samples, way) for way in (-over, np.zeros_like(over), over))
        one, two = here - back, ahead - here
        cross = one[..., 0] * two[..., 1] - one[..., 1] * two[..., 0]
        return np.asarray(np.arctan2(cross, (one * two).sum(axis=-1)))

    def place(self, samples: Index, way: Array) -> Array:
        """Places some mm along the wall from samples, less than 0 back: (m, 2)."""
        found = np.zeros((*np.shape(samples), 2))
        for nth, (low, high) in enumerate(zip(self.first[:-1], self.first[1:], strict=True)):
            mine = self.ring[samples] == nth
            if mine.any():
                at = np.mod(self.along[samples[mine]] + way[mine], self.round[nth])
                known = np.append(self.along[low:high], self.round[nth])
                for axis in (0, 1):
                    found[mine, axis] = np.interp(
                        at, known, np.append(self.wall[low:high, axis], self.wall[low, axis])
                    )
        return found

    def near(self, sample: int, reach: float) -> Index:
        """Samples of the same ring within some mm along it."""
        low, high = self.first[self.ring[sample]], self.first[self.ring[sample] + 1]
        off = np.abs(self.along[low:high] - self.along[sample])
        off = np.minimum(off, self.round[self.ring[sample]] - off)
        return np.asarray(low + np.flatnonzero(off <= reach))


def mesh_of(region: Polygon) -> Mesh | None:
    """The inside of a region in triangles; None where nothing is left of it."""
    wall, ring, along, lengths = wall_samples(boundaries(region))
    if len(wall) < 4:
        return None
    found = Delaunay(wall, qhull_options="Qbb Qc QJ")
    corner = np.asarray(found.simplices, dtype=np.int64)
    middle = wall[corner].mean(axis=1)
    inside = shapely.contains_xy(ready(region), middle[:, 0], middle[:, 1])
    inside &= _sound(wall[corner])
    if not inside.any():
        return None
    number = np.where(inside, np.cumsum(inside) - 1, -1)
    beside = np.asarray(found.neighbors, dtype=np.int64)[inside]
    beside = np.where(beside >= 0, number[beside], -1)
    corner = corner[inside]
    centre, radius = _circles(wall[corner])
    return Mesh(wall, ring, along, lengths, corner, beside, centre, radius)


def _sound(corners: Array) -> Mask:
    """Which triangles have an area at all: samples in a line make none."""
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    return np.asarray(np.abs(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]) > 1e-9)


def _circles(corners: Array) -> tuple[Array, Array]:
    """Centre and radius of the circle through each of (t, 3, 2)."""
    base = corners[:, 0]
    one, two = corners[:, 1] - base, corners[:, 2] - base
    twice = 2.0 * (one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])
    a, b = (one**2).sum(axis=1), (two**2).sum(axis=1)
    x = (two[:, 1] * a - one[:, 1] * b) / twice
    y = (one[:, 0] * b - two[:, 0] * a) / twice
    return base + np.stack([x, y], axis=1), np.hypot(x, y)
