"""Lace as a graph: pieces of thread between the places where it is held, and the locks there."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from velamen.core.arrays import Array, Index, Mask, numbered
from velamen.core.proofs.rinse.meeting import Meetings
from velamen.core.proofs.rinse.rows import Rows, supported
from velamen.core.proofs.rinse.thread import Lying

LOCK = -1  # in place of the number of a strand
IN_LINE = 3  # locks of a thread to one satin from which it counts as part of that


@dataclass(frozen=True)
class Web:
    """Thread as a graph.

    ends: (m, 2) nodes; strand: (m,) the strand each edge is a piece of, LOCK for a lock; begins, stops: (m, 2) mm of
    each edge; weight: (m,) mm of thread on it; node_of: (r,) the node of what runs on at each hole; part: (n,) which
    part each node belongs to; unsupported: (r,) rows with nothing under them.
    """

    ends: Index
    strand: Index
    begins: Array
    stops: Array
    weight: Array
    node_of: Index
    part: Index
    unsupported: Mask

    @property
    def nodes(self) -> int:
        return len(self.part)

    @property
    def heavy(self) -> Array:
        """(n,) mm of thread at each node: half of each piece of thread that ends at it."""
        half = np.repeat(self.weight / 2, 2)
        return np.asarray(np.bincount(self.ends.ravel(), half, self.nodes))


def web_of(lies: Lying, rows: Rows, locks: Meetings) -> Web:
    """The graph of thread and locks; satins and fills that hold together are one node."""
    split = locks.at_run < 0  # places inside strands
    spots = len(lies.hole_of) + np.cumsum(split.ravel()) - 1
    node = np.where(split.ravel(), spots, locks.at_run.ravel())
    total = len(lies.hole_of) + int(split.sum())
    strand, along = locks.strand[split], locks.along[split]
    order = np.lexsort((along, strand))
    strand, along, inside = strand[order], along[order], spots[split.ravel()][order]
    between, pieces, low, high = _pieces(lies, strand, along, inside)
    places = _places(lies, locks)
    well = supported(rows, *_on_rows(lies, rows, locks, places))
    ends = np.concatenate([between, node.reshape(-1, 2)])
    owner = np.concatenate([pieces, np.full(len(locks.holds), LOCK)])
    course = (lies.stops - lies.begins) / np.maximum(lies.lengths, 1e-9)[:, None]
    begins = lies.begins[pieces] + low[:, None] * course[pieces]
    stops = lies.begins[pieces] + high[:, None] * course[pieces]
    weight = np.concatenate([(high - low) * lies.passes[pieces], np.zeros(len(locks.holds))])
    merged = _merged(lies, rows, well, ends, owner, total)
    _, part = connected_components(_matrix(merged[ends], int(merged.max()) + 1 if total else 0), directed=False)
    return Web(merged[ends], owner, np.concatenate([begins, places[:, 0]]), np.concatenate([stops, places[:, 1]]),
               weight, merged[: len(lies.hole_of)], np.asarray(part, np.int64), ~well)  # fmt: skip


def _pieces(lies: Lying, strand: Index, along: Array, inside: Index) -> tuple[Index, Index, Array, Array]:
    """Strands divided at places inside them: nodes (p, 2), strand, and mm from where to where of each piece."""
    cuts = np.bincount(strand, minlength=len(lies.ends))
    counts = cuts + 1
    owner = np.repeat(np.arange(len(lies.ends)), counts)
    nth = numbered(counts)
    first = np.cumsum(cuts) - cuts
    begin = first[owner] + nth - 1
    ahead, behind = nth > 0, nth < cuts[owner]
    padded, places = np.append(inside, 0), np.append(along, 0.0)
    left = np.where(ahead, padded[np.clip(begin, 0, len(inside))], lies.run[2 * owner])
    right = np.where(behind, padded[np.clip(begin + 1, 0, len(inside))], lies.run[2 * owner + 1])
    low = np.where(ahead, places[np.clip(begin, 0, len(inside))], 0.0)
    high = np.where(behind, places[np.clip(begin + 1, 0, len(inside))], lies.lengths[owner])
    return np.stack([left, right], axis=1), owner, low, high


def _places(lies: Lying, locks: Meetings) -> Array:
    """(k, 2, 2) mm of both sides of each lock."""
    course = (lies.stops - lies.begins) / np.maximum(lies.lengths, 1e-9)[:, None]
    inside = lies.begins[locks.strand] + locks.along[:, :, None] * course[locks.strand]
    at_hole = lies.holes[lies.hole_of[np.maximum(locks.at_run, 0)]]
    return np.where((locks.at_run >= 0)[:, :, None], at_hole, inside)


def _on_rows(lies: Lying, rows: Rows, locks: Meetings, places: Array) -> tuple[Index, Array, Index]:
    """Strands that locks lie on, where, and the strands on their other sides, both sides of each."""
    order = np.argsort(rows.of, kind="stable")  # of several strands that meet in a hole the one that is of a row
    some = np.zeros(len(lies.hole_of), np.int64)
    for end in (0, 1):
        some[lies.run[2 * order + end]] = order
    strand = (
        np.where(locks.at_run >= 0, some[np.maximum(locks.at_run, 0)], locks.strand) if len(some) else locks.strand
    )
    return (np.concatenate([strand[:, 0], strand[:, 1]]), np.concatenate([places[:, 0], places[:, 1]]),
            np.concatenate([strand[:, 1], strand[:, 0]]))  # fmt: skip


def _merged(lies: Lying, rows: Rows, well: Mask, ends: Index, owner: Index, total: int) -> Index:
    """(nodes,) new numbers of nodes: all of a satin or fill that is held is one."""
    inside = (rows.of[owner] >= 0) & (owner >= 0)
    inside[inside] = well[rows.of[owner[inside]]]
    steps = _steps(lies, rows, well)
    tied = np.concatenate([ends[inside], steps])
    count, new = connected_components(_matrix(tied, total), directed=False)
    new = np.asarray(new, np.int64)
    members = np.zeros(count, bool)
    members[new[tied.ravel()]] = True
    # A thread that runs on under a satin, lock after lock, counts with it: this is what keeps the graph small.
    lock = owner == LOCK
    satin = np.full(total, -1, np.int64)
    for one, other in ((0, 1), (1, 0)):
        to = new[ends[lock, one]]
        satin[ends[lock, other][members[to]]] = to[members[to]]
    piece = ~lock & (satin[ends[:, 0]] >= 0) & (satin[ends[:, 0]] == satin[ends[:, 1]])
    _, line = connected_components(_matrix(ends[piece], total), directed=False)
    long = np.bincount(line, minlength=total)[line] >= IN_LINE
    under = ends[piece][long[ends[piece, 0]]].ravel()
    more = np.stack([new[under], satin[under]], axis=1)
    _, last = connected_components(_matrix(more, count), directed=False)
    return np.asarray(last[new], np.int64)


def _steps(lies: Lying, rows: Rows, well: Mask) -> Index:
    """(k, 2) nodes of the stitches between rows that follow one another and are held."""
    on = np.flatnonzero((rows.field[1:] == rows.field[:-1]) & well[1:] & well[:-1])
    first, upto = rows.last[on], rows.first[on + 1]
    counts = upto - first + 1
    stitch = np.repeat(first, counts) + numbered(counts)
    half = 2 * lies.strand[stitch]
    return np.asarray(np.stack([lies.run[half], lies.run[half + 1]], axis=1))


def _matrix(pairs: Index, count: int) -> coo_array:
    return coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), (count, count))
