"""Cloth under later cloth: how far it runs on there, and where its edge needs no cover."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.geometry.combine import fill_holes
from velamen.core.geometry.region import Area
from velamen.core.memo import kept

BESIDE = 0.4  # mm apart, within which two cloths meet along an edge
TUCK = 1.5  # mm that a cover still runs on under later cloth
ALONG = 0.15  # mm more than they are apart, within which the edge of later cloth runs along its neighbour
GRAIN = 0.01  # mm
CALM = 0.03  # mm that the line along which cloth runs on may leave the edge of later cloth
OPEN = 0.4  # of the outline of what is cut back, that must be the cloth's own edge: scissors come in from there
SCRAP = 0.5  # mm²; less is not worth an own corner in the cut


def run_under(region: Area, later: Area | None, depth: float, cut_back: bool = False) -> Area:
    """A cloth with what it runs on, `depth` mm, under the edge of later cloth that covers or meets its own edge.

    cut_back: whether what is drawn farther under it is cut away, where it lies open to the cloth's edge and the cloth
    stays one piece without new holes; it stays as drawn otherwise.
    """
    if later is None or depth <= 0:
        return region
    whole = _run_under(region, later, depth)
    return _cut_back(whole, later, depth) if cut_back else whole


def hidden_under(later: Area | None) -> Area | None:
    """Where later cloth hides an edge so that it needs no cover, None for nowhere."""
    if later is None:
        return None
    hidden = _shrunk(later)
    return None if hidden.is_empty else hidden


@kept(512, lasting=True)
def _cut_back(region: Area, later: Area, depth: float) -> Area:
    """A cloth without what lies deeper than that under later cloth, where its own edge runs along that."""
    own = region
    deep = shapely.intersection(shapely.buffer(later, -depth, quad_segs=8), own)
    edge = shapely.boundary(own)
    for part in shapely.get_parts(deep):
        along = shapely.length(shapely.intersection(edge, shapely.buffer(part, GRAIN)))
        if part.area < SCRAP or along < OPEN * part.length:
            continue
        left = shapely.simplify(shapely.difference(own, shapely.buffer(part, GRAIN)), GRAIN)
        parts = [one for one in shapely.get_parts(left) if one.area > SCRAP]
        if len(parts) == 1 and len(parts[0].interiors) <= len(own.interiors):
            own = parts[0]
    return own


def _beside(edge: object, depth: float) -> Area:
    """The area within a distance of lines, but not beyond their ends."""
    bands, joints = [], []
    for line in shapely.get_parts(shapely.line_merge(edge)):
        points = shapely.get_coordinates(shapely.simplify(line, CALM))
        if len(points) < 2:
            continue
        sides = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
        bands.append(shapely.buffer(sides, depth, cap_style="flat"))
        ends = points if np.abs(points[0] - points[-1]).max() < GRAIN else points[1:-1]
        joints.append(shapely.buffer(shapely.points(ends), depth, quad_segs=8))
    return shapely.union_all(np.concatenate([*bands, *joints])) if bands else shapely.Polygon()


@kept(512, lasting=True)
def _shrunk(later: Area) -> Area:
    return shapely.buffer(later, -TUCK, quad_segs=8)


@kept(512, lasting=True)
def _run_under(region: Area, later: Area, depth: float) -> Area:
    own, over = region, later
    if shapely.distance(shapely.boundary(own), over) > BESIDE:
        return own
    gap = float(shapely.distance(own, over))
    apart = min(gap + ALONG, BESIDE) if gap > GRAIN else 2 * GRAIN
    edge = shapely.intersection(shapely.boundary(over), shapely.buffer(own, apart, quad_segs=4))
    # farther from the cloth itself it stays well within the later one, never along its edge
    room = shapely.union(_shrunk(later), shapely.intersection(shapely.buffer(own, TUCK + apart + ALONG), over))
    grown = shapely.intersection(_beside(edge, depth), room)
    more = [part for part in shapely.get_parts(shapely.difference(grown, own)) if part.area > SCRAP]
    whole = shapely.union_all([own, *more])
    if shapely.get_num_geometries(whole) > 1:  # a gap of tenths between the two is closed first
        seam = shapely.intersection(shapely.buffer(own, BESIDE), shapely.buffer(over, BESIDE))
        whole = shapely.union(whole, seam)
    whole = shapely.simplify(whole, GRAIN)
    parts = [part for part in shapely.get_parts(whole) if part.geom_type == "Polygon" and part.intersects(own)]
    largest = fill_holes(max(parts, key=lambda part: part.area, default=own), SCRAP)
    return own if largest.area - own.area < GRAIN else largest
