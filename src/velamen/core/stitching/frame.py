"""Frames of a fill: where rows lie straight, at an angle or along a guide curve."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.geometry.region import clean_ring

FINE = 0.25  # mm between the places at which a curved frame is told
BEYOND = 600.0  # mm by which a guide runs on straight past both of its ends
CALM = 1.5  # mm by which a guide may be smoothed
WINDOW = 25  # samples smoothed over at a time
SWALLOWED = 0.03  # mm a place may be nearer to another stretch of the guide


@dataclass(frozen=True)
class Straight:
    """Rows at an angle. turn: (2, 2) that takes (along, across) to (x, y)."""

    turn: Array

    def flat(self, ring: Array) -> Array:
        """A ring (n, 2) in mm along and across the rows."""
        return ring @ self.turn.T

    def places(self, points: Array) -> Array:
        """Places (n, 2) in mm of points along and across."""
        return points @ self.turn

    def stretch(self, points: Array) -> Array:
        """How many mm one mm along is at points along and across: (n,)."""
        return np.ones(len(points))


@dataclass(frozen=True)
class Guided:
    """Rows at even distances from a curve; along is the way along it, across the distance from it.

    line: (n, 2) points of the guide, ends drawn out; way: (n,) mm along it; normal: (n, 2) unit;
    whole: the same as geometry.
    """

    line: Array
    way: Array
    normal: Array
    whole: shapely.LineString

    def flat(self, ring: Array) -> Array:
        """A ring in mm along and across, by the nearest place of the guide; closely sampled."""
        closed = shapely.segmentize(shapely.LinearRing(ring), FINE)
        places = shapely.get_coordinates(closed)[:-1]
        points = shapely.points(places)
        along = shapely.line_locate_point(self.whole, points)
        foot = shapely.get_coordinates(shapely.line_interpolate_point(self.whole, along))
        side = np.einsum("ij,ij->i", places - foot, self._normal(along))
        return np.stack([along, np.where(side < 0, -1.0, 1.0) * np.linalg.norm(places - foot, axis=1)], axis=1)

    def places(self, points: Array) -> Array:
        """Places of points along and across; those past the centre of a bend come back to where rows meet."""
        along, across = points[:, 0], points[:, 1]
        found = self._out(along, across)
        lost = np.flatnonzero(~self._there(found, across))
        if len(lost):
            found[lost] = self._kept(along[lost], across[lost])
        return found

    def stretch(self, points: Array) -> Array:
        """How many mm one mm along is at points along and across: (n,)."""
        step = self._out(points[:, 0] + FINE, points[:, 1]) - self._out(points[:, 0] - FINE, points[:, 1])
        return np.asarray(np.maximum(np.linalg.norm(step, axis=1) / (2.0 * FINE), 0.2))

    def _there(self, places: Array, across: Array) -> NDArray[np.bool_]:
        """Whether no other stretch of the guide is nearer to a place than it lies across."""
        return np.asarray(shapely.distance(self.whole, shapely.points(places)) >= np.abs(across) - SWALLOWED)

    def _kept(self, along: Array, across: Array) -> Array:
        """The nearest place along the guide at which a row at this distance is really there."""
        goals = []
        for sign in (-1.0, 1.0):
            far, near = np.full(len(along), np.inf), np.zeros(len(along))
            for reach in FINE * 2.0 ** np.arange(10):
                open_ = np.isinf(far)
                there = self._there(self._out(along[open_] + sign * reach, across[open_]), across[open_])
                far[np.flatnonzero(open_)[there]] = reach
                near[np.flatnonzero(open_)[~there]] = reach
            known = np.flatnonzero(np.isfinite(far))
            for _ in range(10):
                middle = (near[known] + far[known]) / 2
                there = self._there(self._out(along[known] + sign * middle, across[known]), across[known])
                far[known] = np.where(there, middle, far[known])
                near[known] = np.where(there, near[known], middle)
            goals.append(far)
        back, ahead = goals
        move = np.where(back < ahead, -back, ahead)
        return self._out(along + np.where(np.isfinite(move), move, 0.0), across)

    def _out(self, along: Array, across: Array) -> Array:
        foot = np.stack([np.interp(along, self.way, self.line[:, axis]) for axis in (0, 1)], axis=1)
        return np.asarray(foot + across[:, None] * self._normal(along))

    def _normal(self, along: Array) -> Array:
        found = np.stack([np.interp(along, self.way, self.normal[:, axis]) for axis in (0, 1)], axis=1)
        return np.asarray(found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-9))


Frame = Straight | Guided


def straight(angle: float) -> Straight:
    """Rows at an angle in rad.

    >>> upright = straight(np.pi / 2)
    >>> along = upright.flat(np.array([[1.0, 2.0]]))
    >>> along.round(3).tolist(), upright.places(along).round(3).tolist()
    ([[2.0, -1.0]], [[1.0, 2.0]])
    """
    cos, sin = np.cos(angle), np.sin(angle)
    return Straight(np.array([[cos, sin], [-sin, cos]]))


def guided(line: Array) -> Guided:
    """Rows along a drawn line (n, 2), calmed and run on straight past both ends. Raises BadInput for a dot."""
    line = clean_ring(np.asarray(line, dtype=np.float64)) if len(line) else line
    if len(line) < 2:
        raise BadInput("The guide line is a single point: draw it longer.")
    drawn = shapely.get_coordinates(shapely.segmentize(shapely.simplify(shapely.LineString(line), 0.02), FINE))
    calm = _calmed(drawn)
    ahead, back = calm[-1] - calm[-min(len(calm), 5)], calm[0] - calm[min(len(calm) - 1, 4)]
    ahead, back = (one / max(float(np.linalg.norm(one)), 1e-9) for one in (ahead, back))
    line = np.concatenate([[calm[0] + BEYOND * back], calm, [calm[-1] + BEYOND * ahead]])
    whole = shapely.segmentize(shapely.LineString(line), 20.0)
    shapely.prepare(whole)
    line = shapely.get_coordinates(whole)
    step = np.diff(line, axis=0)
    size = np.linalg.norm(step, axis=1)
    unit = step / np.maximum(size, 1e-9)[:, None]
    between = np.concatenate([unit[:1], unit[:-1] + unit[1:], unit[-1:]])
    between /= np.maximum(np.linalg.norm(between, axis=1, keepdims=True), 1e-9)
    normal = np.stack([-between[:, 1], between[:, 0]], axis=1)
    return Guided(line, np.concatenate(([0.0], np.cumsum(size))), normal, whole)


def _calmed(points: Array) -> Array:
    """A line with its shake smoothed away, its ends kept."""
    window = min(WINDOW, (len(points) - 1) // 2 * 2 + 1)
    if window < 3:
        return points
    for _ in range(4):
        padded = np.concatenate([2 * points[0] - points[window // 2 : 0 : -1], points,
                                 2 * points[-1] - points[-2 : -window // 2 - 1 : -1]])  # fmt: skip
        summed = np.concatenate([np.zeros((1, 2)), np.cumsum(padded, axis=0)])
        smooth = (summed[window:] - summed[:-window]) / window
        off = smooth - points
        far = np.maximum(np.linalg.norm(off, axis=1, keepdims=True), 1e-9)
        points = points + off * np.minimum(1.0, CALM / 4 / far)
    return points
