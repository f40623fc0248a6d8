"""Bars of cutwork as they are sewn: each run over and back as satin, one after another along the edge, one thread.

A bar that leads to an island not yet reached is run over; the island's own bars follow, and its satin comes back
last. Bars that lie over others come once those are there, so that no needle point falls on open air.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.stitching.bar_feet import FOOT
from velamen.core.stitching.bar_lines import Bar
from velamen.core.stitching.roles import CODE, TRAVEL, declare
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import Strand, join, strand, tied

BAR = declare("bar", "bar", broad=True)
WAY = 0.8  # mm outside the edge along which the thread goes from bar to bar
FOOT_SHARE = 0.35  # of its width that a bar has at its foot
RUN, PITCH = 2.5, 0.4  # mm of a stitch of the run over, and between needle points of a side


@dataclass(frozen=True)
class _Foot:
    """Where a bar stands: on which way along an edge, and how far along that."""

    ring: int
    at: float


@dataclass
class _Thread:
    """One thread as it is sewn along the edges."""

    rings: Sequence[shapely.LinearRing]
    width: float
    parts: list[Strand] = field(default_factory=list)

    def go(self, foot: _Foot) -> None:
        """On along an edge to a foot, the shorter way round."""
        if self.parts:
            ring = self.rings[foot.ring]
            here = float(ring.project(shapely.Point(self.parts[-1].xy[-1])))
            self.parts.append(_onward(ring, here, foot.at))

    def over(self, line: Array) -> None:
        self.parts.append(strand(run_along(line, RUN), BAR))

    def back(self, line: Array) -> None:
        """Satin from the end of a line to its begin."""
        self.parts.append(strand(_satin(line[::-1], self.width), BAR))


def sewn_bars(opening: Polygon, bars: Sequence[Bar], width: float) -> list[Strand]:
    """Bars of one opening, `width` mm wide, as few threads as can be: another one begins on what no bar leads to."""
    rings = _ways(opening)
    feet = [_feet(bar, rings) for bar in bars]
    plain = [nth for nth, bar in enumerate(bars) if not bar.over and feet[nth][0] and feet[nth][1]]
    over = [nth for nth in range(len(bars)) if nth not in plain and (feet[nth][0] or feet[nth][1])]
    sewn: list[_Thread] = []
    done: set[int] = set()
    reached: set[int] = set()  # rings
    for ring in range(len(rings)):
        mine = [nth for nth in [*plain, *over] if ring in _rings_at(feet[nth])]
        if ring in reached or not mine:
            continue
        thread = _Thread(rings, width)
        reached |= _walk(thread, ring, None, bars, feet, plain, done)
        sewn.append(thread)
    for nth in over:  # as planned: each lies on those before it
        foot = _first(feet[nth])
        if not sewn or not sewn[-1].parts or _ring_of(sewn[-1], rings) != foot.ring:
            sewn.append(_Thread(rings, width))
        thread = sewn[-1]
        line = bars[nth].line if feet[nth][0] is foot else bars[nth].line[::-1]
        thread.go(foot)
        thread.over(line)
        thread.back(line)
    return [tied(join(thread.parts)) for thread in sewn if thread.parts]


def _walk(
    thread: _Thread, ring: int, entry: float | None, bars: Sequence[Bar], feet: Sequence[tuple[_Foot | None, ...]],
    plain: Sequence[int], done: set[int],
) -> set[int]:  # fmt: skip
    """Sews the bars of one edge from an entry on, once round it, and of all islands they lead to; which edges."""
    length, reached = float(thread.rings[ring].length), {ring}
    waiting = [
        (foot.at, nth, end) for nth in plain for end, foot in enumerate(feet[nth]) if foot and foot.ring == ring
    ]
    begin = entry if entry is not None else min((at for at, _, _ in waiting), default=0.0)
    for _, nth, end in sorted(waiting, key=lambda one: (one[0] - begin) % length):
        if nth in done:
            continue
        done.add(nth)
        line = bars[nth].line if end == 0 else bars[nth].line[::-1]
        here, there = feet[nth][end], feet[nth][1 - end]
        assert here is not None and there is not None
        thread.go(here)
        thread.over(line)
        if there.ring != ring and there.ring not in reached and not _begun(feet, plain, there.ring, done, nth):
            reached |= _walk(thread, there.ring, there.at, bars, feet, plain, done)
            thread.go(there)
        thread.back(line)
    return reached


def _begun(
    feet: Sequence[tuple[_Foot | None, ...]], plain: Sequence[int], ring: int, done: set[int], but: int
) -> bool:  # fmt: skip
    """Whether a bar of an edge is sewn already, other than the one that leads there."""
    return any(nth in done and nth != but and ring in _rings_at(feet[nth]) for nth in plain)


def _rings_at(feet: tuple[_Foot | None, ...]) -> list[int]:
    return [foot.ring for foot in feet if foot]


def _first(feet: tuple[_Foot | None, ...]) -> _Foot:
    """The foot that a bar over others is sewn from."""
    return min((foot for foot in feet if foot), key=lambda foot: (foot.ring, foot.at))


def _ring_of(thread: _Thread, rings: Sequence[shapely.LinearRing]) -> int:
    """The edge at which a thread is."""
    here = shapely.Point(thread.parts[-1].xy[-1])
    return int(np.argmin([float(ring.distance(here)) for ring in rings]))


def _ways(opening: Polygon) -> list[shapely.LinearRing]:
    """The lines along which the thread goes from bar to bar: round the outer edge, and on islands that have room."""
    inner = [shapely.buffer(Polygon(one), -WAY) for one in opening.interiors]
    whole = [shapely.buffer(Polygon(opening.exterior), WAY), *inner]
    return [shapely.LinearRing(one.exterior) for one in whole if isinstance(one, Polygon) and not one.is_empty]


def _feet(bar: Bar, rings: Sequence[shapely.LinearRing]) -> tuple[_Foot | None, _Foot | None]:
    """Where both ends stand, None for a joint or where no way leads by."""
    found: list[_Foot | None] = []
    for end, free in ((bar.line[0], bar.free[0]), (bar.line[-1], bar.free[1])):
        place = shapely.Point(end)
        far = [float(ring.distance(place)) for ring in rings]
        near = int(np.argmin(far)) if far else 0
        stands = not free and bool(far) and far[near] < 3 * FOOT
        found.append(_Foot(near, float(rings[near].project(place))) if stands else None)
    return found[0], found[1]


def _onward(ring: shapely.LinearRing, begin: float, end: float) -> Strand:
    """The way along an edge, the shorter one round."""
    length = float(ring.length)
    step = (end - begin + length / 2) % length - length / 2
    places = np.mod(begin + np.linspace(0.0, step, max(int(abs(step) / 0.5), 2)), length)
    line = shapely.get_coordinates(shapely.line_interpolate_point(ring, places))
    points = run_along(line, RUN) if float(arc_lengths(line)[-1]) > 0.3 else line[:1]
    return Strand(points, np.full(len(points), CODE[TRAVEL], dtype=np.uint8))


def _satin(line: Array, width: float) -> Array:
    """Needle points by turns on either side of a line, from its begin to its end, both ends on it."""
    along = arc_lengths(line)
    count = 2 * max(int(np.ceil(along[-1] / PITCH)), 2)
    at = np.linspace(0.0, along[-1], count + 1)
    place = np.stack([np.interp(at, along, line[:, axis]) for axis in (0, 1)], axis=1)
    step = np.diff(line, axis=0) / np.maximum(np.diff(along), 1e-9)[:, None]
    way = step[np.clip(np.searchsorted(along, at, side="right") - 1, 0, len(step) - 1)]
    narrow = np.interp(np.minimum(at, along[-1] - at), (0.0, FOOT), (FOOT_SHARE, 1.0))  # hidden under the edge
    side = (np.where(np.arange(count + 1) % 2, 1.0, -1.0) * narrow)[:, None] * width / 2
    side[[0, -1]] = 0.0
    return np.asarray(place + side * np.stack([-way[:, 1], way[:, 0]], axis=1))
