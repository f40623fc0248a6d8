"""Lengths, transforms and viewports of SVG, in mm."""

from __future__ import annotations

import math
import re
from typing import NamedTuple
from xml.etree.ElementTree import Element

import numpy as np

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.numbers import NUMBER, read_number, read_numbers

PX = 25.4 / 96.0  # CSS Values 3: 96 px to the inch
UNITS = {
    "": PX, "px": PX, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72.0, "pc": 25.4 / 6.0, "q": 0.25,
}  # fmt: skip
# Neither pattern tries one place twice: a long run of blanks costs no more than its length.
LENGTH = re.compile(rf"({NUMBER.pattern})\s*([a-zA-Z%]*)")
TRANSFORM = re.compile(r"(matrix|translate|scale|rotate|skewX|skewY)\s*\(([^()]*)\)")
LONGEST_LENGTH = 80  # characters


class Matrix(NamedTuple):
    """Affine map x' = a x + c y + e, y' = b x + d y + f, as SVG writes it."""

    a: float
    b: float
    c: float
    d: float
    e: float
    f: float

    @staticmethod
    def identity() -> Matrix:
        return Matrix(1.0, 0.0, 0.0, 1.0, 0.0, 0.0)

    def __matmul__(self, other: Matrix) -> Matrix:
        return Matrix(
            self.a * other.a + self.c * other.b,
            self.b * other.a + self.d * other.b,
            self.a * other.c + self.c * other.d,
            self.b * other.c + self.d * other.d,
            self.a * other.e + self.c * other.f + self.e,
            self.b * other.e + self.d * other.f + self.f,
        )

    def apply(self, points: Array) -> Array:
        """Maps (n, 2) points."""
        linear = np.array([[self.a, self.b], [self.c, self.d]])
        return np.asarray(points @ linear + np.array([self.e, self.f]))

    @property
    def stretch(self) -> float:
        """Largest factor by which lengths grow."""
        return float(np.linalg.norm(np.array([[self.a, self.c], [self.b, self.d]]), 2))


def length_in_mm(text: str | None) -> float | None:
    """A length in mm, None when absent or relative (%, em)."""
    match = LENGTH.fullmatch(text.strip()) if text and len(text) <= LONGEST_LENGTH else None
    if not match or match.group(2).lower() not in UNITS:
        return None
    return read_number(match.group(1)) * UNITS[match.group(2).lower()]


def parse_transform(text: str, where: str) -> Matrix:
    """Matrix of a transform attribute."""
    total = Matrix.identity()
    if not text.strip():
        return total
    position = 0
    for match in TRANSFORM.finditer(text):
        if text[position : match.start()].strip(" ,\n\t\r"):
            break
        position = match.end()
        try:
            numbers = read_numbers(match.group(2))
        except ValueError:
            raise BadInput(
                f"The transform of {where!r} has a number out of bounds: {match.group(0)[:40]!r}."
            ) from None
        total = total @ _one_transform(match.group(1), numbers, where)
    if text[position:].strip(" ,\n\t\r"):
        raise BadInput(f"The transform of {where!r} cannot be read: {text[position:].strip()[:40]!r}.")
    if not all(math.isfinite(number) for number in total):
        raise BadInput(f"The transform of {where!r} is not finite: {text[:40]!r}.")
    return total


def viewport(element: Element, outermost: bool) -> Matrix:
    """Map from an <svg>'s own coordinates to its parent's (to mm for the outermost)."""
    to_parent = 1.0 if outermost else 1.0 / PX
    try:
        box = read_numbers(element.get("viewBox") or "")
        width, height, x, y = (length_in_mm(element.get(key)) for key in ("width", "height", "x", "y"))
    except ValueError:
        raise BadInput("The SVG's own size or viewBox is out of bounds: save it again in mm.") from None
    x, y = (0.0 if outermost else (one or 0.0) * to_parent for one in (x, y))
    unit = PX if outermost else 1.0
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        return Matrix(unit, 0.0, 0.0, unit, x, y)
    if width is None and height is None:
        return Matrix(unit, 0.0, 0.0, unit, x - unit * box[0], y - unit * box[1])
    across = (width if width is not None else (height or 0.0) * box[2] / box[3]) * to_parent
    down = (height if height is not None else (width or 0.0) * box[3] / box[2]) * to_parent
    if across <= 0 or down <= 0:
        raise BadInput("The SVG gives itself no size: its width and height must be more than 0.")
    sx, sy = across / box[2], down / box[3]
    fit = (element.get("preserveAspectRatio") or "xMidYMid meet").split()
    if fit[0] != "none":
        sx = sy = max(sx, sy) if fit[-1] == "slice" else min(sx, sy)
    return Matrix(
        sx,
        0.0,
        0.0,
        sy,
        x - sx * box[0] + (across - sx * box[2]) / 2,
        y - sy * box[1] + (down - sy * box[3]) / 2,
    )


def _one_transform(kind: str, n: list[float], where: str) -> Matrix:
    if kind == "matrix" and len(n) == 6:
        return Matrix(*n)
    if kind == "translate" and len(n) in (1, 2):
        return Matrix(1, 0, 0, 1, n[0], n[1] if len(n) == 2 else 0.0)
    if kind == "scale" and len(n) in (1, 2):
        return Matrix(n[0], 0, 0, n[-1], 0, 0)
    if kind == "rotate" and len(n) in (1, 3):
        cos, sin = math.cos(math.radians(n[0])), math.sin(math.radians(n[0]))
        x, y = n[1:] or (0.0, 0.0)
        return Matrix(cos, sin, -sin, cos, x - cos * x + sin * y, y - sin * x - cos * y)
    if kind in ("skewX", "skewY") and len(n) == 1:
        lean = math.tan(math.radians(n[0]))
        return Matrix(1, 0, lean, 1, 0, 0) if kind == "skewX" else Matrix(1, lean, 0, 1, 0, 0)
    raise BadInput(f"The transform of {where!r} has {len(n)} numbers in {kind}, which cannot be read.")
