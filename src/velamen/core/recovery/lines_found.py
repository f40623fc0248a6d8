"""Lines that runs, bean and E-stitches follow, and whether they close."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths

SAME_PLACE = 0.16  # mm between two needle points of one place
CLOSES, SAME = 0.8, 0.3  # mm between both ends of a line that closes, and from its beginning where it runs on
LEGS, ALIKE = 5, 0.7  # first legs of a line, and cosine of one that runs along them
BACK = 4  # needle points after which a bean stitch comes back to a place
FROM_TIE, FIRST = 0.7, 4  # mm from a tie to the edge, and corners at either end among which a bite from a tie is
OVERLAP = 0.25  # of its length that a closed line may run on over its beginning
SPIKE, SPIKE_LONG = -0.85, 0.6  # cosine of a spike, and mm of its legs


def closed_line(line: Array) -> Array | None:
    """The ring that a line runs round, None for one that stays open.

    It closes where, late on its way, it comes back onto one of its first legs and goes on as that leg does: the other
    side of a sliver comes as near, but goes the other way.
    """
    if len(line) < 4:
        return None
    along = arc_lengths(line)
    late = np.flatnonzero(along > along[-1] * (1.0 - OVERLAP))
    legs = np.stack([line[:-1], line[1:]], axis=1)[: min(LEGS, len(line) // 2)]
    far = shapely.distance(shapely.linestrings(legs)[None, :], shapely.points(line[late])[:, None])
    ways = np.diff(legs, axis=1)[:, 0]
    arrives = line[late] - line[late - 1]
    cos = (
        arrives
        @ ways.T
        / np.maximum(np.linalg.norm(arrives, axis=1)[:, None] * np.linalg.norm(ways, axis=1)[None, :], 1e-9)
    )
    near = ((far < SAME) & (cos > ALIKE)).any(axis=1)
    if near.any():
        return line[: int(late[int(np.argmax(near))]) + 1]
    return line if np.linalg.norm(line[0] - line[-1]) < CLOSES else None


def bean_line(xy: Array) -> Array:
    """The line of a bean stitch: every place once, however often the thread comes back to it."""
    again = np.zeros(len(xy), dtype=bool)
    for lag in range(1, BACK + 1):
        again[lag:] |= np.linalg.norm(xy[lag:] - xy[:-lag], axis=1) <= SAME_PLACE
    line: Array = xy[~again]
    if len(line) > 2 and (line[2] - line[1]) @ (line[1] - line[0]) < 0.0:
        # A tie ends within the first stitch, to whose beginning it then goes back.
        return np.concatenate([line[[2, 1]], line[3:]])
    return line


def bites_line(xy: Array) -> Array:
    """The line of an E-stitch: bites out and back left out, then spikes."""
    bite = np.zeros(len(xy), dtype=bool)  # where the next place is the one before
    bite[1:-1] = np.linalg.norm(xy[2:] - xy[:-2], axis=1) < SAME_PLACE
    bite[1:] &= ~bite[:-1]
    line: Array = xy[~(bite | np.concatenate([[False], bite[:-1]]))]
    if len(line) < 3:
        return line
    way = np.diff(line, axis=0)
    size = np.linalg.norm(way, axis=1)
    unit = way / np.maximum(size, 1e-9)[:, None]
    spike = ((unit[:-1] * unit[1:]).sum(axis=1) < SPIKE) & (np.minimum(size[:-1], size[1:]) > SPIKE_LONG)
    spike &= np.linalg.norm(line[2:] - line[:-2], axis=1) < FROM_TIE
    spike[FIRST:-FIRST] = False  # further on it is a needle tip of the shape
    kept_line: Array = line[np.concatenate([[True], ~spike, [True]])]
    return kept_line
