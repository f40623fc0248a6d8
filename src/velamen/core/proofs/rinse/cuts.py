"""The weakest place of a graph: the fewest edges whose loss parts more than a share of its weight.

Every edge outside a spanning tree gets a random number of 63 bits, every edge of the tree the exclusive or of those
that go over it. Edges part the graph exactly where these numbers come to 0 together (cycle space sampling: Pritchard
and Thurimella, 2011; a false find has a chance of 2**-63 and is told apart by counting, none is missed).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.sparse import coo_array, csr_array
from scipy.sparse.csgraph import breadth_first_order, depth_first_order

from velamen.core.arrays import Array, Index

MOST_ASKED = 150_000_000  # pairs of edges asked for a cut of three; beyond, the heaviest are asked first
MOST_TRIED, MOST_OF_CLASS = 20, 12  # cuts of three, and edges of a class, tried for the most even one
ASKED = 3  # edges of the largest cuts that are all asked
SEED = 20_011
DEEP = 4_000  # levels of a tree, from which it is walked in depth
LOW, HIGH = (1 << 20) - 1, 40  # bits of a number that are looked up first, and those above


@dataclass(frozen=True)
class Cut:
    """Edges that part a graph. share: of its weight on the lighter side; exact: whether no fewer edges do."""

    edges: tuple[int, ...]
    share: float
    exact: bool


@dataclass(frozen=True)
class _Tree:
    """A spanning tree. number: (m,) of each edge; first, upto: (m,) places in preorder of what lies below an edge of
    the tree, both 0 for others; below: (m,) weight there; before: (n + 1,) weight up to each place; whole: of all."""

    number: Index
    first: Index
    upto: Index
    below: Array
    before: Array
    whole: float

    def light(self, edges: Index) -> Array:
        """(k,) weight on the lighter side of cuts of (k, c) edges."""
        places = np.sort(np.concatenate([self.first[edges], self.upto[edges]], axis=1), axis=1)
        sums = self.before[places]
        part = (sums[:, 1::2] - sums[:, 0::2]).sum(axis=1)
        return np.asarray(np.minimum(part, self.whole - part))


def weakest(ends: Index, weight: Array, least: float) -> Cut | None:
    """The cut of at most three edges that parts more than `least` of the weight of a graph that hangs together.

    ends: (m, 2) nodes of each edge; weight: (n,); None where no three edges do. Of cuts of as many edges it is the
    most even one. `exact` is False where not all cuts of three could be asked.
    """
    real = np.flatnonzero(ends[:, 0] != ends[:, 1])
    if len(weight) < 2 or not len(real):
        return None
    tree = _tree(ends[real], weight)
    limit = least * tree.whole
    for find in (_one, _two):
        if (found := find(tree, limit)) is not None:
            return Cut(tuple(real[list(found[0])].tolist()), found[1] / tree.whole, True)
    edges, light, whole = _three(tree, limit)
    if edges is None:
        return None if whole else Cut((), 0.0, False)
    return Cut(tuple(real[list(edges)].tolist()), light / tree.whole, True)


def _tree(ends: Index, weight: Array) -> _Tree:
    """A spanning tree from the middle of a longest way, with the numbers of all edges."""
    count, m = len(weight), len(ends)
    both = np.concatenate([ends, ends[:, ::-1]])
    graph = csr_array(coo_array((np.ones(2 * m), both.T), (count, count)))
    far = int(breadth_first_order(graph, 0, return_predecessors=False)[-1])
    order, came = breadth_first_order(graph, far)
    way = [int(order[-1])]
    while came[way[-1]] >= 0:
        way.append(int(came[way[-1]]))
    root = way[len(way) // 2]
    order, above = breadth_first_order(graph, root)
    at, upto = _preorder(order, above)
    order = np.argsort(at)
    # Of several edges between the same two nodes one is of the tree.
    low, high = np.minimum(ends[:, 0], ends[:, 1]), np.maximum(ends[:, 0], ends[:, 1])
    child = np.where(above[low] == high, low, np.where(above[high] == low, high, -1))
    of_tree = np.zeros(m, bool)
    kids, first = np.unique(child, return_index=True)
    of_tree[first[kids >= 0]] = True
    number = np.zeros(m, np.int64)
    rest = np.flatnonzero(~of_tree)
    number[rest] = np.random.default_rng(SEED).integers(1, 1 << 62, len(rest))
    at_node = np.zeros(count, np.int64)
    np.bitwise_xor.at(at_node, ends[rest].ravel(), np.repeat(number[rest], 2))
    over = np.concatenate([[0], np.bitwise_xor.accumulate(at_node[order])])
    twig = np.flatnonzero(of_tree)
    begin, end = np.zeros(m, np.int64), np.zeros(m, np.int64)
    begin[twig], end[twig] = at[child[twig]], upto[child[twig]]
    number[twig] = over[end[twig]] ^ over[begin[twig]]
    before = np.concatenate([[0.0], np.cumsum(weight[order])])
    return _Tree(number, begin, end, before[end] - before[begin], before, float(before[-1]))


def _preorder(order: Index, above: Index) -> tuple[Index, Index]:
    """For each node of a tree its place in preorder, and the place after all that lies below it.

    order: (n,) nodes as a walk in breadth comes to them; above: (n,) the node each is reached from, below 0 for none.
    """
    count = len(order)
    index = np.empty(count, np.int64)
    index[order] = np.arange(count)
    came = np.concatenate([[-1], index[above[order[1:]]]])  # never decreasing
    bounds = [0, 1]
    while bounds[-1] < count and len(bounds) < DEEP:
        bounds.append(int(np.searchsorted(came, bounds[-1])))
    if bounds[-1] < count:
        return _deep_preorder(order, above)
    size = np.ones(count, np.int64)
    levels = list(pairwise(bounds))
    for low, high in levels[:0:-1]:
        np.add.at(size, came[low:high], size[low:high])
    place = np.zeros(count, np.int64)
    for low, high in levels[1:]:
        mine, parent = size[low:high], came[low:high]
        ahead = np.cumsum(mine) - mine
        first = np.flatnonzero(np.diff(parent, prepend=-1))
        before = np.repeat(ahead[first], np.diff(np.append(first, high - low)))
        place[low:high] = place[parent] + 1 + ahead - before
    at, upto = np.empty(count, np.int64), np.empty(count, np.int64)
    at[order], upto[order] = place, place + size
    return at, upto


def _deep_preorder(order: Index, above: Index) -> tuple[Index, Index]:
    """The same for trees of very many levels, by a walk in depth, and by jumping ever farther ahead."""
    count, root = len(order), int(order[0])
    below = np.flatnonzero(above >= 0)
    family = csr_array(coo_array((np.ones(len(below)), (above[below], below)), (count, count)))
    walk = depth_first_order(family, root, return_predecessors=False)
    at = np.empty(count, np.int64)
    at[walk] = np.arange(count)
    parent = np.asarray(above, np.int64).copy()
    parent[root] = root
    by = np.lexsort((at, parent))
    by = by[by != root]
    sibling = np.full(count, -1, np.int64)
    same = parent[by[1:]] == parent[by[:-1]]
    sibling[by[:-1][same]] = by[1:][same]
    jump = np.where(sibling >= 0, np.arange(count), parent)
    while True:
        farther = jump[jump]
        if (farther == jump).all():
            break
        jump = farther
    ahead = sibling[jump]
    return at, np.where(ahead >= 0, at[np.maximum(ahead, 0)], count)


Found = tuple[tuple[int, ...], float]


def _one(tree: _Tree, limit: float) -> Found | None:
    """The most even cut of one edge."""
    bridges = np.flatnonzero((tree.number == 0) & (tree.upto > 0))
    light = np.minimum(tree.below[bridges], tree.whole - tree.below[bridges])
    if not len(light) or light.max() <= limit:
        return None
    return (int(bridges[np.argmax(light)]),), float(light.max())


def _classes(tree: _Tree) -> tuple[Index, Index, Array]:
    """Edges, class and place on its ring of each that forms cuts of two with others of its class.

    The edges of a class lie on one ring, in the order of the weight round it.
    """
    edges = np.flatnonzero(tree.number != 0)
    _, group, counts = np.unique(tree.number[edges], return_inverse=True, return_counts=True)
    several = counts[group] > 1
    edges = edges[several]
    group = np.unique(group[several], return_inverse=True)[1]
    place = np.zeros(len(edges))
    last = np.full(int(group.max()) + 1 if len(group) else 0, -1, np.int64)
    np.maximum.at(last, group, tree.first[edges])
    twig = tree.upto[edges] > 0
    deepest = last[group]
    one_chain = (tree.first[edges] <= deepest) & (deepest < tree.upto[edges])
    place[twig] = np.where(one_chain, tree.below[edges], tree.whole - tree.below[edges])[twig]
    return edges, group, place


def _two(tree: _Tree, limit: float) -> Found | None:
    """The most even cut of two edges."""
    edges, group, place = _classes(tree)
    if not len(edges):
        return None
    order = np.lexsort((place, group))
    edges, group, place = edges[order], group[order], place[order]
    span = 4.0 * tree.whole
    begin = np.searchsorted(group, np.arange(int(group.max()) + 1))
    upto = np.append(begin[1:], len(group))[group] - 1
    opposite = np.searchsorted(group * span + place, group * span + place + tree.whole / 2)
    best: Found | None = None
    for shift in (-1, 0):
        other = np.clip(opposite + shift, begin[group], upto)
        apart = place[other] - place
        light = np.minimum(apart, tree.whole - apart)
        nth = int(np.argmax(light))
        if light[nth] > limit and (best is None or light[nth] > best[1]):
            best = (int(edges[nth]), int(edges[other[nth]])), float(light[nth])
    return best


def _three(tree: _Tree, limit: float) -> tuple[tuple[int, ...] | None, float, bool]:
    """The most even cut of three edges of three classes, and whether all were asked."""
    edges, group, place = _classes(tree)
    _, kept = np.unique(tree.number, return_index=True)
    kept = kept[tree.number[kept] != 0]
    numbers = tree.number[kept]  # sorted
    light = np.minimum(tree.below, tree.whole - tree.below)
    slack = _slack(tree, edges, group, place)
    heavy = np.flatnonzero(light[kept] >= (limit - 3 * slack) / 3)
    heavy = heavy[tree.upto[kept[heavy]] > 0]
    heavy = heavy[np.argsort(-light[kept[heavy]])]
    asked = heavy[: max(MOST_ASKED // max(len(kept), 1), 1)]
    low, high = np.zeros(LOW + 1, bool), np.zeros(1 << (63 - HIGH), bool)
    low[numbers & LOW] = True
    high[numbers >> HIGH] = True
    triples = []
    for one in asked.tolist():
        wanted = numbers ^ numbers[one]
        likely = np.flatnonzero(low[wanted & LOW])
        likely = likely[high[wanted[likely] >> HIGH]]
        spot = np.minimum(np.searchsorted(numbers, wanted[likely]), len(numbers) - 1)
        hit = numbers[spot] == wanted[likely]
        other, third = likely[hit], spot[hit]
        real = other < third
        triples += [(one, b, c) for b, c in zip(other[real].tolist(), third[real].tolist(), strict=True)]
    whole = len(asked) == len(heavy)
    if not triples:
        return None, 0.0, whole
    members = _extremes(tree, kept, edges, group, place)
    chosen = members[np.array(triples)]  # (k, 3, 2)
    combos = np.stack([chosen[:, [0, 1, 2], [a, b, c]] for a in (0, 1) for b in (0, 1) for c in (0, 1)], axis=1)
    parted = tree.light(combos.reshape(-1, 3)).reshape(-1, 8).max(axis=1)
    best: Found = (), 0.0
    for nth in np.argsort(-parted)[:MOST_TRIED].tolist():
        found = _most_even(tree, kept[list(triples[nth])])
        best = max(best, found, key=lambda one: one[1])
    return (best[0] if best[1] > limit else None), best[1], whole


def _most_even(tree: _Tree, edges: Index) -> Found:
    """The most even cut of three edges, one of each of three classes."""
    members = [np.flatnonzero(tree.number == tree.number[edge]) for edge in edges.tolist()]
    chosen = [each[np.linspace(0, len(each) - 1, min(len(each), MOST_OF_CLASS)).astype(np.int64)] for each in members]
    for _ in range(
        2
    ):  # where a class is too large to be tried whole, first a grid of it, then what lies beside the best
        every = np.stack(np.meshgrid(*chosen, indexing="ij"), axis=-1).reshape(-1, 3)
        light = tree.light(every)
        nth = int(np.argmax(light))
        best = tuple(every[nth].tolist()), float(light[nth])
        spots = [int(np.searchsorted(each, edge)) for each, edge in zip(members, best[0], strict=True)]
        reach = MOST_OF_CLASS // 2
        chosen = [each[max(spot - reach, 0) : spot + reach] for each, spot in zip(members, spots, strict=True)]
    return best


def _slack(tree: _Tree, edges: Index, group: Index, place: Array) -> float:
    """How much weight lies between the edges of a class at most, the heaviest part of its ring left out."""
    if not len(edges):
        return 0.0
    order = np.lexsort((place, group))
    gap, begin, _ = _gaps(group[order], place[order], tree.whole)
    return float((tree.whole - np.maximum.reduceat(gap, begin)).max())


def _gaps(group: Index, place: Array, whole: float) -> tuple[Array, Index, Index]:
    """Weight between each edge and the next on the ring of its class, and the first and last edge of each class.

    group, place: of edges, sorted by both.
    """
    begin = np.searchsorted(group, np.arange(int(group.max()) + 1))
    last = np.append(begin[1:], len(group)) - 1
    gap = np.diff(place, append=0.0)
    gap[last] = place[begin] + whole - place[last]
    return gap, begin, last


def _extremes(tree: _Tree, kept: Index, edges: Index, group: Index, place: Array) -> Index:
    """(k, 2) of each class kept its two edges on either side of the heaviest part of its ring."""
    found = np.stack([kept, kept], axis=1)
    if not len(edges):
        return found
    order = np.lexsort((place, group))
    edges, group, place = edges[order], group[order], place[order]
    gap, begin, last = _gaps(group, place, tree.whole)
    onward = np.arange(len(edges)) + 1
    onward[last] = begin
    widest = np.lexsort((-gap, group))[begin]  # of each class
    at = np.searchsorted(tree.number[kept], tree.number[edges[begin]])
    found[at] = np.stack([edges[widest], edges[onward[widest]]], axis=1)
    return found
