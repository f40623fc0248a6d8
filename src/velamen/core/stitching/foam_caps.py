"""Caps for puff: a short satin across a stretch of foam edge that nothing else cuts, sewn before all columns."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area

BEYOND = 0.5  # mm past the edge
DEPTHS = (2.0, 1.7, 1.4, 1.1, 0.8, 0.5)  # mm inside it, the first that stays under the columns
UNDER = 0.25  # mm that a cap keeps inside what covers it
PITCH = 0.28  # mm between needle points past the edge
LEAST = 1.0  # mm wide


def room_of(covered: Area) -> Area:
    """Where caps may lie: inside what the columns over them cover."""
    room = shapely.buffer(covered, -UNDER, quad_segs=4)
    shapely.prepare(room)
    return room


def foam_cap(line: Array, room: Area) -> Array:
    """Needle points (n, 2) of a cap across a stretch of edge (k, 2), begun and ended inside `room`."""
    course = line[-1] - line[0]
    wide = float(np.linalg.norm(course))
    course = course / wide if wide > 1e-6 else np.array([1.0, 0.0])
    outward = np.array([course[1], -course[0]])
    middle = line[len(line) // 2]
    inside = [shapely.distance(room, shapely.Point(middle + side * 0.8 * outward)) for side in (1.0, -1.0)]
    outward = outward if inside[0] > inside[1] else -outward
    if wide < LEAST:
        more = (LEAST - wide) / 2 * course
        line = np.concatenate([(line[0] - more)[None], line, (line[-1] + more)[None]])
    count = max(int(np.ceil(max(wide, LEAST) / PITCH)), 3)
    share = np.linspace(0.0, 1.0, 2 * count + 1)
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    spots = np.stack([np.interp(share * way[-1], way, line[:, axis]) for axis in (0, 1)], axis=1)
    within = spots - DEPTHS[-1] * outward
    for depth in DEPTHS[::-1]:
        tried = spots - depth * outward
        kept = shapely.covers(room, shapely.points(tried))
        within[kept] = tried[kept]
    return np.asarray(np.where(np.arange(len(share))[:, None] % 2 == 0, within, spots + BEYOND * outward))
