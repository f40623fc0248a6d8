"""Feet of bars: ends led past the cut edge, straight on or aside, until they are anchored in the cloth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from velamen.core.arrays import Array, Mask
from velamen.core.geometry.region import Area
from velamen.core.stitching.bar_lines import Bar

FOOT, ANCHORED = 1.3, 1.0  # mm past the cut edge that a bar is anchored, and at least
FARTHEST = 4.5  # mm along it, where it meets the edge aslant
SAME_CLOTH = 0.3  # mm of opening that lies between an edge and a foot by rounding


def stands(bar: Bar, opening: Area) -> bool:
    """Whether all feet of a bar are anchored."""
    line = bar.line
    feet = [end for end, free in zip((line[0], line[-1]), bar.free, strict=True) if not free]
    return not feet or float(shapely.distance(opening, shapely.points(np.array(feet))).min()) >= ANCHORED


def footed(bar: Bar, opening: Area) -> Bar:
    """A bar with those ends led past the edge that are no joints, until they are anchored, as far as that may be."""
    line = bar.line
    steps = np.array([line[0] - line[1], line[-1] - line[-2]])
    outward = steps / np.maximum(np.linalg.norm(steps, axis=1, keepdims=True), 1e-9)
    begin = None if bar.free[0] else _foot(line[0], outward[0], opening)
    end = None if bar.free[1] else _foot(line[-1], outward[1], opening)
    points = [line[0] if begin is None else begin, *line[1:-1], line[-1] if end is None else end]
    return replace(bar, line=np.array(points))


def _foot(end: Array, way: Array, opening: Area) -> Array:
    """Straight on where that is deep enough, else the nearest place beside it that is."""
    ahead = end + np.linspace(FOOT, FARTHEST, 9)[:, None] * way
    turned = np.array([0.4, -0.4, 0.8, -0.8, 1.2, -1.2])
    cos, sin = np.cos(turned), np.sin(turned)
    ways = np.stack([cos * way[0] - sin * way[1], sin * way[0] + cos * way[1]], axis=1)
    aside = (end + np.array([FOOT, 2.0, 3.0])[:, None, None] * ways).reshape(-1, 2)
    places = np.concatenate([ahead[:4], aside, ahead[4:]])
    there = np.ones(len(places), dtype=bool)
    if shapely.get_num_interior_rings(opening):  # not through a narrow island into what lies beyond it
        led = shapely.linestrings(np.stack([np.broadcast_to(end, places.shape), places], axis=1))
        there = shapely.length(shapely.intersection(led, opening)) < SAME_CLOTH
    held: Mask = there & ~shapely.dwithin(opening, shapely.points(places), FOOT - 0.1)
    if held.any():
        return np.asarray(places[int(np.argmax(held))])
    deep = np.where(there, shapely.distance(opening, shapely.points(places)), -1.0)
    return np.asarray(places[int(np.argmax(deep))])
