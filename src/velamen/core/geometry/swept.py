"""Areas moved along a straight way: what they pass over, and the faces of it that show behind them."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area

TUCK = 0.4  # mm that a face lies under what stands before it, where it begins and ends
LEAST = 0.02  # mm2 of a part of a face that is none


def swept(area: Area, way: Array) -> Area:
    """All that an area passes over when it is moved by `way` (2,) mm: the whole of it, no holes left by chance."""
    sides = [np.stack([ring[:-1], ring[1:], ring[1:] + way, ring[:-1] + way], axis=1)
             for ring in map(shapely.get_coordinates, shapely.get_rings(shapely.get_parts(area)))]  # fmt: skip
    if not sides:
        return area
    quads = shapely.make_valid(shapely.polygons(np.concatenate(sides)))
    moved = shapely.transform(area, lambda xy: xy + way)
    return shapely.union_all([area, moved, *quads], grid_size=1e-4)


def faces(area: Area, way: Array, before: Area) -> Area:
    """What shows of an area drawn out along `way` (2,) mm, tucked under what stands before it, along the way only."""
    shown = shapely.difference(swept(area, way), before)
    parts = shapely.get_parts(shown)
    parts = parts[shapely.area(parts) > LEAST]
    if not len(parts):
        return shapely.Polygon()
    tuck = TUCK * way / max(float(np.linalg.norm(way)), 1e-9)
    shown = shapely.union_all(parts)
    under = shapely.intersection(shapely.union_all([swept(shown, tuck), swept(shown, -tuck)]), before)
    joined = shapely.union_all([shown, *_areas(under)], grid_size=1e-4)
    whole = shapely.get_parts(joined)
    return shapely.union_all(whole[shapely.area(whole) > LEAST])


def _areas(area: Area) -> list[Area]:
    return [part for part in shapely.get_parts(area) if part.geom_type == "Polygon"]
