"""One way over all rows of an open ground, from row to row along its edges alone.

Rows are the edges of a graph whose nodes are their ends; stretches of the outline between neighbouring ends may be
gone along too. A way over all rows without a jump is a trail through that graph (Euler, 1736) once every node but the
first and the last meets an even number of what is gone along.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from velamen.core.arrays import Array, Index

STARTS, ENDS = 4, 10  # tried for the shortest way


class Step(NamedTuple):
    """A row gone along, or a stretch of an outline from one row's end to the next that lies beside it."""

    row: int  # -1 for an outline
    one: int  # node: twice the row's number, one more for its right end
    other: int
    up: bool  # of an outline: along its points, not against them


@dataclass(frozen=True)
class Ends:
    """Ends of rows (2m,) on outlines: the left and the right one of each row in turn.

    length: (m,) of the rows; ring, place: (2m,) the outline of each end and mm along it; around: (r,) mm round each.
    """

    length: Array
    ring: Index
    place: Array
    around: Array

    def onward(self) -> tuple[Index, Array]:
        """For every end the one that follows it on its outline, and how far off that is."""
        order = np.lexsort((self.place, self.ring))
        ring = self.ring[order]
        last = np.append(ring[1:] != ring[:-1], True)
        first = np.flatnonzero(np.append(True, last[:-1]))
        follows = np.append(order[1:], order[0])
        follows[last] = order[first]
        after = np.empty(len(order), dtype=np.int64)
        after[order] = follows
        gap = np.mod(self.place[after] - self.place, self.around[self.ring])
        gap[(after == np.arange(len(after))) | ((gap == 0) & (np.bincount(self.ring)[self.ring] == 1))] = np.inf
        return after, gap


def trails(ends: Ends, start: int | None, longest: float) -> list[list[Step]]:
    """Ways over all rows, one for each part that no stretch of outline of up to `longest` mm joins to the others.

    start: the end of a row at which the first begins.
    """
    size = 2 * len(ends.length)
    after, gap = ends.onward()
    twice = _retraced(ends, start)
    best: tuple[float, list[tuple[int, int]], list[int], int] | None = None
    corners = list(dict.fromkeys([0, 1, size - 2, size - 1]))
    even = np.linspace(0, size - 1, min(size, ENDS)).astype(int).tolist()
    for one in [start] if start is not None else corners[:STARTS]:
        for other in dict.fromkeys([*corners, *even]):
            if one == other:
                continue
            found = _paired(ends, {one, other}, twice)
            for pairs, far in found:
                joined, more = _joined(ends, pairs, after, gap, longest)
                if best is None or far + more < best[0]:
                    best = far + more, pairs, joined, one
    if best is None:
        raise AssertionError("two ends are left over on every try")  # the rows' ends are even in number
    return _walked(ends, best[1], best[2], after, twice, best[3])


def _retraced(ends: Ends, start: int | None) -> list[int]:
    """Rows to sew twice, so that each outline has an even number of ends to pair: out of a shortest tree of them."""
    one, other = ends.ring[::2], ends.ring[1::2]
    count = np.bincount(ends.ring, minlength=len(ends.around)) % 2
    odd = np.flatnonzero(count)
    if len(odd) == 0:
        return []
    between = np.flatnonzero(one != other)
    order = between[np.argsort(ends.length[between], kind="stable")]
    group = list(range(len(ends.around)))

    def top(at: int) -> int:
        while group[at] != at:
            group[at] = group[group[at]]
            at = group[at]
        return at

    near: dict[int, list[tuple[int, int]]] = {}
    for row in order.tolist():
        a, b = int(one[row]), int(other[row])
        if top(a) != top(b):
            group[top(a)] = top(b)
            near.setdefault(a, []).append((b, row))
            near.setdefault(b, []).append((a, row))
    return _towards_root(near, count.tolist())


def _towards_root(near: dict[int, list[tuple[int, int]]], odd: list[int]) -> list[int]:
    """Rows of a tree of outlines below which an odd number of odd outlines hang."""
    found: list[int] = []
    seen: set[int] = set()
    for root in near:
        if root in seen:
            continue
        seen.add(root)
        order, came, stack = [], {root: (-1, -1)}, [root]
        while stack:
            at = stack.pop()
            order.append(at)
            for onward, row in near[at]:
                if onward not in seen:
                    seen.add(onward)
                    came[onward] = (at, row)
                    stack.append(onward)
        parity = {at: odd[at] for at in order}
        for at in reversed(order[1:]):
            if parity[at] % 2:
                found.append(came[at][1])
                parity[came[at][0]] += 1
    return found


def _paired(ends: Ends, apart: set[int], twice: Sequence[int]) -> list[tuple[list[tuple[int, int]], float]]:
    """Ways to pair the ends on each outline with their neighbours, none where one is left over, and mm they take.

    apart: ends where the way begins and ends; twice: rows gone along twice, whose ends are even by that.
    """
    free = np.ones(len(ends.ring), dtype=bool)
    for node in [*apart, *(2 * row for row in twice), *(2 * row + 1 for row in twice)]:
        free[node] = not free[node]
    order = np.flatnonzero(free)
    order = order[np.lexsort((ends.place[order], ends.ring[order]))]
    bounds = np.flatnonzero(np.diff(ends.ring[order], prepend=-1, append=-1))
    if (np.diff(bounds) % 2).any():
        return []
    largest = int(np.argmax(np.diff(bounds))) if len(bounds) > 1 else -1
    found: list[tuple[list[tuple[int, int]], float]] = []
    for swapped in (False, True) if largest >= 0 else (False,):
        pairs: list[tuple[int, int]] = []
        total = 0.0
        for nth, (low, high) in enumerate(zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True)):
            mine = order[low:high]
            ways = [(mine[::2], mine[1::2]), (mine[1::2], np.roll(mine, -1)[1::2])]
            far = [
                float(np.mod(ends.place[b] - ends.place[a], ends.around[ends.ring[mine[0]]]).sum()) for a, b in ways
            ]
            choice = int(far[1] < far[0]) ^ (swapped and nth == largest)
            pairs += zip(ways[choice][0].tolist(), ways[choice][1].tolist(), strict=True)
            total += far[choice]
        found.append((pairs, total))
    return found


def _joined(
    ends: Ends, pairs: list[tuple[int, int]], after: Index, gap: Array, longest: float
) -> tuple[list[int], float]:
    """Ends from which the stretch to the next is gone along twice, to join what hangs apart; mm they take."""
    size = len(ends.ring)
    rows = np.arange(0, size, 2)
    one = np.concatenate([rows, np.array([a for a, _ in pairs], dtype=np.int64)])
    other = np.concatenate([rows + 1, np.array([b for _, b in pairs], dtype=np.int64)])
    graph = sparse.coo_matrix((np.ones(len(one)), (one, other)), shape=(size, size))
    count, part = sparse.csgraph.connected_components(graph, directed=False)
    if count == 1:
        return [], 0.0
    cuts = np.flatnonzero((part != part[after]) & (gap <= longest))
    cuts = cuts[np.argsort(gap[cuts], kind="stable")]
    group = np.arange(count)
    found: list[int] = []
    for node in cuts.tolist():
        a, b = group[part[node]], group[part[after[node]]]
        if a != b:
            group[group == b] = a
            found.append(node)
    left = len(np.unique(group)) - 1
    return found, 2.0 * float(gap[found].sum()) + 2.0 * left * min(longest, float(ends.around.sum()))


def _walked(
    ends: Ends, pairs: list[tuple[int, int]], joined: list[int], after: Index, twice: Sequence[int], start: int
) -> list[list[Step]]:
    """The trails through what is gone along (Hierholzer, 1873)."""
    steps = [Step(row, 2 * row, 2 * row + 1, True) for row in [*range(len(ends.length)), *twice]]
    steps += [Step(-1, a, b, True) for a, b in pairs]
    steps += [Step(-1, node, int(after[node]), True) for node in joined for _ in (0, 1)]
    at: list[list[int]] = [[] for _ in ends.ring]
    for nth, step in enumerate(steps):
        at[step.one].append(nth)
        at[step.other].append(nth)
    used: NDArray[np.bool_] = np.zeros(len(steps), dtype=bool)
    odd = [node for node, mine in enumerate(at) if len(mine) % 2]
    begins = [start, *(node for node in odd if node != start), *range(len(at))]
    found = []
    for begin in begins:
        if all(used[nth] for nth in at[begin]):
            continue
        trail: list[Step] = []
        stack: list[tuple[int, Step | None]] = [(begin, None)]
        while stack:
            node, came = stack[-1]
            while at[node] and used[at[node][-1]]:
                at[node].pop()
            if not at[node]:
                stack.pop()
                if came is not None:
                    trail.append(came)
                continue
            nth = at[node].pop()
            used[nth] = True
            step = steps[nth]
            if step.one != node:
                step = Step(step.row, step.other, step.one, not step.up)
            stack.append((step.other, step))
        found.append(trail[::-1])
    return [one for one in found if any(step.row >= 0 for step in one)]
