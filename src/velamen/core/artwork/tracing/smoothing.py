"""Borders of pixels made calm: corners found and kept sharp, staircases smoothed, curves fitted."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from velamen.core.arrays import Array, Index
from velamen.core.geometry.curves import Samples, fitted

WINDOW = 6  # pixel sides on either side over which a turn is seen
CORNER = np.radians(60.0)
BLUNT = np.radians(34.0)  # a corner too where the turn is all in one place
IN_PLACE = 0.72  # share of the turn over twice the window that lies within it at a corner
ASIDE = 1.6  # pixels a corner may be moved to where its two sides meet
TANGENT = 10  # pixel sides over which a direction is taken
LEAST = 6  # pixel sides either way that are always smoothed over
FAR = 1 << 40  # an index beyond all
SNUG = 0.65  # pixels a curve may leave the smoothed border: half a step of the staircase and a little


@dataclass(frozen=True)
class _Lines:
    """Lines end to end: points (n, 2), each line's first and last index, which points are corners,
    and which lines are loops without any corner."""

    points: Array
    first: Index
    last: Index
    corner: NDArray[np.bool_]
    loop: NDArray[np.bool_]

    @property
    def owner(self) -> Index:
        """The line of each point."""
        return np.repeat(np.arange(len(self.first)), self.last - self.first + 1)


def curves(
    lines: list[Array], loops: NDArray[np.bool_], pixel: float, smoothing: float, tolerance: float
) -> list[Array]:
    """Curve nodes (n, 6) in pixels for each line of pixel sides; closed ones begin and end at one place.

    pixel: mm of a pixel; smoothing: mm of the bumps that go; tolerance: mm that a curve may leave
    the smoothed border, at least the staircase's own unevenness.
    """
    if not lines:
        return []
    half = max(LEAST, round(smoothing / pixel))
    rough = _opened(lines, loops, half)
    smooth = _smoothed(rough, half)
    off = smooth - rough.points
    limit = max(0.7, smoothing / pixel)
    held = rough.points + off * np.minimum(1.0, limit / np.maximum(np.linalg.norm(off, axis=1), 1e-9))[:, None]
    before, after = _directions(replace(rough, points=held))
    samples = Samples(held, rough.first, rough.last, before, after, rough.corner)
    return fitted(samples, max(SNUG, tolerance / pixel))


def _opened(lines: list[Array], loops: NDArray[np.bool_], window: int) -> _Lines:
    """All lines end to end, loops begun at a corner and closed by their first point again.

    window: how far about a point its turn is seen, so that bumps that are smoothed make no corners.
    """
    count = np.array([len(line) for line in lines])
    start = np.cumsum(count) - count
    sharp = _corners(np.concatenate(lines), start, count, loops, window)
    opened, marks, smooth = [], [], []
    for line, closed, low, size in zip(lines, loops, start, count, strict=True):
        mark = sharp[low : low + size].copy()
        if closed:
            turn = int(np.argmax(mark)) if mark.any() else 0
            line, mark = np.roll(line, -turn, axis=0), np.roll(mark, -turn)
            mark[max(1, size - min(window, size // 8)) :] = False  # the first corner, seen across the joint
            line, mark = np.concatenate([line, line[:1]]), np.concatenate([mark, mark[:1]])
        else:
            mark[[0, -1]] = True
        opened.append(line)
        marks.append(mark)
        smooth.append(bool(closed) and not mark.any())
    last = np.cumsum([len(line) for line in opened]) - 1
    first = np.concatenate(([0], last[:-1] + 1))
    corner = np.concatenate(marks)
    return _Lines(_sharpened(np.concatenate(opened), first, last, corner), first, last, corner, np.array(smooth))


def _corners(points: Array, start: Index, count: Index, loops: NDArray[np.bool_], window: int) -> NDArray[np.bool_]:
    """Points where a line turns sharply, the sharpest of those near one another.

    A blunt turn is a corner where it lies in one place: round a curve, twice the window turns twice.
    """
    owner = np.repeat(np.arange(len(start)), count)
    place = np.arange(len(points)) - start[owner]
    closed, size = loops[owner], count[owner]
    near = np.clip(count // 8, 2, window)[owner]
    turn, wide = (_turn(points, place, start[owner], size, closed, one) for one in (near, 2 * near))
    enough = closed | ((place >= near) & (place < size - near))
    turn = np.where(enough, turn - 1e-7 * place, 0.0)
    here = (turn > CORNER) | ((turn > BLUNT) & (turn > IN_PLACE * wide))
    return np.asarray(here & (turn >= ndimage.maximum_filter1d(turn, 2 * window + 1)))


def _turn(points: Array, place: Index, base: Index, size: Index, closed: NDArray[np.bool_], window: Index) -> Array:
    """How far a line turns at each point, between the ways to the points a window behind and ahead."""
    behind = np.where(closed, (place - window) % size, np.maximum(place - window, 0)) + base
    ahead = np.where(closed, (place + window) % size, np.minimum(place + window, size - 1)) + base
    back, on = points - points[behind], points[ahead] - points
    cross = back[:, 0] * on[:, 1] - back[:, 1] * on[:, 0]
    return np.asarray(np.abs(np.arctan2(cross, np.einsum("nd,nd->n", back, on))))


def _sharpened(points: Array, first: Index, last: Index, corner: NDArray[np.bool_]) -> Array:
    """Corners moved to where the lines through both their sides meet."""
    ends = np.zeros(len(points), dtype=bool)
    ends[first] = ends[last] = True
    looped = np.flatnonzero((points[first] == points[last]).all(axis=1))
    at = np.flatnonzero(corner & ~ends)
    nth_line = np.searchsorted(last, at)
    moved = points.copy()
    for nth, begin, end in zip(at, first[nth_line], last[nth_line], strict=True):
        near, onward = points[max(nth - WINDOW, begin) : nth - 1], points[nth + 2 : min(nth + WINDOW, end) + 1]
        moved[nth] = _meeting(near, onward, points[nth])
    for nth in looped:
        if corner[first[nth]]:
            line = points[first[nth] : last[nth] + 1]
            spot = _meeting(line[-WINDOW - 1 : -2], line[2 : WINDOW + 1], line[0])
            moved[first[nth]] = moved[last[nth]] = spot
    return moved


def _meeting(one: Array, other: Array, spot: Array) -> Array:
    """Where the lines through two rows of points meet, or the spot itself where that is too far off."""
    if len(one) < 2 or len(other) < 2:
        return spot
    (p, d), (q, e) = _line(one), _line(other)
    cross = d[0] * e[1] - d[1] * e[0]
    if abs(cross) < 0.2:
        return spot
    meet = p + d * ((q - p)[0] * e[1] - (q - p)[1] * e[0]) / cross
    return meet if np.hypot(*(meet - spot)) <= ASIDE else spot


def _line(points: Array) -> tuple[Array, Array]:
    """Middle and direction of the straight line nearest to points."""
    middle = points.mean(axis=0)
    off = points - middle
    angle = 0.5 * np.arctan2(2.0 * off[:, 0] @ off[:, 1], off[:, 0] @ off[:, 0] - off[:, 1] @ off[:, 1])
    return middle, np.array([np.cos(angle), np.sin(angle)])


def _smoothed(lines: _Lines, half: int) -> Array:
    """Running means twice over, and what they took from bends given back; corners and ends stay."""
    once = _mean(lines, _mean(lines, lines.points, half), half)
    return 2.0 * once - _mean(lines, _mean(lines, once, half), half)


def _mean(lines: _Lines, points: Array, half: int) -> Array:
    """Mean of the points up to `half` either way, less near corners and ends, round loops without any."""
    place, period = _places(lines)
    owner = lines.owner
    reach = _reach(lines, half)
    summed = np.concatenate([np.zeros((1, 2)), np.cumsum(points, axis=0)])
    low, high, base, loop = place - reach, place + reach + 1, lines.first[owner], lines.loop[owner]
    total = (summed[lines.last] - summed[lines.first])[owner]  # of one round: the last point is the first again
    over, under = loop & (high > period), loop & (low < 0)
    upper = summed[base + np.where(over, high - period, high)] + np.where(over[:, None], total, 0.0)
    lower = summed[base + np.where(under, low + period, low)] - np.where(under[:, None], total, 0.0)
    return np.asarray((upper - lower) / (2 * reach + 1)[:, None])


def _directions(lines: _Lines) -> tuple[Array, Array]:
    """Unit directions in which lines arrive at every point and leave it."""
    points, corner, owner = lines.points, lines.corner, lines.owner
    place, period = _places(lines)
    nth, base, loop = np.arange(len(points)), lines.first[owner], lines.loop[owner]
    reach = np.maximum(_reach(lines, TANGENT), 1)
    behind = np.where(loop, base + (place - reach) % period, np.maximum(nth - reach, base))
    ahead = np.where(loop, base + (place + reach) % period, np.minimum(nth + reach, lines.last[owner]))
    through = _unit(points[ahead] - points[behind])
    earlier = np.concatenate(([-1], np.maximum.accumulate(np.where(corner, nth, -1))[:-1]))
    later = np.append(np.minimum.accumulate(np.where(corner, nth, FAR)[::-1])[::-1][1:], FAR)
    back = np.maximum(np.maximum(nth - TANGENT // 2, earlier), base)
    forth = np.minimum(np.minimum(nth + TANGENT // 2, later), lines.last[owner])
    before = np.where(corner[:, None], _unit(points - points[back]), through)
    after = np.where(corner[:, None], _unit(points[forth] - points), through)
    return before, after


def _places(lines: _Lines) -> tuple[Index, Index]:
    """Place of each point in its line, and the number of steps of that line."""
    owner = lines.owner
    return np.arange(len(owner)) - lines.first[owner], (lines.last - lines.first)[owner]


def _reach(lines: _Lines, most: int) -> Index:
    """How far a window may go either way from each point: to the next corner or end."""
    place, period = _places(lines)
    nth, loop = np.arange(len(place)), lines.loop[lines.owner]
    stop = lines.corner | (~loop & ((place == 0) | (place == period)))
    back = nth - np.maximum.accumulate(np.where(stop, nth, -FAR))
    ahead = np.minimum.accumulate(np.where(stop, nth, FAR)[::-1])[::-1] - nth
    return np.minimum(np.where(loop, period // 4, np.minimum(back, ahead)), most)


def _unit(vector: Array) -> Array:
    return np.asarray(vector / np.maximum(np.linalg.norm(vector, axis=1), 1e-12)[:, None])
