"""Outlines of SVG's drawn elements as flattened subpaths in mm."""

from __future__ import annotations

import re
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np
from fontTools.svgLib.path.parser import parse_path

from velamen.core.arrays import Array
from velamen.core.artwork.fill import Subpath
from velamen.core.artwork.flatten import flatten_arc, flatten_cubic, flatten_quadratic
from velamen.core.artwork.svg_units import PX, Matrix, length_in_mm
from velamen.core.errors import BadInput
from velamen.core.numbers import read_numbers

JOINED = 0.05  # mm between the ends of an outline that counts as closed


class _Collector:
    """Receives drawing calls of a path in its own coordinates; keeps points in mm."""

    def __init__(self, matrix: Matrix) -> None:
        self.matrix = matrix
        self.subpaths: list[Subpath] = []
        self._points: list[Array] = []
        self._last = np.zeros(2)

    def moveTo(self, point: Any) -> None:
        self._flush(closed=False)
        self._last = np.array([float(point[0]), float(point[1])])
        self._points = [self.matrix.apply(self._last[None])]

    def lineTo(self, point: Any) -> None:
        self._last = np.array([float(point[0]), float(point[1])])
        self._points.append(self.matrix.apply(self._last[None]))

    def curveTo(self, one: Any, two: Any, end: Any) -> None:
        self._curve(np.array([self._last, one, two, end], dtype=np.float64), flatten_cubic)

    def qCurveTo(self, one: Any, end: Any) -> None:
        self._curve(np.array([self._last, one, end], dtype=np.float64), flatten_quadratic)

    def arcTo(self, rx: float, ry: float, turn: float, large: bool, sweep: bool, end: Any) -> None:
        finish = np.array([float(end[0]), float(end[1])])
        self._points.append(
            flatten_arc(self._last, finish, abs(rx), abs(ry), turn, bool(large), bool(sweep), self.matrix)
        )
        self._last = finish

    def closePath(self) -> None:
        self._flush(closed=True)

    def endPath(self) -> None:
        self._flush(closed=False)

    def _curve(self, control: Array, flatten: Any) -> None:
        self._points.append(flatten(self.matrix.apply(control)))
        self._last = control[-1]

    def _flush(self, closed: bool) -> None:
        if self._points:
            points = np.concatenate(self._points)
            near = len(points) > 2 and float(np.linalg.norm(points[0] - points[-1])) <= JOINED
            self.subpaths.append(Subpath(points, closed or near))
        self._points = []


def element_subpaths(element: Element, tag: str, matrix: Matrix, name: str) -> list[Subpath]:
    """Subpaths of one drawn element. name: for the message when it cannot be read."""
    collector = _Collector(matrix)
    try:
        with np.errstate(over="ignore", invalid="ignore"):
            _READERS[tag](element, collector)
            collector.endPath()
    except BadInput:
        raise
    except (ValueError, TypeError, IndexError, AttributeError, AssertionError, ZeroDivisionError,
            OverflowError) as error:  # fmt: skip
        raise BadInput(f"The outline {name!r} cannot be read: its {tag} data is broken.") from error
    for sub in collector.subpaths:
        if not np.isfinite(sub.points).all() or np.abs(sub.points).max() > 1e6:
            raise BadInput(f"The outline {name!r} has coordinates that are not finite lengths.")
    return collector.subpaths


def _path(element: Element, pen: _Collector) -> None:
    data = (element.get("d") or "").strip()
    if data and data[0] not in "Mm":
        raise ValueError("a path begins with a move")
    if re.search(r"[^\sMmZzLlHhVvCcSsQqTtAaeE0-9+\-.,]", data):
        raise ValueError("a path holds only its commands and numbers")
    parse_path(data, pen)


def _rect(element: Element, pen: _Collector) -> None:
    x, y, w, h = (_length(element, key) for key in ("x", "y", "width", "height"))
    if w <= 0 or h <= 0:
        return
    rx, ry = element.get("rx"), element.get("ry")
    across = min(_length(element, "rx") if rx not in (None, "auto") else _length(element, "ry"), w / 2)
    down = min(_length(element, "ry") if ry not in (None, "auto") else _length(element, "rx"), h / 2)
    if across <= 0 or down <= 0:
        _polygon(pen, [(x, y), (x + w, y), (x + w, y + h), (x, y + h)], closed=True)
        return
    pen.moveTo((x + across, y))
    for corner, end in (
        ((x + w - across, y), (x + w, y + down)),
        ((x + w, y + h - down), (x + w - across, y + h)),
        ((x + across, y + h), (x, y + h - down)),
        ((x, y + down), (x + across, y)),
    ):
        pen.lineTo(corner)
        pen.arcTo(across, down, 0.0, False, True, end)
    pen.closePath()


def _ellipse(element: Element, pen: _Collector) -> None:
    cx, cy = _length(element, "cx"), _length(element, "cy")
    rx = _length(element, "r") or _length(element, "rx") or _length(element, "ry")
    ry = _length(element, "r") or _length(element, "ry") or _length(element, "rx")
    if rx <= 0 or ry <= 0:
        return
    pen.moveTo((cx + rx, cy))
    pen.arcTo(rx, ry, 0.0, False, True, (cx - rx, cy))
    pen.arcTo(rx, ry, 0.0, False, True, (cx + rx, cy))
    pen.closePath()


def _points(element: Element, pen: _Collector) -> None:
    numbers = read_numbers(element.get("points") or "")
    if len(numbers) >= 4:
        pairs = list(zip(numbers[::2], numbers[1::2], strict=False))
        _polygon(pen, pairs, closed=str(element.tag).endswith("polygon"))


def _line(element: Element, pen: _Collector) -> None:
    ends = [
        (_length(element, "x1"), _length(element, "y1")),
        (_length(element, "x2"), _length(element, "y2")),
    ]
    _polygon(pen, ends, closed=False)


def _polygon(pen: _Collector, points: list[tuple[float, float]], closed: bool) -> None:
    pen.moveTo(points[0])
    for point in points[1:]:
        pen.lineTo(point)
    if closed:
        pen.closePath()


def _length(element: Element, key: str) -> float:
    """A coordinate attribute in the element's own user units."""
    text = element.get(key)
    if text is None:
        return 0.0
    value = length_in_mm(text)
    if value is None:
        raise ValueError(f"{key} is no length")
    return value / PX


_READERS: dict[str, Any] = {
    "path": _path,
    "rect": _rect,
    "circle": _ellipse,
    "ellipse": _ellipse,
    "polygon": _points,
    "polyline": _points,
    "line": _line,
}
