"""Shapes healed where others lie over them: cut-outs and notches made for what lies there are closed again."""

from __future__ import annotations

import shapely
from shapely import Polygon

from velamen.core.geometry.region import Area, across, largest, polygons_of

COVERED = 0.85  # of a cut-out that lies under others, from which it was made for them
ALONG = 0.7  # of the edge of a notch that follows the outline of what lies in it
SPECK = 0.05  # mm² of no gap
MOST = 60.0  # mm across what notches are looked for of
FLAT = 4.0  # times as wide as a notch a ball that does not fall into it
ROOM, SEAM = 0.3, 0.02  # mm within which outlines follow one another, and by which joined ones overlap


def healed(region: Polygon, above: Area) -> Polygon:
    """A region without the holes and notches that lie under what is above it; itself where there are none.

    A notch lies in a hollow of the region, and its edge there is the outline of what lies in it.
    """
    over = [part for part in polygons_of(above) if shapely.dwithin(part, region, ROOM)]
    if not over:
        return region
    whole, cover = Polygon(region.exterior), shapely.buffer(shapely.union_all(over), ROOM)
    holes = [Polygon(ring) for ring in region.interiors]
    mended = [hole for hole in holes if hole.intersection(cover).area > COVERED * hole.area]
    mended += _notches(whole, shapely.union_all(over), min(max(across(part) for part in over), MOST))
    if not mended:
        return region
    return largest(shapely.union_all([region, *(shapely.buffer(gap, SEAM) for gap in mended)]))


def _notches(whole: Polygon, over: Area, wide: float) -> list[Polygon]:
    ball = FLAT * wide / 2
    closed = shapely.buffer(shapely.buffer(whole, ball, quad_segs=8), -ball, quad_segs=8)
    edge, outline = shapely.buffer(whole.exterior, SEAM), shapely.buffer(shapely.boundary(over), ROOM)
    found = []
    for gap in polygons_of(shapely.intersection(closed.difference(whole), over)):
        mine = shapely.intersection(gap.exterior, edge)
        if gap.area > SPECK and shapely.length(mine.intersection(outline)) > ALONG * mine.length > 0.0:
            found.append(gap)
    return found
