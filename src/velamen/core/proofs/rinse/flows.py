"""An upper bound of the fewest strands that part lace, where more than three are needed: flows between far places."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array, csr_array
from scipy.sparse.csgraph import breadth_first_order, maximum_flow

from velamen.core.arrays import Array, Index
from velamen.core.proofs.rinse.cuts import Cut

PAIRS, LARGE = 4, 50_000  # of far places asked; nodes from which a walk alone is asked
WIDE = 1_000_000  # capacity that is never the least


def bounded(ends: Index, weight: Array, least: float) -> Cut | None:
    """A cut of as few edges as flows between far places tell, both sides over `least` of the weight.

    It is the fewest between any of these places; elsewhere fewer edges may do. None where nothing lies so far apart.
    """
    real = np.flatnonzero(ends[:, 0] != ends[:, 1])
    graph = _graph(ends[real], np.ones(len(real)), len(weight))
    best: Cut | None = None
    start = int(breadth_first_order(graph, 0, return_predecessors=False)[-1])
    for _ in range(PAIRS):
        order = breadth_first_order(graph, start, return_predecessors=False)
        if len(weight) > LARGE:
            best = _swept(ends[real], weight, least, order)
            break
        near = _ball(order, weight, least)
        far = _ball(breadth_first_order(graph, int(order[-1]), return_predecessors=False), weight, least)
        if np.isin(near, far).any():
            break
        found = _between(ends[real], weight, near, far)
        if best is None or (len(found.edges), -found.share) < (len(best.edges), -best.share):
            best = found
        start = int(order[len(order) // 2])
    return None if best is None else Cut(tuple(real[list(best.edges)].tolist()), best.share, False)


def _swept(ends: Index, weight: Array, least: float, order: Index) -> Cut:
    """The fewest edges between the nodes that a walk has come to and all others, as it goes on."""
    at = np.empty(len(weight), np.int64)
    at[order] = np.arange(len(weight))
    place = at[ends]
    change = np.bincount(place.min(axis=1), minlength=len(weight)) - np.bincount(
        place.max(axis=1), minlength=len(weight)
    )
    open_, share = np.cumsum(change), np.cumsum(weight[order]) / float(weight.sum())
    nth = int(np.argmin(np.where((share > least) & (share < 1.0 - least), open_, len(ends) + 1)))
    cut = np.flatnonzero((place.min(axis=1) <= nth) & (place.max(axis=1) > nth))
    return Cut(tuple(cut.tolist()), float(min(share[nth], 1.0 - share[nth])), False)


def _ball(order: Index, weight: Array, least: float) -> Index:
    """The first nodes of a walk that come to more than a share of all weight."""
    upto = int(np.searchsorted(np.cumsum(weight[order]), least * float(weight.sum()), side="right")) + 1
    return np.asarray(order[:upto])


def _graph(ends: Index, capacity: Array, count: int) -> csr_array:
    both = np.concatenate([ends, ends[:, ::-1]])
    return csr_array(coo_array((np.tile(capacity, 2).astype(np.int32), (both[:, 0], both[:, 1])), (count, count)))


def _between(ends: Index, weight: Array, near: Index, far: Index) -> Cut:
    """The fewest edges between two sets of nodes."""
    count = len(weight)
    source, sink = count, count + 1
    poles = np.concatenate([np.column_stack([np.full(len(near), source), near]),
                            np.column_stack([np.full(len(far), sink), far])])  # fmt: skip
    every = np.concatenate([ends, poles])
    capacity = np.concatenate([np.ones(len(ends)), np.full(len(poles), WIDE)])
    graph = _graph(every, capacity, count + 2)
    graph.sum_duplicates()
    rest = graph - maximum_flow(graph, source, sink).flow
    rest.data = np.where(rest.data > 0, 1, 0)
    rest.eliminate_zeros()
    side = np.zeros(count + 2, bool)
    side[breadth_first_order(rest, source, return_predecessors=False)] = True
    cut = np.flatnonzero(side[ends[:, 0]] != side[ends[:, 1]])
    part = float(weight[side[:count]].sum())
    whole = float(weight.sum())
    return Cut(tuple(cut.tolist()), min(part, whole - part) / whole, False)
