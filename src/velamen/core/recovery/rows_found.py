"""Rows of fills among stitches: straight strokes that run to and fro beside one another at even steps."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from velamen.core.arrays import Array, Index, Mask
from velamen.core.recovery.strips import Stitches, Turns, angle_of, cross_of

TURNED, TURNED_MORE = np.radians(4.0), 0.2  # rad that rows may be off each other, and that over their length in mm
NEAREST, FARTHEST = 0.12, 4.2  # mm from row to row
ROW, LONG_ROW = 0.7, 1.5  # mm of a row, and of one of two beside each other
CONNECTOR, BETWEEN = 0.75, (1.2, 3.5)  # of its row's length, and mm with times the distance, that leads to the next
LINKS, ROWS, ALIKE = 2, 3, 0.8  # links and long rows of a fill, and how alike their angles are
ZIGZAG_SHARE, SINGLE = 0.6, 1.25  # of it that may turn like a zigzag, where rows have fewer stitches than that
SIDES = 0.4  # share of rows that may lie on the other side of the one before
Strokes = tuple[Index, Array, Array, Index]


def fill_chains(found: Stitches, strokes: Strokes, zigzag: Mask) -> Index:
    """For each stitch the number of the fill whose rows it is among, -1 for none."""
    out = np.full(len(found.begin), -1, dtype=np.int64)
    of, begin, end, count = strokes
    if len(begin) < ROWS:
        return out
    way = end - begin
    size = np.linalg.norm(way, axis=1)
    strip = found.strip[np.searchsorted(of, np.arange(len(begin)))]
    one, other, step = _links(begin, way, size, count, strip)
    if not len(one):
        return out
    graph = coo_array((np.ones(len(one)), (one, other)), shape=(len(begin), len(begin)))
    _, label = connected_components(graph, directed=False)
    linked = np.zeros(len(begin), dtype=bool)
    linked[one], linked[other] = True, True
    share = np.bincount(of, weights=zigzag, minlength=len(begin)) / np.maximum(count, 1)
    number = 0
    steps = _grouped(np.arange(len(one)), label[one])
    for rows, mine in zip(_grouped(np.flatnonzero(linked), label[linked]), steps, strict=True):
        if not _is_fill(rows, way[rows], size[rows], count[rows], share[rows], step[mine]):
            continue
        inside = (of >= rows[0]) & (of <= rows[-1])
        out[inside] = number
        number += 1
    return out


def _grouped(numbers: Index, label: Index) -> list[Index]:
    """Numbers apart by their labels, these in order."""
    order = np.argsort(label, kind="stable")
    return np.split(numbers[order], np.flatnonzero(np.diff(label[order])) + 1)


def strokes_of(found: Stitches, turns: Turns) -> Strokes:
    """Straight strokes: of each stitch the number of its stroke; of each stroke begin, end and how many stitches."""
    of = np.concatenate([[0], np.cumsum(~turns.straight[:-1])])
    first = np.flatnonzero(np.concatenate([[True], np.diff(of) > 0]))
    last = np.concatenate([first[1:], [len(of)]]) - 1
    return of.astype(np.int64), found.begin[first], found.end[last], (last - first + 1).astype(np.int64)


def _links(begin: Array, way: Array, size: Array, count: Index, strip: Index) -> tuple[Index, Index, Array]:
    """Strokes beside one another that run opposite ways: numbers of both, and how far to which side (n,) mm."""
    unit = way / np.maximum(size, 1e-9)[:, None]
    middle = begin + way / 2
    total = np.concatenate([[0.0], np.cumsum(size)])
    taken = np.zeros(len(size), dtype=bool)
    ones, others, steps = [], [], []
    for apart in (1, 2, 3):
        one = np.arange(len(size) - apart)
        other = one + apart
        cos = (unit[one] * unit[other]).sum(axis=1)
        least = np.minimum(size[one], size[other])
        alike = cos < -np.cos(np.minimum(TURNED + TURNED_MORE / np.maximum(least, 0.1), 0.5))
        off = middle[other] - middle[one]
        side = cross_of(unit[one], off)
        far = np.abs(side)
        between = total[other] - total[one + 1]
        good = alike & (strip[one] == strip[other]) & (far > NEAREST) & (far < FARTHEST) & (least > ROW)
        good &= (np.maximum(size[one], size[other]) > LONG_ROW) & (between < BETWEEN[0] + BETWEEN[1] * far)
        for inner in range(1, apart):
            good &= size[one + inner] < CONNECTOR * np.maximum(size[one], size[other])
        if apart == 1:
            good &= (np.maximum(count[one], count[other]) > 1) & (np.maximum(size[one], size[other]) > 3.0)
        good &= ~taken[one]
        taken[one[good]] = True
        ones.append(one[good])
        others.append(other[good])
        steps.append(side[good])
    order = np.argsort(np.concatenate(ones), kind="stable")
    one, other, step = (np.concatenate(each)[order] for each in (ones, others, steps))
    return one, other, step


def _is_fill(rows: Index, way: Array, size: Array, count: Index, share: Array, step: Array) -> bool:
    """Whether strokes linked to one another are rows of a fill."""
    if len(rows) <= LINKS or (size > LONG_ROW).sum() < ROWS:
        return False
    if angle_of(way)[1] < ALIKE:
        return False
    if np.average(share, weights=count) > ZIGZAG_SHARE and count.mean() < SINGLE:
        return False
    # Rows run to and fro: the next lies to the left of one and to the right of the other, so their sides take turns.
    ahead = step[:-1] * step[1:] < 0 if len(step) > 1 else np.ones(1, dtype=bool)
    return bool(ahead.mean() > 1.0 - SIDES)
