"""Bar proof: is every bar anchored, every crossing joined, every island held, and no place too far from a bar?

Read from the threads as they lie, whatever planned them: a bar is a stretch of bar stitches between two turns of the
thread, and stands on the cloth round its opening or on a bar that was there before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.geometry.region import Area, ready
from velamen.core.proofs.proved import Spot
from velamen.core.stitching.bars import BAR
from velamen.core.stitching.roles import CODE, TIE
from velamen.core.stitching.strand import Strand

ANCHORED, GRID = 1.0, 0.05  # mm past the cut edge, and of the grid of the needle
FREE = 12.0  # mm across an opening without a bar
SAGS = 25.0  # mm of a bar between what holds it
SAME = 0.8  # mm between the feet of a run and of its satin
ASIDE = 1.0  # mm that a side of satin may lie farther off than the foot itself
JOINED = 0.3  # mm round a cord in which a needle point joins it
CALM, THREAD = 0.3, 0.4  # mm that a cord's middle may wander, and of a thread


@dataclass(frozen=True)
class Cord:
    """A bar as it was sewn. line: its middle (n, 2); points: its needle points (k, 2), mm; body: what it covers."""

    line: Array
    points: Array
    body: Area


@dataclass(frozen=True)
class Bars:
    """What the proof found.

    loose: feet not anchored, by the bar; sagging: stretches of bars too long; free: places without a bar;
    crossing: bars over others without a joint; islands: those that fewer than two bars hold. The length of a spot is
    that of the bar or stretch, or across the place.
    """

    lines: tuple[tuple[Place, ...], ...]  # the middle of each bar, mm
    longest: float  # mm of a bar from edge to edge
    loose: tuple[Spot, ...]
    sagging: tuple[Spot, ...]
    free: tuple[Spot, ...]
    crossing: tuple[Spot, ...]
    islands: tuple[Spot, ...]

    @property
    def count(self) -> int:
        return len(self.lines)

    @property
    def held(self) -> bool:
        return not (self.loose or self.free or self.crossing or self.islands)

    @property
    def bad(self) -> tuple[Spot, ...]:
        """All places where it does not hold."""
        return (*self.loose, *self.free, *self.crossing, *self.islands)


def prove_bars(opening: Area, strands: Sequence[Strand]) -> Bars:
    """The proof of a piece. opening: cut out of the cloth, mm; strands: what is sewn of bars, in order."""
    cords, opening = cords_of(strands), ready(opening)
    loose, sagging, crossing, longest = [], [], [], 0.0
    before: Area = Polygon()
    for nth, cord in enumerate(cords):
        span = shapely.intersection(shapely.LineString(cord.line), opening)
        longest = max(longest, float(span.length))
        if not all(_anchored(end, opening, before) for end in (cord.line[0], cord.line[-1])):
            loose.append(_spot(cord.line, float(span.length)))
        before = shapely.union(before, cord.body)
        crossing += [_spot(cord.line, float(span.length)) for one in cords[:nth] if not _joined(cord, one, opening)]
        others = shapely.union_all([one.body for other, one in enumerate(cords) if other != nth])
        for part in shapely.get_parts(shapely.difference(span, others)):
            if part.length > SAGS:
                sagging.append(_spot(shapely.get_coordinates(part), float(part.length)))
    covered = shapely.union_all([cord.body for cord in cords])
    found = (loose, sagging, _free(opening, covered), crossing, _falling(opening, cords))
    return Bars(tuple(_plain(one.line) for one in cords), longest, *map(tuple, found))


def cords_of(strands: Sequence[Strand]) -> list[Cord]:
    """Bars in the order they are sewn; a run over and its satin back later are one."""
    found: list[Cord] = []
    for one in strands:
        is_bar = np.concatenate([[False], one.role == CODE[BAR], [False]])
        turns = np.flatnonzero(np.diff(is_bar.astype(np.int8)))
        for begin, end in turns.reshape(-1, 2).tolist():
            if end - begin < 3:
                continue
            first = begin - 1 if begin and one.role[begin - 1] == CODE[TIE] else begin  # a tie stands at its foot
            cord = _cord(one.xy[first:end])
            same = next((nth for nth, other in enumerate(found) if _same(cord.line, other.line)), None)
            if same is None:
                found.append(cord)
            elif len(cord.points) > len(found[same].points):
                found[same] = cord
    return found


def _cord(points: Array) -> Cord:
    away = np.linalg.norm(points - points[0], axis=1)
    far = int(np.argmax(away > away.max() - ASIDE))  # the run's end comes before the sides of its satin
    back = points if away[-1] > away.max() / 2 else points[far:]  # one way only, or there and back
    line = np.concatenate([back[:1], (back[:-2] + 2.0 * back[1:-1] + back[2:]) / 4.0, back[-1:]])
    middle = shapely.simplify(shapely.LineString(line), CALM)
    wide = float(np.median(shapely.distance(middle, shapely.points(back))))
    body = shapely.buffer(middle, max(wide, THREAD / 2), cap_style="flat")
    return Cord(shapely.get_coordinates(middle), points, body)


def _same(one: Array, other: Array) -> bool:
    ends, others = one[[0, -1]], other[[0, -1]]
    return bool(
        min(np.linalg.norm(ends - others, axis=1).max(), np.linalg.norm(ends - others[::-1], axis=1).max()) < SAME
    )


def _anchored(end: Array, opening: Area, before: Area) -> bool:
    """Whether an end lies deep enough in the cloth, or on a bar that was there before."""
    place = shapely.Point(end)
    if float(shapely.distance(opening, place)) >= ANCHORED - GRID:
        return True
    return bool(shapely.covers(opening, place)) and float(shapely.distance(before, place)) <= JOINED


def _joined(cord: Cord, before: Cord, opening: Area) -> bool:
    """Whether a bar that crosses another over the opening has needle points in it there."""
    met = shapely.intersection(cord.body, before.body)
    if met.is_empty or shapely.area(shapely.intersection(met, opening)) < 0.3:
        return True
    near = shapely.buffer(met, JOINED)
    return bool(shapely.contains_xy(near, cord.points[:, 0], cord.points[:, 1]).sum() >= 2)


def _free(opening: Area, covered: Area) -> list[Spot]:
    found = []
    for part in shapely.get_parts(shapely.difference(opening, covered)):
        if part.geom_type != "Polygon" or part.area < FREE**2 * 0.7:
            continue
        radius = shapely.maximum_inscribed_circle(shapely.simplify(part, 0.1), tolerance=0.1)
        across = 2.0 * float(radius.length)
        if across > FREE:
            x, y = shapely.get_coordinates(radius)[0].round(2).tolist()
            found.append(Spot(x, y, round(across, 2), ((x - across / 2, y), (x + across / 2, y))))
    return found


def _falling(opening: Area, cords: Sequence[Cord]) -> list[Spot]:
    """Islands that fewer than two bars stand on."""
    ends = shapely.points([end for cord in cords for end in (cord.line[0], cord.line[-1])]) if cords else []
    found = []
    for part in shapely.get_parts(opening):
        for ring in part.interiors if isinstance(part, Polygon) else ():
            island = Polygon(ring)
            if int(np.count_nonzero(shapely.covers(island, ends))) < 2:
                left, top, right, bottom = island.bounds
                x, y = shapely.get_coordinates(island.representative_point())[0].round(2).tolist()
                found.append(Spot(x, y, round(max(right - left, bottom - top), 2), _plain(np.asarray(ring.coords))))
    return found


def _plain(line: Array) -> tuple[Place, ...]:
    return tuple((float(x), float(y)) for x, y in line.round(2))


def _spot(line: Array, length: float) -> Spot:
    x, y = shapely.get_coordinates(shapely.line_interpolate_point(shapely.LineString(line), 0.5, normalized=True))[0]
    return Spot(round(float(x), 2), round(float(y), 2), round(length, 2), _plain(line))
