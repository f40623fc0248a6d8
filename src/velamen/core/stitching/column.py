"""Columns: satin along every stroke of a shape, sewn on without a trim.

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
from velamen.core.geometry.strokes import Strokes, strokes_of
from velamen.core.geometry.strokes.axis import Axis, CutEnd, across, axis_of
from velamen.core.memo import kept
from velamen.core.stitching.column_order import Order, order_of
from velamen.core.stitching.column_thread import ColumnThread, Sewing
from velamen.core.stitching.fill import COVERS, FillSewing, fill, linked
from velamen.core.stitching.lanes import Lane, lane_of, middle
from velamen.core.stitching.overlap import grown_strokes, own_overlaps
from velamen.core.stitching.strand import Strand

GRID = 6  # digits of mm that count
PATCH = 0.3  # mm; a spot wider than that which no lane covers gets rows of its own
PATCH_LENGTH = 4.0  # mm
PATCH_CLOSEST = 0.2  # mm between its rows, which lie half as far apart as the satin's, but no closer
WIDE = 7.5  # mm of half width above which a stroke is one for a fill


@dataclass(frozen=True)
class Plan:
    """A shape taken apart. strokes, and the middle of each, None where it is sewn as a fill."""

    strokes: Strokes
    axes: tuple[Axis | None, ...]

    @property
    def halves(self) -> list[float]:
        """Half width of each stroke, mm."""
        return [np.inf if axis is None else float(np.median(axis.half)) for axis in self.axes]


def columns(
    region: Polygon, sewing: Sewing, directions: Sequence[Array] = (), start: tuple[float, float] | None = None
) -> list[Strand]:
    """A closed shape sewn as columns along its strokes, what they leave bare as small fills under them.

    directions: lines (n, 2) along which stitches lie; start: where sewing begins and ends, as near
    as may be. Raises BadInput for figures out of bounds.
    """
    check(sewing)
    own, corner = _own_frame(region)
    here = replace(sewing, lines=tuple(line - corner for line in sewing.lines))
    lines = [line - corner for line in directions]
    sewn = _columns(own, here, lines, None if start is None else np.asarray(start) - corner)
    return [Strand(one.xy + corner, one.role) for one in sewn]


@kept(256, lasting=True)
def _own_frame(region: Polygon) -> tuple[Polygon, Array]:
    """A region from its own corner on, where equal letters are the same shape to the last digit; and that corner."""
    corner = np.array(region.bounds[:2])
    own = shapely.transform(region, lambda xy: np.round(xy - corner, GRID))
    return (own if own.is_valid else shapely.transform(region, lambda xy: xy - corner)), corner


def _columns(region: Polygon, sewing: Sewing, directions: Sequence[Array], start: Array | None) -> list[Strand]:
    plan = planned(region)
    if directions and plan.axes and len(plan.axes) == 1 and not plan.strokes.strokes[0].hub:
        plan = _along(plan, directions)
    order = order_of(plan.strokes, list(plan.axes), start)
    lanes = _lanes(region, plan, order, sewing, directions)
    thread = ColumnThread(plan.strokes, order, lanes, sewing, start, region)
    for visit in order.visits:
        thread.sew(visit)
    return linked([*_patches(region, plan, lanes, sewing), *thread.strands()], region)


def lanes_of(region: Polygon, directions: Sequence[Array] = ()) -> list[Lane]:
    """The lanes of a shape's strokes, those last that end at others; what is sewn as a fill has none."""
    plan = planned(region)
    if directions and plan.axes and len(plan.axes) == 1 and not plan.strokes.strokes[0].hub:
        plan = _along(plan, directions)
    order = order_of(plan.strokes, list(plan.axes), None)
    lanes = _lanes(region, plan, order, Sewing("column", 0.4), directions)
    return [lane for _, lane in sorted(lanes.items()) if isinstance(lane, Lane)]


def check(sewing: Sewing) -> None:
    """Raises BadInput for figures out of bounds."""
    bounds = (("spacing", sewing.spacing, 0.15, 4.0), ("pull", sewing.pull, 0.0, 2.0),
              ("push", sewing.push, 0.0, 2.0), ("longest stitch", sewing.longest, 2.0, 12.1))  # fmt: skip
    for name, value, low, high in bounds:
        within(f"{name} of a column", value, low, high)


@kept(64, lasting=True)
def planned(region: Polygon) -> Plan:
    """A region's strokes, with the middle line of each."""
    found = strokes_of(region)
    return Plan(found, tuple(_axis(found, nth) for nth in range(len(found.strokes))))


def for_a_fill(region: Polygon) -> bool:
    """Whether most of a region is too wide for columns: a hub, a lump, or strokes that are wide themselves."""
    plan = planned(_own_frame(region)[0])
    wide = sum(stroke.region.area for stroke, axis in zip(plan.strokes.strokes, plan.axes, strict=True)
               if axis is None or float(np.median(axis.half)) > WIDE)  # fmt: skip
    return bool(wide > 0.5 * region.area)


def widths(region: Polygon) -> list[float]:
    """mm across each stroke of a region, at its middle."""
    return [2 * half for half in planned(_own_frame(region)[0]).halves if np.isfinite(half)]


def _axis(found: Strokes, nth: int) -> Axis | None:
    stroke = found.strokes[nth]
    if stroke.hub:
        return None
    ends = []
    for link in stroke.ends:
        cut = found.contacts[link].cut
        if found.contacts[link].branch == nth:
            ends.append(CutEnd(cut.line, -cut.inward))
        if found.contacts[link].host == nth and cut.mitre:
            ends.append(CutEnd(cut.line, cut.inward))
    return axis_of(stroke.region, ends, stroke.tips) or across(stroke.region, _short_way(stroke.region))


def _along(plan: Plan, directions: Sequence[Array]) -> Plan:
    """A lump's rows laid along the first drawn direction, where there is one."""
    axis, (stroke,) = plan.axes[0], plan.strokes.strokes
    if axis is None or axis.closed or axis_of(stroke.region, [], stroke.tips) is not None:
        return plan
    way = directions[0][-1] - directions[0][0]
    return replace(plan, axes=(across(stroke.region, float(np.arctan2(way[1], way[0]))),))


def _short_way(region: Polygon) -> float:
    """The direction of a lump's shorter side, rad."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(region))[:4]
    sides = np.diff(np.concatenate([corners, corners[:1]]), axis=0)
    short = sides[int(np.argmin(np.round(np.linalg.norm(sides, axis=1), 6)))]
    return float(np.arctan2(short[1], short[0]))


def _lanes(
    region: Polygon, plan: Plan, order: Order, sewing: Sewing, directions: Sequence[Array]
) -> dict[int, Lane | Polygon]:
    """What each stroke is sewn as: a lane, or the area of a fill. Those in which no row fits have none."""
    grown = grown_strokes(plan.strokes, region, order.rank, plan.halves)
    found: dict[int, Lane | Polygon] = {}
    for nth, axis in enumerate(plan.axes):
        if axis is None:
            found[nth] = grown[nth]
            continue
        more = own_overlaps(plan.strokes, nth, region)
        lane = lane_of(axis, plan.strokes.strokes[nth].region, grown[nth], more, directions)
        if lane is not None:
            found[nth] = replace(lane, rails=_widened(lane.rails, sewing.pull))
    return found


def _widened(rails: Rails, pull: float) -> Rails:
    """Rails drawn apart along their stitches, `pull` mm each."""
    along = rails.outer - rails.inner
    size = np.linalg.norm(along, axis=1, keepdims=True)
    along = along / np.maximum(size, 1e-9) * np.minimum(pull, size)
    return replace(rails, outer=rails.outer + along, inner=rails.inner - along)


def _patches(region: Polygon, plan: Plan, lanes: dict[int, Lane | Polygon], sewing: Sewing) -> list[Strand]:
    """Small fills of what no lane covers, as close as satin, sewn first and left where a lane comes over them."""
    covered = [np.array([lane for lane in lanes.values() if isinstance(lane, Polygon)], dtype=object)]
    rows = [lane for lane in lanes.values() if isinstance(lane, Lane)]
    for lane in rows:
        nth = np.unique(np.append(np.arange(0, len(lane.rails.advance), 3), len(lane.rails.advance) - 1))
        outer, inner = lane.rails.outer[nth], lane.rails.inner[nth]
        corners = np.stack([outer[:-1], outer[1:], inner[1:], inner[:-1]], axis=1)
        covered.append(shapely.convex_hull(shapely.multipoints(corners)))
    area = shapely.union_all(np.concatenate(covered))
    bare = shapely.buffer(shapely.buffer(shapely.difference(region, area), -PATCH / 2), PATCH)
    spacing = max(sewing.spacing / 2, PATCH_CLOSEST)
    sewn: list[Strand] = []
    for part in shapely.get_parts(shapely.intersection(bare, region)):
        if part.geom_type == "Polygon" and part.area > PATCH and rows:
            angle = _angle_near(rows, part)
            close = FillSewing(angle, spacing, PATCH_LENGTH, pull=sewing.pull, covers=spacing <= COVERS)
            over = shapely.intersection(part, area)  # nothing where only a thin neck leads to the lanes
            gate = part.centroid if over.is_empty else over.centroid
            sewn += fill(part, sewing.role, close, end=(gate.x, gate.y))
    return sewn


def _angle_near(lanes: list[Lane], part: Polygon) -> float:
    """The direction in rad of the stitches nearest to a place."""
    place = shapely.get_coordinates(part.representative_point())[0]
    best = min(lanes, key=lambda lane: float(np.linalg.norm(middle(lane.rails) - place, axis=1).min()))
    nth = int(np.argmin(np.linalg.norm(middle(best.rails) - place, axis=1)))
    way = best.rails.outer[nth] - best.rails.inner[nth]
    return float(np.arctan2(way[1], way[0]))
