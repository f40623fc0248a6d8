"""Outlines of straight stretches turned into a few curves between corners."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.curves import Samples, fitted, flatten_nodes
from velamen.core.geometry.polyline import ring_arc_lengths
from velamen.core.geometry.region import boundaries

STEP = 0.4  # mm between samples on curves
CORNER = np.radians(28.0)  # a turn from which a point of an outline is a corner
REACH = 0.5  # mm over which directions are seen


def ring_nodes(ring: Array, tolerance: float) -> Array:
    """Curve nodes (k, 6) of a closed outline (n, 2) in mm, within a tolerance in mm of it.

    Points at which the outline turns sharply stay corners; a stretch that is one side between
    corners stays straight.
    """
    ring = np.asarray(ring, dtype=np.float64)
    way = _way(ring)
    reach = min(REACH, way[-1] / 24)
    corners = corners_of(ring, reach, CORNER)
    start = int(corners[0]) if len(corners) else int(np.argmax(np.diff(way)))
    ring, corners = np.roll(ring, -start, axis=0), np.sort((corners - start) % len(ring))
    closed = np.concatenate([ring, ring[:1]])
    way = _way(ring)
    along, marked = _places(way, corners)
    points = _at(closed, way, along)
    before, after = _directions(closed, way, along, marked, min(REACH, STEP))
    ends = np.array([0]), np.array([len(points) - 1])
    marked[[0, -1]] = len(corners) > 0
    nodes = fitted(Samples(points, *ends, before, after, marked), tolerance)[0]
    nodes[0, 2:4] = nodes[-1, 2:4]
    return nodes[:-1]


def curved(area: Polygon, tolerance: float) -> tuple[Polygon, list[Array]]:
    """An area out of curves fitted to its outlines within a tolerance in mm, and those, a list for each outline.

    The area as it is and no curves where they would cross one another.
    """
    nodes = [ring_nodes(ring, tolerance) for ring in boundaries(area)]
    outer, *holes = [flatten_nodes(one) for one in nodes]
    whole = Polygon(outer, holes)
    return (whole, nodes) if whole.is_valid else (area, [])


def corners_of(ring: Array, reach: float, least: float) -> Index:
    """Points of a closed outline (n, 2) that turn by more than `least` rad, none within a reach of a sharper one.

    reach: mm over which a turn is seen on either side, so that noise makes none.
    """
    way = _way(ring)
    turn = _turn(ring, way, reach)
    kept: list[int] = []
    for nth in np.argsort(-turn, kind="stable"):
        if turn[nth] <= least:
            break
        gap = np.abs(way[kept] - way[nth])
        if not kept or float(np.minimum(gap, way[-1] - gap).min()) > reach:
            kept.append(int(nth))
    return np.array(sorted(kept), dtype=np.int64)


def _way(ring: Array) -> Array:
    """Length along a closed ring at each of its points, and of all of it at the end."""
    return ring_arc_lengths(ring)


def _at(closed: Array, way: Array, along: Array) -> Array:
    along = np.where(along == way[-1], along, np.mod(along, way[-1]))
    return np.stack([np.interp(along, way, closed[:, axis]) for axis in (0, 1)], axis=1)


def _turn(ring: Array, way: Array, reach: float) -> Array:
    """How sharply a ring turns at each point, seen over a reach on either side."""
    closed = np.concatenate([ring, ring[:1]])
    back, ahead = ring - _at(closed, way, way[:-1] - reach), _at(closed, way, way[:-1] + reach) - ring
    cross = back[:, 0] * ahead[:, 1] - back[:, 1] * ahead[:, 0]
    return np.asarray(np.abs(np.arctan2(cross, np.einsum("nd,nd->n", back, ahead))))


def _places(way: Array, corners: Index) -> tuple[Array, NDArray[np.bool_]]:
    """Where a ring is sampled: its own points and even steps between, and which of those are corners."""
    long = np.maximum(np.ceil(np.diff(way) / STEP), 1).astype(np.int64)
    stretch = np.repeat(np.arange(len(long)), long)
    share = numbered(long) / long[stretch]
    along = way[stretch] + share * np.diff(way)[stretch]
    marked = np.isin(stretch, corners) & (share == 0)
    return np.append(along, way[-1]), np.append(marked, marked[0])


def _directions(
    closed: Array, way: Array, along: Array, marked: NDArray[np.bool_], reach: float
) -> tuple[Array, Array]:
    """Unit directions before and after each sample, never looking past a corner."""
    total = way[-1]
    stops = along[marked]
    back, ahead = np.full(len(along), reach), np.full(len(along), reach)
    if len(stops):
        rounds = np.concatenate([stops - total, stops, stops + total])
        nth = np.searchsorted(rounds, along + 1e-9)
        back = np.minimum(reach, np.where(marked, reach, along - rounds[nth - 1]))
        ahead = np.minimum(reach, np.where(marked, reach, rounds[np.minimum(nth, len(rounds) - 1)] - along))
    here = _at(closed, way, along)
    behind, on = _at(closed, way, along - back), _at(closed, way, along + ahead)
    through = _unit(on - behind)
    before = np.where(marked[:, None], _unit(here - behind), through)
    after = np.where(marked[:, None], _unit(on - here), through)
    return before, after


def _unit(vector: Array) -> Array:
    return np.asarray(vector / np.maximum(np.linalg.norm(vector, axis=1), 1e-12)[:, None])
