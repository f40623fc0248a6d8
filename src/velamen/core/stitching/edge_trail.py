"""One way over all rows of an open ground, from row to row along its edges alone.

Rows are the edges of a graph whose nodes are their ends; stretches of the outline between neighbouring ends may be
gone along too. A way over all rows without a jump is a trail through that graph (Euler, 1736) once every node but the
first and the last meets an even number of what is gone along.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise, product
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index

ENDS = 8  # tried for the shortest way, beside those of the first and the last row


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
        gap[after == np.arange(len(after))] = np.inf
        return after, gap


def trails(ends: Ends, start: int | None, longest: float) -> list[list[Step]]:
    """Ways over all rows, one for each part that no stretch of outline of up to `longest` mm joins to the others.

    start: the end of a row at which the first begins.
    """
    size = 2 * len(ends.length)
    after, gap = ends.onward()
    twice = _retraced(ends)
    pairing = _Pairing(ends, twice)
    corners = [0, 1, size - 2, size - 1]
    best: tuple[float, Index, list[int], int] | None = None
    for one in [start] if start is not None else [0, size - 1]:
        # It ends on the outline where it begins, or where it began: elsewhere an end would be left over.
        mine = np.flatnonzero(ends.ring == ends.ring[one])
        even = mine[np.linspace(0, len(mine) - 1, min(len(mine), ENDS)).astype(int)].tolist()
        for other in dict.fromkeys([*corners, *even, one]):
            for partner, far in pairing.tries(one, other):
                if best is None or far < best[0]:
                    joined, more = _joined(ends, partner, after, gap, longest)
                    if best is None or far + more < best[0]:
                        best = far + more, partner, joined, one
    if best is None:
        raise AssertionError("an end is left over on every try: rows end in pairs")
    return _walked(best[1], best[2], after, twice, best[3])


def _retraced(ends: Ends) -> list[int]:
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


class _Pairing:
    """Ends on each outline paired with their neighbours, the shorter of the two ways to do so."""

    def __init__(self, ends: Ends, twice: Sequence[int]) -> None:
        self._ends = ends
        free = np.ones(len(ends.ring), dtype=bool)
        for row in twice:  # their ends are even by that
            free[[2 * row, 2 * row + 1]] = False
        order = np.flatnonzero(free)
        order = order[np.lexsort((ends.place[order], ends.ring[order]))]
        bounds = np.searchsorted(ends.ring[order], np.arange(len(ends.around) + 1))
        self._free, self._mine = free, [order[low:high] for low, high in pairwise(bounds.tolist())]
        self._partner = np.full(len(ends.ring), -1)
        self._far = np.zeros(len(ends.around))
        for ring, mine in enumerate(self._mine):
            far, one, other = min(self._ways(mine), key=lambda way: way[0])
            self._partner[one], self._far[ring] = other, far

    def tries(self, one: int, other: int) -> Iterator[tuple[Index, float]]:
        """Partners of all ends by where the stretch to them begins, -1 for none, and mm of all stretches.

        one, other: where the way begins and ends; none where an end is left over.
        """
        apart = [node for node in dict.fromkeys([one, other]) if one != other]
        rings = list(dict.fromkeys(int(self._ends.ring[node]) for node in apart))
        options = []
        for ring in rings:
            mine = self._mine[ring]
            mine = mine[~np.isin(mine, apart)]
            away = [node for node in apart if self._ends.ring[node] == ring and not self._free[node]]
            if away:  # even by being gone along twice: now odd
                mine = np.append(mine, away)
                mine = mine[np.argsort(self._ends.place[mine], kind="stable")]
            if len(mine) % 2:
                return
            options.append(self._ways(mine))
        rest = float(self._far.sum() - self._far[rings].sum())
        for ways in product(*options):
            partner = self._partner.copy()
            for ring, (_, begin, end) in zip(rings, ways, strict=True):
                partner[self._mine[ring]] = -1
                partner[begin] = end
            yield partner, rest + sum(far for far, _, _ in ways)

    def _ways(self, mine: Index) -> list[tuple[float, Index, Index]]:
        if len(mine) == 0:
            return [(0.0, mine, mine)]
        around = float(self._ends.around[self._ends.ring[mine[0]]])
        pairs = [(mine[::2], mine[1::2]), (mine[1::2], np.roll(mine, -1)[1::2])]
        return [(float(np.mod(self._ends.place[b] - self._ends.place[a], around).sum()), a, b) for a, b in pairs]


def _joined(ends: Ends, partner: Index, after: Index, gap: Array, longest: float) -> tuple[list[int], float]:
    """Ends from which the stretch to the next is gone along twice, to join what hangs apart; mm they take."""
    part = _hanging_together(partner)
    count = int(part.max()) + 1
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


def _hanging_together(partner: Index) -> Index:
    """The part that each end belongs to: ends hang together by rows and by stretches of outline."""
    mate = partner.copy()
    begins = np.flatnonzero(partner >= 0)
    mate[partner[begins]] = begins
    mates, part = mate.tolist(), [-1] * len(partner)
    count = 0
    for first in range(0, len(part), 2):
        if part[first] >= 0:
            continue
        part[first] = part[first + 1] = count
        stack = [first, first + 1]
        while stack:
            onward = mates[stack.pop()]
            if onward >= 0 and part[onward] < 0:
                part[onward] = part[onward ^ 1] = count  # a row's other end is the number beside
                stack.append(onward ^ 1)
        count += 1
    return np.array(part)


def _walked(partner: Index, joined: list[int], after: Index, twice: Sequence[int], start: int) -> list[list[Step]]:
    """The trails through what is gone along (Hierholzer, 1873)."""
    steps = [Step(row, 2 * row, 2 * row + 1, True) for row in [*range(len(partner) // 2), *twice]]
    steps += [Step(-1, node, int(partner[node]), True) for node in np.flatnonzero(partner >= 0).tolist()]
    steps += [Step(-1, node, int(after[node]), True) for node in joined for _ in (0, 1)]
    at: list[list[int]] = [[] for _ in partner]
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
