"""Lettering: typed text in the shipped typefaces as regions in mm, on a line or an arc."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.fill import regions_of_fill
from velamen.core.artwork.flatten import TOLERANCE, flatten_cubic, flatten_quadratic
from velamen.core.errors import BadInput
from velamen.core.geometry.combine import union
from velamen.core.geometry.region import clean_ring

TYPEFACES = {
    "fredoka": "Fredoka, bold round",
    "rubik": "Rubik, heavy",
    "oswald": "Oswald, condensed",
    "alfa-slab-one": "Alfa Slab One, slab",
    "graduate": "Graduate, block",
    "merriweather": "Merriweather, serif",
    "pacifico": "Pacifico, script",
    "courgette": "Courgette, brush",
}
LONGEST = 60  # letters
LINES = 4
THINNEST = 1.0  # mm; a thinner stroke will not sew (handbook, section 4)
SHAVED = 0.04  # share of a letter's area that its thin strokes may be
LINE_HEIGHT = 1.45  # of the cap height, between stacked lines
SAMPLE = "HOnae"  # letters whose strokes tell how small a typeface may be


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
    font = _font(typeface)
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
    font = _font(typeface)
    letters = "".join(text.split())
    if len(letters) != 3:
        raise BadInput("A monogram has three letters: type three.")
    _check(font, typeface, letters)
    radius = height / 2
    edges = np.array([-0.93, -0.36, -0.32, 0.32, 0.36, 0.93]) * radius
    found = []
    for one, left, right in zip(letters, edges[::2], edges[1::2], strict=True):
        regions = _glyph(font, one, 1.0 / font.capitals)
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


def smallest_height(typeface: str) -> float:
    """The smallest height in mm of capitals at which a typeface's strokes keep a millimetre."""
    return float(np.ceil(10.0 * THINNEST / _font(typeface).stroke) / 10.0)


@dataclass(frozen=True)
class _Font:
    glyphs: Any
    names: dict[int, str]
    advance: dict[str, int]
    kerning: dict[tuple[str, str], int]
    capitals: float
    stroke: float


@dataclass(frozen=True)
class _Row:
    letters: list[Letter]
    width: float


@lru_cache(maxsize=16)
def _font(typeface: str) -> _Font:
    from fontTools.ttLib import TTFont

    if typeface not in TYPEFACES:
        raise BadInput(f"There is no typeface {typeface[:30]!r}: choose one of {', '.join(TYPEFACES)}.")
    with files(__package__).joinpath("typefaces", f"{typeface}.woff").open("rb") as file:
        font = TTFont(file)
        font.ensureDecompiled()
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    advance = {name: metric[0] for name, metric in font["hmtx"].metrics.items()}
    bare = _Font(glyphs, names, advance, _kerning(font), 1.0, 1.0)
    capital = shapely.union_all(np.array(_glyph(bare, "H", 1.0), dtype=object))
    tall = float(capital.bounds[3] - capital.bounds[1])
    stroke = min(_stroke(_glyph(bare, one, 1.0)) for one in SAMPLE) / tall
    return _Font(glyphs, names, advance, bare.kerning, tall, stroke)


def _kerning(font: Any) -> dict[tuple[str, str], int]:
    """Pairwise kerning of glyph pairs (GPOS, pair adjustment, format 1 and 2)."""
    pairs: dict[tuple[str, str], int] = {}
    if "GPOS" not in font or font["GPOS"].table.LookupList is None:
        return pairs
    for lookup in font["GPOS"].table.LookupList.Lookup:
        for table in lookup.SubTable:
            table = getattr(table, "ExtSubTable", table)
            if table.LookupType != 2:
                continue
            for nth, first in enumerate(table.Coverage.glyphs):
                if table.Format == 1:
                    for record in table.PairSet[nth].PairValueRecord:
                        pairs.setdefault((first, record.SecondGlyph), getattr(record.Value1, "XAdvance", 0) or 0)
                    continue
                row = table.Class1Record[table.ClassDef1.classDefs.get(first, 0)].Class2Record
                for second, kind in table.ClassDef2.classDefs.items():
                    shift = getattr(row[kind].Value1, "XAdvance", 0) or 0
                    if shift:
                        pairs.setdefault((first, second), shift)
    return pairs


def _check(font: _Font, typeface: str, text: str) -> None:
    missing = next((one for one in text if one != " " and ord(one) not in font.names), None)
    if missing is not None:
        raise BadInput(
            f"{TYPEFACES[typeface].split(',')[0]} has no letter {missing!r}: take another typeface or letter."
        )


def _row(font: _Font, line: str, scale: float, spacing: float, kerns: Mapping[int, float], first: int) -> _Row:
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
            for part in _glyph(font, one, scale)
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


def _glyph(font: _Font, one: str, scale: float) -> list[Polygon]:
    """Regions of a character, its baseline on 0, y down."""
    name = font.names.get(ord(one))
    if name is None or one == " ":
        return []
    from fontTools.pens.recordingPen import DecomposingRecordingPen

    drawn, rings = DecomposingRecordingPen(font.glyphs), _Rings(scale)
    font.glyphs[name].draw(drawn)
    drawn.replay(rings)
    cleaned = [clean_ring(np.concatenate(ring)) for ring in rings.rings]
    return regions_of_fill([ring for ring in cleaned if len(ring) > 2], False, one).regions


def _frame(regions: list[Polygon]) -> tuple[Array, Array]:
    """Lower and upper corner of the box round regions."""
    bounds = np.array([region.bounds for region in regions])
    return bounds[:, :2].min(axis=0), bounds[:, 2:].max(axis=0)


class _Rings:
    """A pen that collects a glyph's contours as flattened rings."""

    def __init__(self, scale: float) -> None:
        self.scale = scale
        self.rings: list[list[Array]] = []
        self.at = np.zeros(2)

    def _mm(self, point: tuple[float, float]) -> Array:
        return np.array([point[0], -point[1]]) * self.scale

    def moveTo(self, point: tuple[float, float]) -> None:
        self.at = self._mm(point)
        self.rings.append([self.at[None]])

    def lineTo(self, point: tuple[float, float]) -> None:
        self.at = self._mm(point)
        self.rings[-1].append(self.at[None])

    def curveTo(self, *points: tuple[float, float]) -> None:
        control = np.array([self.at, *(self._mm(point) for point in points)])
        self.rings[-1].append(flatten_cubic(control))
        self.at = control[-1]

    def qCurveTo(self, *points: tuple[float, float] | None) -> None:
        from fontTools.pens.basePen import decomposeQuadraticSegment

        if points[-1] is None:
            known = [point for point in points if point is not None]
            first = ((known[-1][0] + known[0][0]) / 2, (known[-1][1] + known[0][1]) / 2)
            self.moveTo(first)
            points = (*known, first)
        for middle, end in decomposeQuadraticSegment(points):
            control = np.array([self.at, self._mm(middle), self._mm(end)])
            self.rings[-1].append(flatten_quadratic(control))
            self.at = control[-1]

    def closePath(self) -> None:
        self.at = self.rings[-1][0][0]

    def endPath(self) -> None:
        self.closePath()


def _stroke(regions: list[Polygon]) -> float:
    """Width below which strokes of a letter vanish: the largest at which little is lost to an opening."""
    area = shapely.union_all(np.array(regions, dtype=object))
    low, high = 0.0, float(np.sqrt(area.area))
    for _ in range(18):
        width = (low + high) / 2
        opened = shapely.buffer(shapely.buffer(area, -width / 2, quad_segs=4), width / 2, quad_segs=4)
        low, high = (width, high) if area.area - opened.area <= SHAVED * area.area else (low, width)
    return low
