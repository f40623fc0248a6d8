"""A line cut to a region, its pieces in the order in which it runs, however often it crosses or retraces itself."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.region import boundaries
from velamen.core.memo import kept

SHORTEST = 1e-6  # mm of a piece


def clipped(line: Array, region: Polygon) -> list[Array]:
    """The pieces (n, 2) of a line (m, 2) that lie inside a region, one after another."""
    at, places = _crossed(line, region)
    if not len(at):
        inside = shapely.contains_xy(region, *((line[0] + line[1]) / 2))
        return [line] if inside else []
    order = np.argsort(np.concatenate([np.arange(len(line)), at]), kind="stable")
    points = np.concatenate([line, places])[order]
    cut = (order >= len(line)) | (order == 0) | (order == len(line) - 1)
    middle = (points[:-1] + points[1:]) / 2
    inside = shapely.contains_xy(region, middle[:, 0], middle[:, 1])
    inside &= np.linalg.norm(np.diff(points, axis=0), axis=1) > SHORTEST
    found: list[Array] = []
    bounds = np.flatnonzero(cut)
    for low, high in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        if inside[low:high].any():
            found.append(points[low : high + 1])
    return _rejoined(found)


def _crossed(line: Array, region: Polygon) -> tuple[Array, Array]:
    """Where a line crosses a region's outlines: as number of its stretch plus the share along it, and as places."""
    walls, tree = _walls(region)
    stretches = np.stack([line[:-1], line[1:]], axis=1)
    one, other = tree.query(_boxes(stretches))
    begin, course = stretches[one, 0], stretches[one, 1] - stretches[one, 0]
    across, off = walls[other, 1] - walls[other, 0], walls[other, 0] - begin
    turn = course[:, 0] * across[:, 1] - course[:, 1] * across[:, 0]
    safe = np.where(np.abs(turn) < 1e-12, 1.0, turn)
    along = (off[:, 0] * across[:, 1] - off[:, 1] * across[:, 0]) / safe
    aside = (off[:, 0] * course[:, 1] - off[:, 1] * course[:, 0]) / safe
    hit = (np.abs(turn) > 1e-12) & (along >= 0) & (along <= 1) & (aside >= 0) & (aside <= 1)
    return one[hit] + along[hit], begin[hit] + along[hit, None] * course[hit]


@kept(16)
def _walls(region: Polygon) -> tuple[Array, shapely.STRtree]:
    """The stretches (n, 2, 2) of a region's outlines, to be asked for by place."""
    walls = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in boundaries(region)])
    return walls, shapely.STRtree(_boxes(walls))


def _boxes(stretches: Array) -> Array:
    low, high = stretches.min(axis=1), stretches.max(axis=1)
    return np.asarray(shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1]))


def _rejoined(pieces: list[Array]) -> list[Array]:
    """Pieces of which one begins where the one before ends, put together: the line touched the outline there."""
    found: list[list[Array]] = []
    for piece in pieces:
        if found and np.linalg.norm(found[-1][-1][-1] - piece[0]) < SHORTEST:
            found[-1].append(piece[1:])
        else:
            found.append([piece])
    return [np.concatenate(each) for each in found]
