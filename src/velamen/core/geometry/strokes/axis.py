"""The middle line of a stroke, found on its own polygon and smoothed, and run on past its ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.linalg import solveh_banded
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra
from shapely import Polygon, minimum_rotated_rectangle

from velamen.core.arrays import Array, Index, Mask
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.strokes.mesh import Mesh, mesh_of

STEP = 0.25  # mm between places of a middle line
END = 4.0  # half widths along a stroke that are its end; what lies beyond is another part of it
OPEN = 0.88  # share of a circle that its touching places must lie apart; less is the way into a corner
SMOOTH, SMOOTH_LENGTH = 0.3, 6.0  # half widths, and parts of the whole length, over which a line is smoothed
NEAR_END, POINTED = 3.2, 0.65  # half widths from an end; of the width, halfway into a sharp corner
TAPERED, STRAIGHT, SWERVE = 0.93, 1.2, np.radians(9.0)  # of the width, half widths, rad: a parallel stroke's end
LONGER = 1.6  # times as long must the sides of a short part be that do not lead away from its cut, to be followed
LUMP = 1.5  # half widths of middle line, below which a part without cuts is a lump
BENT, BEND_OVER, BEND_FADES = np.radians(7.0), 2.0, 2.5  # rad, half widths: the bend with which a line runs on
SHARPEST = 0.55  # over the half width, rad/mm: the most of it
BEYOND = 1.5  # half widths, and mm more, that a line runs on past a cut
WRAP = 40  # places by which a round line is repeated either side while it is smoothed


@dataclass(frozen=True)
class CutEnd:
    """An end of a stroke at a cut. line: (2, 2); outward: (2,) unit, out of the stroke."""

    line: Array
    outward: Array


@dataclass(frozen=True)
class Axis:
    """The middle of a stroke. place: (n, 2); half: (n,) half width, mm; closed: whether the last place is the first;

    body: first and last place that were measured, the others being run on; ends: the cuts at which it ends.
    """

    place: Array
    half: Array
    closed: bool
    body: tuple[int, int]
    ends: tuple[CutEnd | None, CutEnd | None]

    @property
    def way(self) -> Array:
        """How far along it each place lies, mm: (n,)."""
        return arc_lengths(self.place)

    @property
    def heading(self) -> Array:
        """The direction at each place, unbroken, rad: (n,)."""
        if self.closed:
            step = np.diff(np.concatenate([self.place[-2:-1], self.place, self.place[1:2]]), axis=0)
            step = step[:-1] + step[1:]
        else:
            step = np.gradient(self.place, axis=0)
        return np.asarray(np.unwrap(np.arctan2(step[:, 1], step[:, 0])))


def axis_of(region: Polygon, ends: list[CutEnd], tips: Sequence[Array] = ()) -> Axis | None:
    """The middle line of a stroke that ends at some cuts, two at most, and in some tips, near places (2,).

    None for a lump, which has none.
    """
    mesh = mesh_of(region)
    if mesh is None:
        return None
    path, closed, ends = _path(mesh, ends, tips, bool(region.interiors))
    if path is None or len(path) < 2:
        return _straight(region, ends)
    if closed:
        path = [*path, path[1]]
    mouths = mesh.mouths(path)
    place = mesh.wall[mouths].mean(axis=1)
    half = np.linalg.norm(mesh.wall[mouths[:, 0]] - mesh.wall[mouths[:, 1]], axis=1) / 2
    around = np.maximum(mesh.radius[path[:-1]], mesh.radius[path[1:]])
    good = half > OPEN * around
    for end in ends:
        good &= ~_touches(mesh, mouths, end)
    if not closed and len(ends) < 2:
        good &= ~_swerved(place, half)
        if not ends:
            good &= ~_swerved(place[::-1], half[::-1])[::-1]
    cuts = (ends[0] if ends else None, ends[1] if len(ends) > 1 else None)
    return _line(region, place, half, good, closed, cuts)


def _path(
    mesh: Mesh, ends: list[CutEnd], tips: Sequence[Array], holes: bool
) -> tuple[list[int] | None, bool, list[CutEnd]]:  # fmt: skip
    """The triangles from end to end of a stroke, whether they go round, and the cuts at its ends, the first first."""
    size = len(mesh.corner)
    one = np.repeat(np.arange(size), 3)
    other = mesh.beside.ravel()
    one, other = one[other >= 0], other[other >= 0]
    far = np.linalg.norm(mesh.middle[one] - mesh.middle[other], axis=1)
    graph = coo_array((far, (one, other)), shape=(size, size)).tocsr()
    if not ends and not tips and holes:
        ring = _ring(mesh)
        return ring, ring is not None, []
    places: list[tuple[int, CutEnd | None]] = [(_nearest(mesh, end.line.mean(axis=0), end), end) for end in ends]
    places += [(_nearest(mesh, tip), None) for tip in tips]
    if not places:
        off = dijkstra(graph, indices=0)
        places = [(int(np.argmax(np.where(np.isfinite(off), off, -1.0))), None)]
    nodes = [node for node, _ in places]
    off, before = dijkstra(graph, indices=nodes, return_predecessors=True)
    off = np.where(np.isfinite(off), off, -1.0)
    # The two ends farthest apart; where there is but one, what is farthest from it.
    first, last = np.unravel_index(int(np.argmax(np.triu(np.round(off[:, nodes], 3)))), (len(nodes), len(nodes)))
    node = nodes[last] if first != last else int(np.argmax(off[first]))
    if off[first, node] <= 0.0:
        return None, False, ends
    path = [node]
    while path[-1] != nodes[first]:
        path.append(int(before[first, path[-1]]))
    chosen = [end for end in (places[first][1], places[last][1] if first != last else None) if end is not None]
    return path[::-1] if places[first][1] is not None or not chosen else path, False, chosen


def _nearest(mesh: Mesh, place: Array, end: CutEnd | None = None) -> int:
    """The triangle nearest to a place, on this side of a cut there."""
    off = np.linalg.norm(mesh.middle - place, axis=1)
    if end is not None:
        beyond = (mesh.middle - place) @ end.outward > 0.0
        off = np.where(beyond, off + 2.0 * float(np.linalg.norm(end.line[1] - end.line[0])), off)
    return int(np.argmin(off))


def _ring(mesh: Mesh) -> list[int] | None:
    """The triangles round the one hole of a region; None where it has more."""
    beside = [[int(one) for one in row if one >= 0] for row in mesh.beside]
    degree = np.array([len(row) for row in beside])
    loose = np.flatnonzero(degree == 1).tolist()
    while loose:
        node = loose.pop()
        degree[node] = 0
        for to in beside[node]:
            if degree[to] > 0:
                degree[to] -= 1
                if degree[to] == 1:
                    loose.append(to)
    left = np.flatnonzero(degree > 0)
    if len(left) < 3 or (degree[left] != 2).any():
        return None
    ring = [int(left[0])]
    while True:
        ahead = [to for to in beside[ring[-1]] if degree[to] > 0 and (len(ring) < 2 or to != ring[-2])]
        if not ahead or ahead[0] == ring[0]:
            return [*ring, ring[0]]
        ring.append(ahead[0])


def _touches(mesh: Mesh, mouths: Index, end: CutEnd) -> Mask:
    """Which mouths lean on a cut itself, not on the walls it goes between."""
    along = end.line[1] - end.line[0]
    size = max(float(np.linalg.norm(along)), 1e-9)
    rel = mesh.wall - end.line[0]
    aside = np.abs(rel @ end.outward)
    share = rel @ along / size**2
    on = (aside < 0.02) & (share > 0.02) & (share < 0.98)
    return np.asarray(on[mouths].any(axis=1))


def _swerved(place: Array, half: Array) -> Mask:
    """Which places lie past a stroke's parallel part, where its middle swerves to the sharp corner at its end."""
    way = arc_lengths(place)
    none = np.zeros(len(half), dtype=bool)
    wide = float(half[way[-1] - way <= NEAR_END * np.median(half)].max())
    full = np.flatnonzero(half >= TAPERED * wide)
    last = int(full[-1])
    before = np.flatnonzero((way >= way[last] - STRAIGHT * wide) & (way <= way[last]))
    if last == len(half) - 1 or way[last] < STRAIGHT * wide or half[before].min() < TAPERED * wide:
        return none
    if np.interp((way[last] + way[-1]) / 2, way, half) > POINTED * wide:
        return none
    one, two = place[last] - place[before[0]], place[-1] - place[last]
    turn = abs(float(np.arctan2(one[0] * two[1] - one[1] * two[0], one @ two)))
    return np.arange(len(half)) > last if turn > SWERVE else none


def _straight(region: Polygon, ends: list[CutEnd]) -> Axis | None:
    """A line between the middles of two cuts, or away from the only one; for parts too short for a middle."""
    if not ends:
        return None
    if len(ends) == 1:
        return _away(region, ends[0])
    first, last = (end.line.mean(axis=0) for end in ends[:2])
    half = float(np.linalg.norm(ends[0].line[1] - ends[0].line[0])) / 2
    size = float(np.linalg.norm(last - first))
    if size < 1e-3:
        return None
    way = np.linspace(0.0, 1.0, max(int(np.ceil(size / STEP)), 4) + 1)[:, None]
    place = first + way * (last - first)
    return _run_on(region, place, np.full(len(place), half), (ends[0], ends[1]), half + size)


def _away(region: Polygon, end: CutEnd) -> Axis:
    """A line through the middle of a short part, along its longer sides or those that lead away from its cut."""
    box = np.asarray(minimum_rotated_rectangle(region).exterior.coords)[:3]
    sides = np.diff(box, axis=0)
    sizes = np.linalg.norm(sides, axis=1)
    ways = sides / np.maximum(sizes, 1e-9)[:, None]
    off = np.asarray(region.centroid.coords[0]) - end.line.mean(axis=0)
    nth = int(np.argmax(np.abs(ways @ off)))
    beside = sizes[1 - nth] > LONGER * sizes[nth]  # the cut runs along it, and it ends on either side
    if beside:
        nth = 1 - nth
    ahead = ways[nth] if ways[nth] @ off >= 0.0 else -ways[nth]
    centre = np.asarray(region.centroid.coords[0])
    ring = np.asarray(region.exterior.coords)
    low, high = float(((ring - centre) @ ahead).min()), float(((ring - centre) @ ahead).max())
    inset = 0.25 * (high - low)
    place = centre + np.linspace(low + inset, high - inset, 5)[:, None] * ahead
    return _run_on(region, place, np.full(5, float(sizes[1 - nth]) / 2), (None if beside else end, None), high - low)


def _line(
    region: Polygon, place: Array, half: Array, good: Mask, closed: bool, ends: tuple[CutEnd | None, CutEnd | None]
) -> Axis | None:  # fmt: skip
    way = arc_lengths(place)
    known = np.flatnonzero(good)
    wide = float(np.median(half[good])) if len(known) else float(half.max())
    if len(known) < 2 or (not closed and way[known[-1]] - way[known[0]] < LUMP * wide):
        return _straight(region, [end for end in ends if end is not None])
    if not closed:
        measured = slice(known[0], known[-1] + 1)
        place, half, good = place[measured], half[measured], good[measured]
        rest = max(float(way[known[0]]), float(way[-1] - way[known[-1]]))
    line, wide_at = _smoothed(place, half, good, closed, wide)
    if closed:
        return Axis(line, wide_at, True, (0, len(line) - 1), (None, None))
    return _run_on(region, line, wide_at, ends, rest)


def _smoothed(place: Array, half: Array, good: Mask, closed: bool, wide: float) -> tuple[Array, Array]:
    """Places evenly along a line, calmed where they are known and bridged where not, with half widths."""
    way = arc_lengths(place)
    count = max(round(float(way[-1]) / STEP), 4)
    even = np.linspace(0.0, way[-1], count + 1)
    known = way[good]
    spots = np.stack([np.interp(even, known, place[good, axis]) for axis in (0, 1)], axis=1)
    weight = (np.interp(even, way, good.astype(np.float64)) > 0.5).astype(np.float64)
    weight[[0, -1]] = 1.0
    halves = np.interp(even, known, half[good])
    if closed:
        wrap = min(WRAP, count)
        spots = np.concatenate([spots[-1 - wrap : -1], spots, spots[1 : wrap + 1]])
        weight = np.concatenate([weight[-1 - wrap : -1], weight, weight[1 : wrap + 1]])
    stiff = (min(SMOOTH * wide, float(way[-1]) / SMOOTH_LENGTH) / float(even[1])) ** 4
    line = _calmed(spots, weight, stiff)
    if closed:
        line = line[wrap : wrap + count + 1]
        line[-1] = line[0]
    return line, halves


def _calmed(spots: Array, weight: Array, stiff: float) -> Array:
    """Places that minimise the weighted distance to the given ones, and `stiff` times their bends, both squared."""
    size = len(spots)
    bands = np.zeros((3, size))
    bands[2] = weight + 1e-9
    bands[2, :-2] += stiff
    bands[2, 1:-1] += 4.0 * stiff
    bands[2, 2:] += stiff
    bands[1, 1:-1] += -2.0 * stiff
    bands[1, 2:] += -2.0 * stiff
    bands[0, 2:] += stiff
    return np.asarray(solveh_banded(bands, weight[:, None] * spots))


def _run_on(
    region: Polygon, line: Array, half: Array, ends: tuple[CutEnd | None, CutEnd | None], rest: float
) -> Axis:
    """A line continued past both ends: on with its bend at a cut, straight out of the region at a tip."""
    ring = np.asarray(region.exterior.coords)
    parts = []
    for nth, end in enumerate(ends):
        inner, wide = (line[::-1], half[::-1]) if nth == 0 else (line, half)
        radius = float(np.median(wide[-max(int(1.0 + wide[-1] / STEP), 2) :]))
        way = arc_lengths(inner)
        back = way[-1] - way

        def place_at(far: float, inner: Array = inner, back: Array = back) -> Array:
            return np.array([np.interp(far, back[::-1], inner[::-1, axis]) for axis in (0, 1)])

        spots = [place_at(far * radius) for far in (0.0, 0.5, BEND_OVER, BEND_OVER + 0.5)]
        last, first = (np.arctan2(*(spots[at] - spots[at + 1])[::-1]) for at in (0, 2))
        if back[0] < BEND_OVER * radius or not np.isfinite(first):
            first = last
        turn = float(np.angle(np.exp(1j * (last - first))))
        bend = 0.0
        if end is not None and abs(turn) > BENT:
            bend = float(np.clip(turn / (BEND_OVER * radius), -SHARPEST / radius, SHARPEST / radius))
        far = rest + BEYOND * radius + BEYOND
        if end is None:
            ahead = np.array([np.cos(last), np.sin(last)])
            far = max(float(((ring - inner[-1]) @ ahead).max()) + STEP, BEYOND)
        count = max(int(np.ceil(far / STEP)), 2)
        step = far / count
        on = (np.arange(count) + 0.5) * step
        heading = last + bend * np.cumsum(np.clip(1.0 - on / (BEND_FADES * radius), 0.0, 1.0)) * step
        on_ahead = np.cumsum(step * np.stack([np.cos(heading), np.sin(heading)], axis=1), axis=0)
        parts.append((inner[-1] + on_ahead, np.full(count, wide[-1])))
    (before, wide_before), (after, wide_after) = parts
    return Axis(
        np.concatenate([before[::-1], line, after]), np.concatenate([wide_before, half, wide_after]), False,
        (len(before), len(before) + len(line) - 1), ends,
    )  # fmt: skip


def across(region: Polygon, angle: float) -> Axis:
    """A straight middle line for a lump, whose rows lie at an angle in rad."""
    ahead = np.array([np.sin(angle), -np.cos(angle)])
    ring = np.asarray(region.exterior.coords)
    centre = np.asarray(region.centroid.coords[0])
    low, high = float(((ring - centre) @ ahead).min()), float(((ring - centre) @ ahead).max())
    count = max(int(np.ceil((high - low) / STEP)), 4)
    place = centre + np.linspace(low, high, count + 1)[:, None] * ahead
    half = float(np.abs((ring - centre) @ np.array([ahead[1], -ahead[0]])).max())
    return Axis(place, np.full(count + 1, half), False, (0, count), (None, None))
