"""Where threads meet once the stabilizer is gone, and which of these meetings hold.

A stitch is top thread above and bobbin thread below, locked at both needle points: a loop round whatever lies across
it. So threads that cross hold one another, and threads that only touch do not.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.arrays import Array, Index, Mask, numbered
from velamen.core.proofs.rinse.rows import Rows
from velamen.core.proofs.rinse.thread import HOLE, Lying

ALONG = 0.8  # mm that one thread lies along another, from which needle points of the one pierce the other
ASLANT = 2.2 * HOLE / ALONG  # sine between threads, above which they do not lie along one another so far
FULL = 4  # times the needle came down in a hole of 0.3 mm, from which it must pierce earlier thread
APART = 48  # rows of one satin within which they are not asked whether they cross
PORTION = 16_000  # strands asked at a time


@dataclass(frozen=True)
class Meetings:
    """Meetings of threads, (k,) each: on one side a place on a strand or, where at_run >= 0, what runs on at a hole.

    strand, along: the strand and mm from its first end; at_run: number as in Lying.run, -1 on the inside of a
    strand; holds: whether they hold one another or only touch. Both sides, (k, 2).
    """

    strand: Index
    along: Array
    at_run: Index
    holds: Mask

    def of(self, which: Mask) -> Meetings:
        """Some of them."""
        return Meetings(self.strand[which], self.along[which], self.at_run[which], self.holds[which])


def meetings(lies: Lying, rows: Rows) -> Meetings:
    """All meetings of threads."""
    found = [_in_holes(lies)]
    needle: list[tuple[Index, Index, Array]] = []
    for one, other in _near(lies, rows):
        crossing, along, near = _pairs(lies, one, other)
        found += [crossing, along]
        needle.append(near)
    found.append(_at_needle_points(lies, needle))
    return Meetings(
        np.concatenate([each.strand for each in found]), np.concatenate([each.along for each in found]),
        np.concatenate([each.at_run for each in found]), np.concatenate([each.holds for each in found]),
    )  # fmt: skip


def _meet(strand: Index, along: Array, at_run: Index, holds: Mask) -> Meetings:
    return Meetings(strand.reshape(-1, 2), along.reshape(-1, 2), at_run.reshape(-1, 2), holds)


def _in_holes(lies: Lying) -> Meetings:
    """Threads that run through the same hole: they hold where they cross in it, or where it is full of thread."""
    count = np.bincount(lies.hole_of, minlength=len(lies.holes))
    halves = np.arange(len(lies.run))
    hole = lies.ends.ravel()
    shared = count[hole] > 1
    halves, hole = halves[shared], hole[shared]
    away = lies.holes[lies.ends[halves // 2, 1 - halves % 2]] - lies.holes[hole]
    order = np.lexsort((np.arctan2(away[:, 1], away[:, 0]), hole))
    halves, hole = halves[order], hole[order]
    begin = np.flatnonzero(np.diff(hole, prepend=-1))
    upto = np.append(begin, len(hole))[1:]
    pairs: list[tuple[int, int, bool]] = []
    for low, high in zip(begin.tolist(), upto.tolist(), strict=True):
        round_ = lies.run[halves[low:high]]
        full = bool(lies.needled[hole[low]] >= FULL)
        there = np.unique(round_)
        for nth, one in enumerate(there[:-1]):
            for other in there[nth + 1 :]:
                of_these = round_[(round_ == one) | (round_ == other)] == one
                changes = int((of_these != np.roll(of_these, 1)).sum())
                pairs.append((int(one), int(other), full or changes >= 4))
    met = np.array([each[:2] for each in pairs], np.int64).reshape(-1, 2)
    holds = np.array([each[2] for each in pairs], bool)
    return _meet(_strand_at(lies, met), np.zeros(met.shape), met, holds)


def _strand_at(lies: Lying, runs: Index) -> Index:
    """For each number of what runs on, a strand that it is an end of."""
    some = np.zeros(len(lies.hole_of), np.int64)
    some[lies.run] = np.arange(len(lies.run)) // 2
    return np.asarray(some[runs])


def _near(lies: Lying, rows: Rows) -> Iterator[tuple[Index, Index]]:
    """Pairs of strands whose boxes come near each other, neighbouring rows of one satin left out, in portions."""
    begin, stop = lies.begins, lies.stops
    turned = _turned(begin, stop)
    low = np.minimum(begin @ turned, stop @ turned) - HOLE / 2
    high = np.maximum(begin @ turned, stop @ turned) + HOLE / 2
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    tree = shapely.STRtree(boxes)
    field = np.where(rows.of >= 0, rows.field[rows.of] if len(rows.field) else 0, -1)
    for first in range(0, len(boxes), PORTION):
        one, other = tree.query(boxes[first : first + PORTION])
        one = one + first
        kept = one < other
        one, other = one[kept], other[kept]
        packed = (field[one] >= 0) & (field[one] == field[other]) & (np.abs(rows.of[one] - rows.of[other]) <= APART)
        yield one[~packed], other[~packed]


def _turned(begin: Array, stop: Array) -> Array:
    """(2, 2) turn by which most thread lies along an axis, so that boxes round it are slim."""
    side = stop - begin
    long = np.linalg.norm(side, axis=1)
    slot = np.round(np.degrees(np.arctan2(side[:, 1], side[:, 0])) % 90.0).astype(np.int64) % 90
    angle = np.radians(float(np.argmax(np.bincount(slot, long, 90)))) if len(side) else 0.0
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


def _pairs(lies: Lying, one: Index, other: Index) -> tuple[Meetings, Meetings, tuple[Index, Index, Array]]:
    """Crossings and threads along one another among pairs of strands, and halves of strands that end near another.

    The last as halves (k,), strands (k,) and mm along these (k,).
    """
    begin, side, long = lies.begins, lies.stops - lies.begins, lies.lengths
    off, course, across = begin[other] - begin[one], side[one], side[other]
    turn = course[:, 0] * across[:, 1] - course[:, 1] * across[:, 0]
    safe = np.where(np.abs(turn) < 1e-12, 1.0, turn)
    share = np.stack([(off[:, 0] * across[:, 1] - off[:, 1] * across[:, 0]) / safe,
                      (off[:, 0] * course[:, 1] - off[:, 1] * course[:, 0]) / safe], axis=1)  # fmt: skip
    ends = lies.ends
    joined = (ends[one][:, :, None] == ends[other][:, None, :]).any(axis=(1, 2))
    pair = np.stack([one, other], axis=1)
    place, size = share * long[pair], long[pair]
    crossing = (np.abs(turn) > 1e-9) & ~joined & ((place > HOLE) & (size - place > HOLE)).all(axis=1)
    cross = _meet(
        pair[crossing], place[crossing], np.full((int(crossing.sum()), 2), -1), np.ones(int(crossing.sum()), bool)
    )
    slant = np.abs(turn) / (size[:, 0] * size[:, 1])
    beside = _along(lies, pair[slant <= ASLANT])
    return cross, beside, _ends_near(lies, pair[~joined & ~crossing])


def _along(lies: Lying, pair: Index) -> Meetings:
    """Strands that lie within reach of each other for so long that the one's needle points pierce the other."""
    begin, side, long = lies.begins, lies.stops - lies.begins, lies.lengths
    one, other = pair[:, 0], pair[:, 1]
    course = side[other] / long[other][:, None]
    off = np.stack([begin[one], begin[one] + side[one]], axis=1) - begin[other][:, None]
    along = np.einsum("kij,kj->ki", off, course)
    aside = off[:, :, 1] * course[:, None, 0] - off[:, :, 0] * course[:, None, 1]
    low, high = np.zeros(len(pair)), np.ones(len(pair))
    for at, least, most in ((along, np.zeros(len(pair)), long[other]), (aside, -HOLE, HOLE)):
        change = at[:, 1] - at[:, 0]
        still = np.abs(change) < 1e-9
        safe = np.where(still, 1.0, change)
        enter, leave = (least - at[:, 0]) / safe, (most - at[:, 0]) / safe
        outside = still & ((at[:, 0] < least) | (at[:, 0] > most))
        low = np.where(still, low, np.maximum(low, np.minimum(enter, leave)))
        high = np.where(outside, -1.0, np.where(still, high, np.minimum(high, np.maximum(enter, leave))))
    found = (high - low) * long[one] >= ALONG
    halves = np.arange(2)
    same = (lies.run[2 * one[:, None] + halves][:, :, None] == lies.run[2 * other[:, None] + halves][:, None, :]).any(
        axis=(1, 2)
    )
    found &= ~same
    middle = (low + high)[found] / 2
    here = middle * long[one[found]]
    there = along[found, 0] + middle * (along[found, 1] - along[found, 0])
    count = int(found.sum())
    return _meet(pair[found], np.stack([here, there], axis=1), np.full((count, 2), -1), np.ones(count, bool))


def _ends_near(lies: Lying, pair: Index) -> tuple[Index, Index, Array]:
    """Halves of strands whose hole lies within reach of the inside of the pair's other strand."""
    begin, side, long = lies.begins, lies.stops - lies.begins, lies.lengths
    halves, strands, places = [], [], []
    for mine, other in ((0, 1), (1, 0)):
        strand = pair[:, other]
        course = side[strand] / long[strand][:, None]
        for end in (0, 1):
            off = lies.holes[lies.ends[pair[:, mine], end]] - begin[strand]
            along = np.einsum("ij,ij->i", off, course)
            aside = np.abs(off[:, 1] * course[:, 0] - off[:, 0] * course[:, 1])
            near = (aside <= HOLE) & (along > 0) & (along < long[strand])
            halves.append(2 * pair[near, mine] + end)
            strands.append(strand[near])
            places.append(along[near])
    return np.concatenate(halves), np.concatenate(strands), np.concatenate(places)


def _at_needle_points(lies: Lying, needle: list[tuple[Index, Index, Array]]) -> Meetings:
    """Threads with a needle point beside another thread: held where they pass through it, to both of its sides."""
    halves = np.concatenate([each[0] for each in needle]) if needle else np.zeros(0, np.int64)
    strand = np.concatenate([each[1] for each in needle]) if needle else np.zeros(0, np.int64)
    along = np.concatenate([each[2] for each in needle]) if needle else np.zeros(0)
    run = lies.run[halves]
    _, once = np.unique(strand * max(len(lies.hole_of), 1) + run, return_index=True)
    run, strand, along = run[once], strand[once], along[once]
    order = np.argsort(lies.run, kind="stable")
    begin = np.searchsorted(lies.run[order], np.arange(len(lies.hole_of) + 1))
    counts = begin[run + 1] - begin[run]
    rays = order[np.repeat(begin[run], counts) + numbered(counts)]
    owner = np.repeat(np.arange(len(run)), counts)
    away = lies.holes[lies.ends[rays // 2, 1 - rays % 2]] - lies.begins[strand[owner]]
    course = (lies.stops - lies.begins)[strand[owner]] / lies.lengths[strand[owner]][:, None]
    aside = course[:, 0] * away[:, 1] - course[:, 1] * away[:, 0]
    left, right = np.zeros(len(run), bool), np.zeros(len(run), bool)
    left[owner[aside > HOLE]] = True
    right[owner[aside < -HOLE]] = True
    some = rays[np.cumsum(counts) - counts] // 2 if len(run) else run
    return _meet(np.stack([some, strand], axis=1), np.stack([np.zeros(len(run)), along], axis=1),
                 np.stack([run, np.full(len(run), -1)], axis=1), left & right)  # fmt: skip
