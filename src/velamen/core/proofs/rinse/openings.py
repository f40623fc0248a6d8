"""Cells of lace so wide that they sag, and places where so much thread lies that it turns to wire."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy import ndimage

from velamen.core.arrays import Array, Index, numbered

PIXELS = 700_000
PIXEL = 0.12, 0.4  # mm, at least and at most
NEAR_LIMIT = 3.0  # pixels by which a width read off a picture may be too small
FINEST = 0.005  # mm to which a width is worked out
QUARTER = 0.25  # mm of the squares in which thread is counted, 4 x 4 of them to a mm²
STIFF, WIRE = 12.0, 18.0  # mm of thread in a mm²: a closed layer is 5 (0.2 mm thread), satin over a run 11
MOST_TOLD = 12


@dataclass(frozen=True)
class Spot:
    """A place and what is measured there. at: mm; much: mm of width, or of thread in a mm²."""

    at: tuple[float, float]
    much: float


def sagging(begins: Array, stops: Array, limit: float, meant: shapely.Geometry | None) -> list[Spot]:
    """Cells wider than `limit` mm that thread goes all round, the widest first; meant: openings that are wanted."""
    if not len(begins):
        return []
    low = np.minimum(begins, stops).min(axis=0) - 1.0
    high = np.maximum(begins, stops).max(axis=0) + 1.0
    pixel = float(np.clip(np.sqrt(np.prod(high - low) / PIXELS), *PIXEL))
    size = np.ceil((high - low) / pixel).astype(np.int64) + 1
    free = np.ones(size, bool)
    places = np.floor((_along(begins, stops, pixel / 2) - low) / pixel).astype(np.int64)
    free[places[:, 0], places[:, 1]] = False
    cell, count = ndimage.label(free)
    far = ndimage.distance_transform_edt(free) * pixel
    numbers = np.setdiff1d(np.arange(1, count + 1), [cell[0, 0]])
    if not len(numbers):
        return []
    widest = ndimage.maximum(far, cell, numbers)
    likely = numbers[2 * np.asarray(widest) > limit - NEAR_LIMIT * pixel]
    if not len(likely):
        return []
    peaks = np.array(ndimage.maximum_position(far, cell, likely)) * pixel + low + pixel / 2
    tree = shapely.STRtree(shapely.linestrings(np.stack([begins, stops], axis=1)))
    found = [_widened(tree, peak) for peak in peaks]
    told = [
        one for one in found if one.much > limit and not (meant is not None and meant.contains(shapely.Point(one.at)))
    ]
    return sorted(told, key=lambda one: -one.much)


def _along(begins: Array, stops: Array, step: float) -> Array:
    """Places (k, 2) along stretches, at most `step` mm apart."""
    counts = np.ceil(np.linalg.norm(stops - begins, axis=1) / step).astype(np.int64) + 1
    owner = np.repeat(np.arange(len(begins)), counts)
    share = (numbered(counts) / np.maximum(counts - 1, 1)[owner])[:, None]
    return np.asarray(begins[owner] + share * (stops - begins)[owner])


def _widened(tree: shapely.STRtree, place: Array) -> Spot:
    """The widest disc near a place that no thread lies in: its middle and its diameter."""
    angle = np.arange(8) * np.pi / 4
    course = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    step, wide = 0.2, _room(tree, place[None])[0]
    while step > FINEST:
        tries = place + step * course
        room = _room(tree, tries)
        best = int(np.argmax(room))
        if room[best] > wide:
            place, wide = tries[best], room[best]
        else:
            step /= 2
    return Spot((round(float(place[0]), 2), round(float(place[1]), 2)), round(2 * float(wide), 2))


def _room(tree: shapely.STRtree, places: Array) -> Array:
    """(k,) mm from places to the nearest thread."""
    _, room = tree.query_nearest(shapely.points(places), all_matches=False, return_distance=True)
    return np.asarray(room)


def wire(begins: Array, stops: Array, passes: Index) -> list[Spot]:
    """Places where more than a stiff length of thread lies in a mm², the densest first, none in another's reach."""
    if not len(begins):
        return []
    low = np.minimum(begins, stops).min(axis=0) - 1.0
    size = np.ceil((np.maximum(begins, stops).max(axis=0) + 1.0 - low) / QUARTER).astype(np.int64) + 1
    counts = np.ceil(np.linalg.norm(stops - begins, axis=1) / (0.8 * QUARTER)).astype(np.int64)
    owner = np.repeat(np.arange(len(begins)), counts)
    share = ((numbered(counts) + 0.5) / counts[owner])[:, None]
    places = np.floor((begins[owner] + share * (stops - begins)[owner] - low) / QUARTER).astype(np.int64)
    long = (np.linalg.norm(stops - begins, axis=1) / np.maximum(counts, 1) * passes)[owner]
    squares = np.bincount(places[:, 0] * size[1] + places[:, 1], long, int(np.prod(size))).reshape(size)
    around = ndimage.uniform_filter(squares, 4, mode="constant") * 16
    peak = (around == ndimage.maximum_filter(around, 12)) & (around > STIFF)
    spots = np.argwhere(peak)
    order = np.argsort(-around[peak])
    middle = low + spots[order] * QUARTER  # an even window reaches one square farther back than on
    return [Spot((round(float(x), 2), round(float(y), 2)), round(float(much), 1))
            for (x, y), much in zip(middle, around[peak][order], strict=True)][:MOST_TOLD]  # fmt: skip
