"""Branches: the inside of a shape as lines between junctions and tips, without those that only lead to a corner.

What is dropped stays part of the junction it hung on: no area is lost.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from velamen.core.arrays import Array, Index
from velamen.core.geometry.polyline import line_length
from velamen.core.geometry.strokes.mesh import CONCAVE, Mesh

CORNER_OVER, CORNER_LEAST = 0.35, 0.3  # radii of wall either side of a place, and mm at least, over which it turns
STEPS = (0.05, 0.12, 0.2, 0.3, 0.33)  # shares of its mouth by which a branch must reach out, asked one after another
LAST_STEPS = (0.4, 0.5, 0.62)  # and once the serifs are known
FEWER, LAST_FEWER = (1.0, 0.9, 0.4), (1.0, 0.85, 0.5)  # times that, by concave ends of the mouth: at first, and then
LEAST = 0.6 / 0.62  # mm that a branch must reach out, at a share of 1
TWIN, TWIN_MOST = 1.3, 0.8  # times as far as the one dropped beside it, and in radii, that it may reach and go too
CORNER = 0.45  # radii that a branch must reach out where at most one end of its mouth is concave; a corner has 0.41


@dataclass
class Branch:
    """Triangles from a junction or tip to another; reach: samples of the wall that belong to it."""

    nodes: list[int]
    reach: list[Index] = field(default_factory=list)

    def seen(self, end: int) -> list[int]:
        """Its triangles from one end (0 first, 1 last) to the other."""
        return self.nodes if end == 0 else self.nodes[::-1]

    @property
    def closed(self) -> bool:
        """Whether it runs round into itself."""
        return len(self.nodes) > 2 and self.nodes[0] == self.nodes[-1]


@dataclass
class Branches:
    """All branches of a mesh by number, and which of their ends lie at each junction."""

    mesh: Mesh
    branch: dict[int, Branch]
    at: dict[int, list[tuple[int, int]]]

    def length(self, nth: int) -> float:
        """Of a branch, mm."""
        return line_length(self.mesh.centre[self.branch[nth].nodes])

    def free(self, nth: int) -> int | None:
        """The junction a branch with a free end hangs on, None for others."""
        nodes = self.branch[nth].nodes
        first, last = (len(self.at[node]) for node in (nodes[0], nodes[-1]))
        if last == 1 < first:
            return nodes[0]
        return nodes[-1] if first == 1 < last else None

    def out(self, nth: int, junction: int) -> list[int]:
        """The triangles of a branch from a junction outwards."""
        return self.branch[nth].seen(self.end_at(nth, junction))

    def end_at(self, nth: int, junction: int) -> int:
        """The end of a branch that lies at a junction."""
        return 0 if self.branch[nth].nodes[0] == junction else 1

    def samples(self, nth: int, junction: int) -> Index:
        """Samples of the wall that belong to a branch and what was dropped from it, without those of a junction."""
        branch = self.branch[nth]
        inner = [node for node in branch.nodes if node != junction]
        return np.concatenate([self.mesh.corner[inner].ravel(), *branch.reach])

    def mouth(self, nth: int, end: int) -> tuple[int, int]:
        """The two samples between which a branch leaves the junction at one of its ends."""
        first, second = self.branch[nth].seen(end)[:2]
        return self.mesh.mouth(first, second)

    def concave(self, nth: int, end: int) -> int:
        """How many ends of a branch's mouth are corners that look inside."""
        radius = float(self.mesh.radius[self.branch[nth].seen(end)[0]])
        return sum(sharpest(self.mesh, sample, radius)[1] < CONCAVE for sample in self.mouth(nth, end))

    def drop(self, *which: int) -> None:
        """Takes branches with free ends at one junction away; what is left there becomes one where it is two."""
        junction = self.free(which[0])
        assert junction is not None
        reach = list[Index]()
        for nth in which:
            reach.append(self.samples(nth, junction))
            gone = self.branch.pop(nth)
            for node in (gone.nodes[0], gone.nodes[-1]):
                self.at[node] = [one for one in self.at[node] if one[0] != nth]
        left = self.at[junction]
        for one, _ in left[:1]:
            self.branch[one].reach += reach
        if len(left) == 2 and left[0][0] != left[1][0]:
            self._join(junction, left[0], left[1])

    def _join(self, junction: int, one: tuple[int, int], two: tuple[int, int]) -> None:
        first, second = self.branch.pop(one[0]), self.branch.pop(two[0])
        nodes = [*first.seen(1 - one[1]), *second.seen(two[1])[1:]]
        self.branch[one[0]] = Branch(nodes, [*first.reach, *second.reach])
        self.at[junction] = []
        for node in (nodes[0], nodes[-1]):
            self.at[node] = [each for each in self.at[node] if each[0] not in (one[0], two[0])]
        for node, end in ((nodes[0], 0), (nodes[-1], 1)):
            self.at[node].append((one[0], end))


def over_corner(radius: float) -> float:
    """How much of the wall either side of a place tells how it turns there, mm."""
    return max(CORNER_OVER * radius, CORNER_LEAST)


def sharpest(mesh: Mesh, sample: int, radius: float) -> tuple[int, float]:
    """The sample of the wall beside one that turns most into the region, and by how much, rad."""
    beside = mesh.near(sample, CORNER_OVER * radius)
    turns = mesh.turns(beside, over_corner(radius))
    # The nearest of equals: a round turns alike all along.
    off = np.linalg.norm(mesh.wall[beside] - mesh.wall[sample], axis=1)
    best = int(np.argmin(np.round(turns, 2) + 1e-3 * off))
    return int(beside[best]), float(turns[best])


def branches_of(mesh: Mesh) -> Branches:
    """The branches of a mesh, all of them."""
    near = [[int(one) for one in row if one >= 0] for row in mesh.beside]
    knots = [node for node, to in enumerate(near) if len(to) != 2]
    found = Branches(mesh, {}, {node: [] for node in knots})
    seen = set[int]()
    used = set[tuple[int, int]]()
    for start in [*knots, *range(len(near))]:
        if len(near[start]) == 2 and start in seen:
            continue
        for onward in near[start]:
            if (start, onward) in used or (len(near[start]) == 2 and start in seen):
                continue
            nodes = [start, onward]
            while len(near[nodes[-1]]) == 2 and nodes[-1] != start:
                ahead = [one for one in near[nodes[-1]] if one != nodes[-2]]
                if not ahead:
                    break
                nodes.append(ahead[0])
            used |= {(nodes[0], nodes[1]), (nodes[-1], nodes[-2])}
            seen.update(nodes)
            nth = len(found.branch)
            found.branch[nth] = Branch(nodes)
            for end, node in ((0, nodes[0]), (1, nodes[-1])):
                found.at.setdefault(node, []).append((nth, end))
    return found


@dataclass
class _Reach:
    """How far a branch reaches out of its junction's circle, the width of its mouth, that circle's radius, mm.

    Whether corners look inside at its mouth costs most and is seldom asked: it is told when it is.
    """

    out: float
    mouth: float
    radius: float
    concave: int = -1

    def too_little(self, found: Branches, nth: int, share: float, fewer: tuple[float, float, float]) -> bool:
        """Whether that is less than a share of the mouth, which counts as fewer the more corners look inside."""
        if self.out < LEAST * share or self.out < share * min(fewer) * self.mouth:
            return True
        if self.out >= share * max(fewer) * self.mouth and self.out >= CORNER * self.radius:
            return False
        if self.concave < 0:
            junction = found.free(nth)
            self.concave = found.concave(nth, 0 if junction is None else found.end_at(nth, junction))
        corner = self.concave < 2 and self.out < CORNER * self.radius
        return corner or self.out < share * fewer[self.concave] * self.mouth


class _Told:
    """What was found of branches, as long as they are what they were."""

    def __init__(self, found: Branches) -> None:
        self.found, self.known = found, dict[tuple[int, int], _Reach]()

    def of(self, nth: int, junction: int) -> _Reach:
        """How far a branch reaches out of a junction."""
        key = (nth, len(self.found.branch[nth].nodes))
        if key not in self.known:
            self.known[key] = _reach(self.found, nth, junction)
        return self.known[key]


def prune(found: Branches, shares: tuple[float, ...], fewer: tuple[float, float, float], keep: set[int]) -> None:
    """Drops branches that reach too little out of the circle at their junction, the least of each junction first."""
    told = _Told(found)
    for share in shares:
        while True:
            least: dict[int, tuple[float, int]] = {}
            for nth in found.branch:
                junction = found.free(nth)
                if junction is None or nth in keep:
                    continue
                reach = told.of(nth, junction)
                if reach.too_little(found, nth, share, fewer):
                    mine = (reach.out / max(reach.mouth, 1e-9), nth)
                    least[junction] = min(least.get(junction, mine), mine)
            if not least:
                break
            for junction, (_, nth) in least.items():
                if nth in found.branch and found.free(nth) == junction:
                    twin = _twin(told, nth, junction, keep)
                    found.drop(nth) if twin is None else found.drop(nth, twin)


def _twin(told: _Told, nth: int, junction: int, keep: set[int]) -> int | None:
    """The other free branch at a stroke's end, if it reaches out hardly more than one dropped: its other corner."""
    found = told.found
    ends = found.at[junction]
    if len(ends) != 3:
        return None
    others = [one for one, _ in ends if one != nth and found.free(one) == junction and one not in keep]
    if len(others) != 1:
        return None
    out, mine = (told.of(one, junction).out for one in (others[0], nth))
    return others[0] if out < TWIN * mine and out < TWIN_MOST * float(found.mesh.radius[junction]) else None


def _reach(found: Branches, nth: int, junction: int) -> _Reach:
    mesh = found.mesh
    radius = float(mesh.radius[junction])
    off = np.linalg.norm(mesh.wall[found.samples(nth, junction)] - mesh.centre[junction], axis=1)
    one, two = found.mouth(nth, found.end_at(nth, junction))
    return _Reach(float(off.max()) - radius, float(np.linalg.norm(mesh.wall[one] - mesh.wall[two])), radius)


def heading(places: Array) -> Array:
    """The direction from the first of some places to the last."""
    way = places[-1] - places[0]
    return np.asarray(way / max(float(np.linalg.norm(way)), 1e-9))
