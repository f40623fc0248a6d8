"""Outlines drawn by hand: straight and curve points closed to a region, freehand strokes calmed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.geometry.combine import parts_of
from velamen.core.geometry.curves import flatten_nodes
from velamen.core.geometry.region import signed_area

TENSION = 1.0 / 6.0  # of the way between neighbours: a Catmull-Rom curve as cubic Beziers
SMALLEST = 4.0  # mm²
MOST_POINTS = 4000  # points


def outline_through(points: Array, curved: Sequence[bool]) -> tuple[Polygon, list[Array]]:
    """A closed outline through points (n, 2) in mm: its region, and its curve nodes where it is simple.

    curved: whether the outline runs smoothly through each point or has a corner there; a
    stretch bends only at its curved ends. Raises BadInput where no outline comes about.

    >>> import numpy as np
    >>> square = np.array([[0.0, 0], [10, 0], [10, 10], [0, 10]])
    >>> outline_through(square, [False] * 4)[0].area
    100.0
    """
    points, smooth = _apart(points, np.asarray(curved, dtype=bool), False)
    if len(points) < 3:
        raise BadInput("An outline needs at least three points that lie apart.")
    if len(points) > MOST_POINTS:
        raise BadInput(f"The outline has {len(points):,} points: draw it with fewer, at most {MOST_POINTS:,}.")
    nodes = nodes_through(points, smooth)
    ring = flatten_nodes(nodes)
    region = _region(ring)
    same = len(region.interiors) == 0 and abs(region.area - Polygon(ring).area) < 1e-6
    return region, [_turned(nodes)] if same else []


def nodes_through(points: Array, smooth: NDArray[np.bool_]) -> Array:
    """Curve nodes (n, 6) of a closed outline through points: a Catmull-Rom curve at the smooth ones."""
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    tangent = np.where(smooth[:, None], (after - before) * TENSION, 0.0)
    return np.concatenate([points, points - tangent, points + tangent], axis=1)


def open_line(points: Array, curved: Sequence[bool]) -> Array:
    """An open line (n, 2) through points, smooth at the curved ones. Raises BadInput where it has no length."""
    points, smooth = _apart(np.asarray(points, dtype=np.float64).reshape(-1, 2), np.asarray(curved, dtype=bool), True)
    if len(points) < 2:
        raise BadInput("A line needs at least two points that lie apart.")
    if len(points) > MOST_POINTS:
        raise BadInput(f"The line has {len(points):,} points: draw it with fewer, at most {MOST_POINTS:,}.")
    smooth[[0, -1]] = False
    return flatten_nodes(nodes_through(points, smooth), closed=False)


def freehand_line(points: Array, calm: float) -> Array:
    """A freehand stroke (n, 2) in mm calmed, its ends where they were."""
    thin = _thinned(points, calm)
    return open_line(thin, [True] * len(thin))


def _turned(nodes: Array) -> Array:
    """Nodes of an outer outline so that it turns from x towards y."""
    ring = flatten_nodes(nodes)
    return nodes if signed_area(ring) > 0 else nodes[::-1][:, [0, 1, 4, 5, 2, 3]]


def _thinned(points: Array, calm: float) -> Array:
    points, _ = _apart(points, np.zeros(len(points), dtype=bool), True)
    if len(points) < 2:
        raise BadInput("A freehand line needs a longer stroke.")
    return np.asarray(shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), max(calm, 0.05) / 2)))


def freehand(points: Array, calm: float) -> tuple[Polygon, list[Array]]:
    """A freehand stroke (n, 2) in mm closed and calmed: bumps under `calm` mm go."""
    if len(_apart(points, np.zeros(len(points), dtype=bool), False)[0]) < 3:
        raise BadInput("A freehand outline needs a longer stroke.")
    thin = _thinned(points, calm)
    if len(thin) > 3 and np.linalg.norm(thin[0] - thin[-1]) < 4.0 * max(calm, 0.5):
        thin = thin[:-1]
    return outline_through(thin, [True] * len(thin))


def _apart(points: Array, curved: NDArray[np.bool_], ends: bool) -> tuple[Array, NDArray[np.bool_]]:
    """Points without those that lie on the one before. ends: the first one stays wherever it lies."""
    points = np.asarray(points, dtype=np.float64).reshape(-1, 2)
    if not np.isfinite(points).all():
        raise BadInput("The outline has a point that is not a finite number.")
    if len(points) == 0:
        return points, curved
    far = np.linalg.norm(points - np.roll(points, 1, axis=0), axis=1) > 0.05
    far[0] |= ends
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
