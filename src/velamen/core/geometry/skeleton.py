"""Strokes of a shape: its skeleton cut at the junctions, each stroke with the two walls it runs between."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index
from velamen.core.geometry.medial import Medial
from velamen.core.geometry.polyline import line_length

NOISE = 0.3  # mm by which the wall must go round farther than straight, for a branch to be more than shake
KEEP = 1.15  # radii by which a branch must reach out of the circle at its junction; tips under 55 degrees do
WIDE, WIDE_KEEP = 0.3, 0.35  # radii: a branch whose end is no point but that wide is kept when it reaches so far
SHORT = 0.7  # radii; junctions nearer than that are one
AHEAD = 1.2  # radii from a junction at which a branch's direction is taken
EVEN = 0.3  # what an equal width counts beside a straight course, where two branches go through a junction
ROUND = 8.0  # radii of wall that a stroke follows round a corner of its own


@dataclass(frozen=True)
class Chain:
    """A branch of the skeleton: nodes from end to end, and the edges between them."""

    nodes: list[int]
    edges: list[int]

    def back(self) -> Chain:
        """The same branch from its other end."""
        return Chain(self.nodes[::-1], self.edges[::-1])


@dataclass(frozen=True)
class Joint:
    """Where a stroke ends at another one: which, and at which of its pairs."""

    stroke: int
    at: int


@dataclass(frozen=True)
class Stroke:
    """A stroke: pairs of places on the two walls it runs between, and how it ends.

    left, right: (k,) samples of the walls, pair by pair; closed: whether it runs round into itself;
    ends: where its first and last pair lie on another stroke, None at a free tip.
    """

    left: Index
    right: Index
    closed: bool
    ends: tuple[Joint | None, Joint | None]


def strokes(axis: Medial) -> list[Stroke]:
    """The strokes of a medial axis, none for a shape that is all in one lump.

    Where branches meet, the two that go on straightest are one stroke and the others end at it.
    """
    alive = axis.apart() > NOISE
    chains = _pruned(axis, alive)
    if not chains:
        return []
    cluster, chains = _clusters(axis, chains)
    through, hosts = _through(axis, chains, cluster)
    paths = _paths(chains, through)
    owner = {chain: nth for nth, path in enumerate(paths) for chain, _ in path}
    used = np.full(len(axis.wall), -1)
    for nth, chain in enumerate(chains):
        used[axis.sides[chain.edges].ravel()] = owner[nth]
    found, starts = [], []
    for nth, path in enumerate(paths):
        left, right, begins = _walls(axis, [chains[one] if ahead else chains[one].back() for one, ahead in path],
                                     (used >= 0) & (used != nth))  # fmt: skip
        found.append((left, right))
        starts.append({chain: at for (chain, _), at in zip(path, begins, strict=True)})
    made = []
    for path, (left, right) in zip(paths, found, strict=True):
        first, last = (_joint(end, hosts, cluster, chains, owner, starts, found, paths)
                       for end in ((path[0], 0), (path[-1], 1)))  # fmt: skip
        made.append(Stroke(left, right, _closed(path, chains), (first, last)))
    return made


def _pruned(axis: Medial, alive: NDArray[np.bool_]) -> list[Chain]:
    """Branches of the skeleton without those that only lead into a corner; none where nothing else is left."""
    edges = np.flatnonzero(alive)
    while True:
        chains = list(_chains(axis.edge, edges))
        degree = np.bincount([end for chain in chains for end in (chain.nodes[0], chain.nodes[-1])],
                             minlength=len(axis.place))  # fmt: skip
        drop = []
        for chain in chains:
            for one in (chain, chain.back()):
                if degree[one.nodes[-1]] == 1 and degree[one.nodes[0]] > 2:
                    joint, tip = axis.radius[one.nodes[0]], axis.radius[one.nodes[-1]]
                    least = WIDE_KEEP if tip > WIDE * joint else KEEP
                    if _length(axis, one) + tip - joint < least * joint:
                        drop.append(chain)
        if len(drop) == len(chains):
            return []
        if not drop:
            return chains
        edges = np.setdiff1d(edges, [edge for chain in drop for edge in chain.edges])


def _chains(edge: Index, edges: Index) -> Iterator[Chain]:
    """Stretches of a graph between nodes that are no mere passage, and its rings."""
    near: dict[int, list[tuple[int, int]]] = {}
    for nth, (a, b) in zip(edges.tolist(), edge[edges].tolist(), strict=True):
        near.setdefault(a, []).append((nth, b))
        near.setdefault(b, []).append((nth, a))
    done: set[int] = set()
    knots = [node for node, steps in near.items() if len(steps) != 2]
    for knot in [*knots, *near]:
        for nth, onward in near[knot]:
            if nth in done:
                continue
            nodes, passed = [knot, onward], [nth]
            done.add(nth)
            while len(near[nodes[-1]]) == 2 and nodes[-1] != knot:
                step = next(((one, to) for one, to in near[nodes[-1]] if one not in done), None)
                if step is None:
                    break
                done.add(step[0])
                passed.append(step[0])
                nodes.append(step[1])
            yield Chain(nodes, passed)


def _length(axis: Medial, chain: Chain) -> float:
    return line_length(axis.place[chain.nodes])


def _clusters(axis: Medial, chains: list[Chain]) -> tuple[dict[int, int], list[Chain]]:
    """Which node stands for each junction, those close together being one; and the branches between them."""
    ends = [end for chain in chains for end in (chain.nodes[0], chain.nodes[-1])]
    stands = {node: node for node in ends}
    degree = {node: ends.count(node) for node in stands}

    def root(node: int) -> int:
        while stands[node] != node:
            node = stands[node]
        return node

    kept = []
    for chain in sorted(chains, key=lambda one: _length(axis, one)):
        a, b = root(chain.nodes[0]), root(chain.nodes[-1])
        both = degree[chain.nodes[0]] > 2 and degree[chain.nodes[-1]] > 2
        least = min(axis.radius[chain.nodes[0]], axis.radius[chain.nodes[-1]])
        if both and a != b and _length(axis, chain) < SHORT * least:
            stands[a] = b
        else:
            kept.append(chain)
    if not kept:
        return {node: node for node in stands}, chains
    return {node: root(node) for node in stands}, kept


def _through(
    axis: Medial, chains: list[Chain], cluster: dict[int, int]
) -> tuple[dict[tuple[int, int], tuple[int, int]], dict[int, tuple[int, int]]]:
    """Which end of a branch goes on into which, at every junction; and the branch end that leads through it."""
    meeting: dict[int, list[tuple[int, int]]] = {}
    for nth, chain in enumerate(chains):
        for end, node in ((0, chain.nodes[0]), (1, chain.nodes[-1])):
            meeting.setdefault(cluster[node], []).append((nth, end))
    through: dict[tuple[int, int], tuple[int, int]] = {}
    hosts: dict[int, tuple[int, int]] = {}
    for node, ends in meeting.items():
        if len(ends) < 2:
            continue
        way, wide = zip(*(_leaving(axis, chains[nth], end) for nth, end in ends), strict=True)
        _, one, other = max(
            (-float(way[a] @ way[b]) + EVEN * min(wide[a], wide[b]) / max(wide[a], wide[b], 1e-9), a, b)
            for a in range(len(ends)) for b in range(a)
        )  # fmt: skip
        through[ends[one]], through[ends[other]] = ends[other], ends[one]
        hosts[node] = ends[one]
    return through, hosts


def _leaving(axis: Medial, chain: Chain, end: int) -> tuple[Array, float]:
    """The direction in which a branch leaves one of its ends, and its radius there."""
    nodes = chain.nodes if end == 0 else chain.nodes[::-1]
    places = axis.place[nodes]
    far = np.linalg.norm(places - places[0], axis=1) > AHEAD * axis.radius[nodes[0]]
    at = int(np.argmax(far)) if far.any() else len(nodes) - 1
    way = places[at] - places[0]
    return way / max(float(np.linalg.norm(way)), 1e-9), float(axis.radius[nodes[at]])


def _paths(chains: list[Chain], through: dict[tuple[int, int], tuple[int, int]]) -> list[list[tuple[int, bool]]]:
    """Branches that go on into one another, each with whether it is walked ahead."""
    left = dict.fromkeys(range(len(chains)))
    paths = []
    loose = [(nth, end) for nth in range(len(chains)) for end in (0, 1) if (nth, end) not in through]
    for start in [*loose, *((nth, 0) for nth in range(len(chains)))]:
        if start[0] not in left:
            continue
        path, at = [], start
        while at is not None and at[0] in left:
            del left[at[0]]
            path.append((at[0], at[1] == 0))
            at = through.get((at[0], 1 - at[1]))  # type: ignore[assignment]
        paths.append(path)
    return paths


def _closed(path: list[tuple[int, bool]], chains: list[Chain]) -> bool:
    """Whether a path runs round into itself."""
    first, last = path[0], path[-1]
    begin = chains[first[0]].nodes[0 if first[1] else -1]
    return begin == chains[last[0]].nodes[-1 if last[1] else 0]


def _joint(
    end: tuple[tuple[int, bool], int], hosts: dict[int, tuple[int, int]], cluster: dict[int, int],
    chains: list[Chain], owner: dict[int, int], starts: list[dict[int, int]], found: list[tuple[Index, Index]],
    paths: list[list[tuple[int, bool]]],
) -> Joint | None:  # fmt: skip
    """Where the first (0) or last (1) end of a path lies on another stroke."""
    (chain, ahead), which = end
    node = cluster[chains[chain].nodes[0 if ahead == (which == 0) else -1]]
    if node not in hosts:
        return None
    host, side = hosts[node]
    stroke = owner[host]
    order = [one for one, _ in paths[stroke]]
    nth = order.index(host)
    first_end = (side == 0) == paths[stroke][nth][1]
    at = starts[stroke][host] if first_end else (
        starts[stroke][order[nth + 1]] if nth + 1 < len(order) else len(found[stroke][0]) - 1)  # fmt: skip
    return Joint(stroke, at)


def _walls(axis: Medial, path: list[Chain], others: NDArray[np.bool_]) -> tuple[Index, Index, list[int]]:
    """Pairs of wall samples along branches in turn, and at which pair each branch begins.

    Where the wall leaves the axis for a corner of its own it is followed round; where another
    stroke opens in it, it is crossed straight.
    """
    left: list[int] = []
    right: list[int] = []
    begins = []
    for chain in path:
        begins.append(len(left))
        nodes = np.array(chain.nodes)
        step = axis.place[nodes[1:]] - axis.place[nodes[:-1]]
        sides = axis.sides[chain.edges]
        across = axis.wall[sides[:, 0]] - axis.wall[sides[:, 1]]
        flip = step[:, 0] * across[:, 1] - step[:, 1] * across[:, 0] < 0
        sides = np.where(flip[:, None], sides[:, ::-1], sides)
        radius = axis.radius[nodes[1:]]
        for (a, b), far in zip(sides.tolist(), radius.tolist(), strict=True):
            if left:
                for mine, stay, to in ((left, right, a), (right, left, b)):
                    walk = _along_wall(axis, mine[-1], to, ROUND * far, others)
                    mine += walk
                    stay += [stay[-1]] * len(walk)
            left.append(a)
            right.append(b)
    return np.array(left), np.array(right), begins


def _along_wall(axis: Medial, one: int, other: int, farthest: float, others: NDArray[np.bool_]) -> list[int]:
    """Samples passed between two of one wall, none where they are neighbours, too far, or another stroke opens."""
    if abs(one - other) < 2 or axis.ring[one] != axis.ring[other]:
        return []
    ring = int(axis.ring[one])
    first, last = np.searchsorted(axis.ring, [ring, ring + 1])
    size = int(last - first)
    ahead = (other - one) % size
    count, sign = (ahead, 1) if ahead <= size - ahead else (size - ahead, -1)
    if count < 2:
        return []
    walk = first + (one - first + sign * np.arange(1, count)) % size
    off = abs(axis.along[one] - axis.along[other])
    if min(off, axis.round[ring] - off) > farthest or others[walk].any():
        return []
    return [int(nth) for nth in walk]
