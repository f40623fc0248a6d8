"""Chords: the stretch of each of many lines that lies inside a polygon, about a place on the line."""

from __future__ import annotations

import numpy as np
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.region import boundaries

AT_ONCE = 3_000_000  # pairs of line and side looked at together


def chords(region: Polygon, place: Array, way: Array, miss: Array) -> Array:
    """For lines through places (m, 2) along unit ways (m, 2): from where to where each lies inside, mm: (m, 2).

    That is the stretch with the place in it, or the nearest if it is within `miss` (m,) mm, else nan. A line goes in
    and out by turns, as a side counts with one of its ends only.
    """
    rings = boundaries(region)
    if not rings or len(place) == 0:
        return np.full((len(place), 2), np.nan)
    begin = np.concatenate(rings)
    end = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    size = max(AT_ONCE // len(begin), 1)
    parts = [_some(begin, end, place[low : low + size], way[low : low + size], miss[low : low + size])
             for low in range(0, len(place), size)]  # fmt: skip
    return np.concatenate(parts)


def _some(begin: Array, end: Array, place: Array, way: Array, miss: Array) -> Array:
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1)
    level = (place * normal).sum(axis=1)[:, None]
    off, next_off = (normal @ side.T - level for side in (begin, end))
    row, side = np.nonzero((off < 0.0) != (next_off < 0.0))
    share = off[row, side] / (off[row, side] - next_off[row, side])
    spot = begin[side] + share[:, None] * (end[side] - begin[side])
    at = ((spot - place[row]) * way[row]).sum(axis=1)
    order = np.lexsort((at, row))
    row, at = row[order][::2], at[order]
    low, high = at[::2], at[1::2]
    aside = np.maximum(np.maximum(low, -high), 0.0)
    order = np.lexsort((aside, row))
    first = order[np.concatenate(([True], np.diff(row[order]) > 0))] if len(order) else order
    found = np.full((len(place), 2), np.nan)
    near = first[aside[first] <= miss[row[first]]]
    found[row[near], 0], found[row[near], 1] = low[near], high[near]
    return found
