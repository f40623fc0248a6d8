"""The thread of lace as it lies after the rinse: holes, strands between them, and what runs on through each hole.

Needle points within 0.15 mm are one hole; stitches between the same two holes are one strand of several passes, since
they tear at one place.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from velamen.core.arrays import Array, Index, Mask
from velamen.core.memo import worked_out

HOLE = 0.15  # mm within which needle points are one hole, and a needle point meets a thread
LEAST_STITCH = 0.02  # mm
GRAIN = 0.01  # mm within which needle points are the same
WIDEST_HOLE = 0.45  # mm; a chain of needle points that goes on farther is no one hole
SHORT_TIE, AMONG, DRAWN = 0.7, 4, 3  # mm of a tie's stitches, among how many they are, how many an untied end loses


@dataclass(frozen=True)
class Stitches:
    """Stitches one after another. start, stop: needle points (n, 2) mm; thread: (n,); row: (n,) of the plan."""

    start: Array
    stop: Array
    thread: Index
    row: Index


@dataclass(frozen=True)
class Lying:
    """Thread as it lies.

    holes: (h, 2) mm; needled: (h,) how often the needle came down there; ends: (s, 2) holes of each strand, the
    lower first; passes: (s,); run: (2 s,) for each half of a strand, 2 x strand + end, the number of the thread that
    runs on through that hole; hole_of: (r,) hole of each such number; strand: (n,) of each stitch; first, last: (n,)
    holes it goes from and to; thread, row: (n,) of each stitch.
    """

    holes: Array
    needled: Index
    ends: Index
    passes: Index
    run: Index
    hole_of: Index
    strand: Index
    first: Index
    last: Index
    thread: Index
    row: Index

    @worked_out
    def begins(self) -> Array:
        """(s, 2) mm."""
        return np.asarray(self.holes[self.ends[:, 0]])

    @worked_out
    def stops(self) -> Array:
        """(s, 2) mm."""
        return np.asarray(self.holes[self.ends[:, 1]])

    @worked_out
    def lengths(self) -> Array:
        """(s,) mm of each strand, one pass."""
        return np.asarray(np.linalg.norm(self.stops - self.begins, axis=1))


def lying(stitches: Stitches) -> Lying:
    """The thread of stitches as it lies; threads that are not tied lose their last stitches."""
    long = np.linalg.norm(stitches.stop - stitches.start, axis=1)
    given = long >= LEAST_STITCH
    start, stop, thread, row = (
        each[given] for each in (stitches.start, stitches.stop, stitches.thread, stitches.row)
    )
    holes, number, needled = _holes(np.concatenate([start, stop]))
    first, last = number[: len(start)], number[len(start) :]
    kept = first != last
    kept[kept] = _tied(first[kept], last[kept], thread[kept], np.linalg.norm(stop - start, axis=1)[kept])
    first, last, thread, row = first[kept], last[kept], thread[kept], row[kept]
    low, high = np.minimum(first, last), np.maximum(first, last)
    key, strand, passes = np.unique(low * len(holes) + high, return_inverse=True, return_counts=True)
    ends = np.stack([key // max(len(holes), 1), key % max(len(holes), 1)], axis=1)
    run, hole_of = _running_on(strand, first, last, thread, ends)
    return Lying(holes, needled, ends, passes, run, hole_of, strand, first, last, thread, row)


def _holes(points: Array) -> tuple[Array, Index, Index]:
    """Holes (h, 2), the hole of each needle point, and how many of the points each has, ends of two stitches counted
    once."""
    if not len(points):
        return np.zeros((0, 2)), np.zeros(0, np.int64), np.zeros(0, np.int64)
    grid = np.round(points / GRAIN).astype(np.int64)
    low = grid.min(axis=0)
    width = int(grid[:, 1].max() - low[1]) + 1
    _, inverse, counts = np.unique(
        (grid[:, 0] - low[0]) * width + grid[:, 1] - low[1], return_inverse=True, return_counts=True
    )
    places = np.stack([np.bincount(inverse, points[:, axis]) / counts for axis in (0, 1)], axis=1)
    pairs = cKDTree(places).query_pairs(HOLE, output_type="ndarray")
    _, group = connected_components(coo_array((np.ones(len(pairs)), pairs.T), (len(places),) * 2), directed=False)
    group = _divided(places, np.asarray(group, np.int64))
    total = np.bincount(group, counts)
    holes = np.stack([np.bincount(group, counts * places[:, axis]) / total for axis in (0, 1)], axis=1)
    return holes, group[inverse], np.asarray(np.ceil(total / 2), np.int64)


def _divided(places: Array, group: Index) -> Index:
    """Groups of places, those that stretch too far divided on a grid."""
    count = int(group.max()) + 1
    low, high = np.full((count, 2), np.inf), np.full((count, 2), -np.inf)
    np.minimum.at(low, group, places)
    np.maximum.at(high, group, places)
    wide = ((high - low).max(axis=1) > WIDEST_HOLE)[group]
    if not wide.any():
        return group
    cell = np.zeros((len(places), 2), np.int64)
    cell[wide] = np.floor((places[wide] - low[group[wide]]) / (2 * HOLE)).astype(np.int64)
    _, divided = np.unique(np.column_stack([group, cell]), axis=0, return_inverse=True)
    return np.asarray(divided.reshape(-1), np.int64)


def _tied(first: Index, last: Index, thread: Index, long: Array) -> Mask:
    """Which stitches stay: all but the last ones of a thread's end that no tie holds."""
    kept = np.ones(len(first), bool)
    if not len(first):
        return kept
    begins = np.flatnonzero(np.concatenate([[True], np.diff(thread) != 0]))
    upto = np.append(begins[1:], len(thread))
    low, high = np.minimum(first, last), np.maximum(first, last)
    for inwards in (1, -1):
        edge = begins if inwards > 0 else upto - 1
        among = edge[:, None] + inwards * np.arange(AMONG)
        inside = (among >= begins[:, None]) & (among < upto[:, None])
        among = np.clip(among, 0, len(first) - 1)
        short = ((long[among] <= SHORT_TIE) & inside).sum(axis=1) >= 2
        again = np.zeros(len(begins), bool)
        for one in range(AMONG):
            for other in range(one + 1, AMONG):
                same = (low[among[:, one]] == low[among[:, other]]) & (high[among[:, one]] == high[among[:, other]])
                again |= same & inside[:, one] & inside[:, other]
        loose = ~(short | again)
        drawn = inside[loose, :DRAWN]
        kept[among[loose, :DRAWN][drawn]] = False
    return kept


def _running_on(strand: Index, first: Index, last: Index, thread: Index, ends: Index) -> tuple[Index, Index]:
    """For each half of a strand the number of what runs on there, and the hole of each number."""
    if not len(ends):
        return np.zeros(0, np.int64), np.zeros(0, np.int64)
    leaves = 2 * strand + (first != ends[strand, 0])
    comes = 2 * strand + (last != ends[strand, 0])
    on = (thread[1:] == thread[:-1]) & (last[:-1] == first[1:])
    one, other = comes[:-1][on], leaves[1:][on]
    count, run = connected_components(
        coo_array((np.ones(len(one)), (one, other)), (2 * len(ends),) * 2), directed=False
    )
    hole_of = np.zeros(count, np.int64)
    hole_of[run] = ends.ravel()
    return np.asarray(run, np.int64), hole_of
