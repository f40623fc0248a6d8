"""Regions of shapes: rings as areas, mended where slightly broken; the ground that an open line runs over."""

from __future__ import annotations

from functools import lru_cache

import msgspec
import shapely
from shapely import Polygon

from velamen.core.errors import BadInput
from velamen.core.geometry.region import region_from_rings
from velamen.core.job.shape import Shape, check_bounds
from velamen.core.memo import Same

LINE_GROUND = 0.25  # mm to either side of an open line that it is sewn on
SHORTEST_LINE = 1.0  # mm


def region_of(shape: Shape) -> Polygon:
    """A shape's region, mended where it is slightly broken. Raises BadInput where it cannot be."""
    return _region_of(Same(shape))


@lru_cache(maxsize=1024)
def _region_of(shape: Same[Shape]) -> Polygon:
    check_bounds(shape.it)
    if shape.it.open:
        return _along(shape.it.name, msgspec.json.encode(shape.it.rings))
    return _region(shape.it.name, msgspec.json.encode(shape.it.rings))


@lru_cache(maxsize=1024)
def _region(name: str, rings_json: bytes) -> Polygon:
    region = region_from_rings(msgspec.json.decode(rings_json))
    if not region.is_valid:
        region = shapely.make_valid(region, method="structure", keep_collapsed=False)
        if region.geom_type != "Polygon":
            raise BadInput(f"Shape {name!r} crosses itself: pull the crossing apart first.")
    if region.area < 0.5:
        raise BadInput(f"Shape {name!r} encloses {region.area:.2f} mm²: too small to sew.")
    return region


@lru_cache(maxsize=1024)
def _along(name: str, rings_json: bytes) -> Polygon:
    """The ground that an open line runs over."""
    line = shapely.LineString(msgspec.json.decode(rings_json)[0])
    if line.length < SHORTEST_LINE:
        raise BadInput(f"Line {name!r} is {line.length:.2f} mm long: too short to sew.")
    ground = shapely.buffer(shapely.simplify(line, 0.02), LINE_GROUND, quad_segs=3)
    return shapely.Polygon(ground.exterior)


def forget_regions() -> None:
    """Drops what is kept of outlines."""
    _region.cache_clear()
    _region_of.cache_clear()
