"""Outlines fitted round a design: its own, calm, or the smallest of the shapes on offer that holds it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.basic import BASICS
from velamen.core.geometry.even import even_ground, joined
from velamen.core.geometry.region import Area
from velamen.core.memo import kept

FORMS = (("calm", "its own, calm"), ("circle", "circle"), ("oval", "oval"), ("rectangle", "rectangle"),
         ("rounded", "rounded rectangle"), ("shield", "shield"), ("diamond", "diamond"),
         ("hexagon", "hexagon"))  # fmt: skip
ROUNDER, LEAST_RADIUS = 1.5, 3.0  # margins of a rounded corner's radius, at least so many mm
SLIMMEST = 2.5  # times that a diamond is longer than broad, at most
NARROW, WIDE = 0.7, 1.15  # of a shield: width by height
MANY, FINE = 400, 0.01  # points of an outline, and share of the margin by which finer ones may move
PLACES = 33  # at which a shield is tried, up and down
WIDER_GAP, TRIES = 2.0, 4  # times that gaps are closed wider until an outline is one


@kept(128, lasting=True)
def framed(
    areas: Sequence[Area], form: str, margin: float, gap: float, calm: float, least: tuple[float, float] = (0.0, 0.0)
) -> Polygon:
    """One outline without holes, `margin` mm off all areas or more; empty round nothing.

    A rounded rectangle keeps it at its sides and an oval along its axes; between them both come a little nearer.

    form: key of FORMS; gap, calm: of its own outline, as in even_ground; least: mm that a form is wide and high.
    """
    whole = joined(list(areas))
    if whole.is_empty:
        return Polygon()
    if form == "calm":
        return _calm(areas, margin, gap, calm)
    points = shapely.get_coordinates(shapely.convex_hull(whole))
    low, high = points.min(axis=0), points.max(axis=0)
    middle, (width, height) = (low + high) / 2, high - low
    if form == "circle":
        middle, radius = _circle(points)
        return _drawn("circle", middle, diameter=max(2.0 * (radius + margin), *least))
    if form == "oval":
        size = np.maximum(high - low, 1e-6)
        off, times = _circle((points - middle) / size)
        across = np.maximum(2.0 * (times * size + margin), least)
        return _drawn("oval", middle + off * size, width=across[0], height=across[1])
    if form in FITTED:
        found = FITTED[form](shapely.get_coordinates(shapely.buffer(shapely.convex_hull(whole), margin)))
        return _as_large(found, least)
    radius = 0.0 if form == "rectangle" else max(ROUNDER * margin, LEAST_RADIUS)
    across = np.maximum([width + 2.0 * margin, height + 2.0 * margin], least)
    return _drawn("rectangle", middle, width=across[0], height=across[1], radius=radius)


def _as_large(area: Polygon, least: tuple[float, float]) -> Polygon:
    """An area grown about its middle, in proportion, until it is so wide and high."""
    left, top, right, bottom = area.bounds
    times = max(1.0, least[0] / max(right - left, 1e-9), least[1] / max(bottom - top, 1e-9))
    middle = np.array([left + right, top + bottom]) / 2
    return shapely.transform(area, lambda points: (points - middle) * times + middle)


def _drawn(key: str, middle: Array, **numbers: float) -> Polygon:
    """A basic shape round a middle."""
    return shapely.transform(BASICS[key].outline(numbers), lambda points: points + middle)


def _calm(areas: Sequence[Area], margin: float, gap: float, calm: float) -> Polygon:
    """An even outline, gaps closed until it is one; a hull where that does not help."""
    # Growing an outline of many points far takes long by them, and what is far finer than the margin is not seen.
    areas = [
        shapely.simplify(one, FINE * margin) if shapely.get_num_coordinates(one) > MANY else one for one in areas
    ]
    for _ in range(TRIES):
        found = even_ground(areas, margin, gap, min(calm, margin))  # a calmer one would cut into the margin
        if isinstance(found, Polygon):
            return Polygon(found.exterior)
        gap *= WIDER_GAP
    hull: Polygon = shapely.buffer(shapely.convex_hull(joined(list(areas))), margin)
    return hull


def _circle(points: Array) -> tuple[Array, float]:
    """Middle and radius of the smallest circle round points (n, 2)."""
    circle = shapely.minimum_bounding_circle(shapely.multipoints(points))
    middle = shapely.get_coordinates(shapely.centroid(circle))[0]
    return middle, float(np.linalg.norm(points - middle, axis=1).max())


def _shield(points: Array) -> Polygon:
    """The smallest shield round points (n, 2), as broad for its height as they are, within what looks like one."""
    low, high = points.min(axis=0), points.max(axis=0)
    shape = float(np.clip((high[0] - low[0]) / max(high[1] - low[1], 1e-6), NARROW, WIDE))
    ring = shapely.get_coordinates(BASICS["shield"].outline({"width": 100.0 * shape, "height": 100.0}))
    turn = np.arctan2(ring[:, 1], ring[:, 0])
    order = np.argsort(turn)
    turn, far = turn[order], np.linalg.norm(ring, axis=1)[order]
    middle = (low + high) / 2
    middles = middle + np.linspace(-0.2, 0.4, PLACES)[:, None] * (0.0, high[1] - low[1])
    away = points[None] - middles[:, None]
    reach = np.interp(np.arctan2(away[..., 1], away[..., 0]), turn, far, period=2.0 * np.pi)
    sizes = (np.linalg.norm(away, axis=2) / reach).max(axis=1)
    best = int(np.argmin(sizes))
    return Polygon(ring * sizes[best] * 1.001 + middles[best])


def _diamond(points: Array) -> Polygon:
    """The smallest diamond round points (n, 2), its ways across as long for one another as theirs."""
    low, high = points.min(axis=0), points.max(axis=0)
    middle, half = (low + high) / 2, (high - low) / 2
    half = np.maximum(half, half.max() / SLIMMEST)
    times = float(np.abs((points - middle) / half).sum(axis=1).max())
    x, y = times * half
    return Polygon(middle + np.array([[0.0, -y], [x, 0.0], [0.0, y], [-x, 0.0]]))


def _hexagon(points: Array) -> Polygon:
    """The smallest even hexagon round points (n, 2) about the middle of their circle, standing on a side."""
    middle, _ = _circle(points)
    turn = np.pi / 6 + np.arange(6) * np.pi / 3
    off = float(((points - middle) @ np.stack([np.cos(turn), np.sin(turn)])).max())
    corner = turn + np.pi / 6
    return Polygon(middle + off / np.cos(np.pi / 6) * np.stack([np.cos(corner), np.sin(corner)], axis=1))


FITTED = {"shield": _shield, "diamond": _diamond, "hexagon": _hexagon}
"""Outlines fitted to the corners of a design's hull, grown by the margin."""
