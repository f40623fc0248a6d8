"""Where a region is narrow: parts that a circle of some size does not reach, and its narrowest part."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.geometry.region import Area
from velamen.core.memo import kept

SEGMENTS = 12
CALM = 0.05  # mm an outline is thinned by first
ROUGH = 0.01  # of a width by which an outline may be thinned before that width is tried
STANDS = 0.05  # of the circle's radius by which an opened region is grown back too far
FIRST, LAST, ROUNDS = 0.2, 40.0, 9  # mm wide, and halvings in looking for the narrowest part


def thin_parts(region: Area, width: float) -> list[tuple[Area, float]]:
    """Parts of a region narrower than `width` mm, each with how far in mm it reaches beyond the wider ones.

    A convex corner counts where it reaches farther than half that width, so that a right angle does not;
    what joins two wider parts always does.
    """
    radius = width / 2
    calm = shapely.simplify(region, CALM)
    wide = shapely.buffer(
        shapely.buffer(calm, -radius, quad_segs=SEGMENTS), radius * (1 + STANDS), quad_segs=SEGMENTS
    )
    lost = shapely.get_parts(shapely.difference(calm, wide))
    lost = [part for part in lost if part.geom_type == "Polygon" and part.area > 0.01 * width**2]
    if wide.is_empty:
        return [(part, np.inf) for part in lost]
    far = [float(shapely.distance(shapely.points(shapely.get_coordinates(part)), wide).max()) for part in lost]
    blobs = shapely.get_parts(wide)
    joins = [int((shapely.distance(blobs, part) < CALM).sum()) > 1 for part in lost]
    return [(part, reach) for part, reach, joint in zip(lost, far, joins, strict=True) if reach > radius or joint]


@kept(1024, lasting=True)
def narrowest(region: Area) -> float:
    """Width in mm of the narrowest part of a region, tips of corners left out, to about 5 %."""
    low, high = FIRST, LAST
    for _ in range(ROUNDS):
        middle = float(np.sqrt(low * high))
        low, high = (low, middle) if _has_neck(region, middle) else (middle, high)
    return round(float(np.sqrt(low * high)), 2)


def _has_neck(region: Area, width: float) -> bool:
    """Whether a circle of this width cannot go everywhere: it finds two places apart, or a long part it misses."""
    calm = shapely.simplify(region, max(CALM, ROUGH * width))  # wide circles cost much along a jagged outline
    inner = shapely.buffer(calm, -width / 2, quad_segs=SEGMENTS)
    if inner.is_empty or shapely.get_num_geometries(inner) > shapely.get_num_geometries(calm):
        return True
    wide = shapely.buffer(inner, width / 2 * (1 + STANDS), quad_segs=SEGMENTS)
    lost = shapely.get_parts(shapely.difference(calm, wide))
    return bool(len(lost)) and bool((shapely.area(lost) > width**2).any())
