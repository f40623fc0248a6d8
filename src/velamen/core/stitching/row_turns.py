"""How rows are turned along a stroke: square to its middle, evenly, towards slanted ends, cuts, drawn directions."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from scipy.linalg import solveh_banded
from shapely import LineString, Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.strokes.axis import Axis
from velamen.core.geometry.strokes.terminal import end_slant

SLANT, SLANT_FADES, INNER_SPACING = np.radians(50.0), 1.5, 0.35  # the most; half widths over a spacing left to fall
BUTT, BUTT_SLANT = 0.3, np.radians(12.0)  # share of a cut's slant that its last rows take, and the most of it
EVEN, EVEN_ROUNDS, CROWD = 0.25, 8, 1.1  # half widths over which turning is evened; the inner width that is looked at
MORE = 1.5  # times as calm where inner ends of rows would meet


def slants(
    axis: Axis, own: Polygon, place: Array, heading: Array, half: Array, body: tuple[int, int],
    directions: Sequence[Array],
) -> Array:  # fmt: skip
    """How far rows are turned from square along a lane, rad: towards drawn directions, slanted ends and cuts."""
    way = arc_lengths(place)
    ends = [(0.0, 0.0), (0.0, 0.0)] if axis.closed else [
        _end(axis, nth, own, place, heading, half, body) for nth in (0, 1)]  # fmt: skip
    knots = _drawn(place, heading, directions)
    if knots:
        spots, turns = np.array(knots).T
        if not axis.closed:
            spots = np.concatenate([[way[body[0]]], way[spots.astype(np.int64)], [way[body[1]]]])
            turns = np.concatenate([[ends[0][0]], turns, [ends[1][0]]])
            order = np.argsort(spots, kind="stable")
            return np.asarray(np.interp(way, spots[order], turns[order]))
        total = way[-1]
        spots = way[spots.astype(np.int64)]
        order = np.argsort(spots, kind="stable")
        return np.asarray(np.interp(way, spots[order], turns[order], period=total))
    delta = np.zeros(len(place))
    for nth, (turn, ahead) in enumerate(ends):
        if abs(turn) < 1e-3:
            continue
        at = way[body[nth]] + (ahead if nth else -ahead)
        fades = SLANT_FADES * abs(turn) * float(half[body[nth]]) / INNER_SPACING
        share = 1.0 - np.clip((at - way if nth else way - at) / max(fades, 1e-6), 0.0, 1.0)
        delta += turn * share * share * (3.0 - 2.0 * share)
    return delta


def _end(
    axis: Axis, nth: int, own: Polygon, place: Array, heading: Array, half: Array, body: tuple[int, int]
) -> tuple[float, float]:  # fmt: skip
    """The turn of the rows at an end, rad, and how far past the measured middle that lies, mm."""
    at = body[nth]
    ahead = heading[at] if nth else heading[at] + np.pi
    outward = np.array([np.cos(ahead), np.sin(ahead)])
    cut = axis.ends[nth]
    if cut is None:
        slant, far = end_slant(own, place[at], outward, float(half[at]))
        return float(np.clip(-slant, -SLANT, SLANT)), far
    along = cut.line[1] - cut.line[0]
    aside = np.array([-outward[1], outward[0]])
    along = along if along @ aside > 0 else -along
    slant = float(np.arctan2(along @ outward, along @ aside))
    far = float((cut.line.mean(axis=0) - place[at]) @ outward)
    return float(np.clip(-BUTT * slant, -BUTT_SLANT, BUTT_SLANT)), max(far, 0.0)


def _drawn(place: Array, heading: Array, directions: Sequence[Array]) -> list[tuple[int, float]]:
    """Where drawn directions cross the middle of a lane, and how far from square they lie there, rad."""
    found = []
    line = LineString(place)
    for drawn in directions:
        spots = shapely.get_coordinates(shapely.intersection(line, LineString(drawn)))
        if len(spots) == 0:
            continue
        nth = int(np.argmin(np.linalg.norm(place - spots[0], axis=1)))
        way = drawn[-1] - drawn[0]
        turn = float(np.arctan2(way[1], way[0])) - heading[nth] - np.pi / 2
        found.append((nth, float(np.mod(turn + np.pi / 2, np.pi) - np.pi / 2)))
    return sorted(found)


def evened(theta: Array, half: Array, step: float, closed: bool) -> Array:
    """Directions that turn evenly, the more calmly where inner ends of rows would meet."""
    size = len(theta)
    if size < 4:
        return theta
    wrap = min(60, size - 1) if closed else 0
    turn = theta[-1] - theta[0]
    if closed:
        theta = np.concatenate([theta[-1 - wrap : -1] - turn, theta, theta[1 : wrap + 1] + turn])
        half = np.concatenate([half[-1 - wrap : -1], half, half[1 : wrap + 1]])
    stiff = np.full(len(theta) - 1, 1.0) * (EVEN * 0.5 * (half[1:] + half[:-1]) / step) ** 2
    found = theta
    for _ in range(EVEN_ROUNDS):
        bands = np.zeros((2, len(theta)))
        bands[1] = 1.0
        bands[1, :-1] += stiff
        bands[1, 1:] += stiff
        bands[0, 1:] = -stiff
        found = solveh_banded(bands, theta)
        crowded = np.abs(np.diff(found)) / step * CROWD * np.minimum(half[1:], half[:-1]) > 1.0
        if not crowded.any():
            break
        stiff = np.where(crowded, MORE * stiff, stiff)
    return np.asarray(found[wrap : wrap + size])
