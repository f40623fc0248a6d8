"""Lanes of columns: matched rails swept along the middle of each stroke of a shape."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely import Point, Polygon

from velamen.core.arrays import Array, Index, stretches
from velamen.core.geometry.chords import chords
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.rails import Rails
from velamen.core.geometry.strokes.axis import END, Axis, CutEnd
from velamen.core.stitching.row_turns import evened, slants

STATION = 0.1  # mm between the places of a swept lane
JUMP = 0.6  # mm from the end of one row to that of the next, beyond which the wall steps there
SPINE_INSET = 0.4  # mm that the line of runs keeps from the ends of rows
NARROWEST = 0.05  # mm; a shorter chord needs no stitch
OUTER = 1.05, 2.2  # from what stretch of the outer rail that sets the pace, and the most
MISS, MISS_MORE = 0.5, 0.2  # half widths and mm that a row may lie off its middle
MISS_CUT, MISS_CUT_MORE = 1.3, 0.3  # past a cut, and where there is none so near
PAST_CUT, PAST_CUT_ROWS = 1.0, 2.5  # mm past the cut it ends at that rows go on; half widths of lane looked at
WIDER, WIDER_MORE, INTO_LIMB = 1.6, 0.3, 3.6  # half widths and mm that rows beside a serif reach; and none does
EVERY = 4  # places of a middle line, of which one is looked at
ON_IT = 0.9  # half widths from the middle line of another part of a stroke that lie on it
PAST, PAST_MORE = 0.4, 0.2  # and past the ends of the measured middle


@dataclass(frozen=True)
class Lane:
    """A column to be sewn. rails: matched; tips: whether its first and last end is free; way: (k,) mm along the axis
    it was swept along, for every row; spine: (k, 2) that axis, on which runs lie."""

    rails: Rails
    tips: tuple[bool, bool]
    way: Array
    spine: Array

    def along(self, near: float, far: float, step: float) -> Array:
        """Places of the spine from one advance to another, `step` mm apart: (n, 2)."""
        advance = np.linspace(near, far, max(int(abs(far - near) / step), 2))
        period = self.rails.length if self.rails.closed else None
        if period is None:
            advance = np.clip(advance, 0.0, self.rails.length)
        known = self.rails.advance
        sides = [np.interp(advance, known, self.spine[:, axis], period=period) for axis in (0, 1)]
        return np.stack(sides, axis=1)

    def at(self, way: float) -> float:
        """The advance at which it is so far along its axis."""
        return float(np.interp(way, self.way, self.rails.advance))

    def nearest(self, place: Array) -> float:
        """The advance at which its middle is nearest to a place."""
        return float(self.rails.advance[int(np.argmin(np.linalg.norm(middle(self.rails) - place, axis=1)))])


def middle(rails: Rails) -> Array:
    """The middle of every row."""
    return (rails.outer + rails.inner) / 2


def lane_of(
    axis: Axis, own: Polygon, grown: Polygon, more: Sequence[Polygon] = (), directions: Sequence[Array] = ()
) -> Lane | None:
    """The lane of a stroke, None where no row fits.

    own: the stroke's polygon; grown: the same with its overlaps, in which rows lie; more: strips past ends that lie
    on the stroke itself; directions: lines (n, 2) along which stitches lie.
    """
    place, heading, half, body = _stations(axis)
    delta = slants(axis, own, place, heading, half, body, directions)
    theta = evened(heading + np.pi / 2, half, STATION, axis.closed) + delta
    row = np.stack([np.cos(theta), np.sin(theta)], axis=1)
    reach = _reach(axis, grown, more, place, row, half, body)
    rows = np.arange(len(place)) if axis.closed else _unbroken(reach, body)
    known = ~np.isnan(reach[rows, 0])
    if len(rows) < 2 or not known.any():
        return None
    # Where there is no row the one before it stands: the thread is led on from there.
    held = rows[np.maximum.accumulate(np.where(known, np.arange(len(rows)), int(np.argmax(known))))]
    outer, inner = place[held] + reach[held, :1] * row[held], place[held] + reach[held, 1:] * row[held]
    way = arc_lengths(place)
    rails = _rails(outer, inner, theta[rows], delta[rows], way[rows], half[rows], axis.closed)
    first, last = (end is None and not axis.closed for end in axis.ends)
    inset = np.minimum(SPINE_INSET, 0.25 * (reach[held, 1] - reach[held, 0]))
    off = np.clip(0.0, reach[held, 0] + inset, reach[held, 1] - inset)
    return _stepped(Lane(rails, (first, last), way[rows], place[held] + off[:, None] * row[held]))


def _reach(
    axis: Axis, grown: Polygon, more: Sequence[Polygon], place: Array, row: Array, half: Array, body: tuple[int, int]
) -> Array:
    """From where to where each row lies, mm from its place: (n, 2), nan where there is none."""
    miss = MISS * half + MISS_MORE
    for nth, rest in ((0, slice(0, body[0])), (1, slice(body[1] + 1, None))):
        share, more_mm = (PAST, PAST_MORE) if axis.ends[nth] is None else (MISS_CUT, MISS_CUT_MORE)
        miss[rest] = share * half[rest] + more_mm
    reach = chords(grown, place, row, miss)
    lost = np.flatnonzero(np.isnan(reach[body[0] : body[1] + 1, 0])) + body[0]
    reach[lost] = chords(grown, place[lost], row[lost], MISS_CUT * half[lost] + MISS_CUT_MORE)
    for strip in more:
        _over_itself(reach, strip, place, row, axis.ends, half)
    for nth, end in enumerate(axis.ends):
        if not axis.closed and not (end is not None and any(_beside_cut(strip, end) for strip in more)):
            _apart_from_itself(reach, axis, place, row, half, body, nth)
        if end is not None:
            _stopped(reach, place, row, end, _beside(place, half, body[nth], nth))
    for side, sign in ((0, -1.0), (1, 1.0)):
        reach[:, side] = sign * _in_own_limb(sign * reach[:, side], half)
    return reach


def _in_own_limb(far: Array, half: Array) -> Array:
    """How far rows reach to one side, mm: (n,), those that run on into another limb no farther than those about them.

    Where a stroke turns upon itself, rows of its bend look along what leads away from there.
    """
    wide = np.nan_to_num(far, nan=0.0) > WIDER * half + WIDER_MORE
    into = np.zeros(len(far), dtype=bool)
    for low, high in stretches(wide):
        into[low:high] = (far[low:high] > INTO_LIMB * half[low:high]).any()
    known = ~into & ~np.isnan(far)
    if not into.any() or not known.any():
        return far
    nth = np.arange(len(far))
    return np.where(into, np.minimum(far, np.interp(nth, nth[known], far[known])), far)


def _beside(place: Array, half: Array, at: int, nth: int) -> slice:
    """The rows at the first or last end of a lane, as far as they may reach past the cut there."""
    count = int(PAST_CUT_ROWS * float(half[at]) / STATION)
    return slice(0, min(at + count, len(place))) if nth == 0 else slice(max(at - count, 0), len(place))


def _beside_cut(strip: Polygon, end: CutEnd) -> bool:
    return bool(strip.distance(Point(end.line.mean(axis=0))) <= 0.1)


def _over_itself(
    reach: Array, strip: Polygon, place: Array, row: Array, ends: Sequence[CutEnd | None], half: Array
) -> None:  # fmt: skip
    """Rows past a cut, in place, laid in the strip there."""
    for nth, end in enumerate(ends):
        if end is None or not _beside_cut(strip, end):
            continue
        off = (place - end.line.mean(axis=0)) @ end.outward
        inner = np.flatnonzero(off < 0.0)
        rows = (
            slice(0, int(inner[0]))
            if nth == 0 and len(inner)
            else slice(int(inner[-1]) + 1 if len(inner) else 0, None)
        )
        reach[rows] = chords(strip, place[rows], row[rows], PAST * half[rows] + PAST_MORE)


def _apart_from_itself(
    reach: Array, axis: Axis, place: Array, row: Array, half: Array, body: tuple[int, int], nth: int
) -> None:
    """No rows, in place, where an end that runs on comes to lie on another part of its own stroke."""
    rest = slice(0, body[0]) if nth == 0 else slice(body[1] + 1, None)
    at = np.arange(len(place))
    spot = place[rest] + reach[rest].mean(axis=1)[:, None] * row[rest]
    sewn, within = (at >= body[0]) & (at <= body[1]), np.ones(len(spot), dtype=bool)
    if (other_end := axis.ends[1 - nth]) is not None:  # the other end runs on to its cut
        middle_of_cut = other_end.line.mean(axis=0)
        sewn |= (at < body[0] if nth == 1 else at > body[1]) & ((place - middle_of_cut) @ other_end.outward < 0.0)
        within = (spot - middle_of_cut) @ other_end.outward < 0.0
    other = np.flatnonzero(sewn & (np.abs(at - body[nth]) * STATION > END * half[body[nth]]))[::EVERY]
    far = np.linalg.norm(spot[:, None] - place[other], axis=2)
    reach[rest][within & (far < ON_IT * half[other]).any(axis=1)] = np.nan


def _stopped(reach: Array, place: Array, row: Array, end: CutEnd, rows: slice) -> None:
    """Shortens rows, in place, to what lies at most PAST_CUT mm past a cut."""
    off = (place[rows] - end.line.mean(axis=0)) @ end.outward - PAST_CUT
    slope = row[rows] @ end.outward
    with np.errstate(divide="ignore", invalid="ignore"):
        bound = -off / slope
    low, high = reach[rows, 0], reach[rows, 1]
    high[slope > 1e-9] = np.minimum(high, bound)[slope > 1e-9]
    low[slope < -1e-9] = np.maximum(low, bound)[slope < -1e-9]
    gone = (low >= high) | ((np.abs(slope) <= 1e-9) & (off > 0.0))
    low[gone], high[gone] = np.nan, np.nan


def _stepped(lane: Lane) -> Lane:
    """A lane whose rows change at once where the walls do: halfway between a row and one that reaches elsewhere."""
    rails = lane.rails
    jumps = [np.linalg.norm(np.diff(rail, axis=0), axis=1) > JUMP for rail in (rails.outer, rails.inner)]
    at = np.flatnonzero(jumps[0] | jumps[1])
    if len(at) == 0:
        return lane
    nth = np.sort(np.concatenate([np.arange(len(rails.advance)), at, at + 1]))
    halfway = (rails.advance[at] + rails.advance[at + 1]) / 2
    advance = np.sort(np.concatenate([rails.advance, halfway - 1e-6, halfway + 1e-6]))
    turned = Rails(
        rails.outer[nth], rails.inner[nth], rails.outer_way[nth], rails.inner_way[nth], advance, rails.closed
    )
    return Lane(turned, lane.tips, lane.way[nth], lane.spine[nth])


def _stations(axis: Axis) -> tuple[Array, Array, Array, tuple[int, int]]:
    """Places evenly along an axis, with heading and half width there, and which of them were measured."""
    way = axis.way
    count = max(int(np.ceil(way[-1] / STATION)), 8)
    even = np.linspace(0.0, way[-1], count + 1)
    place = np.stack([np.interp(even, way, axis.place[:, nth]) for nth in (0, 1)], axis=1)
    if axis.closed:
        place[-1] = place[0]
    heading, half = (np.interp(even, way, one) for one in (axis.heading, axis.half))
    first, last = np.searchsorted(even, way[list(axis.body)])
    return place, heading, half, (int(first), min(int(last), count))


def _unbroken(reach: Array, body: tuple[int, int]) -> Index:
    """The rows about the middle of the measured ones, up to the first that is none past those."""
    good = np.nan_to_num(reach[:, 1] - reach[:, 0], nan=0.0) >= NARROWEST
    inner = np.flatnonzero(good[body[0] : body[1] + 1]) + body[0]
    if len(inner) == 0:
        inner = np.flatnonzero(good)
    if len(inner) == 0:
        return inner
    good[inner[0] : inner[-1] + 1] = True
    bad = np.flatnonzero(~good)
    low, high = bad[bad < inner[0]], bad[bad > inner[-1]]
    return np.arange(int(low[-1]) + 1 if len(low) else 0, int(high[0]) if len(high) else len(good))


def _rails(outer: Array, inner: Array, theta: Array, delta: Array, way: Array, half: Array, closed: bool) -> Rails:
    """Rails with their ways told square to the rows, so that where rows would cross they run back."""
    between = (theta[1:] + theta[:-1]) / 2
    ahead = np.stack([np.sin(between), -np.cos(between)], axis=1)
    ways = [
        np.concatenate(([0.0], np.cumsum((np.diff(rail, axis=0) * ahead).sum(axis=1)))) for rail in (outer, inner)
    ]
    step = np.diff(way)
    turn = np.abs(np.diff(theta)) / np.maximum(step, 1e-9)
    wide = np.linalg.norm(outer - inner, axis=1)
    reach = 0.5 * (np.minimum(wide, 2.4 * half)[1:] + np.minimum(wide, 2.4 * half)[:-1]) / 2
    pace = np.clip((1.0 + turn * reach) / OUTER[0], 1.0, OUTER[1]) * np.cos((delta[1:] + delta[:-1]) / 2)
    advance = np.concatenate(([0.0], np.cumsum(pace * step)))
    return Rails(outer, inner, ways[0], ways[1], advance, closed)
