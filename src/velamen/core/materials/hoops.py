"""Sewing fields: true outlines, what they hold, and the next one that fits."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely
from scipy.spatial import ConvexHull, QhullError
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.materials.library import Library
from velamen.core.materials.records import Hoop

ARC_POINTS = 97


@lru_cache(maxsize=128)
def field(hoop: Hoop) -> Polygon:
    """The area the needle reaches, in mm, y down, centred on the origin.

    A cap field's lower limit is the arc of the seam above the peak: `curve` mm higher in the
    middle than at its sides.
    """
    x, y = hoop.width / 2, hoop.height / 2
    if hoop.shape == "round":
        turn = np.linspace(0.0, 2.0 * np.pi, 4 * ARC_POINTS, endpoint=False)
        return Polygon(np.stack([x * np.cos(turn), y * np.sin(turn)], axis=1))
    corners = np.array([[-x, -y], [x, -y]])
    if hoop.shape == "cap" and hoop.curve > 0:
        rise = min(hoop.curve, 0.9 * hoop.height)
        radius = (x**2 + rise**2) / (2.0 * rise)
        across = np.linspace(x, -x, ARC_POINTS)
        down = y - rise + radius - np.sqrt(np.maximum(radius**2 - across**2, 0.0))
        return Polygon(np.concatenate([corners, np.stack([across, down], axis=1)]))
    return Polygon(np.concatenate([corners, [[x, y], [-x, y]]]))


def overshoot(hoop: Hoop, points: Array) -> Array:
    """How far each point (n, 2) lies outside a sewing field, in mm, 0 inside: (n,).

    Of a curved field only points off the largest box or circle inside it are measured against its outline.
    """
    across, down = np.abs(points[:, 0]) - hoop.width / 2, np.abs(points[:, 1]) - hoop.height / 2
    over = np.hypot(np.maximum(across, 0.0), np.maximum(down, 0.0))
    if hoop.shape == "rect":
        return np.asarray(over)
    x, y = _inside_box(hoop)
    off = (np.abs(points[:, 0]) > x) | (points[:, 1] < -hoop.height / 2) | (points[:, 1] > y)
    if hoop.shape == "round":
        off = np.hypot(points[:, 0], points[:, 1]) > 0.99 * hoop.width / 2
    over[off] = shapely.distance(shapely.points(points[off]), field(hoop))
    return np.asarray(over)


def hull_points(points: Array) -> Array:
    """The corners of the convex hull of points (n, 2); all of them where they are few or on one line."""
    if len(points) < 50:
        return points
    try:
        return np.asarray(points[ConvexHull(points).vertices])
    except QhullError:
        return points


def _inside_box(hoop: Hoop) -> tuple[float, float]:
    """Half the width, and how far down, of a box that lies in a rectangular or cap field."""
    rise = hoop.curve if hoop.shape == "cap" else 0.0
    return hoop.width / 2, hoop.height / 2 - min(rise, 0.9 * hoop.height)


def holds(hoop: Hoop, width: float, height: float) -> bool:
    """Whether a centred design of this size in mm lies in a hoop's sewing field."""
    design = shapely.box(-width / 2, -height / 2, width / 2, height / 2)
    return bool(field(hoop).buffer(1e-6).covers(design))


def hoop_for(library: Library, width: float, height: float) -> Hoop | None:
    """The smallest hoop whose sewing field holds a design of this size in mm."""
    fitting = [hoop for hoop in by_size(library) if holds(hoop, width, height)]
    return fitting[0] if fitting else None


def hoop_around(library: Library, points: Array) -> Hoop | None:
    """The smallest hoop whose sewing field holds these points (n, 2) where they lie."""
    hull = shapely.convex_hull(shapely.multipoints(hull_points(points)))
    for hoop in by_size(library):
        if field(hoop).buffer(1e-3).covers(hull):
            return hoop
    return None


def by_size(library: Library) -> list[Hoop]:
    """All hoops, smallest field first; caps last, since they hold nothing flat."""
    return sorted(library.hoops.values(), key=lambda hoop: (hoop.shape == "cap", hoop.width * hoop.height))
