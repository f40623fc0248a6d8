"""Regions: an outer ring with holes, cleaned and oriented."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
import shapely
from shapely import MultiPolygon, Polygon

from velamen.core.arrays import Array, Place
from velamen.core.memo import kept

Area: TypeAlias = Polygon | MultiPolygon


def clean_ring(points: Array, grid: float = 1e-4) -> Array:
    """Ring without its closing point and without repeated points.

    points: (n, 2) in mm, closed or not. Returns (m, 2), possibly empty.

    >>> clean_ring(np.array([[0, 0], [5, 0], [5, 0], [5, 5], [0, 0]])).tolist()
    [[0.0, 0.0], [5.0, 0.0], [5.0, 5.0]]
    """
    points = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if len(points) == 0:
        return points
    keep = np.ones(len(points), dtype=bool)
    keep[1:] = np.abs(np.diff(points, axis=0)).max(axis=1) > grid
    points = points[keep]
    while len(points) > 1 and np.abs(points[0] - points[-1]).max() <= grid:
        points = points[:-1]
    return points


def signed_area(ring: Array) -> float:
    """Area of a ring in mm², positive when its points turn from x towards y.

    >>> signed_area(np.array([[0.0, 0.0], [4.0, 0.0], [4.0, 2.0]]))
    4.0
    """
    x, y = ring[:, 0], ring[:, 1]
    return float(0.5 * np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))


def boundaries(region: Polygon | MultiPolygon) -> list[Array]:
    """All rings of a region, each part's outer one first, each (n, 2) without a closing point, n 3 or more.

    The outer ring turns from x towards y and holes the other way, so that the
    cloth lies on the same side of every ring and (dy, -dx) always points off the cloth.

    >>> ring = shapely.box(0, 0, 9, 9).difference(shapely.box(3, 3, 6, 6))
    >>> [signed_area(one) for one in boundaries(ring)]
    [81.0, -9.0]
    """
    parts = shapely.get_parts(shapely.orient_polygons(region, exterior_cw=False))
    rings = [ring for part in parts for ring in (part.exterior, *part.interiors)]
    clean = [clean_ring(shapely.get_coordinates(ring)) for ring in rings]
    return [ring for ring in clean if len(ring) >= 3]  # what is left of a speck is no ring


def region_from_rings(rings: list[list[list[float]]]) -> Polygon:
    """Region from stored rings, outer first."""
    return Polygon(rings[0], rings[1:])


def rings_of(region: Polygon | MultiPolygon, decimals: int = 4) -> list[list[list[float]]]:
    """Rings of a region as plain lists for storing, outer first."""
    return [np.round(ring, decimals).tolist() for ring in boundaries(region)]


@kept(1024, lasting=True)
def across(region: Polygon) -> float:
    """Diameter in mm of the largest circle that fits inside a region."""
    line = shapely.maximum_inscribed_circle(region, tolerance=0.05)
    return 2.0 * float(shapely.length(line))


@kept(512, lasting=True)
def holes_of(region: Polygon) -> tuple[Polygon, ...]:
    """The holes of a region as areas, the same ones each time, so that what is asked of one is worked out once."""
    return tuple(Polygon(hole) for hole in region.interiors)


@kept(512, lasting=True)
def polygons_of(area: Area) -> list[Polygon]:
    """The polygons of an area; one that is one is itself, so that what is known of it stays known."""
    if isinstance(area, Polygon):
        return [] if area.is_empty else [area]
    return [part for part in shapely.get_parts(area) if isinstance(part, Polygon) and not part.is_empty]


def largest(area: Area) -> Polygon:
    """The largest part of an area, an empty one where it has none."""
    return max(polygons_of(area), key=lambda part: float(part.area), default=Polygon())


def grown(region: Area, by: float, quad_segs: int = 4) -> Area:
    """A region `by` mm larger all round, smaller where negative."""
    found: Area = shapely.buffer(region, by, quad_segs=quad_segs)
    return found


def ready(area: Area) -> Area:
    """A copy of an area prepared to be asked of many things, for its caller alone.

    An area is asked of by several threads, and one that is prepared may be by one only.
    """
    copy: Area = shapely.force_2d(area)
    shapely.prepare(copy)
    return copy


@kept(4096, lasting=True)
def band(region: Polygon, outside: float, inside: float) -> Polygon:
    """The area from `inside` mm within an outline to `outside` mm off it, holes' edges included.

    Good to about 0.2 mm: enough to weigh what lies under a pass, at a fraction of the cost.
    """
    calm = shapely.simplify(region, 0.1)
    calm = calm if calm.is_valid and calm.area > 0 else region
    outer = shapely.buffer(calm, outside, quad_segs=2) if outside > 0 else calm
    inner = shapely.buffer(calm, -inside, quad_segs=2)
    return outer if inner.is_empty else shapely.difference(outer, inner)


def spot_in(area: Area) -> tuple[Place, ...]:
    """A place within an area, mm, as findings tell places; none in an empty one."""
    spot = shapely.get_coordinates(shapely.point_on_surface(area)).round(2).tolist()
    return tuple((x, y) for x, y in spot)
