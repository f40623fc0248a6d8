"""Openings that bars are tried on, concave ones, crescents and rings among them, and guides across them."""

import numpy as np
import shapely
from shapely import Point, Polygon, affinity, box

from core.shapes import SHAPES


def _blob(seed, rough):
    """Of a thousand points."""
    random, turn = np.random.default_rng(seed), np.linspace(0, 2 * np.pi, 1000, endpoint=False)
    radius = 28.0 + sum(
        28 * rough / wave * random.normal() * np.cos(wave * turn + random.uniform(0, 6)) for wave in range(2, 9)
    )
    return Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)).buffer(0)


OPENINGS = {
    "coast": SHAPES["coast"],
    "ring": Point(0, 0).buffer(30, 32) - Point(0, 0).buffer(16, 32),
    "bone": SHAPES["neck"],
    "crescent": Point(0, 0).buffer(30, 32) - Point(14, 0).buffer(26, 32),
    "star": SHAPES["star"],
    "blob": _blob(1, 0.25),
    "bay": _blob(5, 0.5),
    "island": SHAPES["two_holes"],
    "elbow": box(-30, -30, 30, -10).union(box(-30, -30, -10, 30)),
    "oval": affinity.scale(Point(0, 0).buffer(20, 32), 1.6, 0.8),
}
GUIDES = ("line", "bow", "wave", "corner", "round")


def guide(opening, kind):
    """A line (n, 2) across an opening."""
    left, top, right, bottom = opening.bounds
    wide, high, middle = right - left, bottom - top, np.array([left + right, top + bottom]) / 2
    x = np.linspace(left, right, 40)
    if kind == "line":
        return np.array([[left, middle[1]], [right, middle[1]]])
    if kind == "bow":
        return np.stack([x, middle[1] + 0.3 * high * (1 - ((x - middle[0]) / (wide / 2)) ** 2)], axis=1)
    if kind == "wave":
        return np.stack([x, middle[1] + 0.22 * high * np.sin((x - left) / wide * 2 * np.pi)], axis=1)
    if kind == "corner":
        low = middle[1] + 0.3 * high
        return np.array([[left, low], [middle[0], low], [middle[0], top]])
    turn = np.linspace(-2.6, 2.6, 60)
    return middle + 0.38 * np.stack([wide * np.cos(turn), high * np.sin(turn)], axis=1)


def whole(area):
    """The largest part."""
    return max(shapely.get_parts(area), key=lambda part: part.area)


OPENINGS = {name: whole(area) for name, area in OPENINGS.items()}
