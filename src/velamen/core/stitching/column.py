"""Columns: satin between two rails, every stroke of a shape sewn on without a trim.

The thread runs out along the middle of a stroke, leaves it for every stroke that ends there, and
comes back as satin, so that all its ways are covered by stitches sewn later.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import within
from velamen.core.geometry.rails import Rails
from velamen.core.stitching.border import EDGE_INSET, UNDERLAY, UNDERLAY_RUN, UNDERLAY_ZIGZAG
from velamen.core.stitching.fill import FillSewing, fill, linked
from velamen.core.stitching.lanes import Lane, lanes_of
from velamen.core.stitching.run import run_along
from velamen.core.stitching.satin import satin
from velamen.core.stitching.split import split
from velamen.core.stitching.strand import Strand, join, strand, tied

ENDS = (("flat", "flat"), ("pointed", "pointed"), ("capped", "capped"))
CROWDED = 1.0  # mm below which penetrations of an underlay zigzag are pulled back
NARROW = 1.6  # mm; a narrower lane gets no underlay but its middle run
NEAR_END = 1.0  # mm from the end of a lane that still counts as its end
OVERLAP = 0.6  # mm by which the halves of a lane entered in its middle overlap
CAP_DEPTH, CAP_BEYOND, CAP_NARROWER = 2.0, 0.5, 0.8  # mm in, mm past the end, of the width at its inner side
PATCH = 0.3  # mm; a spot wider than that which no lane covers gets rows of its own
PATCH_LENGTH = 4.0  # mm


@dataclass(frozen=True)
class Sewing:
    """How columns are sewn. spacing, pull, push in mm; ends: of free tips; underlay: its recipe;

    split: key of SPLITS; longest: mm of an undivided stitch; lines: (n, 2) along which they divide.
    """

    role: str
    spacing: float
    pull: float = 0.0
    push: float = 0.0
    ends: str = "flat"
    underlay: str = "none"
    split: str = "limit"
    longest: float = 7.0
    lines: tuple[Array, ...] = ()


def columns(
    region: Polygon, sewing: Sewing, directions: Sequence[Array] = (), start: tuple[float, float] | None = None
) -> list[Strand]:
    """A closed shape sewn as columns along its strokes, what they leave bare as small fills under them.

    directions: lines (n, 2) along which stitches lie; start: where sewing begins and ends, as near
    as may be. Raises BadInput for figures out of bounds.
    """
    _check(sewing)
    lanes = lanes_of(region, directions)
    lanes = [replace(lane, rails=_widened(lane.rails, sewing.pull)) for lane in lanes]
    if not lanes:
        return []
    sewn = _patches(region, lanes, sewing)
    left, routes = set(range(len(lanes))), list[Strand]()
    while left:
        first = _first(lanes, left, start)
        one = _Route(lanes, sewing)
        one.sew(first, _nearer_end(lanes[first], start), left)
        routes.append(tied(join(one.parts)))
    # What the first route does not reach is sewn before it, so that the way to it lies under that.
    return linked([*sewn, *(routes[::-1] if start is None else routes)], region)


def between_rails(rails: Rails, sewing: Sewing) -> list[Strand]:
    """One column between two given rails, from their first end and back to it."""
    _check(sewing)
    one = _Route([Lane(_widened(rails, sewing.pull), (None, None))], sewing)
    one.sew(0, 0.0, {0})
    return [tied(join(one.parts))]


def _check(sewing: Sewing) -> None:
    bounds = (("spacing", sewing.spacing, 0.15, 4.0), ("pull", sewing.pull, 0.0, 2.0),
              ("push", sewing.push, 0.0, 2.0), ("longest stitch", sewing.longest, 2.0, 12.1))  # fmt: skip
    for name, value, low, high in bounds:
        within(f"{name} of a column", value, low, high)


def _first(lanes: list[Lane], left: set[int], start: tuple[float, float] | None) -> int:
    """The lane sewing begins with: the nearest to a place, or the longest."""
    if start is None:
        return max(left, key=lambda nth: lanes[nth].rails.length)
    return min(left, key=lambda nth: float(np.linalg.norm(_middle(lanes[nth].rails) - start, axis=1).min()))


def _nearer_end(lane: Lane, start: tuple[float, float] | None) -> float:
    """The advance at which a lane is entered first: an end, a free tip rather than a joint; on a ring the nearest."""
    middle = _middle(lane.rails)
    if lane.rails.closed:
        nth = 0 if start is None else int(np.argmin(np.linalg.norm(middle - start, axis=1)))
        return float(lane.rails.advance[nth])
    far = [0.0, 0.0] if start is None else [float(np.linalg.norm(middle[nth] - start)) for nth in (0, -1)]
    far = [one + (0.0 if tip else 1e3) for one, tip in zip(far, lane.tips, strict=True)]
    return 0.0 if far[0] <= far[1] else lane.rails.length


def _middle(rails: Rails) -> Array:
    return (rails.outer + rails.inner) / 2


def _widened(rails: Rails, pull: float) -> Rails:
    """Rails drawn apart along their stitches, `pull` mm each."""
    along = rails.outer - rails.inner
    size = np.linalg.norm(along, axis=1, keepdims=True)
    along = along / np.maximum(size, 1e-9) * np.minimum(pull, size)
    return replace(rails, outer=rails.outer + along, inner=rails.inner - along)


class _Route:
    """One strand growing: out along the middle of lanes, and back in satin."""

    def __init__(self, lanes: list[Lane], sewing: Sewing) -> None:
        self.lanes, self.sewing = lanes, sewing
        self.parts: list[Strand] = []

    def sew(self, nth: int, at: float, left: set[int]) -> None:
        """A lane entered at an advance, with all that can be reached from it, ending where it was entered."""
        left.discard(nth)
        lane = self.lanes[nth]
        length = lane.rails.length
        if lane.rails.closed:
            self._half(nth, at, at + length, left, OVERLAP)
        elif at <= NEAR_END or at >= length - NEAR_END:
            self._half(nth, *((0.0, length) if at <= NEAR_END else (length, 0.0)), left, 0.0)
        else:
            self._half(nth, at, length, left, 0.0)
            self._half(nth, at, 0.0, left, OVERLAP)

    def _half(self, nth: int, near: float, far: float, left: set[int], over: float) -> None:
        """From one advance to another and back, a little past where it began."""
        rails, sewing = self.lanes[nth].rails, self.sewing
        recipe = UNDERLAY[sewing.underlay] if _width(rails) > NARROW else (0, 0)
        zigzag = recipe[1] > 0
        at = near
        self._capped(self.lanes[nth], near, np.sign(near - far))
        for advance, other, entry in self._leaving(nth, near, far, left):
            if other not in left:
                continue
            self._out(rails, at, advance, zigzag)
            self.sew(other, entry, left)
            at = advance
        self._out(rails, at, far, zigzag)
        if recipe[1] > 1:
            self._out(rails, far, near, True)
            self._out(rails, near, far, False)
        if recipe[0] > 1:
            self._edge(rails, far, near, outer=True)
            self._edge(rails, near, far, outer=False)
        self._capped(self.lanes[nth], far, np.sign(far - near))
        self._satin(nth, far, near - over * np.sign(far - near))

    def _leaving(self, nth: int, near: float, far: float, left: set[int]) -> list[tuple[float, int, float]]:
        """Lanes that hang on a stretch of this one, and those it ends at, in the order they are passed.

        For each the advance at which this lane is left, and the one at which the other is entered.
        """
        lane = self.lanes[nth]
        found: list[tuple[float, int, float]] = []
        low, high = min(near, far), max(near, far)
        for other in sorted(left):
            for end, joint in enumerate(self.lanes[other].joints):
                if joint is not None and joint[0] == nth:
                    at = joint[1]
                    if lane.rails.closed and at < low:
                        at += lane.rails.length
                    if low - 1e-6 <= at <= high + 1e-6:
                        found.append((at, other, 0.0 if end == 0 else self.lanes[other].rails.length))
        found.sort(reverse=far < near)
        hosts = [(0.0 if end == 0 else lane.rails.length, joint) for end, joint in enumerate(lane.joints)]
        for at, joint in hosts:
            if joint is not None and joint[0] in left and low <= at <= high:
                found.insert(len(found) if abs(at - far) < abs(at - near) else 0, (at, *joint))
        return found

    def _out(self, rails: Rails, near: float, far: float, zigzag: bool) -> None:
        if abs(far - near) < 1e-6:
            return
        if zigzag and abs(far - near) > UNDERLAY_ZIGZAG:
            points = satin(_inset(rails), UNDERLAY_ZIGZAG, start=near, crowd=CROWDED, end=far)
        else:
            outer, inner, _, _ = rails.at(np.linspace(near, far, max(int(abs(far - near) / 0.25), 2)))
            points = run_along((outer + inner) / 2, UNDERLAY_RUN)
        self.parts.append(strand(points, "underlay"))

    def _edge(self, rails: Rails, near: float, far: float, outer: bool) -> None:
        narrow = _inset(rails)
        places = narrow.at(np.linspace(near, far, max(int(abs(far - near) / 0.25), 2)))[0 if outer else 1]
        self.parts.append(strand(run_along(places, UNDERLAY_RUN), "underlay"))

    def _capped(self, lane: Lane, at: float, outward: float) -> None:
        """A cap where an advance is a free end of a lane and caps are wanted."""
        tips = [abs(at - end) < 1e-6 and free for end, free in zip((0.0, lane.rails.length), lane.tips, strict=True)]
        if self.sewing.ends == "capped" and any(tips) and _width(lane.rails) > 1.0:
            self.parts.append(strand(_cap(lane.rails, at, outward, self.sewing.spacing), "cap"))

    def _satin(self, nth: int, near: float, far: float) -> None:
        lane, sewing = self.lanes[nth], self.sewing
        rails = lane.rails
        begin, end = (
            abs(one - tip) < 1e-6 and free for one, tip, free in self._tips(lane, near, far)
        )  # fmt: skip
        toward = np.sign(far - near)
        push = min(sewing.push, 0.2 * abs(far - near))
        near, far = near + push * toward * begin, far - push * toward * end
        if sewing.ends == "pointed":
            rails = _pointed(rails, lane.tips)
        points = satin(rails, sewing.spacing, start=near, end=far)
        points = split(points, sewing.split, sewing.longest, sewing.lines)
        self.parts.append(strand(points, sewing.role))

    def _tips(self, lane: Lane, near: float, far: float) -> list[tuple[float, float, bool]]:
        """For both ends of a stretch: its advance, that of the lane's end beside it, and whether that is free."""
        length = lane.rails.length
        return [(at, 0.0, lane.tips[0]) if at < length / 2 else (at, length, lane.tips[1]) for at in (near, far)]


def _width(rails: Rails) -> float:
    return float(np.median(np.linalg.norm(rails.outer - rails.inner, axis=1)))


def _inset(rails: Rails) -> Rails:
    """The rails of an underlay, set in from both sides."""
    width = np.maximum(np.linalg.norm(rails.outer - rails.inner, axis=1), 1e-9)
    share = np.minimum(EDGE_INSET / width, 0.4)[:, None]
    return replace(
        rails,
        outer=(1.0 - share) * rails.outer + share * rails.inner,
        inner=share * rails.outer + (1.0 - share) * rails.inner,
    )


def _pointed(rails: Rails, tips: tuple[bool, bool]) -> Rails:
    """Rails that run together at their free ends over a length of the column's own width."""
    width = np.linalg.norm(rails.outer - rails.inner, axis=1)
    off = np.full(len(width), np.inf)
    for at, free in ((0.0, tips[0]), (rails.length, tips[1])):
        if free:
            off = np.minimum(off, np.abs(rails.advance - at))
    share = np.clip(off / np.maximum(width, 0.5), 0.0, 1.0)[:, None]
    middle = _middle(rails)
    return replace(
        rails, outer=middle + share * (rails.outer - middle), inner=middle + share * (rails.inner - middle)
    )


def _cap(rails: Rails, at: float, sign: float, spacing: float) -> Array:
    """A short satin across an end, at right angles to the column, a little past it and narrower inwards."""
    outer, inner, _, _ = rails.at(np.array([at, at - sign * CAP_DEPTH]))
    outward = (outer[0] + inner[0] - outer[1] - inner[1]) / 2
    outward /= max(float(np.linalg.norm(outward)), 1e-9)
    beyond = [outer[0] + CAP_BEYOND * outward, inner[0] + CAP_BEYOND * outward]
    middle = (outer[0] + inner[0]) / 2
    within = [middle + CAP_NARROWER * (side - middle) - CAP_DEPTH * outward for side in (outer[0], inner[0])]
    steps = max(int(np.linalg.norm(outer[0] - inner[0]) / spacing), 2)
    share = np.linspace(0.0, 1.0, 2 * steps + 1)[:, None]
    far = (1.0 - share) * beyond[0] + share * beyond[1]
    near = (1.0 - share) * within[0] + share * within[1]
    return np.asarray(np.where(np.arange(2 * steps + 1)[:, None] % 2 == 0, far, near))


def _patches(region: Polygon, lanes: list[Lane], sewing: Sewing) -> list[Strand]:
    """Small fills of what no lane covers, sewn first."""
    covered = []
    for lane in lanes:
        nth = np.unique(np.append(np.arange(0, len(lane.rails.advance), 6), len(lane.rails.advance) - 1))
        outer, inner = lane.rails.outer[nth], lane.rails.inner[nth]
        corners = np.stack([outer[:-1], outer[1:], inner[1:], inner[:-1]], axis=1)
        covered.append(shapely.convex_hull(shapely.multipoints(corners)))
    area = shapely.union_all(np.concatenate(covered))
    bare = shapely.buffer(shapely.buffer(shapely.difference(region, area), -PATCH / 2), PATCH)
    sewn: list[Strand] = []
    for part in shapely.get_parts(shapely.intersection(bare, region)):
        if part.geom_type == "Polygon" and part.area > PATCH:
            rows = FillSewing(_angle_near(lanes, part), sewing.spacing, PATCH_LENGTH, pull=sewing.pull)
            sewn += fill(part, sewing.role, rows)
    return sewn


def _angle_near(lanes: list[Lane], part: Polygon) -> float:
    """The direction in rad of the stitches nearest to a place."""
    place = shapely.get_coordinates(part.representative_point())[0]
    best = min(lanes, key=lambda lane: float(np.linalg.norm(_middle(lane.rails) - place, axis=1).min()))
    nth = int(np.argmin(np.linalg.norm(_middle(best.rails) - place, axis=1)))
    way = best.rails.outer[nth] - best.rails.inner[nth]
    return float(np.arctan2(way[1], way[0]))
