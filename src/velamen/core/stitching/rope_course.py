"""The course of an overlocked edge: a rounded outline, its curvature, and where its bites lie."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.geometry.polyline import ring_arc_lengths
from velamen.core.geometry.region import Area, boundaries
from velamen.core.memo import worked_out

ROUND = 3.0  # mm, the least radius of a corner (handbook, section 8)
ROOM, CALMER = 1.1, 2.3  # mm more than the width on the inner side, so that ends do not come together; in bays
FINE = 0.05  # mm between samples
SMOOTH = 0.35  # mm over which the outline is smoothed
CALM = 18.0  # mm of the calmest stretch, in the middle of which it begins
SMALLER = (1.0, 0.7, 0.45, 0.25, 0.0)  # shares of a radius that are tried where a shape has no room for the whole
LOST, TIPS = 0.015, 4.0  # of its area, and squares of the radius, that a shape may lose by it at its corners
STEP, OUTER, INNER = 0.38, 0.44, 0.60  # mm from row to row: on straight stretches, at most outside, at most inside
BITE = 3  # rows


@dataclass(frozen=True)
class Course:
    """A closed outline with the cloth on its left. place, off: (n, 2) mm, unit away from the cloth; way: (n,) mm;

    bend: (n,) 1/mm, positive where it is convex; size: mm all round; phase: (n + 1,) rows up to each sample and all
    round.
    """

    place: Array
    off: Array
    way: Array
    bend: Array
    size: float
    phase: Array

    @property
    def bites(self) -> int:
        return round(float(self.phase[-1]) / BITE)

    @worked_out
    def _closed(self) -> tuple[Array, Array, Array]:
        """Way, places and directions with the first again at the end."""
        first = (self.place[:1], self.off[:1])
        place, off = (np.concatenate([own, again]) for own, again in zip((self.place, self.off), first, strict=True))
        return np.append(self.way, self.size), place, off

    def at(self, rows: Array) -> Array:
        """How far along the outline rows lie, mm; more than one round counts on."""
        turns, rest = np.divmod(rows, self.phase[-1])
        return np.asarray(turns * self.size + np.interp(rest, self.phase, self._closed[0]))

    def moved(self, along: Array, by: float, off: float) -> Array:
        """Places along the outline moved on by so many mm, told on the line that lies `off` mm off it."""
        way = self._closed[0]
        bend = np.append(self.bend, self.bend[0])
        rail = np.maximum(1.0 + off * bend, 0.1)
        length = np.concatenate(([0.0], np.cumsum(np.diff(way) * (rail[1:] + rail[:-1]) / 2)))
        turns, rest = np.divmod(along, self.size)
        goal = turns * length[-1] + np.interp(rest, way, length) + by
        turns, rest = np.divmod(goal, length[-1])
        return np.asarray(turns * self.size + np.interp(rest, length, way))

    def points(self, along: Array, off: Array | float) -> Array:
        """Places (n, 2) along the outline, `off` mm off it."""
        way, place, outward = self._closed
        rest = np.mod(along, self.size)
        here, there = (np.stack([np.interp(rest, way, of[:, axis]) for axis in (0, 1)], axis=1)
                       for of in (place, outward))  # fmt: skip
        there /= np.maximum(np.linalg.norm(there, axis=1, keepdims=True), 1e-9)
        return np.asarray(here + np.broadcast_to(np.asarray(off, dtype=np.float64), rest.shape)[:, None] * there)

    def told(self, values: Array, along: Array) -> Array:
        """Values of the samples at places along the outline."""
        closed = np.append(values, values[0])
        return np.asarray(np.interp(np.mod(along, self.size), self._closed[0], closed))


def rounded(region: Polygon, outside: float, inside: float) -> Area:
    """A region with its corners rounded, as far as it stays what it is: convex ones to 3 mm or more, concave too."""
    found: Area = region
    for radius, outward in ((max(ROUND, inside + ROOM), -1.0), (max(ROUND, outside + CALMER), 1.0)):
        found = _opened(found, radius, outward)
    return found


def _opened(region: Area, radius: float, outward: float) -> Area:
    for share in SMALLER:
        by = outward * share * radius
        turned: Area = shapely.buffer(shapely.buffer(region, by, quad_segs=16), -by, quad_segs=16)
        alike = not turned.is_empty and len(boundaries(turned)) == len(boundaries(region))
        if alike and abs(turned.area - region.area) <= LOST * region.area + TIPS * radius**2:
            return turned
    return region


def courses(region: Area, outside: float, inside: float, start: Place | None = None) -> list[Course]:
    """A course along every boundary of a region, begun near a place or in the middle of its calmest stretch."""
    return [_course(ring, outside, inside, start) for ring in boundaries(region)]


def _course(ring: Array, outside: float, inside: float, start: Place | None) -> Course:
    size = float(ring_arc_lengths(ring)[-1])
    count = max(int(size / FINE), 64)
    closed = shapely.LinearRing(ring)
    place = shapely.get_coordinates(shapely.line_interpolate_point(closed, np.arange(count) / count, normalized=True))
    place = gaussian_filter1d(place, SMOOTH / (size / count), axis=0, mode="wrap")
    ahead = np.roll(place, -1, axis=0) - np.roll(place, 1, axis=0)
    heading = np.unwrap(np.arctan2(ahead[:, 1], ahead[:, 0]))
    gap = np.linalg.norm(np.roll(place, -1, axis=0) - place, axis=1)
    turn = np.mod(np.roll(heading, -1) - np.roll(heading, 1) + np.pi, 2 * np.pi) - np.pi
    bend = gaussian_filter1d(turn / np.maximum(gap + np.roll(gap, 1), 1e-9), SMOOTH / (size / count), mode="wrap")
    first = _begin(place, bend, size, start)
    place, bend, ahead, gap = (np.roll(one, -first, axis=0) for one in (place, bend, ahead, gap))
    off = np.stack([ahead[:, 1], -ahead[:, 0]], axis=1)
    off /= np.maximum(np.linalg.norm(off, axis=1, keepdims=True), 1e-9)
    rows = gap / _step(bend, outside, inside)
    phase = np.concatenate(([0.0], np.cumsum(rows)))
    whole = max(round(phase[-1] / BITE), 3) * BITE  # whole bites only, so that the pattern closes
    return Course(place, off, np.concatenate(([0.0], np.cumsum(gap)[:-1])), bend, float(gap.sum()),
                  phase * (whole / phase[-1]))  # fmt: skip


def _step(bend: Array, outside: float, inside: float) -> Array:
    """mm from row to row along the outline."""
    outer, inner = np.maximum(1.0 + bend * outside, 0.05), np.maximum(1.0 - bend * inside, 0.05)
    return np.minimum(STEP, np.minimum(OUTER / outer, INNER / inner))


def _begin(place: Array, bend: Array, size: float, start: Place | None) -> int:
    if start is not None:
        return int(np.argmin(np.linalg.norm(place - np.array(start), axis=1)))
    window = max(int(min(CALM, 0.5 * size) / size * len(bend)), 1)
    wrapped = np.abs(np.concatenate([bend, bend[:window]]))
    total = np.concatenate(([0.0], np.cumsum(wrapped)))
    mean: NDArray[np.float64] = (total[window:] - total[:-window])[: len(bend)]
    return int((np.argmin(np.round(mean, 4)) + window // 2) % len(bend))
