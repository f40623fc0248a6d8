"""Rows of satins and fills among the thread of lace, and which of them have thread under them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from velamen.core.arrays import Array, Index, Mask, numbered, stretches
from velamen.core.proofs.rinse.thread import Lying

STRAIGHT = np.cos(np.radians(25.0))  # up to this turn stitches are of one row
ROW, STEP = 0.9, 1.0  # mm that a row is long at least, and that the next one begins away at most
BACK = -0.85  # cosine: the next row comes back
BESIDE = 0.16, 1.3  # mm beside a row that the next one ends; less is a thread sewn back
IN_LINE = 3  # pairs of rows that make a satin
WELL_INSIDE = 0.25  # mm inside the ends of a row that it is held at
OWN_ROWS = 3  # rows before and after a row that do not hold it
REACH = 2  # rows on either side of a held one that are held with it


@dataclass(frozen=True)
class Rows:
    """Rows of satins and fills, in the order they are sewn.

    first, last: (r,) stitches; field: (r,) which satin or fill; begins, stops: (r, 2) mm; of: (s,) row of each
    strand, -1 for none, the last where several are sewn over one another; strand, owner: (k,) strands of all rows.
    """

    first: Index
    last: Index
    field: Index
    of: Index
    begins: Array
    stops: Array
    strand: Index
    owner: Index


def rows_of(lies: Lying) -> Rows:
    """The rows of satins and fills."""
    none = np.zeros(0, np.int64)
    if not len(lies.strand):
        return Rows(none, none, none, none, np.zeros((0, 2)), np.zeros((0, 2)), none, none)
    start, stop = lies.holes[lies.first], lies.holes[lies.last]
    side = stop - start
    course = side / np.linalg.norm(side, axis=1)[:, None]
    on = (np.einsum("ij,ij->i", course[1:], course[:-1]) > STRAIGHT) & (lies.thread[1:] == lies.thread[:-1])
    begin = np.flatnonzero(np.concatenate([[True], ~on]))
    end = np.append(begin[1:], len(side)) - 1
    whole = stop[end] - start[begin]
    long = np.linalg.norm(whole, axis=1)
    row = long >= ROW
    begin, end, whole, long = begin[row], end[row], whole[row], long[row]
    paired = _paired(start[begin], stop[end], whole / long[:, None], lies.thread[begin])
    paired &= lies.strand[begin[1:]] != lies.strand[end[:-1]]  # a stitch sewn back, as in a bean
    packed, field = _fields(paired)
    first, last = begin[packed], end[packed]
    of = np.full(len(lies.ends), -1, np.int64)
    counts = last - first + 1
    stitches = np.repeat(first, counts) + numbered(counts)
    owner = np.repeat(np.arange(len(first)), counts)
    of[lies.strand[stitches]] = owner
    return Rows(first, last, field, of, start[first], stop[last], lies.strand[stitches], owner)


def _paired(start: Array, stop: Array, course: Array, thread: Index) -> Mask:
    """(r - 1,) whether each row comes back beside the one before."""
    gap = np.linalg.norm(start[1:] - stop[:-1], axis=1)
    back = np.einsum("ij,ij->i", course[1:], course[:-1])
    off = stop[1:] - start[:-1]
    beside = np.abs(course[:-1, 0] * off[:, 1] - course[:-1, 1] * off[:, 0])
    near = (gap <= STEP) & (back < BACK) & (beside >= BESIDE[0]) & (beside <= BESIDE[1])
    return np.asarray(near & (thread[1:] == thread[:-1]))


def _fields(paired: Mask) -> tuple[Index, Index]:
    """Rows that lie in satins or fills, and the number of each one's."""
    begin, end = stretches(paired).T
    long = end - begin >= IN_LINE
    counts = end[long] - begin[long] + 1
    rows = np.repeat(begin[long], counts) + numbered(counts)
    return np.asarray(rows, np.int64), np.repeat(np.arange(len(counts)), counts)


def supported(rows: Rows, strand: Index, place: Array, against: Index) -> Mask:
    """(r,) whether each row, or one of the two before or after it, is held between its ends.

    strand, place: (k,), (k, 2) of locks on strands; against: (k,) the strand on the other side.
    """
    held = np.zeros(len(rows.first), bool)
    if not len(held):
        return held
    row, other = rows.of[strand], rows.of[against]
    same = (other >= 0) & (rows.field[other] == rows.field[row]) & (np.abs(other - row) <= OWN_ROWS)
    off = np.minimum(
        np.linalg.norm(place - rows.begins[row], axis=1), np.linalg.norm(place - rows.stops[row], axis=1)
    )
    held[row[(row >= 0) & ~same & (off > WELL_INSIDE)]] = True
    held[rows.owner[held[rows.of[rows.strand]]]] = True  # of rows on the same needle points all
    near = held.copy()
    for far in range(1, REACH + 1):
        alike = rows.field[far:] == rows.field[:-far]
        near[far:] |= held[:-far] & alike
        near[:-far] |= held[far:] & alike
    return near
