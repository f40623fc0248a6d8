"""Bars of cutwork: cords across an opening, run over and sewn back as satin, in one thread along its edge."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.stitching.roles import CODE, TRAVEL, declare
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import Strand, join, strand, tied

BAR = declare("bar", "bar", broad=True)
FOOT = 1.3  # mm past the cut edge that a bar is anchored
FARTHEST = 4.5  # mm along it, where it meets the edge aslant
WAY = 0.8  # mm outside the edge along which the thread goes from bar to bar
SHORTEST = 2.0  # mm of an opening that is bridged; the edge satin covers less
RUN, PITCH = 2.5, 0.4  # mm of a stitch of the run over, and between needle points of a side
MOST = 400  # bars of an opening


def across(opening: Polygon, spacing: float, count: int, angle: float) -> list[Array]:
    """Where bars lie: lines (2, 2) from foot to foot, parallel at an angle in rad, feet past the edge.

    count: of levels, 0 for as many as the spacing in mm gives.
    """
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])  # bars level
    flat = shapely.transform(opening, lambda xy: xy @ turn)
    left, low, right, high = flat.bounds
    number = min(count or max(round((high - low) / spacing), 1), MOST)
    level = low + (np.arange(number) + 0.5) * (high - low) / number
    ends = np.stack([np.full(number, left - 1), level, np.full(number, right + 1), level], axis=1)
    parts = shapely.get_parts(shapely.intersection(shapely.linestrings(ends.reshape(-1, 2, 2)), flat))
    found = [shapely.get_coordinates(one)[[0, -1]] for one in parts if one.length > SHORTEST]
    return [_footed(line @ turn.T, opening) for line in found]


def _footed(line: Array, opening: Polygon) -> Array:
    """A line with both ends led past the edge until they are anchored, as far as that may be."""
    way = (line[1] - line[0]) / max(float(np.linalg.norm(line[1] - line[0])), 1e-9)
    feet = []
    for end, out in ((line[0], -way), (line[1], way)):
        places = end + np.linspace(FOOT, FARTHEST, 12)[:, None] * out
        deep = shapely.distance(opening, shapely.points(places))
        feet.append(places[int(np.argmax(deep >= FOOT - 0.2)) if (deep >= FOOT - 0.2).any() else -1])
    return np.array(feet)


def sewn_bars(opening: Polygon, lines: list[Array], width: float) -> list[Strand]:
    """Bars in one thread: each run over and back as satin from a foot at the outer edge, one after another round it.

    Bars between islands alone begin at the edge of one of them, with a thread of their own.
    """
    rings = _ways(opening)
    hung: dict[int, list[tuple[float, Array]]] = {}
    for line in lines:
        nth, back = _ring_of(rings, line)
        line = line[::-1] if back else line
        hung.setdefault(nth, []).append((float(rings[nth].project(shapely.Point(line[0]))), line))
    sewn = []
    for nth, every in sorted(hung.items()):
        parts: list[Strand] = []
        for at, line in sorted(every, key=lambda one: one[0]):
            if parts:
                parts.append(_onward(rings[nth], float(rings[nth].project(shapely.Point(parts[-1].xy[-1]))), at))
            parts.append(_bar(line, width))
        sewn.append(tied(join(parts)))
    return sewn


def _ways(opening: Polygon) -> list[shapely.LinearRing]:
    """The lines along which the thread goes from bar to bar: round the outer edge, and on islands that have room."""
    inner = [shapely.buffer(Polygon(one), -WAY) for one in opening.interiors]
    whole = [shapely.buffer(Polygon(opening.exterior), WAY), *inner]
    return [shapely.LinearRing(one.exterior) for one in whole if isinstance(one, Polygon) and not one.is_empty]


def _ring_of(rings: list[shapely.LinearRing], line: Array) -> tuple[int, bool]:
    """The edge that a bar is sewn from, the outer one first, and whether that is at its end."""
    for nth, ring in enumerate(rings):
        near = [float(ring.distance(shapely.Point(end))) for end in line]
        if min(near) < 2 * FOOT:
            return nth, near[1] < near[0]
    return 0, False


def _onward(ring: shapely.LinearRing, begin: float, end: float) -> Strand:
    """The way along an edge, the shorter one round."""
    length = float(ring.length)
    step = (end - begin + length / 2) % length - length / 2
    places = np.mod(begin + np.linspace(0.0, step, max(int(abs(step) / 0.5), 2)), length)
    line = shapely.get_coordinates(shapely.line_interpolate_point(ring, places))
    points = run_along(line, RUN) if float(arc_lengths(line)[-1]) > 0.3 else line[:1]
    return Strand(points, np.full(len(points), CODE[TRAVEL], dtype=np.uint8))


def _bar(line: Array, width: float) -> Strand:
    """A run over and satin back over it."""
    length = float(np.linalg.norm(line[1] - line[0]))
    way = (line[1] - line[0]) / max(length, 1e-9)
    aside = np.array([-way[1], way[0]]) * width / 2
    over = run_along(line, RUN)
    count = max(int(np.ceil(length / PITCH)), 2)
    place = line[1] - np.linspace(0.0, length, 2 * count + 1)[:, None] * way
    side = np.where(np.arange(2 * count + 1) % 2, 1.0, -1.0)[:, None]
    side[[0, -1]] = 0.0
    return join([strand(over, BAR), strand(place + side * aside, BAR)])
