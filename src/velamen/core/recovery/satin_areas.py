"""Satins and zigzags by their needle points: the area they cover, both rails, middle line, width, spacing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area, largest
from velamen.core.recovery.strips import cross_of

ROUND, CLOSES = 20, 0.8  # needle points that a satin round a ring has at least, and mm between its ends
TOGETHER, SLIVER, FOLDED = 7, 1e-6, 1e-6  # triangles of one polygon; mm² of none, and of a fold
FAN = 2.0  # mm of a triangle over two stitches each, which closes the notches of short stitches
MITRE = 0.15  # mm that gaps between neighbouring triangles have
AHEAD, BIN = 10, 0.2  # stitches by which the way is told, and mm of a class of widths
SMALL = 40.0  # mm of the outer rail of a small ring
TIGHT = 2.2  # times as long as its inner rail that the outer one of a tight ring is
AS_MANY = 0.7  # of the stitches of the most usual width
STEPS, REACH = 4, 4.0  # of a rail over which its advance is taken, and mm over which they would cut corners


@dataclass(frozen=True)
class Satin:
    """A satin or zigzag. rails: both sides (n, 2); middle: (n, 2); width, spacing: mm."""

    area: Area
    rails: tuple[Array, Array]
    middle: Array
    width: float
    spacing: float
    closed: bool


def satin_of(xy: Array) -> Satin:
    """A satin by its needle points (n, 2)."""
    one, other = xy[::2], xy[1::2]
    middle = (xy[:-1] + xy[1:]) / 2
    area = shapely.union_all(np.concatenate([_strip(xy), _notches(xy)]))
    area = shapely.buffer(shapely.buffer(area, MITRE, join_style="mitre"), -MITRE, join_style="mitre")
    width, spacing = _width(xy, middle), _spacing(one, other)
    ends = float(np.linalg.norm(middle[0] - middle[-1]))
    closed = len(xy) > ROUND and ends < max(CLOSES, spacing) * 2
    return Satin(area, (one, other), middle, _tight_width(area, width) if closed else width, spacing, closed)


def _tight_width(area: Area, width: float) -> float:
    """mm of a closed satin; of a small ring, whose rails are of very different lengths, most stitches are short ones,
    and its area tells."""
    ring = largest(area)
    inner = max(
        (float(one.convex_hull.length) for one in ring.interiors), default=0.0
    )  # short stitches make it ragged
    outer = float(ring.exterior.length)
    return 2.0 * float(ring.area) / (outer + inner) if 0.0 < inner * TIGHT < outer < SMALL else width


def _width(xy: Array, middle: Array) -> float:
    """mm that most stitches are long across the way of all of them, the longer where short ones take turns with them:
    at bends these are as many as long ones, never more."""
    ahead = min(len(middle) - 1, AHEAD)
    stitch = (xy[1:] - xy[:-1])[ahead // 2 : len(middle) - ahead + ahead // 2]
    way = middle[ahead:] - middle[:-ahead]
    unit = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    across = np.abs(cross_of(stitch, unit))
    count, edges = np.histogram(across, bins=np.arange(0.0, float(across.max()) + 2 * BIN, BIN))
    most = edges[int(np.flatnonzero(count >= AS_MANY * count.max())[-1])] + BIN / 2
    return float(across[np.abs(across - most) < BIN].mean())


def _spacing(one: Array, other: Array) -> float:
    """mm from needle point to needle point of the rail that is longer: programs and hands set it there.

    Told over several steps, since short stitches at bends move single ones to and fro; over one where steps are so
    long that several would cut corners.
    """
    rough = _advance(one, other, STEPS)
    if rough * STEPS < REACH or min(len(one), len(other)) < 2:
        return rough
    steps = [np.linalg.norm(np.diff(rail, axis=0), axis=1) for rail in (one, other)]
    return float(np.median(max(steps, key=lambda rail: float(rail.sum()))))


def _advance(one: Array, other: Array, apart: int) -> float:
    """mm of a step of the longer rail, the middle one of its length, told over so many steps."""
    steps = min(len(one), len(other)) - 1
    apart = max(min(steps, apart), 1)
    if steps < 1:
        return 0.0
    far = [np.linalg.norm(rail[apart:] - rail[:-apart], axis=1)[: steps + 1 - apart] / apart for rail in (one, other)]
    longer = np.sort(np.maximum(*far))
    way = np.cumsum(longer)
    return float(longer[int(np.searchsorted(way, way[-1] / 2))])


def _strip(xy: Array) -> NDArray[np.object_]:
    """Polygons that cover all triangles of three needle points: of nine points at once where these do not fold."""
    rings = np.stack([xy[:-2], xy[1:-1], xy[2:]], axis=1)
    triangles = shapely.polygons(rings)
    sizes = shapely.area(triangles)
    long = (len(xy) - 2) // TOGETHER
    out = [triangles[long * TOGETHER :][sizes[long * TOGETHER :] > SLIVER]]
    if long:
        at = np.arange(long)[:, None] * TOGETHER + np.concatenate(
            [np.arange(0, TOGETHER + 2, 2), np.arange(TOGETHER, 0, -2)]
        )
        whole = shapely.polygons(xy[at])
        mine = sizes[: long * TOGETHER].reshape(long, TOGETHER)
        plain = shapely.is_valid(whole) & (np.abs(shapely.area(whole) - mine.sum(axis=1)) < FOLDED)
        rest = triangles[: long * TOGETHER].reshape(long, TOGETHER)[~plain]
        out += [whole[plain], rest[mine[~plain] > SLIVER]]
    return np.concatenate(out)


def _notches(xy: Array) -> NDArray[np.object_]:
    """Triangles over every second point of a rail that lies back, as short stitches do at bends."""
    begin, back, end, across = xy[:-4], xy[2:-2], xy[4:], xy[1:-3]
    chord = end - begin
    inward = cross_of(chord, back - begin) * cross_of(chord, across - begin) > 0
    triangles = shapely.polygons(np.stack([begin, back, end], axis=1)[inward & (np.linalg.norm(chord, axis=1) < FAN)])
    kept: NDArray[np.object_] = triangles[shapely.area(triangles) > SLIVER]
    return kept
