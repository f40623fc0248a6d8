"""Basic shapes drawn by number: each declared once with its settings, drawn as an outline in mm."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.flatten import flatten_cubic
from velamen.core.errors import BadInput
from velamen.core.setting import Plain, Setting

Numbers = Mapping[str, float]

CHORD = 0.02  # mm that a straight stretch may leave its curve


@dataclass(frozen=True)
class Basic:
    """A basic shape: its settings with start values, and its outline round the origin, y down."""

    key: str
    title: str
    settings: tuple[Setting, ...]
    start: Mapping[str, float]
    outline: Callable[[Numbers], Polygon]

    def read(self, typed: Mapping[str, Plain]) -> dict[str, float]:
        """Numbers out of what was typed; start values stand in for what was not."""
        return {one.key: float(one.read(typed.get(one.key, self.start[one.key]))) for one in self.settings}

    def draw(self, typed: Mapping[str, Plain]) -> Polygon:
        """The shape with these numbers. Raises BadInput where they make none."""
        region = self.outline(self.read(typed))
        if not region.is_valid or region.area < 1.0:
            raise BadInput(f"These numbers make no {self.title.lower()}: its outline would cross itself or vanish.")
        return region


def arc(radius_x: float, radius_y: float, begin: float, end: float) -> Array:
    """Points of an elliptical arc round the origin from one angle to another in rad: (n, 2)."""
    reach = max(radius_x, radius_y, CHORD)
    step = 2.0 * np.arccos(1.0 - min(CHORD / reach, 0.5))
    turn = np.linspace(begin, end, max(int(np.ceil(abs(end - begin) / step)), 2) + 1)
    return np.stack([radius_x * np.cos(turn), radius_y * np.sin(turn)], axis=1)


def _oval(width: float, height: float) -> Polygon:
    return Polygon(arc(width / 2, height / 2, 0.0, 2.0 * np.pi)[:-1])


def _rectangle(get: Numbers) -> Polygon:
    x, y = get["width"] / 2, get["height"] / 2
    radius = min(get["radius"], x, y)
    if radius <= 0:
        return shapely.box(-x, -y, x, y)
    corner = arc(radius, radius, 0.0, np.pi / 2)
    middle = np.array([x - radius, y - radius])
    quarters = [
        corner + middle,
        corner[::-1] * (-1, 1) + middle * (-1, 1),
        -corner - middle,
        corner[::-1] * (1, -1) + middle * (1, -1),
    ]
    return Polygon(np.concatenate(quarters))


def _corners(count: int, radius: float, begin: float = -np.pi / 2) -> Array:
    turn = begin + 2.0 * np.pi * np.arange(count) / count
    return radius * np.stack([np.cos(turn), np.sin(turn)], axis=1)


def _polygon(get: Numbers) -> Polygon:
    return Polygon(_corners(round(get["sides"]), get["diameter"] / 2))


def _star(get: Numbers) -> Polygon:
    points = round(get["points"])
    outer = _corners(points, get["diameter"] / 2)
    inner = _corners(points, get["diameter"] / 2 * get["inner"] / 100.0, -np.pi / 2 + np.pi / points)
    return Polygon(np.stack([outer, inner], axis=1).reshape(-1, 2))


def _curves(start: tuple[float, float], *controls: tuple[float, ...]) -> Array:
    """A path of cubic curves, one control tuple (six numbers) each: (n, 2)."""
    points = [np.array([start])]
    for control in controls:
        bend = np.concatenate([points[-1][-1:], np.array(control).reshape(3, 2)])
        points.append(flatten_cubic(bend))
    return np.concatenate(points)


def _mirrored(right: Array, width: float, height: float) -> Polygon:
    """A shape out of its right half, drawn down the middle line, stretched to a width and a height."""
    ring = np.concatenate([right, right[-2:0:-1] * (-1, 1)])
    low, high = ring.min(axis=0), ring.max(axis=0)
    return Polygon((ring - (low + high) / 2) / (high - low) * (width, height))


def _heart(get: Numbers) -> Polygon:
    half = _curves((0, -28), (4, -44, 20, -52, 34, -48), (52, -43, 56, -22, 44, -2), (33, 16, 12, 32, 0, 50))
    return _mirrored(half, get["width"], get["height"])


def _shield(get: Numbers) -> Polygon:
    half = _curves((0, -50), (14, -44, 28, -42, 42, -44), (46, -10, 42, 26, 0, 56))
    return _mirrored(half, get["width"], get["height"])


def _ring(get: Numbers) -> Polygon:
    if get["hole"] >= get["diameter"]:
        raise BadInput("The hole of a ring must be smaller than the ring.")
    return _oval(get["diameter"], get["diameter"]).difference(_oval(get["hole"], get["hole"]))


def _banner(get: Numbers) -> Polygon:
    """A band of even height bent so that its middle stands `arch` mm above its ends."""
    width, height, rise = get["width"], get["height"], get["arch"]
    if rise < CHORD:
        return shapely.box(-width / 2, -height / 2, width / 2, height / 2)
    radius = (width**2 / 4 + rise**2) / (2 * rise)
    if height / 2 >= radius:
        raise BadInput("The banner is bent more tightly than it is high: make it lower, wider or flatter.")
    half = np.arcsin(min(width / 2 / radius, 1.0))
    half = np.pi - half if rise > radius else half
    outer = arc(radius + height / 2, radius + height / 2, -np.pi / 2 - half, -np.pi / 2 + half)
    inner = arc(radius - height / 2, radius - height / 2, -np.pi / 2 + half, -np.pi / 2 - half)
    ring = np.concatenate([outer, inner])
    return Polygon(ring - (ring.min(axis=0) + ring.max(axis=0)) / 2)


def _size(key: str, label: str, low: float = 2.0) -> Setting:
    return Setting(key, label, "", f"{label} of the outline.", low=low, high=1000.0)


def _count(key: str, label: str, low: int, high: int) -> Setting:
    return Setting(key, label, "", f"How many {label.lower()} it has.", unit="", low=low, high=high, step=1)


WIDTH, HEIGHT, DIAMETER = _size("width", "Width"), _size("height", "Height"), _size("diameter", "Across")
INNER = Setting(
    "inner", "Inner corners", "", "Where they stand between middle and points.", unit="%", low=5, high=95, step=1
)
BASICS = {
    one.key: one
    for one in (
        Basic("circle", "Circle", (DIAMETER,), {"diameter": 50}, lambda get: _oval(get["diameter"], get["diameter"])),
        Basic("oval", "Oval", (WIDTH, HEIGHT), {"width": 70, "height": 45},
              lambda get: _oval(get["width"], get["height"])),
        Basic("rectangle", "Rectangle", (WIDTH, HEIGHT, _size("radius", "Corner radius", 0.0)),
              {"width": 70, "height": 45, "radius": 5}, _rectangle),
        Basic("polygon", "Polygon", (_count("sides", "Sides", 3, 24), DIAMETER),
              {"sides": 6, "diameter": 50}, _polygon),
        Basic("star", "Star", (_count("points", "Points", 3, 40), DIAMETER, INNER),
              {"points": 5, "diameter": 60, "inner": 45}, _star),
        Basic("heart", "Heart", (WIDTH, HEIGHT), {"width": 60, "height": 55}, _heart),
        Basic("shield", "Shield", (WIDTH, HEIGHT), {"width": 55, "height": 65}, _shield),
        Basic("ring", "Ring", (DIAMETER, _size("hole", "Hole", 1.0)), {"diameter": 60, "hole": 36}, _ring),
        Basic("banner", "Arch banner", (WIDTH, HEIGHT, _size("arch", "Arch", 0.0)),
              {"width": 90, "height": 22, "arch": 14}, _banner),
    )
}  # fmt: skip
