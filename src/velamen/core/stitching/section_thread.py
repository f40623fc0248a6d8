"""Sections of a fill sewn one after another as one thread, with the travel between them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.interior_paths import Inside
from velamen.core.memo import worked_out
from velamen.core.stitching import travel
from velamen.core.stitching.frame import Frame, Straight
from velamen.core.stitching.row_joins import Join
from velamen.core.stitching.row_thread import RowThread, from_both_ends
from velamen.core.stitching.row_travel import DEEP, INSET, Reach, Roads, roads_of
from velamen.core.stitching.rows import Sections
from velamen.core.stitching.run import runs_along
from velamen.core.stitching.section_order import Leg
from velamen.core.stitching.strand import DROP, Strand, by_turns, tied

LONG = 1.3  # times as long may a stitch become along a guide
BOW = 0.2  # mm that such a stitch may leave the row, which bends
SHORT = 1.2  # mm of a stitch that is not divided for that
BEND = 1.0  # mm between places of a way along a row that bends
AMISS = 1.0  # mm that a last row may end off the place from which the thread goes on


@dataclass(frozen=True)
class _Course:
    """A section in its turn: how the thread comes to it and leaves it."""

    order: Index  # its stretches
    forward: bool  # whether the first of them is sewn forward
    path: Array  # (n, 2) along and across, the way to it
    reach: Reach | None  # from where to where, along, its last row must end, where neither of its ends does
    level: float  # of that row, mm across


@dataclass(frozen=True)
class Passage:
    """How sections become thread. hidden: whether travel may not lie on rows sewn before."""

    thread: RowThread
    sections: Sections
    between: list[Join]
    role: str
    inside: Inside
    hidden: bool

    def sewn(self, legs: list[Leg], begin: Array | None, last: Array | None) -> Strand:
        """Rows of all legs with the travel between them, tied at both ends.

        begin, last: where the thread comes from and where it is to end, along and across, of one that hides its
        travel.
        """
        frame, enters = self.thread.rows.frame, None
        if self.hidden and begin is not None and legs[0].way:
            enters = self.roads.entered(legs[0].way[0], begin)
        courses = self._courses(legs, enters, begin, last)
        flat = self.thread.stitched([one.order for one in courses], [one.forward for one in courses])
        chunks: list[tuple[Array, Array]] = []  # the way to some rows, and those
        for course, points in zip(courses, flat, strict=True):
            if course.reach is None:
                chunks.append((course.path, points))
                continue
            first, rest = from_both_ends(points, course.level, course.reach)
            chunks += [(course.path, first), (first[:0], rest)]
        if enters is not None:
            chunks = [(enters[:0], enters[None]), *chunks]
        if not isinstance(frame, Straight):
            ways = [_bent(np.concatenate([before[-1:], path, after[:1]]))[1:-1]
                    for (_, before), (path, after) in pairwise(chunks)]  # fmt: skip
            chunks = [(path, _divided(points, frame, self.thread.length))
                      for path, (_, points) in zip([chunks[0][0], *ways], chunks, strict=True)]  # fmt: skip
        sizes = [len(points) for _, points in chunks]
        rows = np.split(frame.places(np.concatenate([points for _, points in chunks])), np.cumsum(sizes)[:-1])
        ways = [np.concatenate([before[-1:], frame.places(path), after[:1]])
                for before, (path, _), after in zip(rows, chunks[1:], rows[1:], strict=False)]  # fmt: skip
        return tied(by_turns(rows, _travel(ways, self.inside), self.role, "" if enters is None else "travel"))

    @worked_out
    def members(self) -> list[Index]:
        """The stretches of each section in order."""
        by = np.argsort(self.sections.section, kind="stable")
        bounds = np.searchsorted(self.sections.section[by], np.arange(len(self.sections.top) + 1))
        return [by[low:high] for low, high in pairwise(bounds.tolist())]

    @worked_out
    def roads(self) -> Roads:
        inset = DEEP if self.hidden else INSET
        return roads_of(self.thread.rows, self.sections, self.members, self.between, inset)

    def _courses(self, legs: list[Leg], at: Array | None, begin: Array | None, last: Array | None) -> list[_Course]:
        """The legs in turn; at: where the thread stands before the first one, where it comes in elsewhere."""
        found = []
        for nth, leg in enumerate(legs):
            order = self.members[leg.section] if leg.end == 0 else self.members[leg.section][::-1]
            path = np.zeros((0, 2)) if at is None else self.roads.travel(leg.way, at, self.hidden and nth > 0)
            forward = self.thread.forward(int(order[0]), path, begin if at is None else at)
            odd, end, reach = len(order) % 2 == 1, int(order[-1]), None
            if self.hidden:
                onward = self.roads.onto(legs[nth + 1].way) if nth + 1 < len(legs) else _at(last)
                forward = self.thread.towards(end, odd, onward, forward)
                at = self.thread.end(end, forward == odd)
                if onward is not None and nth + 1 < len(legs) and _off(at, onward) > AMISS:
                    reach, at = onward, np.array([np.clip(at[0], *onward), at[1]])
            else:
                at = self.thread.end(end, forward == odd)
            found.append(
                _Course(
                    order,
                    forward,
                    self._on_to_its_start(path, int(order[0]), forward),
                    reach,
                    float(self.thread.rows.across[end]),
                )
            )
        return found

    def _on_to_its_start(self, path: Array, first: int, forward: bool) -> Array:
        """A way on along a first row to the end from which it is sewn."""
        rows = self.thread.rows
        start = np.array([[(rows.left if forward else rows.right)[first], rows.across[first]]])
        return path if len(path) == 0 or isinstance(rows.frame, Straight) else np.concatenate([path, start])


def _at(place: Array | None) -> Reach | None:
    return None if place is None else (float(place[0]), float(place[0]))


def _off(at: Array, reach: Reach) -> float:
    return max(reach[0] - float(at[0]), float(at[0]) - reach[1])


def _travel(ways: list[Array], inside: Inside) -> list[Array]:
    """Needle points of travel along each way, or along one that stays inside, its ends left out."""
    ways = inside.instead(ways)
    far = [float(np.hypot(*np.diff(way, axis=0).T).sum()) >= travel.STITCH for way in ways]
    runs = iter(
        runs_along([way for way, long in zip(ways, far, strict=True) if long], travel.STITCH, travel.CHORD, DROP)
    )
    return [(next(runs) if long else way)[1:-1] for way, long in zip(ways, far, strict=True)]


def _bent(path: Array) -> Array:
    """A way along and across with places every BEND mm along, as rows bend between them."""
    parts = np.maximum(np.ceil(np.abs(np.diff(path[:, 0])) / BEND), 1).astype(np.int64)
    owner = np.repeat(np.arange(len(parts)), parts)
    inner = path[owner] + (numbered(parts) / parts[owner])[:, None] * (path[owner + 1] - path[owner])
    return np.concatenate([inner, path[-1:]])


def _divided(points: Array, frame: Frame, length: float) -> Array:
    """Penetrations along and across with more of them where a curved frame draws stitches out or bends them."""
    places, middle = frame.places(points), frame.places((points[:-1] + points[1:]) / 2)
    size = np.linalg.norm(np.diff(places, axis=0), axis=1)
    bow = np.linalg.norm(middle - (places[:-1] + places[1:]) / 2, axis=1)
    parts = np.maximum(np.ceil(size / (LONG * length)), np.ceil(np.minimum(np.sqrt(bow / BOW), size / SHORT)))
    parts = np.maximum(parts, 1).astype(np.int64)
    owner = np.repeat(np.arange(len(parts)), parts)
    share = numbered(parts) / parts[owner]
    inner = points[owner] + share[:, None] * (points[owner + 1] - points[owner])
    return np.concatenate([inner, points[-1:]])
