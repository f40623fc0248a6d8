"""Bar proof: is every bar anchored on both sides, and does any place of the opening lie too far from a bar?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area
from velamen.core.proofs.proved import Spot

ANCHORED = 1.0  # mm past the cut edge
FREE = 12.0  # mm across an opening without a bar
SAGS = 25.0  # mm of a bar


@dataclass(frozen=True)
class Bars:
    """What the proof found. loose: bars not anchored; sagging: bars too long; free: places without one.

    The length of a spot is that of the bar, or across the free place.
    """

    count: int
    loose: tuple[Spot, ...]
    sagging: tuple[Spot, ...]
    free: tuple[Spot, ...]

    @property
    def held(self) -> bool:
        return not self.loose and not self.free


def prove_bars(opening: Area, bars: Sequence[Array], width: float) -> Bars:
    """The proof of one opening. bars: lines (2, 2) from foot to foot; width: mm of a bar."""
    loose, sagging = [], []
    for line in bars:
        depth = min(float(shapely.distance(opening, shapely.Point(end))) for end in line)
        span = shapely.length(shapely.intersection(shapely.LineString(line), opening))
        if depth < ANCHORED - 0.05:
            loose.append(_spot(line, float(span)))
        if span > SAGS:
            sagging.append(_spot(line, float(span)))
    cords = shapely.buffer([shapely.LineString(line) for line in bars], width / 2, cap_style="flat") if bars else []
    left = shapely.get_parts(shapely.difference(opening, shapely.union_all(cords)))
    free = []
    for part in left:
        radius = shapely.maximum_inscribed_circle(part, tolerance=0.1)
        across = 2.0 * float(radius.length)
        if across > FREE:
            x, y = shapely.get_coordinates(radius)[0].round(2).tolist()
            free.append(Spot(x, y, round(across, 2), ((x - across / 2, y), (x + across / 2, y))))
    return Bars(len(bars), tuple(loose), tuple(sagging), tuple(free))


def _spot(line: Array, length: float) -> Spot:
    x, y = line.mean(axis=0).round(2).tolist()
    return Spot(x, y, round(length, 2), tuple((float(a), float(b)) for a, b in line.round(2)))
