"""The outline of what needle points cover: one area, however many strands they are."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.region import largest

CELL = 0.5  # mm across the cells that stitches pass through
MOST_CELLS = 60_000  # of finer ones, larger ones are taken
CALM = 0.6  # mm over which steps of cells are evened out
BRIDGES = (1.5, 4.0, 12.0, 40.0)  # mm between parts that are taken together, the first that makes them one
FINE = 0.12  # mm that the outline may move when it is thinned
LEAST_HOLE = 4.0  # mm²


def outline_round(xy: Array, counts: Index) -> Polygon:
    """The area that strands of needle points (n, 2), `counts` points each, cover, as one polygon."""
    owner = np.repeat(np.arange(len(counts)), counts)
    within = owner[1:] == owner[:-1]
    begin, end = xy[:-1][within], xy[1:][within]
    size = max(CELL, float(np.sqrt(np.prod(np.maximum(np.ptp(xy, axis=0), CELL)) / MOST_CELLS)))
    area = shapely.union_all(_boxes(begin, end, size))
    calm = max(CALM, size)
    for bridge in (calm, *BRIDGES):
        area = shapely.buffer(shapely.buffer(area, bridge, quad_segs=3), -bridge, quad_segs=3)
        if area.geom_type == "Polygon":
            break
    else:
        area = shapely.convex_hull(area)
    area = shapely.simplify(shapely.buffer(shapely.buffer(area, -0.25 * size), 0.25 * size), FINE)
    whole = largest(area) if not area.is_empty else shapely.buffer(shapely.MultiPoint(xy), CELL).convex_hull
    return Polygon(whole.exterior, [hole for hole in whole.interiors if Polygon(hole).area > LEAST_HOLE])


def _boxes(begin: Array, end: Array, size: float) -> NDArray[np.object_]:
    """Boxes of the cells that stitches pass through, those beside one another in a row as one."""
    steps = np.maximum(np.ceil(2.0 * np.linalg.norm(end - begin, axis=1) / size), 1).astype(np.int64)
    owner = np.repeat(np.arange(len(steps)), steps)
    share = ((numbered(steps) + 0.5) / steps[owner])[:, None]
    cells = np.floor((begin[owner] + share * (end - begin)[owner]) / size).astype(np.int64)
    low = cells.min(axis=0)
    across, down = np.ptp(cells, axis=0) + 1
    sewn = np.zeros((down, across + 2), dtype=np.int8)  # a cell more on either side, so that every row ends
    sewn[cells[:, 1] - low[1], cells[:, 0] - low[0] + 1] = 1
    edges = np.diff(sewn, axis=1)
    (y, first), (_, last) = np.nonzero(edges == 1), np.nonzero(edges == -1)
    x0, x1, y0 = (first + low[0]) * size, (last + low[0]) * size, (y + low[1]) * size
    boxes: NDArray[np.object_] = shapely.box(x0, y0, x1, y0 + size)
    return boxes
