"""Fills: rows of staggered penetrations, sewn section by section, travel kept inside the region."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, product

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.errors import BadInput
from velamen.core.stitching.rows import FINE, Join, Rows, Sections, hatch, joins, sections_of
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import CODE, DROP, Strand, join, tied

Array = NDArray[np.float64]
Index = NDArray[np.int64]
End = tuple[int, int]
"""A section and one of its ends: 0 the top, 1 the bottom."""

STAGGER = {
    "plain": (0.0, 1 / 3, 2 / 3),
    "brick": (0.0, 0.5),
    "wave": tuple(0.5 + 0.4 * np.sin(2 * np.pi * nth / 16) + (0.5 if nth % 2 else 0.0) for nth in range(16)),
    "feather": tuple(abs(nth - 6) / 12 + (0.5 if nth % 2 else 0.0) for nth in range(12)),
}
"""Where penetrations lie in each row, as a share of the stitch length, row after row over again."""

TRAVEL = 2.5  # mm, stitch length of travel
NARROW = 0.06  # mm a travel stitch may leave its path
EDGE = 0.3  # mm that travel keeps from the region's edge where it can
CLEAR = 0.8  # mm kept between a row's end and the next penetration
SCRAP = 3.0  # mm of thread, ties included: less is no fill
SEWN = 2.0  # times as far: travel over what is sewn already counts


def fill(
    region: Polygon, role: str, angle: float, spacing: float, length: float, stagger: str = "plain",
    pull: float = 0.0, start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """A region filled with rows, a strand for each part that hangs together at this spacing.

    angle: of the rows in rad; spacing: mm between them; length: mm of a stitch; stagger: key of
    STAGGER; pull: mm by which each row is lengthened at both ends, shortened where negative; start:
    where sewing begins, as near as may be. Raises BadInput where a figure is out of bounds.
    """
    _check(angle, spacing, length, pull, stagger)
    rows = _kept(hatch(region, angle, spacing), 2.0 * max(-pull, 0.0))
    if len(rows.row) == 0:
        return []
    sections, ways = sections_of(rows, region), joins(region, rows, angle)
    begin = None if start is None else rows.turn @ np.array(start)
    sewn = [_sewn(rows, sections, ways, legs, role, length, STAGGER[stagger], pull)
            for legs in _routes(rows, sections, ways, begin)]  # fmt: skip
    return [one for one in sewn if float(np.linalg.norm(np.diff(one.xy, axis=0), axis=1).sum()) > SCRAP]


def _kept(rows: Rows, least: float) -> Rows:
    """Rows without the stretches that are not longer than `least` mm."""
    wide = rows.right - rows.left > least
    return rows if wide.all() else replace(rows, row=rows.row[wide], left=rows.left[wide], right=rows.right[wide])


@dataclass(frozen=True)
class _Leg:
    """A section sewn from one end to the other, and the ends passed on the way to it."""

    section: int
    end: int
    way: tuple[End, ...]


def _routes(rows: Rows, sections: Sections, ways: list[Join], begin: Array | None) -> list[list[_Leg]]:
    """Sections in sewing order, always on to the nearest that is not sewn; a list for each part."""
    near = _neighbours(rows, sections, ways)
    size = np.asarray(np.bincount(sections.section) * rows.spacing, dtype=np.float64)
    left = dict.fromkeys(range(len(sections.top)))
    found: list[list[_Leg]] = []
    while left:
        at = _first(rows, sections, list(left), begin if not found else None)
        del left[at[0]]
        legs = [_Leg(at[0], at[1], ())]
        here: End = (at[0], 1 - at[1])
        while True:
            way = _way(here, near, size, left)
            if way is None:
                break
            section, end = way[-1]
            del left[section]
            legs.append(_Leg(section, end, tuple(way)))
            here = (section, 1 - end)
        found.append(legs)
    return found


def _neighbours(rows: Rows, sections: Sections, ways: list[Join]) -> dict[End, list[tuple[End, float]]]:
    """Which ends of sections one may step to from each end, through gates or joins, and how far off."""
    near: dict[End, list[tuple[End, float]]] = {}
    one, other = sections.gates[:, 0], sections.gates[:, 1]
    middle = (rows.left + rows.right) / 2
    far = np.abs(middle[one] - middle[other]) + rows.spacing
    above, below = sections.section[one], sections.section[other]
    for a, b, off in zip(above.tolist(), below.tolist(), far.tolist(), strict=True):
        near.setdefault((a, 1), []).append(((b, 0), off))
        near.setdefault((b, 0), []).append(((a, 1), off))
    for join_ in ways:
        a, b = int(sections.section[join_.one]), int(sections.section[join_.other])
        for one_end, other_end in product((0, 1), (0, 1)):
            off = sum(
                abs(int(rows.row[(sections.top, sections.bottom)[end][part]]) - int(rows.row[stretch])) * rows.spacing
                for part, end, stretch in ((a, one_end, join_.one), (b, other_end, join_.other))
            ) + len(join_.path) * rows.spacing / FINE  # fmt: skip
            near.setdefault((a, one_end), []).append(((b, other_end), off))
            near.setdefault((b, other_end), []).append(((a, one_end), off))
    return near


def _way(here: End, near: dict[End, list[tuple[End, float]]], size: Array, left: dict[int, None]) -> list[End] | None:
    """The ends to pass from here to the nearest section that is not sewn, that one's end last."""
    queue: list[tuple[float, End, End | None]] = [(0.0, here, None)]
    came: dict[End, End | None] = {}
    while queue:
        far, at, before = heapq.heappop(queue)
        if at in came:
            continue
        came[at] = before
        if at[0] in left:
            way: list[End] = []
            step: End | None = at
            while step is not None:
                way.append(step)
                step = came[step]
            return way[::-1]
        steps = [*near.get(at, ()), ((at[0], 1 - at[1]), SEWN * float(size[at[0]]))]
        for onward, off in steps:
            if onward not in came:
                heapq.heappush(queue, (far + off, onward, at))
    return None


def _first(rows: Rows, sections: Sections, left: Sequence[int], begin: Array | None) -> End:
    """The end of a section that sewing begins at: nearest to a place, or the uppermost."""
    if begin is None:
        return min(left, key=lambda one: int(sections.top[one])), 0
    ends = [(one, end) for one in left for end in (0, 1)]
    stretch = np.array([(sections.top, sections.bottom)[end][one] for one, end in ends])
    x = np.clip(begin[0], rows.left[stretch], rows.right[stretch])
    return ends[int(np.argmin(np.hypot(x - begin[0], rows.across[stretch] - begin[1])))]


def _sewn(
    rows: Rows, sections: Sections, ways: list[Join], legs: list[_Leg], role: str, length: float,
    stagger: tuple[float, ...], pull: float,
) -> Strand:  # fmt: skip
    """Rows of all legs with the travel between them, tied at both ends."""
    by = np.argsort(sections.section, kind="stable")
    bounds = np.searchsorted(sections.section[by], np.arange(len(sections.top) + 1))
    members = [by[low:high] for low, high in pairwise(bounds.tolist())]
    roads = _Roads(rows, members, {(int(a), int(b)) for a, b in sections.section[sections.gates]}, {
        (int(sections.section[one]), int(sections.section[other])): (one, other, path)
        for join_ in ways
        for one, other, path in ((join_.one, join_.other, join_.path), (join_.other, join_.one, join_.path[::-1]))
    })  # fmt: skip
    strands: list[Strand] = []
    at: Array | None = None
    for leg in legs:
        order = members[leg.section] if leg.end == 0 else members[leg.section][::-1]
        path = np.zeros((0, 2)) if at is None else roads.travel(leg.way, at)
        near = path[-1, 0] if len(path) else (rows.left[order[0]] if at is None else at[0])
        forward = bool(abs(near - rows.left[order[0]]) <= abs(near - rows.right[order[0]]))
        sewn = _stitched(rows, order, forward, length, stagger, pull)
        if at is not None:
            run = run_along(np.concatenate([at[None], path, sewn[:1]]), TRAVEL, NARROW, DROP)[1:-1]
            strands.append(Strand(run @ rows.turn, np.full(len(run), CODE["travel"], dtype=np.uint8)))
        strands.append(Strand(sewn @ rows.turn, np.full(len(sewn), CODE[role], dtype=np.uint8)))
        at = sewn[-1]
    return tied(join([part for part in strands if len(part.xy)]))


@dataclass(frozen=True)
class _Roads:
    """Ways inside a region: rows, the stretches of each section in order, which sections touch, and joins."""

    rows: Rows
    members: list[Index]
    gates: set[tuple[int, int]]
    joins: dict[tuple[int, int], tuple[int, int, Array]]

    def travel(self, way: tuple[End, ...], at: Array) -> Array:
        """A path (n, 2) along and across by the ends of sections that are passed."""
        path = [(float(at[0]), float(at[1]))]
        for (section, end), (onward, to) in pairwise(way):
            if section == onward:  # through it, from one end to the other
                self._through(path, self.members[section] if end == 0 else self.members[section][::-1])
            elif (section, onward) in self.gates or (onward, section) in self.gates:
                self._step(path, int(self.members[section][-end]), int(self.members[onward][-to]))
            else:
                one, other, between = self.joins[section, onward]
                self._through(path, _between(self.members[section], int(self.members[section][-end]), one))
                path.extend((float(x), float(y)) for x, y in between)
                self._through(path, _between(self.members[onward], other, int(self.members[onward][-to])))
        return np.array(path[1:]).reshape(-1, 2)

    def _through(self, path: list[tuple[float, float]], stretches: Index) -> None:
        rows = self.rows
        for one in stretches.tolist():
            inset = min(EDGE, 0.3 * (rows.right[one] - rows.left[one]))
            x = min(max(path[-1][0], rows.left[one] + inset), rows.right[one] - inset)
            path.append((x, rows.first + rows.spacing * rows.row[one]))

    def _step(self, path: list[tuple[float, float]], one: int, other: int) -> None:
        """From a stretch to its neighbour where both overlap, so that the step stays inside."""
        rows = self.rows
        low, high = max(rows.left[one], rows.left[other]), min(rows.right[one], rows.right[other])
        inset = min(EDGE, 0.3 * (high - low))
        x = min(max(path[-1][0], low + inset), high - inset)
        path += [(x, rows.first + rows.spacing * rows.row[nth]) for nth in (one, other)]


def _between(members: Index, one: int, other: int) -> Index:
    """Stretches of a section from one to another, both included."""
    a, b = (int(np.searchsorted(members, nth)) for nth in (one, other))
    return members[a : b + 1] if a <= b else members[b : a + 1][::-1]


def _stitched(
    rows: Rows, order: Index, forward: bool, length: float, stagger: tuple[float, ...], pull: float
) -> Array:
    """Penetrations (n, 2) along and across of stretches sewn to and fro, the first one `forward` or back."""
    left, right = rows.left[order] - pull, rows.right[order] + pull
    phase = np.array(stagger)[rows.row[order] % len(stagger)] * length
    begin = np.ceil((left + CLEAR - phase) / length).astype(np.int64)
    inner = np.maximum(np.floor((right - CLEAR - phase) / length).astype(np.int64) - begin + 1, 0)
    count = inner + 2
    owner = np.repeat(np.arange(len(order)), count)
    place = np.arange(len(owner)) - np.repeat(np.cumsum(count) - count, count)
    back = (np.arange(len(order)) % 2 == 0) != forward
    place = np.where(back[owner], count[owner] - 1 - place, place)
    along = phase[owner] + (begin[owner] + place - 1) * length
    along = np.where(place == 0, left[owner], np.where(place == count[owner] - 1, right[owner], along))
    return np.stack([along, rows.across[order][owner]], axis=1)


def _check(angle: float, spacing: float, length: float, pull: float, stagger: str) -> None:
    bounds = (("angle", angle, -10.0, 10.0), ("spacing", spacing, 0.1, 10.0), ("length", length, 1.0, 12.0),
              ("pull", pull, -2.0, 2.0))  # fmt: skip
    for name, value, low, high in bounds:
        if not low <= value <= high:
            raise BadInput(f"The {name} of a fill cannot be {value:g}: use {low:g} to {high:g}.")
    if stagger not in STAGGER:
        raise BadInput(f"There is no stagger {stagger!r}: choose one of {', '.join(STAGGER)}.")


def linked(strands: Sequence[Strand], region: Polygon) -> list[Strand]:
    """Strands sewn on without a trim wherever the straight way to the next one lies inside the region."""
    found: list[Strand] = []
    for part in strands:
        if found:
            before, after = _bare(found[-1]), _bare(part)
            way = np.stack([before.xy[-1], after.xy[0]])
            off = float(shapely.distance(shapely.points(way), region).max())  # rows end their pull outside
            if shapely.covers(shapely.buffer(region, off + NARROW), shapely.linestrings(way)):
                run = run_along(way, TRAVEL)[1:-1]
                travel = Strand(run, np.full(len(run), CODE["travel"], dtype=np.uint8))
                found[-1] = tied(join([before, travel, after]))
                continue
        found.append(part)
    return found


def _bare(part: Strand) -> Strand:
    """A strand without the ties at its ends; a tie begins on the first needle point."""
    sewn = np.flatnonzero(part.role != CODE["tie"])
    if len(sewn) == 0:
        return part
    nth = np.arange(sewn[0], sewn[-1] + 1)
    return Strand(np.concatenate([part.xy[:1], part.xy[nth]]), np.concatenate([part.role[sewn[:1]], part.role[nth]]))
