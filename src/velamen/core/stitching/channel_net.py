"""The lines of chenille as a net: parallel lines across a room, and the stretches by which one leads to another.

Turned so that lines lie level. Every line is sewn; a stretch of the room's edge from line to line may be, and a way
under decoration too. What lies between two lines is a channel, to be cut open later from one of its ends.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import line_length
from velamen.core.geometry.region import Area, boundaries

SHORTEST = 6.0  # mm of a line: two ties want 3
TIP = 1.2  # mm that the outermost lines lie inside the room at least
THINNED = 0.05  # mm that a stretch of the edge may lie off it
OPENS, HOLE = 4.4, 8.0  # mm free of a stretch that scissors come in by, and across a hole they come through
NEAR = 0.6  # mm more than the reach of scissors, within which a stretch ends a channel
WORTH, END = 8.0, 5.0  # mm of a channel worth cutting, and that its ends are longer than where scissors' middle goes
ACROSS = 0.5  # mm between places at which a way under decoration is looked for
LINE, EDGE, UNDER = 0, 1, 2


@dataclass(frozen=True)
class Stretch:
    """From node to node. line: (n, 2) mm, level ones for lines; kind: LINE, EDGE or UNDER; strip: the lower of the
    two lines that an edge or a way lies between; opens: whether scissors may come in there while it is not sewn."""

    ends: tuple[int, int]
    line: Array
    kind: int
    strip: int = -1
    opens: bool = False

    @property
    def length(self) -> float:
        return line_length(self.line)


@dataclass(frozen=True)
class Net:
    """All of one room. nodes: (n, 2) mm; channels: for each channel worth cutting, the stretches that open it, by
    number; areas: (k,) mm² of each."""

    nodes: Array
    stretches: tuple[Stretch, ...]
    channels: tuple[tuple[int, ...], ...]
    areas: tuple[float, ...]


@dataclass(frozen=True)
class _Crossing:
    """Where a line meets the edge: number of level and ring, mm along the ring, and x."""

    level: int
    ring: int
    along: float
    x: float


def net_of(room: Polygon, decorated: Area | None, spacing: float, reach: float) -> Net:
    """The net of one room, lines `spacing` mm apart.

    decorated: what is sewn over the channels, in the same turned frame; reach: mm that the middle of the scissors
    stays away from every thread.
    """
    rings = [ring[:-1] if np.array_equal(ring[0], ring[-1]) else ring for ring in boundaries(room)]
    levels = _levels(room, spacing)
    lines = _lines(rings, levels)
    crossings = [one for pair in lines for one in pair]
    nodes = [(one.x, float(levels[one.level])) for one in crossings]
    stretches = _edges(room, rings, crossings, levels, decorated, 2 * reach)
    ways = _ways(room, lines, levels, decorated, 2 * reach)
    stretches += _split(lines, levels, ways, nodes)
    return Net(np.array(nodes).reshape(-1, 2), tuple(stretches), *_channels(room, lines, levels, stretches, decorated,
                                                                             reach))  # fmt: skip


def _levels(room: Polygon, spacing: float) -> Array:
    _, low, _, high = room.bounds
    count = max(int((high - low - 2 * TIP) // spacing) + 1, 1)
    return np.asarray((low + high) / 2 + (np.arange(count) - (count - 1) / 2) * spacing)


def _lines(rings: Sequence[Array], levels: Array) -> list[tuple[_Crossing, _Crossing]]:
    """Where each line begins and ends."""
    found: list[list[_Crossing]] = [[] for _ in levels]
    for nth, ring in enumerate(rings):
        ahead = np.roll(ring, -1, axis=0)
        sizes = np.linalg.norm(ahead - ring, axis=1)
        along = np.concatenate([[0.0], np.cumsum(sizes)])
        above, above_next = ring[:, 1][None] >= levels[:, None], ahead[:, 1][None] >= levels[:, None]
        level, side = np.nonzero(above != above_next)
        share = (levels[level] - ring[side, 1]) / (ahead[side, 1] - ring[side, 1])
        x = ring[side, 0] + share * (ahead[side, 0] - ring[side, 0])
        for one in zip(level.tolist(), (along[side] + share * sizes[side]).tolist(), x.tolist(), strict=True):
            found[one[0]].append(_Crossing(one[0], nth, one[1], one[2]))
    pairs = [pair for row in found for pair in _paired(sorted(row, key=lambda one: one.x))]
    return [pair for pair in pairs if pair[1].x - pair[0].x >= SHORTEST]


def _paired(row: list[_Crossing]) -> list[tuple[_Crossing, _Crossing]]:
    return list(zip(row[::2], row[1::2], strict=False))


def _edges(
    room: Polygon, rings: Sequence[Array], crossings: Sequence[_Crossing], levels: Array,
    decorated: Area | None, gap: float,
) -> list[Stretch]:  # fmt: skip
    """Stretches of the edge from one end of a line to the next."""
    found = []
    inside = shapely.buffer(room, 1e-4)
    shapely.prepare(inside)
    for nth, ring in enumerate(rings):
        mine = sorted((one.along, at) for at, one in enumerate(crossings) if one.ring == nth)
        closed = np.concatenate([ring, ring[:1]])
        along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
        wide = nth == 0 or not shapely.buffer(Polygon(ring), -HOLE / 2).is_empty
        for (begin, one), (end, other) in zip(mine, [*mine[1:], *mine[:1]], strict=True):
            if one == other:
                continue
            line = _between(closed, along, begin, end if end > begin else end + float(along[-1]))
            chord = line[[0, -1]]
            if not shapely.covers(inside, shapely.LineString(chord)):
                thin = shapely.get_coordinates(shapely.simplify(shapely.LineString(line), THINNED))
                chord = thin if shapely.covers(inside, shapely.LineString(thin)) else line
            strip = _strip(levels, shapely.LineString(line).interpolate(0.5, normalized=True).y)
            level = crossings[one].level == crossings[other].level  # a gap in one line must let scissors through
            opens = wide and (not level or abs(crossings[one].x - crossings[other].x) >= gap)
            found.append(Stretch((one, other), chord, EDGE, strip, opens and _free(line, decorated) >= OPENS))
    return found


def _strip(levels: Array, y: float) -> int:
    """Between which lines a place lies: the number of the lower one, -1 below all."""
    return int(np.searchsorted(levels, y, side="right")) - 1


def _between(closed: Array, along: Array, begin: float, end: float) -> Array:
    """A stretch of a ring, on past its first point where it must be."""
    length = float(along[-1])
    twice, ways = np.concatenate([closed[:-1], closed]), np.concatenate([along[:-1], along + length])
    at = np.concatenate([[begin], ways[(ways > begin + 1e-9) & (ways < end - 1e-9)], [end]])
    return np.stack([np.interp(at, ways, twice[:, axis]) for axis in (0, 1)], axis=1)


def _free(line: Array, decorated: Area | None) -> float:
    """mm of a stretch that no decoration lies over."""
    whole = shapely.LineString(line)
    return float(whole.length if decorated is None else shapely.length(shapely.difference(whole, decorated)))


def _ways(
    room: Polygon, lines: Sequence[tuple[_Crossing, _Crossing]], levels: Array, decorated: Area | None, wide: float
) -> list[tuple[int, int, float]]:
    """Ways from line to line where decoration hides them or leaves scissors no room: numbers of both, and x."""
    if decorated is None or decorated.is_empty:
        return []
    inside = shapely.buffer(room, 1e-4)
    found = []
    for below, (low, high) in enumerate(lines):
        for above, (left, right) in enumerate(lines):
            if left.level != low.level + 1:
                continue
            x = np.arange(max(low.x, left.x) + 1.0, min(high.x, right.x) - 1.0, ACROSS)
            if not len(x):
                continue
            uprights = shapely.linestrings(
                np.stack([np.stack([x, np.full(len(x), levels[one.level])], axis=1) for one in (low, left)], axis=1)
            )
            bare = shapely.length(shapely.difference(uprights, decorated))
            ways = (bare < wide) & (bare < levels[left.level] - levels[low.level] - 0.5)
            ways &= shapely.covers(inside, uprights)
            for run in np.split(np.flatnonzero(ways), np.flatnonzero(np.diff(np.flatnonzero(ways)) > 1) + 1):
                if len(run):
                    best = run[bare[run] <= bare[run].min() + 0.01]
                    found.append((below, above, float(x[best[len(best) // 2]])))
    return found


def _split(
    lines: Sequence[tuple[_Crossing, _Crossing]], levels: Array, ways: Sequence[tuple[int, int, float]],
    nodes: list[tuple[float, float]],
) -> list[Stretch]:  # fmt: skip
    """Lines, divided where ways under decoration meet them, and those ways. Adds the nodes there."""
    met: dict[int, list[tuple[float, int]]] = {}
    found = []
    for below, above, x in ways:
        ends = []
        for nth in (below, above):
            level = lines[nth][0].level
            nodes.append((x, float(levels[level])))
            ends.append(len(nodes) - 1)
            met.setdefault(nth, []).append((x, len(nodes) - 1))
        way, strip = np.array([nodes[one] for one in ends]), lines[below][0].level
        found.append(Stretch((ends[0], ends[1]), way, UNDER, strip))
    for nth, (first, last) in enumerate(lines):
        stops = sorted([(first.x, 2 * nth), *met.get(nth, []), (last.x, 2 * nth + 1)])
        for (_, one), (_, other) in pairwise(stops):
            found.append(Stretch((one, other), np.array([nodes[one], nodes[other]]), LINE, first.level))
    return found


def _channels(
    room: Polygon, lines: Sequence[tuple[_Crossing, _Crossing]], levels: Array, stretches: Sequence[Stretch],
    decorated: Area | None, reach: float,
) -> tuple[tuple[tuple[int, ...], ...], tuple[float, ...]]:  # fmt: skip
    """Channels between lines as scissors' middle may lie in them, each with the stretches that would open it."""
    sewn = [shapely.LineString([(one.x, levels[one.level]), (other.x, levels[other.level])]) for one, other in lines]
    walls = list(shapely.buffer(sewn, reach)) + ([shapely.buffer(decorated, reach)] if decorated is not None else [])
    left = shapely.difference(shapely.buffer(room, -reach), shapely.union_all(walls))
    parts = [part for part in shapely.get_parts(left) if not part.is_empty]
    edges = [nth for nth, one in enumerate(stretches) if one.kind == EDGE and one.opens]
    found, areas = [], []
    outlines = [shapely.LineString(stretches[nth].line) for nth in edges]
    strips = np.array([stretches[nth].strip for nth in edges])
    for part in parts:
        low, under, high, over = part.bounds
        if high - low + END < WORTH or not edges:
            continue
        near = shapely.distance(part, outlines) <= reach + NEAR
        near &= (strips >= _strip(levels, under)) & (strips <= _strip(levels, over))
        found.append(tuple(edge for edge, is_near in zip(edges, near.tolist(), strict=True) if is_near))
        areas.append(float(part.area) + reach * (high - low))
    return tuple(found), tuple(areas)
