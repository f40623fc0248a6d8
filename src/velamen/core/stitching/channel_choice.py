"""Which stretches of a net are sewn, so that every channel keeps an open end; and the one thread along them.

Sides are taken by turns first; then single stretches, pairs and whole rows of turns are changed while that leaves
fewer channels closed, fewer threads, less sewn twice.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from velamen.core.stitching.channel_net import EDGE, LINE, Net

CLOSED, AREA, THREAD = 4000.0, 20.0, 1500.0  # what a closed channel costs, a mm² of it, and a thread more
SWEEPS, MOST = 8, 400  # rounds of changes, and changes tried slowly
JOINS = 12  # stretches tried between what lies apart
Sewn = frozenset[int]


@dataclass(frozen=True)
class Walk:
    """One thread: stretches by number and whether they are sewn from their second end, in order."""

    stretches: tuple[tuple[int, bool], ...]


def chosen(net: Net) -> Sewn:
    """The edges and ways that are sewn, by number."""
    costs = _Costs(net)
    moves = _moves(net)
    best = min((_settled(costs, moves, _by_turns(net, first)) for first in (False, True)), key=costs.of)
    for nth in costs.joining(best)[:JOINS]:  # what lies apart is led together, and all is settled anew
        tried = _settled(costs, moves, best ^ {nth})
        best = min(best, tried, key=costs.of)
    return best


def _settled(costs: _Costs, moves: list[Sewn], best: Sewn) -> Sewn:
    """A choice changed for the better until no change is."""
    worth, costs.tried = costs.of(best), 0
    for _ in range(SWEEPS):
        before = worth
        for move in moves:
            tried = best ^ move
            if costs.at_least(tried) < worth - 1e-6 and (now := costs.of(tried)) < worth - 1e-6:
                best, worth = tried, now
            if costs.tried >= MOST:
                return best
        if worth >= before - 1e-6:
            break
    return best


def walks(net: Net, sewn: Sewn) -> list[Walk]:
    """Threads along all lines and what is sewn between them, as few as can be; some is sewn twice where it must."""
    return [_walked(net, part) for part in _Threads(net, sewn).parts()]


class _Costs:
    """What choices cost: quickly what they cost at least, and slowly with what is sewn twice, each once."""

    def __init__(self, net: Net) -> None:
        self.net = net
        self.known: dict[Sewn, float] = {}
        self.tried = 0
        self.line = self._lines()  # by node
        self.opens = [frozenset(one) for one in net.channels]
        self.length = [one.length for one in net.stretches]

    def _lines(self) -> list[int]:
        """Which line each node is on; nodes of one line go together whatever is sewn."""
        root = list(range(len(self.net.nodes)))
        for one in self.net.stretches:
            if one.kind == LINE:
                low, high = sorted((_root(root, one.ends[0]), _root(root, one.ends[1])))
                root[high] = low
        return [_root(root, node) for node in range(len(root))]

    def at_least(self, sewn: Sewn) -> float:
        """Without what is sewn twice."""
        cost = THREAD * (self._together(sewn)[1] - 1) + sum([self.length[nth] for nth in sewn])
        return cost + sum([CLOSED + AREA * area for opens, area in zip(self.opens, self.net.areas, strict=True)
                           if opens <= sewn])  # fmt: skip

    def _together(self, sewn: Sewn) -> tuple[list[int], int]:
        """The root of every line once some stretches are sewn, and how many parts that leaves."""
        root, parts = list(range(len(self.line))), len(set(self.line))
        for nth in sewn:
            one, other = (_root(root, self.line[node]) for node in self.net.stretches[nth].ends)
            if one != other:
                root[one] = other
                parts -= 1
        return root, parts

    def joining(self, sewn: Sewn) -> list[int]:
        """Stretches between what lies apart, the shortest first."""
        root, _ = self._together(sewn)
        apart = [nth for nth, one in enumerate(self.net.stretches) if one.kind != LINE and nth not in sewn
                 and _root(root, self.line[one.ends[0]]) != _root(root, self.line[one.ends[1]])]  # fmt: skip
        return sorted(apart, key=self.length.__getitem__)

    def of(self, sewn: Sewn) -> float:
        """All of it."""
        if sewn not in self.known:
            self.tried += 1
            twice = [self.length[nth] for part in _Threads(self.net, sewn).parts() for nth in part.twice]
            self.known[sewn] = self.at_least(sewn) + sum(twice)
        return self.known[sewn]


def _root(root: list[int], one: int) -> int:
    while root[one] != one:
        root[one] = root[root[one]]
        one = root[one]
    return one


def _by_turns(net: Net, first: bool) -> Sewn:
    """From line to line on one side and the other by turns; of several stretches of a strip the outermost."""
    strips: dict[int, list[int]] = {}
    levels = np.round(net.nodes[:, 1], 3)
    for nth, one in enumerate(net.stretches):
        if one.kind == EDGE and levels[one.ends[0]] != levels[one.ends[1]]:
            strips.setdefault(one.strip, []).append(nth)
    side = {nth: float(net.stretches[nth].line[:, 0].mean()) for every in strips.values() for nth in every}
    return frozenset((max if (strip % 2 == 0) == first else min)(every, key=side.__getitem__)
                     for strip, every in strips.items())  # fmt: skip


def _moves(net: Net) -> list[Sewn]:
    """What may be turned round at once: a stretch, two of one strip or channel, all of a strip, all strips from one
    on."""
    strips: dict[int, list[int]] = {}
    for nth, one in enumerate(net.stretches):
        if one.kind != LINE:
            strips.setdefault(one.strip, []).append(nth)
    ordered = [strips[strip] for strip in sorted(strips)]
    moves = [frozenset([nth]) for strip in ordered for nth in strip]
    moves += [frozenset(pair) for group in (*ordered, *net.channels) for pair in combinations(group, 2)]
    moves += [frozenset(strip) for strip in ordered if len(strip) > 2]
    later: set[int] = set()
    for strip in ordered[::-1]:
        later |= set(strip)
        moves.append(frozenset(later))
    return list(dict.fromkeys(moves))


@dataclass(frozen=True)
class _Part:
    """What hangs together: its stretches, those of them sewn twice, and the nodes it begins and ends at."""

    stretches: tuple[int, ...]
    twice: frozenset[int]
    ends: tuple[int, int]


class _Threads:
    """The parts of a choice, each made so that one thread comes through it."""

    def __init__(self, net: Net, sewn: Sewn) -> None:
        self.net = net
        self.used = [nth for nth, one in enumerate(net.stretches) if one.kind == LINE or nth in sewn]
        self.length = {nth: net.stretches[nth].length for nth in self.used}

    def parts(self) -> list[_Part]:
        """A spanning tree of the shortest stretches; where an odd number meets, tree stretches are sewn twice."""
        root = list(range(len(self.net.nodes)))
        tree: dict[int, list[tuple[int, int]]] = {}
        odd = [False] * len(root)
        for nth in sorted(self.used, key=lambda nth: (self.length[nth], nth)):
            one, other = self.net.stretches[nth].ends
            odd[one], odd[other] = not odd[one], not odd[other]
            if _root(root, one) != _root(root, other):
                root[_root(root, one)] = _root(root, other)
                tree.setdefault(one, []).append((other, nth))
                tree.setdefault(other, []).append((one, nth))
        mine: dict[int, list[int]] = {}
        for nth in self.used:
            mine.setdefault(_root(root, self.net.stretches[nth].ends[0]), []).append(nth)
        return [self._part(tree, odd, every) for every in mine.values()]

    def _part(self, tree: dict[int, list[tuple[int, int]]], odd: list[bool], every: list[int]) -> _Part:
        begin = self.net.stretches[every[0]].ends[0]
        order, above = [begin], {begin: (-1, -1)}
        for node in order:
            for other, nth in tree.get(node, []):
                if other not in above:
                    above[other] = (node, nth)
                    order.append(other)
        uneven = {node for node in order if odd[node]}
        twice: set[int] = set()
        for node in order[:0:-1]:
            up, nth = above[node]
            if node in uneven:
                twice.add(nth)
                uneven ^= {node, up}
        return self._opened(order, above, every, twice)

    def _opened(
        self, order: list[int], above: dict[int, tuple[int, int]], every: list[int], twice: set[int]
    ) -> _Part:
        """With the two ends of the thread set free where most is saved: along a way of the tree, all turned round."""
        best, ends = 0.0, (order[0], order[0])
        most: dict[int, tuple[float, int]] = {node: (0.0, node) for node in order}
        for node in order[:0:-1]:
            up, nth = above[node]
            gain = most[node][0] + (self.length[nth] if nth in twice else -self.length[nth])
            if most[up][0] + gain > best + 1e-9:
                best, ends = most[up][0] + gain, (most[up][1], most[node][1])
            if gain > most[up][0]:
                most[up] = gain, most[node][1]
        for node in ends:
            while above[node][1] >= 0:
                twice ^= {above[node][1]}
                node = above[node][0]
        return _Part(tuple(every), frozenset(twice), ends)


def _walked(net: Net, part: _Part) -> Walk:
    """One way along all stretches of a part, some of them twice (Hierholzer)."""
    left: dict[int, list[tuple[int, int]]] = {}
    for copy, nth in [(0, nth) for nth in part.stretches] + [(1, nth) for nth in part.twice]:
        one, other = net.stretches[nth].ends
        left.setdefault(one, []).append((nth, copy))
        left.setdefault(other, []).append((nth, copy))
    gone: set[tuple[int, int]] = set()
    stack: list[tuple[int, int]] = [(part.ends[0], -1)]
    found: list[tuple[int, bool]] = []
    while stack:
        node, by = stack[-1]
        ways = left.get(node, [])
        while ways and ways[-1] in gone:
            ways.pop()
        if ways:
            nth, copy = ways.pop()
            gone.add((nth, copy))
            one, other = net.stretches[nth].ends
            stack.append((other if node == one else one, nth))
        else:
            stack.pop()
            if by >= 0:
                found.append((by, net.stretches[by].ends[0] != node))
    return Walk(tuple(found))
