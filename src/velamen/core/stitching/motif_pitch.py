"""How far apart copies of a motif lie: so that they keep a gap everywhere, or overlap by so much."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from velamen.core.arrays import Array, Mask
from velamen.core.artwork.motif import Figure

FIRST, THEN = 72, 24  # distances tried, and again within the one that decides
DEEPEST = 0.8  # of its largest inner disc that a motif may overlap another by
LEAST_GAP = 0.02  # mm between motifs that are to touch
BESIDE = 3  # copies of a row that count on either side


def closest(one: Array, others: list[Array], course: Array, far: float, gap: float) -> float:
    """The least distance along a course from which on a line keeps its gap to others, up to `far` mm.

    one: (n, 2), the line that is moved; others: lines that stay; course: (2,) of length 1; gap: mm between them,
    negative where they are to overlap by so much: both drawn in by half of it then just touch.
    """
    moving, staying = _body(one, gap), shapely.union_all([_body(each, gap) for each in others])
    low, high = 0.0, far
    for count in (FIRST, THEN):
        tried = np.linspace(low, high, count)
        kept = _keep(moving, staying, tried[:, None] * course, gap)
        wrong = np.flatnonzero(~kept)
        if not len(wrong):
            return low
        if wrong[-1] == count - 1:
            return high
        low, high = float(tried[wrong[-1]]), float(tried[wrong[-1] + 1])
    return high


def _keep(moving: BaseGeometry, staying: BaseGeometry, moves: Array, gap: float) -> Mask:
    """(k,) whether a body keeps its distance once moved."""
    places = (shapely.get_coordinates(moving)[None] + moves[:, None]).reshape(-1, 2)
    bodies = shapely.set_coordinates(np.full(len(moves), moving, dtype=object), places)
    if gap < 0:
        return np.asarray(~shapely.intersects(bodies, staying))
    return np.asarray(shapely.distance(bodies, staying) >= gap - 1e-9)


def _body(line: Array, gap: float) -> BaseGeometry:
    """A line, or for an overlap what it goes round, drawn in by half of that."""
    drawn = shapely.linestrings(line)
    if gap >= 0:
        return drawn
    faces = shapely.get_parts(shapely.polygonize([shapely.union_all(drawn)]))
    body = shapely.union_all(faces) if len(faces) else shapely.convex_hull(drawn)
    if body.area < 1e-9:
        return drawn
    room = shapely.length(shapely.maximum_inscribed_circle(body))
    return shapely.buffer(body, -min(-gap / 2, DEEPEST * float(room)), quad_segs=4)


@lru_cache(maxsize=512)
def pitch(one: Figure, other: Figure, size: float, gap: float) -> float:
    """mm from a copy to the next one in its row, of figures in turn."""
    first, second = one.line * size, other.line * size
    gap = max(gap, LEAST_GAP) if gap >= 0 else gap
    far = (one.width + other.width) * size + max(gap, 0.0)
    return max(closest(second, [first], np.array([1.0, 0.0]), far, gap), 0.05 * size)


@lru_cache(maxsize=512)
def row_pitch(
    row: tuple[Figure, ...], above: tuple[Figure, ...], size: float, pitches: tuple[float, ...], shift: float,
    turned: tuple[bool, bool], gap: float,
) -> float:  # fmt: skip
    """mm from the base line of a row to that of the next one above it.

    row, above: figures in turn; pitches: mm from each to the next; shift: mm that the row above lies farther along;
    turned: whether each of the two rows lies upside down.
    """
    here, there = (_row(figures, size, pitches, upside) for figures, upside in zip((row, above), turned, strict=True))
    period = sum(pitches)
    middle = [each + np.array([shift, 0.0]) for each in there[: len(row)]]
    around = [each + np.array([k * period, 0.0]) for k in range(-BESIDE, BESIDE + 1) for each in here[: len(row)]]
    far = 2.2 * size + max(gap, 0.0)
    gap = max(gap, LEAST_GAP) if gap >= 0 else gap
    return max(max(closest(each, around, np.array([0.0, -1.0]), far, gap) for each in middle), 0.2 * size)


def _row(figures: tuple[Figure, ...], size: float, pitches: tuple[float, ...], upside: bool) -> list[Array]:
    """One period of a row, on a base line y = 0 that lies below it."""
    found, at = [], 0.0
    for figure, step in zip(figures, pitches, strict=True):
        found.append(turned_over(figure.line, upside) * size + np.array([at, 0.0]))
        at += step
    return found


def turned_over(line: Array, upside: bool) -> Array:
    """A figure's line, upside down within its own height where asked."""
    if not upside:
        return line
    return np.asarray(line * np.array([1.0, -1.0]) + np.array([0.0, line[:, 1].min() + line[:, 1].max()]))
