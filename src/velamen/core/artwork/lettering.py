"""Lettering: typed text in a typeface as regions in mm, on a line or an arc."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.flatten import TOLERANCE
from velamen.core.artwork.typeface import Font, font_of, glyph, name_of
from velamen.core.errors import BadInput
from velamen.core.geometry.combine import union

LONGEST = 60  # letters
LINES = 4
LINE_HEIGHT = 1.45  # of the cap height, between stacked lines


@dataclass(frozen=True)
class Letter:
    """One glyph at its place: the character and its regions in mm."""

    text: str
    regions: tuple[Polygon, ...]


def lettering(
    text: str, typeface: str, height: float, spacing: float = 0.0, width: float = 0.0, arch: float = 0.0,
    kerns: Mapping[int, float] | None = None, circle: float = 0.0,
) -> list[Letter]:  # fmt: skip
    """Letters of a text, each with its regions, centred on the origin, y down.

    height: mm of the capitals; spacing: mm added between letters, kerning being the
    typeface's own; width: mm that the longest line is fitted to, 0 as it comes; arch: mm by
    which the middle of a line stands above its ends, 0 for a straight line; kerns: mm more
    before a letter, by its number among all that are drawn; circle: mm across the circle that the
    first line stands on, and a second one runs along below, 0 for lines. Raises BadInput for letters
    that the typeface lacks.
    """
    font = font_of(typeface)
    lines = [line.strip() for line in text.replace("\r", "").split("\n") if line.strip()]
    if not lines or sum(map(len, lines)) > LONGEST or len(lines) > LINES:
        raise BadInput(f"Type 1 to {LONGEST} letters on at most {LINES} lines.")
    _check(font, typeface, "".join(lines))
    scale = height / font.capitals
    rows, drawn = [], 0
    for line in lines:
        rows.append(_row(font, line, scale, spacing, kerns or {}, drawn))
        drawn += len(rows[-1].letters)
    longest = max(row.width for row in rows)
    if longest <= 0:
        raise BadInput("The text has no letter that can be drawn.")
    squeeze = width / longest if width > 0 else 1.0
    found = []
    if circle > 0:
        return _round(rows, circle, squeeze, height)
    for nth, row in enumerate(rows):
        drop = (nth - (len(rows) - 1) / 2) * height * LINE_HEIGHT + height / 2
        for letter in row.letters:
            bent = [_bend(one, squeeze, row.width, arch, drop) for one in letter.regions]
            found.append(Letter(letter.text, tuple(bent)))
    return found


def monogram(text: str, typeface: str, height: float) -> list[Letter]:
    """Three letters filling a circle of `height` mm across, the middle one widest, each cut to the circle.

    Every letter is drawn out to fill its upright band, its top and foot following the circle.
    """
    font = font_of(typeface)
    letters = "".join(text.split())
    if len(letters) != 3:
        raise BadInput("A monogram has three letters: type three.")
    _check(font, typeface, letters)
    radius = height / 2
    edges = np.array([-0.93, -0.36, -0.32, 0.32, 0.36, 0.93]) * radius
    found = []
    for one, left, right in zip(letters, edges[::2], edges[1::2], strict=True):
        regions = glyph(font, one, 1.0 / font.capitals)
        if not regions:
            raise BadInput(f"{one!r} has nothing to draw in a monogram: take another letter.")
        low, high = _frame(regions)

        def fill(
            points: Array, low: Array = low, high: Array = high, left: float = left, right: float = right
        ) -> Array:
            share = (points - low) / np.maximum(high - low, 1e-9)
            x = left + share[:, 0] * (right - left)
            half = np.sqrt(np.maximum(radius**2 - x**2, 0.0))
            return np.stack([x, (2.0 * share[:, 1] - 1.0) * half], axis=1)

        fine = [shapely.segmentize(region, 0.02) for region in regions]
        found.append(Letter(one, tuple(shapely.simplify(shapely.transform(part, fill), 0.01) for part in fine)))
    return found


def word(letters: list[Letter], gap: float = 0.0) -> list[Polygon]:
    """The letters joined where they touch, or where they would with an outline of `gap` mm."""
    whole = [region for letter in letters for region in letter.regions]
    if gap <= 0:
        return union(whole)
    area = shapely.buffer(shapely.union_all(np.array(whole, dtype=object)), gap, quad_segs=16)
    return union([part for part in shapely.get_parts(area) if part.geom_type == "Polygon"])


@dataclass(frozen=True)
class _Row:
    letters: list[Letter]
    width: float


def _check(font: Font, typeface: str, text: str) -> None:
    missing = next((one for one in text if one != " " and ord(one) not in font.names), None)
    if missing is not None:
        name = name_of(typeface).split(",")[0]
        raise BadInput(f"{name} has no letter {missing!r}: take another typeface or letter.")


def _row(font: Font, line: str, scale: float, spacing: float, kerns: Mapping[int, float], first: int) -> _Row:
    """One line from its left end, its baseline on 0. first: number of its first letter."""
    letters: list[Letter] = []
    at, last = 0.0, ""
    for one in line:
        name = font.names.get(ord(one), "space")
        at += font.kerning.get((last, name), 0) * scale + (
            kerns.get(first + len(letters), 0.0) if one != " " else 0.0
        )
        regions = [
            shapely.transform(part, lambda points, at=at: points + np.array([at, 0.0]))
            for part in glyph(font, one, scale)
        ]
        if regions:
            letters.append(Letter(one, tuple(regions)))
        at += font.advance.get(name, 0) * scale + spacing
        last = name
    if not letters:
        return _Row([], 0.0)
    bounds = np.array([region.bounds for letter in letters for region in letter.regions])
    left, right = float(bounds[:, 0].min()), float(bounds[:, 2].max())
    middle = (left + right) / 2
    moved = [
        Letter(
            one.text,
            tuple(shapely.transform(part, lambda points: points - np.array([middle, 0.0])) for part in one.regions),
        )
        for one in letters
    ]
    return _Row(moved, right - left)


def _bend(region: Polygon, squeeze: float, width: float, arch: float, drop: float) -> Polygon:
    """A letter at its place on its line, straight or along an arc; its upright stays upright to the arc."""
    if abs(arch) < TOLERANCE:
        return shapely.transform(region, lambda points: points * np.array([squeeze, 1.0]) + np.array([0.0, drop]))
    chord = width * squeeze
    rise = float(np.clip(arch, -chord / 2, chord / 2))
    radius = (chord**2 / 4 + rise**2) / (2 * rise)

    def along(points: Array) -> Array:
        angle = points[:, 0] * squeeze / radius
        out = radius - points[:, 1]
        place = np.stack([out * np.sin(angle), radius - out * np.cos(angle)], axis=1)
        return np.asarray(place + np.array([0.0, drop - rise / 2]))

    fine = shapely.segmentize(region, 1.0)
    return shapely.transform(fine, along)


def _round(rows: list[_Row], across: float, squeeze: float, height: float) -> list[Letter]:
    """One line of letters on the upper round of a circle, and a second one in the same band along its foot."""
    if len(rows) > 2:
        raise BadInput("A circle takes two lines: one along the top, one along the bottom.")
    radius, most = across / 2, np.pi * across / len(rows)
    found = []
    for nth, row in enumerate(rows):
        if row.width * squeeze > most:
            raise BadInput(
                f"The text is {row.width * squeeze:.0f} mm long and the circle's round only {most:.0f}: "
                "set it smaller, or the circle wider."
            )

        def along(points: Array, up: float = 1.0 - 2.0 * nth) -> Array:
            base = radius if up > 0 else radius + height
            angle, out = points[:, 0] * squeeze / base, base - up * points[:, 1]
            return np.stack([out * np.sin(angle), -up * out * np.cos(angle)], axis=1)

        for letter in row.letters:
            bent = [shapely.transform(shapely.segmentize(one, 1.0), along) for one in letter.regions]
            found.append(Letter(letter.text, tuple(bent)))
    return found


def _frame(regions: list[Polygon]) -> tuple[Array, Array]:
    """Lower and upper corner of the box round regions."""
    bounds = np.array([region.bounds for region in regions])
    return bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)
