"""The thread of columns: underlay out along the middle of strokes, satin back over it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.rails import Rails
from velamen.core.geometry.region import grown, ready
from velamen.core.geometry.strokes import Strokes
from velamen.core.stitching.area_underlay import area_underlay
from velamen.core.stitching.border import EDGE_INSET, UNDERLAY, UNDERLAY_RUN, UNDERLAY_ZIGZAG
from velamen.core.stitching.column_ends import cap, pointed
from velamen.core.stitching.column_order import Mark, Order, Stretch, Visit
from velamen.core.stitching.fill import COVERS, FillSewing, fill
from velamen.core.stitching.kept_inside import kept_inside
from velamen.core.stitching.lanes import Lane
from velamen.core.stitching.run import run_along
from velamen.core.stitching.satin import satin
from velamen.core.stitching.split import split
from velamen.core.stitching.strand import Strand, join, long_enough, strand, tied

ENDS = (("flat", "flat"), ("pointed", "pointed"), ("capped", "capped"))
CROWDED = 1.0  # mm below which penetrations of an underlay zigzag are pulled back
NARROW = 1.6  # mm; a narrower lane gets no underlay but its middle run
OVERLAP, SEAM = 0.4, 0.2  # mm by which a ring overlaps, and the halves of a lane entered in its middle
SHORT_OF_END, SHORT_OF_CUT = 0.6, 1.5  # mm that underlay keeps from the ends of a lane, and from cuts
LOOKED_AT = 8.0  # mm of a lane over which that is asked
CAP_LEAST = 1.0  # mm of width that gets a cap
HUB_LENGTH, HUB_ANGLE = 4.0, np.radians(30.0)  # stitch and rows of a hub's fill
HUB_UNDERLAY = {"none": "none", "centre_run": "none", "edge_run": "edge"}  # by underlay of the columns; else both
OFF_CUT = 0.625  # of a row, from its other end: where an edge run lies along a cut
BESIDE = 0.8  # mm from the outline of a region up to which a rail lies on it
NEAR = 0.05  # mm outside a region that still counts as inside
STEP = 0.25  # mm between the places of a run


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


class ColumnThread:
    """A thread growing, visit by visit. lanes: what each stroke is sewn as, a lane or the area of a fill;

    start: where a ring begins; region: that no stitch leaves.
    """

    def __init__(
        self, found: Strokes, order: Order, lanes: Mapping[int, Lane | Polygon], sewing: Sewing,
        start: Array | None,
        region: Polygon,
    ) -> None:  # fmt: skip
        self.region = region
        self.outline = ready(region.boundary)
        self.cuts = ready(shapely.MultiLineString([contact.cut.line for contact in found.contacts]))
        self.room = ready(grown(region, NEAR, 2))
        self.found, self.along, self.lanes, self.sewing, self.start = found, order.along, lanes, sewing, start
        self.parts: list[Strand] = []
        self.done: list[Strand] = []

    def strands(self) -> list[Strand]:
        """What has been sewn, each stretch tied."""
        self._ended()
        return self.done

    def sew(self, visit: Visit) -> None:
        """A stroke with all that is visited from it, ending where it was entered."""
        for nth, stretch in enumerate(visit):
            lane = self.lanes.get(stretch.stroke)
            if isinstance(lane, Lane):
                last = nth + 1 == len(visit) and stretch.near.contact is not None
                self._stretch(lane, stretch, SEAM if nth else 0.0, self._cut(stretch.near) if last else None)
                continue
            for _, inner in stretch.visits:
                self.sew(inner)
            if lane is not None:
                self._hub(lane, stretch)

    def _cut(self, mark: Mark) -> Array | None:
        """The middle of the cut at a mark."""
        return None if mark.contact is None else self.found.contacts[mark.contact].cut.middle

    def _ended(self) -> None:
        if self.parts:
            xy = np.concatenate([one.xy for one in self.parts])
            role = np.concatenate([one.role for one in self.parts])
            sewn = long_enough(xy)
            self.done.append(tied(join([kept_inside(Strand(xy[sewn], role[sewn]), self.region, self.sewing.pull)])))
        self.parts = []

    def _at(self, lane: Lane, stroke: int, mark: Mark) -> float:
        """The advance of a mark on a stroke's lane."""
        if mark.contact is not None:
            return lane.at(self.along[stroke, mark.contact])
        if lane.rails.closed and self.start is not None:
            return lane.nearest(self.start)
        return 0.0 if mark.end == 0 else lane.rails.length

    def _stretch(self, lane: Lane, stretch: Stretch, over: float, leave: Array | None) -> None:
        """From one mark of a lane to another and back, `over` mm past where it began, to the side of a place (2,).

        The edge run on the side where satin begins comes last, so that no thread crosses to it.
        """
        rails, sewing = lane.rails, self.sewing
        near, far = (self._at(lane, stretch.stroke, mark) for mark in (stretch.near, stretch.far))
        if rails.closed:
            far, over = near + rails.length, OVERLAP
        recipe = UNDERLAY[sewing.underlay] if _width(rails) > NARROW else (0, 0)
        zigzag = recipe[1] > 0
        ahead = np.sign(far - near) or 1.0
        at, turn = (
            one + way * min(self._short(lane, stretch.stroke, one, way), 0.25 * abs(far - near))
            for one, way in ((near, ahead), (far, -ahead))
        )
        begin = at
        lane = _ending(lane, near - over * ahead, leave)
        self._capped(lane, near, -ahead)
        for mark, visit in stretch.visits:
            advance = self._at(lane, stretch.stroke, mark)
            if rails.closed and advance < near:
                advance += rails.length
            advance = float(np.clip(advance, min(at, turn), max(at, turn)))
            self._out(lane, at, advance, zigzag)
            self.sew(visit)
            at = advance
        self._out(lane, at, turn, zigzag)
        if recipe[1] > 1:
            self._out(lane, turn, begin, True)
            self._out(lane, begin, turn, False)
        if recipe[0] > 1:
            self._edge(lane, turn, begin, outer=False)
            self._edge(lane, begin, turn, outer=True)
        self._capped(lane, far, ahead)
        self._satin(lane, far, near - over * ahead)

    def _short(self, lane: Lane, stroke: int, at: float, ahead: float) -> float:
        """What underlay keeps from an advance, going on from there: more at a cut, where two layers of satin lie."""
        ends = zip((0.0, lane.rails.length), lane.tips, strict=True)
        if lane.rails.closed or not any(abs(at - end) < 1e-6 and not free for end, free in ends):
            return SHORT_OF_END
        cuts = shapely.multilinestrings(
            [self.found.contacts[nth].cut.line for nth in self.found.strokes[stroke].ends]
        )
        far = np.arange(0.0, LOOKED_AT, STEP)
        outer, inner, _, _ = lane.rails.at(np.clip(at + ahead * far, 0.0, lane.rails.length))
        near = shapely.dwithin(shapely.points((outer + inner) / 2), cuts, SHORT_OF_CUT)
        return max(SHORT_OF_END, float(far[near].max(initial=0.0)) + STEP)

    def _hub(self, area: Polygon, stretch: Stretch) -> None:
        """A wide middle of several strokes, filled once those have been sewn."""
        self._ended()
        sewing = self.sewing
        first = self.done[-1].xy[-1] if self.done else None
        recipe = HUB_UNDERLAY.get(sewing.underlay, "edge_rows")
        end = self._cut(stretch.near)
        rows = FillSewing(HUB_ANGLE, sewing.spacing, HUB_LENGTH, pull=sewing.pull, covers=sewing.spacing <= COVERS)
        self.done += area_underlay(area, recipe, HUB_ANGLE)
        self.done += fill(area, sewing.role, rows, *(None if one is None else (float(one[0]), float(one[1]))
                                                     for one in (first, end)))  # fmt: skip

    def _out(self, lane: Lane, near: float, far: float, zigzag: bool) -> None:
        if abs(far - near) < 1e-6:
            return
        if zigzag and abs(far - near) > UNDERLAY_ZIGZAG:
            points = satin(_inset(lane.rails), UNDERLAY_ZIGZAG, start=near, crowd=CROWDED, end=far)
        else:
            points = run_along(lane.along(near, far, STEP), UNDERLAY_RUN)
        self._under(points)

    def _under(self, points: Array) -> None:
        """Underlay without the needle points where a hole comes between one row and the next."""
        points = points[shapely.contains_xy(self.room, points[:, 0], points[:, 1])]
        if len(points):
            self.parts.append(strand(points, "underlay"))

    def _edge(self, lane: Lane, near: float, far: float, outer: bool) -> None:
        """A run beside an edge of the region; along a cut, where two layers of satin lie, farther in instead."""
        advance = np.linspace(near, far, max(int(abs(far - near) / STEP), 2))
        rail, side = lane.rails.at(advance)[:2], 0 if outer else 1
        places = _inset(lane.rails).at(advance)[side]
        spots = shapely.points(rail[side])
        beside = shapely.dwithin(spots, self.outline, self.sewing.pull + BESIDE)
        beside &= ~shapely.dwithin(spots, self.cuts, SHORT_OF_CUT)
        places = np.where(beside[:, None], places, OFF_CUT * rail[side] + (1.0 - OFF_CUT) * rail[1 - side])
        self._under(run_along(places, UNDERLAY_RUN))

    def _capped(self, lane: Lane, at: float, outward: float) -> None:
        """A cap where an advance is a free end of a lane and caps are wanted."""
        tips = [abs(at - end) < 1e-6 and free for end, free in zip((0.0, lane.rails.length), lane.tips, strict=True)]
        if self.sewing.ends == "capped" and any(tips) and _width(lane.rails) > CAP_LEAST:
            self.parts.append(strand(cap(lane.rails, at, outward, self.sewing.spacing), "cap"))

    def _satin(self, lane: Lane, near: float, far: float) -> None:
        sewing, rails = self.sewing, lane.rails
        begin, end = (
            abs(one - tip) < 1e-6 and free for one, tip, free in self._tips(lane, near, far)
        )  # fmt: skip
        toward = np.sign(far - near)
        push = min(sewing.push, 0.2 * abs(far - near))
        near, far = near + push * toward * begin, far - push * toward * end
        if sewing.ends == "pointed":
            rails = pointed(rails, lane.tips)
        points = satin(rails, sewing.spacing, start=near, end=far)
        points = split(points, sewing.split, sewing.longest, sewing.lines)
        self.parts.append(strand(points, sewing.role))

    def _tips(self, lane: Lane, near: float, far: float) -> list[tuple[float, float, bool]]:
        """For both ends of a stretch: its advance, that of the lane's end beside it, and whether that is free."""
        length = lane.rails.length
        return [(at, 0.0, lane.tips[0]) if at < length / 2 else (at, length, lane.tips[1]) for at in (near, far)]


def _ending(lane: Lane, at: float, leave: Array | None) -> Lane:
    """A lane, the rail first that is nearer to a place (2,) at an advance: satin begins and ends on that one."""
    rails = lane.rails
    if leave is None:
        return lane
    outer, inner, _, _ = rails.at(np.array([at]))
    if np.linalg.norm(inner[0] - leave) >= np.linalg.norm(outer[0] - leave):
        return lane
    turned = replace(
        rails, outer=rails.inner, inner=rails.outer, outer_way=rails.inner_way, inner_way=rails.outer_way
    )
    return replace(lane, rails=turned)


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
