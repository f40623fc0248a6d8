"""Runs along lines: even lengths, corners hit, the chord never far from the line."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array, numbered
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import clean_ring
from velamen.core.stitching.strand import every_second

T = TypeVar("T", bound=np.generic)

CORNER = np.radians(30.0)
DETAIL = 0.03  # mm of outline detail a run does not follow
AT_ONCE = 50_000  # points of a line calmed at once
CHORD = 0.1  # mm a chord may leave the line (handbook, section 2)
SHORTEST = 0.4  # mm
FEWEST_ROUND = 3.0  # stitches of a closed line
SPOTS = 64  # places of a ring that are looked at for a calm one
APART = 10.0  # mm between lines sewn at once, more than any shortest stitch


def run_along(line: Array, length: float, chord: float = CHORD, shortest: float = SHORTEST) -> Array:
    """Penetrations of a run along an open line, both ends included: (m, 2).

    line: (n, 2) mm; length: longest stitch in mm; chord: mm a stitch may leave the line.

    >>> import numpy as np
    >>> run_along(np.array([[0.0, 0.0], [10.0, 0.0]]), 2.5)[:, 0].tolist()
    [0.0, 2.5, 5.0, 7.5, 10.0]
    """
    return runs_along([line], length, chord, shortest)[0]


def runs_along(
    lines: Sequence[Array], length: float, chord: float = CHORD, shortest: float = SHORTEST
) -> list[Array]:
    """Penetrations of runs along several open lines, each as `run_along` has it, all at once.

    >>> import numpy as np
    >>> lines = [np.array([[0.0, 0.0], [9.0, 0.0]]), np.array([[5.0, 1.0], [5.0, 3.0]])]
    >>> [len(one) for one in runs_along(lines, 2.5)]
    [5, 2]
    """
    calm = _calm(lines)
    long = [line for line in calm if len(line) > 1]
    if not long:
        return calm
    line = np.concatenate(long)
    last = np.cumsum([len(one) for one in long]) - 1
    side = np.diff(line, axis=0)
    gap = np.linalg.norm(side, axis=1)
    gap[last[:-1]] = APART
    way = np.concatenate(([0.0], np.cumsum(gap)))
    heading = np.arctan2(side[:, 1], side[:, 0])
    turn = np.abs(np.angle(np.exp(1j * np.diff(heading))))
    corner = np.concatenate(([True], turn > CORNER, [True]))
    corner[last] = corner[last[:-1] + 1] = True
    budget = max(chord - DETAIL, 0.01)
    stops = _even_stops(way, turn, corner, length, budget, shortest)
    stops = _mend_chords(line, way, stops, chord)
    stops = _drop_short(stops, way[corner], shortest)
    points = np.stack([np.interp(stops, way, line[:, 0]), np.interp(stops, way, line[:, 1])], axis=1)
    begins = np.searchsorted(stops, way[np.append(0, last[:-1] + 1)] - 1e-9)
    ends = np.searchsorted(stops, way[last] + 1e-9)
    runs = iter([points[low:high] for low, high in zip(begins.tolist(), ends.tolist(), strict=True)])
    return [next(runs) if len(one) > 1 else one for one in calm]


def run_round(ring: Array, length: float, overlap: float = 1.5) -> Array:
    """Penetrations of a run round a closed outline, sewn `overlap` mm past its start; at least three stitches."""
    closed = np.concatenate([ring, ring[:1]])
    length = min(length, float(np.linalg.norm(np.diff(closed, axis=0), axis=1).sum()) / FEWEST_ROUND)
    loop = run_along(closed, length)
    if overlap <= 0 or len(loop) < 3:
        return loop
    gap = np.linalg.norm(np.diff(closed, axis=0), axis=1)
    way = np.concatenate(([0.0], np.cumsum(gap)))
    overlap = min(overlap, 0.25 * float(way[-1]))
    upto = np.searchsorted(way, overlap)
    end = np.array([np.interp(overlap, way, closed[:, 0]), np.interp(overlap, way, closed[:, 1])])
    tail = run_along(np.concatenate([closed[:upto], end[None]]), length)
    return np.concatenate([loop, tail[1:]])


def over(points: NDArray[T], times: int) -> NDArray[T]:
    """Needle points (n, ...) of a line with every stitch sewn `times` times over, an odd number.

    >>> import numpy as np
    >>> over(np.array([0, 1, 2]), 3).tolist()
    [0, 1, 0, 1, 2, 1, 2]
    """
    if times == 1 or len(points) < 2:
        return points
    stitch = np.repeat(np.arange(len(points) - 1), times)
    return np.concatenate([points[:1], points[stitch + 1 - np.tile(np.arange(times) % 2, len(points) - 1)]])


def start_ring_at(ring: Array, point: Array) -> Array:
    """The same closed ring beginning at the place nearest to `point`."""
    closed = np.concatenate([ring, ring[:1]])
    side = np.diff(closed, axis=0)
    size = np.maximum(np.einsum("ij,ij->i", side, side), 1e-18)
    share = np.clip(np.einsum("ij,ij->i", point - ring, side) / size, 0.0, 1.0)
    foot = ring + share[:, None] * side
    nth = int(np.argmin(np.einsum("ij,ij->i", foot - point, foot - point)))
    return clean_ring(np.concatenate([foot[nth : nth + 1], np.roll(ring, -nth - 1, axis=0)]))


def calm_start(ring: Array, window: float = 6.0) -> Array:
    """The same ring beginning on its calmest stretch, away from corners."""
    return start_ring_at(ring, calm_places(ring, 1, window)[0])


def calm_places(ring: Array, count: int, window: float = 6.0) -> Array:
    """Places (count, 2) on the calmest stretches of a closed ring, away from corners and well apart along it."""
    closed = np.concatenate([ring, ring[:1]])
    way = arc_lengths(closed)
    total = float(way[-1])
    spots = np.linspace(0.0, total, SPOTS, endpoint=False)
    reach = min(window, total / 8) / 2
    here, back, ahead = (
        np.stack([np.interp(np.mod(spots + shift, total), way, closed[:, axis]) for axis in (0, 1)], axis=1)
        for shift in (0.0, -reach, reach)
    )
    bow = np.round(np.linalg.norm(here - 0.5 * (back + ahead), axis=1) / max(reach, 1e-9), 2)
    taken = [int(np.argmin(bow))]
    while len(taken) < count:
        off = np.abs(np.arange(SPOTS)[:, None] - taken)
        near = np.minimum(off, SPOTS - off).min(axis=1) < SPOTS / (count + 1)
        taken.append(int(np.argmin(np.where(near, np.inf, bow))))
    return np.asarray(here[taken])


def _calm(lines: Sequence[Array]) -> list[Array]:
    """Lines without detail that a run does not follow."""
    # Simplifying costs up to the square of the points: what is very long is calmed in parts.
    cut = [[line[at : at + AT_ONCE + 1] for at in range(0, max(len(line) - 2, 1), AT_ONCE)] for line in lines]
    parts = [part for each in cut for part in each]
    if not parts:
        return []
    owner = np.repeat(np.arange(len(parts)), [max(len(part), 2) for part in parts])
    points = np.concatenate([part if len(part) > 1 else np.repeat(part, 2, axis=0) for part in parts])
    drawn = shapely.simplify(shapely.linestrings(points, indices=owner), DETAIL, preserve_topology=False)
    calm = iter(np.split(shapely.get_coordinates(drawn), np.cumsum(shapely.get_num_coordinates(drawn))[:-1]))
    found = []
    for line, each in zip(lines, cut, strict=True):
        kept = [next(calm) for _ in each]
        found.append(line if len(line) < 3 else np.concatenate([*(one[:-1] for one in kept[:-1]), kept[-1]]))
    return found


def _even_stops(
    way: Array, turn: Array, corner: NDArray[np.bool_], length: float, chord: float, shortest: float
) -> Array:
    """Positions along the line: even between corners, closer where the line bends."""
    gap = np.diff(way)
    bend = np.where(corner[1:-1], 0.0, turn) / np.maximum(0.5 * (gap[:-1] + gap[1:]), 1e-9)
    bend = np.concatenate(([0.0], bend, [0.0]))
    local = np.maximum(bend[:-1], bend[1:])
    reach = np.clip(np.sqrt(8.0 * chord / np.maximum(local, 1e-9)), shortest, length)
    effort = np.concatenate(([0.0], np.cumsum(gap / reach)))
    ends = effort[corner]
    counts = np.maximum(np.ceil(np.diff(ends) - 1e-6), 1).astype(np.int64)
    owner = np.repeat(np.arange(len(counts)), counts)
    nth = numbered(counts)
    target = ends[owner] + nth / counts[owner] * np.diff(ends)[owner]
    return np.asarray(np.interp(np.concatenate([target, ends[-1:]]), effort, way))


def _mend_chords(line: Array, way: Array, stops: Array, chord: float) -> Array:
    """Adds the farthest point of the line wherever a chord leaves it by too much."""
    for _ in range(8):
        spot = np.stack([np.interp(stops, way, line[:, 0]), np.interp(stops, way, line[:, 1])], axis=1)
        owner = np.clip(np.searchsorted(stops, way, side="right") - 1, 0, len(stops) - 2)
        base = spot[owner]
        along = spot[owner + 1] - base
        size = np.maximum(np.linalg.norm(along, axis=1), 1e-9)
        rel = line - base
        share = np.clip(np.einsum("ij,ij->i", rel, along) / size**2, 0.0, 1.0)
        off = np.linalg.norm(rel - share[:, None] * along, axis=1)
        worst = np.zeros(len(stops) - 1)
        np.maximum.at(worst, owner, off)
        bad = (off > chord) & (off >= worst[owner] - 1e-12)
        if not bad.any():
            break
        stops = np.union1d(stops, way[bad])
    return stops


def _drop_short(stops: Array, corners: Array, shortest: float) -> Array:
    """Drops points closer than `shortest` to the one before; corners win over others."""
    fixed = np.isin(stops, corners)
    fixed[[0, -1]] = True
    for _ in range(8):
        gap = np.diff(stops)
        close = np.flatnonzero(gap < shortest)
        if len(close) == 0:
            break
        drop = np.where(fixed[close + 1], close, close + 1)
        drop = drop[(drop > 0) & (drop < len(stops) - 1)]
        drop = every_second(np.unique(drop))
        if len(drop) == 0:
            break
        keep = np.ones(len(stops), dtype=bool)
        keep[drop] = False
        stops, fixed = stops[keep], fixed[keep]
    return stops
