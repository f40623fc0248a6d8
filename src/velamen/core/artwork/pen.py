"""Outlines drawn by hand: straight and curve points closed to a region, freehand strokes calmed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.artwork.flatten import flatten_cubic
from velamen.core.errors import BadInput
from velamen.core.geometry.combine import parts_of

Array = NDArray[np.float64]

TENSION = 1.0 / 6.0  # of the way between neighbours: a Catmull-Rom curve as cubic Beziers
SMALLEST = 4.0  # mm²
MOST = 4000  # points


def outline_through(points: Array, curved: Sequence[bool]) -> Polygon:
    """A closed outline through points (n, 2) in mm.

    curved: whether the outline runs smoothly through each point or has a corner there; a
    stretch bends only at its curved ends. Raises BadInput where no outline comes about.

    >>> import numpy as np
    >>> square = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10]])
    >>> outline_through(square, [False] * 4).area
    100.0
    """
    points, smooth = _apart(points, np.asarray(curved, dtype=bool))
    if len(points) < 3:
        raise BadInput("An outline needs at least three points that lie apart.")
    if len(points) > MOST:
        raise BadInput(f"The outline has {len(points):,} points: draw it with fewer, at most {MOST:,}.")
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    tangent = np.where(smooth[:, None], (after - before) * TENSION, 0.0)
    ring = [points[:1]]
    for nth in range(len(points)):
        one, other = points[nth], after[nth]
        if not smooth[nth] and not smooth[(nth + 1) % len(points)]:
            ring.append(other[None])
            continue
        control = np.array([one, one + tangent[nth], other - np.roll(tangent, -1, axis=0)[nth], other])
        ring.append(flatten_cubic(control))
    return _region(np.concatenate(ring)[:-1])


def freehand(points: Array, calm: float) -> Polygon:
    """A freehand stroke (n, 2) in mm closed and calmed: bumps under `calm` mm go."""
    points, _ = _apart(points, np.zeros(len(points), dtype=bool))
    if len(points) < 3:
        raise BadInput("A freehand outline needs a longer stroke.")
    thin = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), max(calm, 0.05) / 2))
    if len(thin) > 3 and np.linalg.norm(thin[0] - thin[-1]) < 4.0 * max(calm, 0.5):
        thin = thin[:-1]
    return outline_through(thin, [True] * len(thin))


def _apart(points: Array, curved: NDArray[np.bool_]) -> tuple[Array, NDArray[np.bool_]]:
    """Points without those that lie on the one before."""
    points = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if not np.isfinite(points).all():
        raise BadInput("The outline has a point that is not a finite number.")
    if len(points) == 0:
        return points, curved
    far = np.linalg.norm(points - np.roll(points, 1, axis=0), axis=1) > 0.05
    return points[far], curved[far]


def _region(ring: Array) -> Polygon:
    """The region of a drawn ring; small loops where it crosses itself are dropped."""
    region = Polygon(ring)
    if not region.is_valid:
        parts = parts_of(shapely.make_valid(region, method="structure", keep_collapsed=False))
        whole = sum(part.area for part in parts)
        if not parts or parts[0].area < 0.9 * whole:
            raise BadInput("The outline crosses itself: draw it without loops, or as two shapes.")
        region = Polygon(parts[0].exterior)
    if region.area < SMALLEST:
        raise BadInput(f"The outline encloses {region.area:.1f} mm²: draw it larger.")
    return region
