"""Typefaces: those that are shipped and those that a shop has brought in, their glyphs as regions in mm."""

from __future__ import annotations

import io
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.fill import regions_of_fill
from velamen.core.artwork.flatten import flatten_cubic, flatten_quadratic
from velamen.core.errors import BadInput
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
OWN = "own-"  # what keys of typefaces begin with that a shop has brought in
MOST_BYTES, MOST_UNPACKED = 4_000_000, 30_000_000
KINDS = {b"OTTO": "OTF", b"\x00\x01\x00\x00": "TTF", b"true": "TTF", b"wOFF": "WOFF"}  # by how a file begins
Shelf = Callable[[str], tuple[str, bytes] | None]
"""Name and file of a typeface by its key, None where it has none such."""
SHELVES: list[Shelf] = []
THINNEST = 1.0  # mm; a thinner stroke will not sew (handbook, section 4)
SHAVED = 0.04  # share of a letter's area that its thin strokes may be
SAMPLE = "HOnae"  # letters whose strokes tell how small a typeface may be


@dataclass(frozen=True)
class Font:
    """A typeface opened. names: of glyphs by code point; advance, kerning, capitals, stroke in its own units, the
    last two being the height of an H and the width of its thinnest strokes as a share of that."""

    glyphs: Any
    names: dict[int, str]
    advance: dict[str, int]
    kerning: dict[tuple[str, str], int]
    capitals: float
    stroke: float


def name_of(typeface: str) -> str:
    """What a typeface is called, by its key."""
    if typeface in TYPEFACES:
        return TYPEFACES[typeface]
    found = _brought_in(typeface)
    if found is None:
        raise BadInput(f"There is no typeface {typeface[:30]!r}: choose one of {', '.join(TYPEFACES)}.")
    return found[0]


def at_hand(typeface: str) -> bool:
    """Whether a typeface can be drawn with here."""
    return typeface in TYPEFACES or _brought_in(typeface) is not None


def _brought_in(typeface: str) -> tuple[str, bytes] | None:
    return next((found for shelf in SHELVES if (found := shelf(typeface)) is not None), None)


def font_of(typeface: str) -> Font:
    """A typeface by its key. Raises BadInput where there is none for whoever asks, though another may have it."""
    name_of(typeface)
    return _font(typeface)


@lru_cache(maxsize=24)
def _font(typeface: str) -> Font:
    if typeface in TYPEFACES:
        return opened(files(__package__).joinpath("typefaces", f"{typeface}.woff").read_bytes())
    found = _brought_in(typeface)
    assert found is not None
    return opened(found[1])


def read_typeface(data: bytes) -> tuple[str, Font]:
    """Name and font of a file that somebody brings in. Raises BadInput where it is none that can be drawn with."""
    kind = KINDS.get(data[:4])
    if kind is None:
        also = " WOFF2 is packed otherwise: unpack it first." if data[:4] == b"wOF2" else ""
        raise BadInput(f"That file is no typeface: OTF, TTF and WOFF are read.{also}")
    if len(data) > MOST_BYTES:
        raise BadInput(f"The typeface is {len(data) / 1e6:.0f} MB: at most {MOST_BYTES // 1_000_000} MB are read.")
    if kind == "WOFF":
        _check_unpacked(data)
    try:
        font = opened(data)
        if ord("H") not in font.names or not 0 < font.stroke < 1:
            raise BadInput("The typeface has no Latin letters that could be drawn.")
        return _named(data), font
    except BadInput:
        raise
    except Exception:  # whatever a broken table makes the reader stumble over
        raise BadInput("The typeface cannot be read: some of its tables are broken or missing.") from None


def _check_unpacked(data: bytes) -> None:
    """Raises BadInput where tables of a WOFF are larger than they say, or than a typeface is."""
    count = int.from_bytes(data[12:14], "big")
    total = 0
    for nth in range(count):
        row = data[44 + 20 * nth : 64 + 20 * nth]
        at, packed, size = (int.from_bytes(row[one : one + 4], "big") for one in (4, 8, 12))
        total += size
        if len(row) < 20 or total > MOST_UNPACKED:
            raise BadInput("The typeface unpacks to more than a typeface holds: it is not read.")
        if packed < size:
            try:
                whole = zlib.decompressobj().decompress(data[at : at + packed], size + 1)
            except zlib.error:
                raise BadInput("The typeface cannot be read: it is packed wrongly.") from None
            if len(whole) != size:
                raise BadInput("The typeface cannot be read: its tables are not as large as they say.")


def _named(data: bytes) -> str:
    """What a file says the typeface is called."""
    from fontTools.ttLib import TTFont

    with TTFont(io.BytesIO(data), lazy=True) as font:
        table = font.get("name")
        name = (table.getDebugName(16) or table.getDebugName(1) or "") if table else ""
        style = (table.getDebugName(17) or table.getDebugName(2) or "") if table else ""
    plain = "" if style.lower() in ("regular", "") else f", {style.lower()}"
    return " ".join(f"{name}{plain}".split())[:60] or "Typeface"


def opened(data: bytes) -> Font:
    """A file as a font."""
    from fontTools.ttLib import TTFont

    font = TTFont(io.BytesIO(data))
    font.ensureDecompiled()
    glyphs, names = font.getGlyphSet(), font.getBestCmap() or {}
    advance = {name: metric[0] for name, metric in font["hmtx"].metrics.items()}
    bare = Font(glyphs, names, advance, _kerning(font), 1.0, 1.0)
    capital = shapely.union_all(np.array(glyph(bare, "H", 1.0), dtype=object))
    tall = float(capital.bounds[3] - capital.bounds[1]) if not capital.is_empty else 0.0
    strokes = [_stroke(regions) for one in SAMPLE if (regions := glyph(bare, one, 1.0))]
    stroke = min(strokes) / tall if strokes and tall > 0 else 0.0
    return Font(glyphs, names, advance, bare.kerning, tall, stroke)


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


def smallest_height(typeface: str) -> float:
    """The smallest height in mm of capitals at which a typeface's strokes keep a millimetre."""
    return float(np.ceil(10.0 * THINNEST / font_of(typeface).stroke) / 10.0)


def glyph(font: Font, one: str, scale: float) -> list[Polygon]:
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
        left = shapely.buffer(shapely.buffer(area, -width / 2, quad_segs=4), width / 2, quad_segs=4)
        low, high = (width, high) if area.area - left.area <= SHAVED * area.area else (low, width)
    return low
