"""The outlines of a net, with the places on them at which its lines end."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths

SAME_PLACE, IN_CORNER = 0.5, 0.45  # mm along an outline within which ends share a place, and from a corner
CORNER = np.radians(35.0)


class Frame:
    """The outlines of a region, with the places on them where lines end."""

    def __init__(self, rings: Sequence[Array]) -> None:
        self.rings = [np.concatenate([ring, ring[:1]]) for ring in rings]
        self.way = [arc_lengths(one) for one in self.rings]
        self.lines = np.array([shapely.linearrings(one) for one in self.rings], dtype=object)
        self.asked: list[tuple[int, float]] = []  # ring and mm along it, of each place as it was asked for
        self.known: dict[int, int] = {}  # number of the place that an asked one has become
        self.places: list[Array] = []
        self.at: list[tuple[int, float]] = []

    def ask(self, points: Array) -> NDArray[np.int64]:
        """Asks for a place on the nearest outline of each of (n, 2) points; their numbers as asked for, (n,)."""
        spots = shapely.points(points)
        nearest = shapely.STRtree(self.lines).nearest(spots)
        along = shapely.line_locate_point(self.lines[nearest], spots)
        first = len(self.asked)
        self.asked += zip(nearest.tolist(), along.tolist(), strict=True)
        return np.arange(first, len(self.asked))

    def settle(self) -> list[int]:
        """Places that lie near one another, or near a corner, become one; for each the next one on its outline."""
        following: list[int] = []
        for nth, ring in enumerate(self.rings):
            mine = sorted((along, asked) for asked, (which, along) in enumerate(self.asked) if which == nth)
            first = len(self.places)
            total = float(self.way[nth][-1])
            corners = self.way[nth][_corners(ring)]
            last = -np.inf
            for along, asked in mine:
                near = corners[np.abs(corners - along) <= IN_CORNER] if len(corners) else corners
                along = float(near[0]) if len(near) else along
                joins = len(self.places) > first and along - last <= SAME_PLACE
                wraps = len(self.places) > first and total - along + self.at[first][1] <= SAME_PLACE
                if not joins and not wraps:
                    self._add(nth, along)
                    last = along
                self.known[asked] = first if wraps and not joins else len(self.places) - 1
            if len(self.places) == first:
                self._add(nth, 0.0)
            count = len(self.places) - first
            following += [first + (one + 1) % count for one in range(count)]
        return following

    def _add(self, ring: int, along: float) -> None:
        self.at.append((ring, along))
        self.places.append(self.spot(ring, along))

    def spot(self, ring: int, along: float) -> Array:
        """A place so many mm along an outline."""
        way, points = self.way[ring], self.rings[ring]
        along = along % float(way[-1])
        return np.array([np.interp(along, way, points[:, axis]) for axis in (0, 1)])

    def stretch(self, place: int, onward: int) -> Array:
        """The outline from a place to the next one; all of it where there is one alone."""
        ring, begin = self.at[place]
        end = self.at[onward][1]
        way, points = self.way[ring], self.rings[ring]
        total = float(way[-1])
        end = end if end > begin + 1e-9 else end + total
        inner = np.concatenate([way[:-1], way[:-1] + total])
        between = (inner > begin + 1e-9) & (inner < end - 1e-9)
        corners = np.concatenate([points[:-1], points[:-1]])[between]
        return np.concatenate([self.places[place][None], corners, self.places[onward][None]])


def _corners(ring: Array) -> NDArray[np.int64]:
    """Numbers of the corners of a closed ring (first point again at its end)."""
    side = np.diff(ring, axis=0)
    heading = np.arctan2(side[:, 1], side[:, 0])
    turn = np.abs(np.angle(np.exp(1j * (heading - np.roll(heading, 1)))))
    return np.flatnonzero(turn > CORNER)
