"""Junctions: which two branches go through as one stroke, and the cuts at which the others end there."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.strokes.branches import Branches, heading, sharpest
from velamen.core.geometry.strokes.mesh import CONCAVE

NEAR = 0.9  # radii; junctions nearer than that are one
ONWARD = 0.4  # cos between a crossing's arms and the line from junction to junction
CROSSED, CROSSING = 3.0, 25.0  # radii, degrees: so are two farther apart, between which strokes cross straight
WIDTHS = 25.0  # degrees that widths apart by a factor of e count as, where two branches go through a junction
ROUND = 20.0  # degrees in favour of a pair that goes round a hole past a free branch, as an ear or a tail is
EVEN, BENT = 6.0, 12.0  # degrees: two arms as good as that, and both bent by more, are paired with one another
HUB_ARMS, HUB_RADIUS = 4, 6.5  # a junction of more arms, and wider, is a hub
WIDE_HUB, STRAIGHT = 8.0, 40.0  # mm, degrees: so is a wider one through which nothing goes straight
OUT = 1.2  # radii from a junction at which a branch is told to have left it
End = tuple[int, int]  # branch and its end


@dataclass(frozen=True)
class Cut:
    """Where a stroke ends at another. line: (2, 2); inward: (2,) unit, from it into the stroke that ends there;

    mitre: whether both end there alike; touch: whether neither does, as both pass there; bend: the middle (2,) of
    the bend that it cuts, about which the leg that goes on ends.
    """

    line: Array
    inward: Array
    mitre: bool = False
    touch: bool = False
    bend: Array | None = None

    @property
    def length(self) -> float:
        """Of the line, mm."""
        return float(np.linalg.norm(self.line[1] - self.line[0]))

    @property
    def middle(self) -> Array:
        """Of the line."""
        return np.asarray(self.line.mean(axis=0))


@dataclass(frozen=True)
class Course:
    """Triangles of a stroke from end to end, or round; free: whether its first and last end are tips; straight: never
    cut at a bend, as the two wings of a foot are not."""

    nodes: list[int]
    closed: bool
    free: tuple[bool, bool]
    straight: bool = False


@dataclass(frozen=True)
class Crossing:
    """What was found: courses of strokes, cuts between them, a place (2,) in each hub, where only a fill fits."""

    courses: list[Course]
    cuts: list[Cut]
    hubs: list[Array]


def cross(found: Branches, across: dict[int, tuple[int, int]], region: Polygon) -> Crossing:
    """Branches joined to strokes. across: by junction, the two wings that go through it whatever they cost."""
    room = shapely.buffer(region, 0.02)
    shapely.prepare(room)
    groups, links = _groups(found, set(across))
    through: dict[End, End] = {}
    cuts, hubs = [], []
    for ends in groups:
        forced = [end for end in ends if end[0] in across.get(_node(found, end), ())]
        pair = (forced[0], forced[1]) if len(forced) == 2 else _pair(found, ends)
        if pair is None:
            hubs.append(found.mesh.middle[_node(found, ends[0])])
        else:
            through[pair[0]], through[pair[1]] = pair[1], pair[0]
        cuts += [_cut(found, end, room) for end in ends if pair is None or end not in pair]
    wings = {wing for pair in across.values() for wing in pair}
    return Crossing(_courses(found, through, links, wings), cuts, hubs)


def _node(found: Branches, end: End) -> int:
    return found.branch[end[0]].seen(end[1])[0]


def _groups(found: Branches, apart: set[int]) -> tuple[list[list[End]], set[int]]:
    """The branch ends that meet at each junction, near ones being one, and the branches that lie within one."""
    stands = {node: node for node, ends in found.at.items() if len(ends) > 2}

    def root(node: int) -> int:
        while stands[node] != node:
            node = stands[node]
        return node

    links = set[int]()
    for nth in sorted(found.branch, key=found.length):
        one, other = found.branch[nth].nodes[0], found.branch[nth].nodes[-1]
        if one in stands and other in stands and not {one, other} & apart and root(one) != root(other):
            wide = float(found.mesh.radius[[one, other]].max())
            if found.length(nth) < NEAR * wide or (found.length(nth) < CROSSED * wide and _crossed(found, nth)):
                stands[root(one)] = root(other)
                links.add(nth)
    groups: dict[int, list[End]] = {}
    for node in stands:
        groups.setdefault(root(node), []).extend(end for end in found.at[node] if end[0] not in links)
    return [ends for ends in groups.values() if len(ends) > 1], links


def _crossed(found: Branches, nth: int) -> bool:
    """Whether a branch is where two strokes cross: what comes in at its one end goes straight on at the other."""
    ends = [[end for end in found.at[node] if end[0] != nth] for node in
            (found.branch[nth].nodes[0], found.branch[nth].nodes[-1])]  # fmt: skip
    if [len(some) for some in ends] != [2, 2]:
        return False
    ways = {end: _ways(found, end)[0] for some in ends for end in some}
    link = heading(found.mesh.centre[found.branch[nth].nodes])
    onward = [sign * float(ways[end][0] @ link) for sign, some in zip((-1.0, 1.0), ends, strict=True) for end in some]
    if min(onward) < ONWARD:
        return False

    def straight(one: End, other: End) -> bool:
        return min(_bend(-a, b) for a, b in zip(ways[one], ways[other], strict=True)) < CROSSING

    (a, b), (c, d) = ends
    return (straight(a, c) and straight(b, d)) or (straight(a, d) and straight(b, c))


def _pair(found: Branches, ends: list[End]) -> tuple[End, End] | None:
    """The two ends that go through a junction; None for a hub."""
    radius = max(float(found.mesh.radius[_node(found, end)]) for end in ends)
    ways = {end: _ways(found, end) for end in ends}
    priced = []
    for one, other in combinations(ends, 2):
        bend = min(_bend(-a, b) for a, b in zip(ways[one][0], ways[other][0], strict=True))
        cost = bend + WIDTHS * abs(float(np.log(ways[one][1] / ways[other][1])))
        rest = [found.free(end[0]) is not None for end in ends if end not in (one, other)]
        ring = all(rest) and _round_hole(found, one, other)
        priced.append((round(cost - ROUND * ring, 3), bend, one, other))
    priced.sort(key=lambda each: each[0])
    straight = min(bend for _, bend, _, _ in priced)
    if (len(ends) > HUB_ARMS and radius > HUB_RADIUS) or (radius > WIDE_HUB and straight > STRAIGHT):
        return None
    cost, _, one, other = priced[0]
    if len(ends) == 3:
        best, next_ = priced[0], priced[1]
        if next_[1] - best[1] < EVEN and min(best[1], next_[1]) > BENT:
            alike = set(best[2:]) ^ set(next_[2:])
            one, other = sorted(alike)
    return one, other


def _round_hole(found: Branches, one: End, other: End) -> bool:
    """Whether two branches leave a junction on either side of the same hole."""
    holes = [{int(found.mesh.ring[sample]) for sample in found.mouth(*end)} - {0} for end in (one, other)]
    return bool(holes[0] & holes[1])


def _bend(one: Array, other: Array) -> float:
    return float(np.degrees(np.arccos(np.clip(one @ other, -1.0, 1.0))))


def _ways(found: Branches, end: End) -> tuple[list[Array], float]:
    """Three estimates of the direction in which a branch leaves a junction, and its half width."""
    mesh = found.mesh
    nodes = np.array(found.branch[end[0]].seen(end[1]))
    places = mesh.centre[nodes]
    off = np.linalg.norm(places - places[0], axis=1)
    radius = float(mesh.radius[nodes[0]])
    left = np.flatnonzero(off >= radius)
    tip = found.free(end[0]) is not None
    if len(left) == 0:
        return [heading(places)] * 3, float(np.median(mesh.radius[nodes]))
    first = int(left[0])
    half = float(mesh.radius[nodes[first]])
    if tip and found.length(end[0]) < 1.5 * half:
        return [heading(places)] * 3, half
    lasts = []
    for further in (0.6, 1.2):
        beyond = np.flatnonzero(off >= radius + further * half)
        lasts.append(int(beyond[0]) if len(beyond) else len(nodes) - 1)
    ways = [heading(places[[first, last]]) if last > first else heading(places[[0, last]]) for last in lasts]
    half = float(np.median(mesh.radius[nodes[first : max(lasts[1], first) + 1]]))
    return [*ways, heading(places[[0, first]])], max(half, 1e-6)


def _cut(found: Branches, end: End, room: Polygon) -> Cut:
    """The cut at which a branch ends: its mouth, each end moved to the corner of the wall beside it."""
    mesh = found.mesh
    nodes = found.branch[end[0]].seen(end[1])
    radius = float(mesh.radius[nodes[0]])
    mouth = found.mouth(*end)
    snapped = [sharpest(mesh, sample, radius) for sample in mouth]
    line = mesh.wall[[corner if turn < CONCAVE else sample
                      for (corner, turn), sample in zip(snapped, mouth, strict=True)]]  # fmt: skip
    if np.linalg.norm(line[1] - line[0]) < 1e-3 or not room.covers(shapely.LineString(line)):
        line = mesh.wall[list(mouth)]
    off = np.linalg.norm(mesh.centre[nodes] - mesh.centre[nodes[0]], axis=1)
    out = nodes[int(np.argmax(off >= OUT * radius))] if (off >= OUT * radius).any() else nodes[-1]
    return Cut(line, inward_of(line, mesh.middle[out]))


def inward_of(line: Array, inside: Array) -> Array:
    """The unit normal of a line towards a place."""
    along = line[1] - line[0]
    normal = np.array([-along[1], along[0]]) / max(float(np.linalg.norm(along)), 1e-9)
    return np.asarray(normal if (inside - line.mean(axis=0)) @ normal >= 0 else -normal)


def _courses(found: Branches, through: dict[End, End], links: set[int], wings: set[int]) -> list[Course]:
    """Branches that go on into one another, as the triangles from end to end."""
    left = [nth for nth in sorted(found.branch) if nth not in links]
    loose = [(nth, end) for nth in left for end in (0, 1) if (nth, end) not in through]
    made, used = [], set[int]()
    for start in [*loose, *((nth, 0) for nth in left)]:
        if start[0] in used:
            continue
        nodes: list[int] = []
        at: End | None = start
        last = start
        while at is not None and at[0] not in used:
            used.add(at[0])
            onward = found.branch[at[0]].seen(at[1])
            nodes += onward if not nodes or nodes[-1] != onward[0] else onward[1:]
            last = (at[0], 1 - at[1])
            at = through.get(last)
        closed = (at is not None and at == start) or (found.branch[start[0]].closed and start in through)
        closed = closed or (start not in loose and nodes[0] == nodes[-1])
        free = (_tip(found, start), _tip(found, last))
        made.append(Course(nodes, closed, (False, False) if closed else free, start[0] in wings and last[0] in wings))
    return made


def _tip(found: Branches, end: End) -> bool:
    return len(found.at[_node(found, end)]) == 1
