"""The order in which sections of a closed fill are sewn so that every way on lies under rows sewn later.

Sections touch at their ends only. They are hung into a tree under the one that is sewn last; each is sewn from its
far end towards its parent, after all that hang on it. So the thread always steps into a section that is still bare,
and passes through bare ones alone on its way to the next.
"""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from scipy.spatial import KDTree

from velamen.core.arrays import Array
from velamen.core.stitching.row_joins import Join
from velamen.core.stitching.rows import Rows, Sections
from velamen.core.stitching.section_order import End, Leg, divided_after

STICKS_OUT = 2.0  # times as bad as a way through bare rows is one along a row sewn from both of its ends
EITHER_WAY = 0.2  # of that, for which a touch is passed over though it is stepped over the other way
ROOTS = 16  # sections tried as the last one


class Touch(NamedTuple):
    """Where two sections touch, seen from one of them."""

    end: int  # its own end
    other: int
    at: int  # the other's end
    out: float  # mm that it must go along its own last row before it can step over
    back: float  # the same of the other


@dataclass
class Tree:
    """Sections hung under one that is sewn last."""

    order: list[int]  # each after its parent
    parent: list[int]  # -1 for the root
    gate: list[int]  # the end that is sewn last
    hangs: list[int]  # the parent's end that it touches
    children: list[list[int]]

    def after(self, section: int, first: int, arrives: int) -> list[int]:
        """Children in the order they are sewn: one given first, those at its end, then those at the other."""
        mine = self.children[section]
        begin = [first] if first >= 0 else []
        here = [one for one in mine if one != first and self.hangs[one] == arrives]
        return begin + here + [one for one in mine if one != first and self.hangs[one] != arrives]


def joined_at_ends(rows: Rows, sections: Sections, ways: Sequence[Join]) -> Sections:
    """Sections divided where a join begins or ends inside one, so that all touch at their ends."""
    for nth in sorted({stretch for way in ways for stretch in (way.one, way.other)}):
        sections = divided_after(sections, nth)
    return sections


def end_near(rows: Rows, sections: Sections, place: Array) -> End:
    """The end of a section nearest to a place, along and across."""
    count = len(sections.top)
    stretch = np.stack([sections.top, sections.bottom], axis=1).ravel()
    x = np.clip(place[0], rows.left[stretch], rows.right[stretch])
    nth = int(np.argmin(np.hypot(x - place[0], rows.across[stretch] - place[1])))
    return divmod(nth, 2) if count else (0, 0)


def hidden_routes(
    rows: Rows, sections: Sections, ways: Sequence[Join], begin: End | None, last: End | None
) -> list[list[Leg]]:
    """Sections in sewing order, all travel between them under what is sewn later; a list for each part.

    begin: the end of a section where the thread comes in; last: the end at which sewing is to end. Parts of
    neither come from the smallest on, so that ways between parts lie under the large ones.
    """
    touches = _touches(rows, sections, ways)
    size = (np.bincount(sections.section) * rows.spacing).tolist()
    found = []
    parts = sorted(_parts(touches), key=lambda part: sum(size[one] for one in part))
    parts.sort(key=lambda part: (begin is None or begin[0] not in part, last is not None and last[0] in part))
    for nth, part in enumerate(parts):
        mine = set(part)
        enters = begin if begin is not None and begin[0] in mine else None
        if last is not None and last[0] in mine:
            ends: End | None = last
        else:
            ends = _end_towards(rows, sections, part, parts[nth + 1]) if nth + 1 < len(parts) else None
        found.append(_legs(*_best(part, touches, size, enters, ends), enters))
    return found


def _end_towards(rows: Rows, sections: Sections, part: list[int], other: list[int]) -> End:
    """The end of a part's sections that lies nearest to another part, so that the way on to that is short."""
    there = np.flatnonzero(np.isin(sections.section, other))
    places = [np.stack([side[there], rows.across[there]], axis=1) for side in (rows.left, rows.right)]
    tree = KDTree(np.concatenate(places))
    ends = [(one, end) for one in part for end in (0, 1)]
    nth = np.array([(sections.top, sections.bottom)[end][one] for one, end in ends])
    off = [tree.query(np.stack([side[nth], rows.across[nth]], axis=1))[0] for side in (rows.left, rows.right)]
    return ends[int(np.argmin(np.minimum(*off)))]


def _touches(rows: Rows, sections: Sections, ways: Sequence[Join]) -> list[list[Touch]]:
    """For every section where others touch it, the best ones to step over to first."""
    near: list[list[Touch]] = [[] for _ in sections.top]
    ordered: list[tuple[float, tuple[int, int, float], tuple[int, int, float]]] = []
    above, below = sections.gates.reshape(-1, 2).T
    for one, other, a, b in zip(
        above.tolist(),
        below.tolist(),
        sections.section[above].tolist(),
        sections.section[below].tolist(),
        strict=True,
    ):
        down, up = _out(rows, one, other), _out(rows, other, one)
        wide = min(rows.right[one], rows.right[other]) - max(rows.left[one], rows.left[other])
        ordered.append((min(down, up) - 1e-3 * float(wide), (a, 1, down), (b, 0, up)))
    for way in ways:
        a, b = int(sections.section[way.one]), int(sections.section[way.other])
        far = len(way.path) * rows.spacing
        ordered.append(
            (1e6 + far, (a, int(way.one != sections.top[a]), far), (b, int(way.other != sections.top[b]), far))
        )
    for _, (a, at_a, out_a), (b, at_b, out_b) in sorted(ordered):
        near[a].append(Touch(at_a, b, at_b, out_a, out_b))
        near[b].append(Touch(at_b, a, at_a, out_b, out_a))
    return near


def _out(rows: Rows, one: int, other: int) -> float:
    """mm from the end of a row, the better one, along it to where it lies beside another."""
    low, high = float(rows.left[other]), float(rows.right[other])
    return min(max(low - end, end - high, 0.0) for end in (float(rows.left[one]), float(rows.right[one])))


def _parts(touches: list[list[Touch]]) -> Iterator[list[int]]:
    """Sections that hang together."""
    left = dict.fromkeys(range(len(touches)))
    while left:
        part, queue = [], [left.popitem()[0]]
        while queue:
            part.append(queue.pop())
            for touch in touches[part[-1]]:
                if touch.other in left:
                    del left[touch.other]
                    queue.append(touch.other)
        yield part


def _best(
    part: list[int], touches: list[list[Touch]], size: list[float], begin: End | None, last: End | None
) -> tuple[Tree, int]:
    """The tree with the shortest ways, and the section that is sewn first."""
    links = _links(part, touches)
    step = max(2 * len(part) // ROOTS, 1)
    hubs = sorted(part, key=lambda one: (-len(links[one]), -size[one], one))[: ROOTS // 2]
    roots = [last[0]] if last is not None else sorted({*part[::step], *hubs})
    from_begin = _far(begin, links, size) if begin is not None else {}
    found: tuple[float, int, int, int] | None = None
    for root in roots:
        tree, cost = _hung(root, links)
        for end in (0, 1) if last is None else (last[1],):
            tree.gate[root] = end
            first, gain = _first(tree, size, from_begin)
            if found is None or cost - gain < found[0] - 1e-9:
                found = cost - gain, root, end, first
    assert found is not None  # a part has a section
    tree, _ = _hung(found[1], links)
    tree.gate[found[1]] = found[2]
    return tree, found[3]


def _links(part: list[int], touches: list[list[Touch]]) -> dict[int, list[Touch]]:
    """The touches of a spanning tree: those over which the thread steps most easily either way (Kruskal, 1956)."""
    edges = sorted(
        (min(touch.out, touch.back) + EITHER_WAY * max(touch.out, touch.back), one, touch)
        for one in part for touch in touches[one] if one < touch.other
    )  # fmt: skip
    group = {one: one for one in part}

    def top(one: int) -> int:
        while group[one] != one:
            group[one] = group[group[one]]
            one = group[one]
        return one

    links: dict[int, list[Touch]] = {one: [] for one in part}
    for _, one, touch in edges:
        if top(one) != top(touch.other):
            group[top(one)] = top(touch.other)
            links[one].append(touch)
            links[touch.other].append(Touch(touch.at, one, touch.end, touch.back, touch.out))
    return links


def _hung(root: int, links: dict[int, list[Touch]]) -> tuple[Tree, float]:
    """The tree under a section that is sewn last, and what its steps along finished rows cost."""
    count = max(links) + 1
    tree = Tree([], [-1] * count, [0] * count, [0] * count, [[] for _ in range(count)])
    cost, queue = 0.0, [root]
    while queue:
        one = queue.pop()
        tree.order.append(one)
        for touch in links[one]:
            if touch.other == tree.parent[one]:
                continue
            tree.parent[touch.other], tree.gate[touch.other], tree.hangs[touch.other] = one, touch.at, touch.end
            tree.children[one].append(touch.other)
            cost += STICKS_OUT * touch.back
            queue.append(touch.other)
    return tree, cost


def _first(tree: Tree, size: list[float], from_begin: dict[End, float]) -> tuple[int, float]:
    """The section to sew first, and mm of ways that this saves against entering all through their gates."""
    best: dict[int, tuple[float, int]] = {}
    for one in reversed(tree.order):
        mine, gate = tree.children[one], tree.gate[one]
        if not mine:
            best[one] = size[one] - from_begin.get((one, 1 - gate), 0.0), one
            continue
        at_gate = sum(tree.hangs[child] == gate for child in mine)
        options = []
        for child in mine:
            back = 2.0 * size[one] if at_gate else 0.0  # to those at the gate and back again
            pays = size[one] if tree.hangs[child] == gate else back
            gain, leaf = best[child]
            options.append((gain + size[one] - pays, -leaf))
        gain, leaf = max(options)
        best[one] = gain, -leaf
    gain, leaf = best[tree.order[0]]
    return leaf, gain


def _far(begin: End, links: dict[int, list[Touch]], size: list[float]) -> dict[End, float]:
    """mm from one end of a section to all others through bare sections."""
    far: dict[End, float] = {}
    queue: list[tuple[float, End]] = [(0.0, begin)]
    while queue:
        off, at = heapq.heappop(queue)
        if at in far:
            continue
        far[at] = off
        section, end = at
        heapq.heappush(queue, (off + size[section], (section, 1 - end)))
        for touch in links[section]:
            if touch.end == end:
                heapq.heappush(queue, (off, (touch.other, touch.at)))
    return far


def _legs(tree: Tree, first: int, begin: End | None) -> list[Leg]:
    """Sections in sewing order, each from its far end, with the ends passed between them."""
    upward, one = {}, first
    while tree.parent[one] >= 0:
        upward[tree.parent[one]] = one
        one = tree.parent[one]
    root = one
    legs: list[Leg] = []
    here = begin
    for section in _after_children(tree, root, upward):
        start = section, 1 - tree.gate[section]
        way = () if here is None or here == start else tuple(_way(tree, here, start))
        legs.append(Leg(section, start[1], way))
        here = section, tree.gate[section]
    return legs


def _after_children(tree: Tree, root: int, upward: dict[int, int]) -> Iterator[int]:
    """Sections, each after those that hang on it; upward: the child by which the first thread comes to each."""

    def ordered(section: int) -> list[int]:
        first = upward.get(section, -1)
        return tree.after(section, first, tree.hangs[first] if first >= 0 else tree.gate[section])

    stack = [(root, iter(ordered(root)))]
    while stack:
        section, children = stack[-1]
        child = next(children, None)
        if child is None:
            stack.pop()
            yield section
        else:
            stack.append((child, iter(ordered(child))))


def _way(tree: Tree, here: End, there: End) -> list[End]:
    """The ends passed from one end of a section to another's, both included."""
    up, down = _to_root(tree, here[0]), _to_root(tree, there[0])
    while len(up) > 1 and len(down) > 1 and up[-2:] == down[-2:]:
        up.pop()
        down.pop()
    sections = up + down[-2::-1]
    way = [here]
    for one, other in pairwise(sections):
        rising = tree.parent[one] == other
        leaves = (one, tree.gate[one] if rising else tree.hangs[other])
        enters = (other, tree.hangs[one] if rising else tree.gate[other])
        way += [leaves] if way[-1] != leaves else []
        way.append(enters)
    return way if way[-1] == there else [*way, there]


def _to_root(tree: Tree, section: int) -> list[int]:
    path = [section]
    while tree.parent[path[-1]] >= 0:
        path.append(tree.parent[path[-1]])
    return path
