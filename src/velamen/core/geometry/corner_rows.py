"""Rows of a satin border beside its corners: square to their side, ended on the diagonal, or lapped.

In a mitre the rows of both sides end on the diagonal and go on to its tip; in a lap the first side is sewn on
over the whole corner and the second begins upon it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.geometry.outline import OutlineSamples
from velamen.core.geometry.rails import ADVANCE, OVER, Rails
from velamen.core.geometry.region import Area

WITHIN = 0.4  # mm to either side of a corner in which it may be blunted
SMOOTH = 0.7  # widths to either side over which a side's course is told
SHARP = np.radians(100.0)  # turn from which the second side of a lap begins at the tip
LAPPED = 1.0  # mm by which the second side of a lap begins on the first
STUB = 0.4  # mm; rows of a mitre stay that long up to its tip
SEAM, MOST_SEAM = 0.15, 0.2  # mm by which rows of either side cross the diagonal, square to it and as they lie
LIMIT = 3.3  # times the rail's distance, the farthest that a tip reaches from its corner


@dataclass(frozen=True)
class Corner:
    """A corner: mm along the outline, its place, unit course before and after, turn in rad."""

    along: float
    place: Array
    before: Array
    after: Array
    turn: float
    room: float  # mm to the nearer of the corners beside it


@dataclass(frozen=True)
class Band:
    """What rows are cut to: outline samples, and how far each may go off and on the cloth. Lengths in mm."""

    samples: OutlineSamples
    outside: float
    inside: float
    off: Array  # (k,)
    on: Array
    pull: float  # of both that makes up for pull
    heading: Array  # (k,) rad

    def between(self, start: float, end: float) -> NDArray[np.int64]:
        """The samples between two places along the outline, which may lie beyond its ends."""
        length = self.samples.length
        loop = np.floor(start / length) * length
        first = int(np.searchsorted(self.samples.along, start - loop, "right"))
        beyond, rest = divmod(end - loop, length)
        last = int(np.searchsorted(self.samples.along, rest, "left")) + int(beyond) * len(self.samples.along)
        return np.arange(first, max(last, first)) % len(self.samples.along)

    @property
    def width(self) -> float:
        """Of the whole border."""
        return self.outside + self.inside

    def sizes(self, corner: Corner) -> tuple[float, float]:
        """The rail's distance on the side that goes the longer way round a corner, and on the other."""
        return (self.outside, self.inside) if corner.turn > 0 else (self.inside, self.outside)

    def deep(self, corner: Corner) -> float:
        """How far before a corner the shorter rails of both its sides meet."""
        return self.sizes(corner)[1] * float(np.tan(abs(corner.turn) / 2.0))


@dataclass(frozen=True)
class Rows:
    """Rows beside one another: ends off and on the cloth (k, 2), and the step of each in mm from the one before.

    A step is less than 0 where a rail runs back; that of the first row is told when rows are joined.
    cut: (k,) whether a row ends on the diagonal of a corner.
    """

    outer: Array
    inner: Array
    outer_step: Array
    inner_step: Array
    cut: NDArray[np.bool_]

    def within(self, first: int, last: int | None) -> Rows:
        """Some of them, from one to before another."""
        rows = slice(first, last)
        return Rows(self.outer[rows], self.inner[rows], self.outer_step[rows], self.inner_step[rows], self.cut[rows])


def side_rows(band: Band, start: float, end: float, corners: Sequence[Corner]) -> Rows:
    """Rows square to the outline between two places along it, beside some corners."""
    samples = band.samples
    which = band.between(start, end)
    along = start + (samples.along[which] - start) % samples.length
    cut = np.zeros(len(which), dtype=bool)
    over = [np.full(len(which), band.pull + OVER), np.full(len(which), band.pull + OVER)]
    for corner in corners:
        way = np.abs(samples.along[which] - corner.along)
        near = np.minimum(way, samples.length - way) < band.deep(corner)
        short = over[1] if corner.turn > 0 else over[0]
        cut |= near
        short[near] = np.maximum(short[near], _crossing(band, corner))
    far = np.clip(np.minimum(along - start, end - along) + WITHIN, 0.0, SMOOTH * band.width)
    ways = place_along(samples, along + far) - place_along(samples, along - far)
    course = ways / np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-9)
    normal = np.stack([course[:, 1], -course[:, 0]], axis=1)
    off = np.minimum(band.off[which] + over[0], band.outside)[:, None]
    on = np.minimum(band.on[which] + over[1], band.inside)[:, None]
    return _new(samples.point[which] + off * normal, samples.point[which] - on * normal, course, cut)


def mitred(band: Band, corner: Corner) -> tuple[float, float, list[Rows]]:
    """From how far before a corner to how far after it rows end on its diagonal, in mm, and those of both sides."""
    big, small = band.sizes(corner)
    tan, tip = float(np.tan(abs(corner.turn) / 2.0)), _tip(corner, big)
    stub = min(STUB, 0.5 * (big + small))
    along = np.linspace(-WITHIN, tip, max(int((tip + WITHIN) / ADVANCE), 2))
    held = np.minimum(along, (big - stub + _crossing(band, corner)) * tan)  # from there on rows turn on the spot
    low = np.maximum(held / tan - _crossing(band, corner), -small)
    sides = [_beside(band, corner, second, along, low, held) for second in (False, True)]
    return WITHIN, WITHIN, sides


def lapped(band: Band, corner: Corner) -> tuple[float, float, list[Rows]]:
    """The rows of the first side over all of a corner and those of the second upon it; as `mitred`.

    The second side of a sharp one begins at the tip, so that its thread comes back under its own rows.
    """
    big, small = band.sizes(corner)
    turn, tip, near = abs(corner.turn), _tip(corner, big), max(band.deep(corner), WITHIN)
    stub = min(STUB, 0.5 * (big + small))
    along = np.linspace(-near, tip, max(int((tip + near) / ADVANCE), 2))
    low = np.full(len(along), -small)
    if turn > np.pi / 2 + 1e-6:  # down to the second side's longer rail
        low = np.maximum(low, big - (big * np.tan(turn / 2.0) - along) * np.tan(np.pi - turn))
    first = _beside(band, corner, False, along, np.minimum(low, big - stub), along)
    if turn > SHARP:
        _, after, (_, second) = mitred(band, corner)
        return near, after, [first, second]
    begun = np.linspace(-near, min(LAPPED, 0.5 * (big + small)) - near, 8)
    second = _beside(band, corner, True, begun, np.full(8, -small), begun)
    second.outer_step[0] = second.inner_step[0] = 0.0  # what lies between them is no advance
    return near, near, [first, second]


def _beside(band: Band, corner: Corner, second: bool, along: Array, low: Array, low_along: Array) -> Rows:
    """Rows of one side of a corner, from its longer rail at `along` mm past it to `low` mm off at `low_along`.

    second: of the side after the corner, whose rows begin at its tip.
    """
    convex = corner.turn > 0
    course = corner.after if second else corner.before
    aside = (1.0 if convex else -1.0) * np.array([course[1], -course[0]])
    ahead = -course if second else course
    big = corner.place + along[:, None] * ahead + band.sizes(corner)[0] * aside
    short = corner.place + low_along[:, None] * ahead + low[:, None] * aside
    if second:
        big, short = big[::-1], short[::-1]
    return _new(*((big, short) if convex else (short, big)), course, np.ones(len(big), dtype=bool))


def _crossing(band: Band, corner: Corner) -> float:
    """mm by which rows cross the diagonal of a corner, so that no gap opens along it once they are drawn in."""
    return min(SEAM / float(np.sin(abs(corner.turn) / 2.0)), MOST_SEAM) + band.pull


def _tip(corner: Corner, big: float) -> float:
    """How far past a corner its longer rails, so many mm off, meet or are cut off."""
    return big * min(float(np.tan(abs(corner.turn) / 2.0)), float(np.sqrt(LIMIT**2 - 1.0)))


def tip_area(corner: Corner, outside: float) -> Area:
    """The point to which rows come round an outer corner, `outside` mm off it."""
    sides = [(corner.before, 1.0), (corner.after, -1.0)]
    ends = [
        corner.place + far * sign * course + outside * np.array([course[1], -course[0]])
        for course, sign in sides for far in (0.0, _tip(corner, outside))
    ]  # fmt: skip
    kite: Area = shapely.convex_hull(shapely.multipoints(np.array([corner.place, *ends])))
    return kite


def _new(outer: Array, inner: Array, course: Array, cut: NDArray[np.bool_]) -> Rows:
    """Rows whose steps are told from their ends, along their course (2,) or (k, 2), not along a diagonal."""
    steps = [(np.diff(line, axis=0, prepend=line[:1]) * course).sum(axis=1) for line in (outer, inner)]
    for step in steps:
        step[:1] = np.nan
    return Rows(outer, inner, steps[0], steps[1], cut)


def kept_rows(rails: Rails, which: NDArray[np.int64]) -> Rows:
    """Some rows of rails as they are."""
    outer, inner = (np.diff(way, prepend=0.0)[which] for way in (rails.outer_way, rails.inner_way))
    outer[:1] = inner[:1] = np.nan
    return Rows(rails.outer[which], rails.inner[which], outer, inner, np.zeros(len(which), dtype=bool))


def joined(parts: list[Rows]) -> Rails:
    """Closed rails of rows one after another."""
    parts = [one for one in parts if len(one.outer)]
    outer, inner = (np.concatenate([getattr(one, side) for one in parts]) for side in ("outer", "inner"))
    outer, inner = (np.concatenate([line, line[:1]]) for line in (outer, inner))
    ways = []
    for line, name in ((outer, "outer_step"), (inner, "inner_step")):
        step = np.concatenate([*(getattr(one, name) for one in parts), [np.nan]])[1:]
        way = np.linalg.norm(np.diff(line, axis=0), axis=1)
        ways.append(np.where(np.isnan(step), way, step))
    advance = np.maximum(np.maximum(*ways), 0.0)
    along = [np.concatenate(([0.0], np.cumsum(way))) for way in (*ways, advance)]
    cut = np.concatenate([one.cut for one in parts])
    return Rails(outer, inner, along[0], along[1], along[2], cut=np.append(cut, cut[:1]))


def place_along(samples: OutlineSamples, along: Array) -> Array:
    """Places (n, 2) so many mm along an outline."""
    way = np.append(samples.along, samples.length)
    ring = np.concatenate([samples.point, samples.point[:1]])
    at = np.mod(along, samples.length)
    return np.stack([np.interp(at, way, ring[:, 0]), np.interp(at, way, ring[:, 1])], axis=1)
