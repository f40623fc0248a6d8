"""Regions out of an SVG file: true size in mm, curves flattened, fills as they are painted."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element, ParseError

import numpy as np
import shapely
from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.fill import regions_of_fill
from velamen.core.artwork.svg_elements import element_subpaths
from velamen.core.artwork.svg_style import Sheet, Style, read_sheet, style_of
from velamen.core.artwork.svg_units import Matrix, parse_transform, viewport
from velamen.core.errors import BadInput
from velamen.core.geometry.region import clean_ring
from velamen.core.numbers import read_number

MAX_BYTES = 10_000_000
MAX_ELEMENTS = 20_000
MAX_POINTS = 250_000
MAX_DEPTH = 60
MAX_READ = 30_000_000  # characters of attributes, counted as often as an element is used
WORDY = ("d", "points", "transform", "style", "class")  # attributes that can be long
SPECK = 0.5  # mm²; less than a needle point's worth of cloth
SHORTEST = 1.0  # mm of an open line
MAX_LINES = 300
WIDEST = 2000.0  # mm; beyond any sewing field by far

SKIPPED = {"defs", "symbol", "clipPath", "mask", "marker", "pattern", "metadata", "title", "desc", "style"}
DRAWN = {"path", "rect", "circle", "ellipse", "polygon", "polyline", "line"}


@dataclass(frozen=True)
class Drawn:
    """One closed region of an artwork: name, polygon in mm, y down, its own colour as "#rrggbb", "" where it has
    none, and the layer that it lies on."""

    name: str
    region: Polygon
    colour: str = ""
    layer: str = ""


@dataclass(frozen=True)
class Artwork:
    """Regions of one file in document order, centred on the origin, and notes on what was left out.

    lines: open ones beside them, by name, (n, 2) points in mm each.
    """

    drawn: tuple[Drawn, ...]
    notes: tuple[str, ...]
    lines: tuple[tuple[str, Array], ...] = ()

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in mm of everything drawn."""
        left, top, right, bottom = _bounds(self.drawn, self.lines)
        return right - left, bottom - top


@dataclass(frozen=True)
class _Place:
    """Where the walk stands: matrix to mm, inherited style, depth, name of the group."""

    matrix: Matrix
    style: Style
    depth: int
    layer: str = ""


def read_svg(data: bytes, lines_alone: bool = False) -> Artwork:
    """Closed regions of an SVG document.

    data: the file. Curves are flattened to 0.02 mm, sizes follow width, height and
    viewBox (unitless px at 96 to the inch), and the centre of the bounding box of all
    regions comes to the origin. Raises BadInput with one sentence on anything unusable.
    """
    root = _parse(data)
    sheet = read_sheet(root)
    found: list[Drawn] = []
    notes: list[str] = []
    lines: list[tuple[str, Array]] = []
    points = texts = specks = mended = 0
    for element, place in _walk(root, sheet):
        tag = _local(element)
        if tag == "text":
            texts += 1
        if tag not in DRAWN:
            continue
        name = _name(element, len(found) + 1)
        subpaths = element_subpaths(element, tag, place.matrix, name)
        points += sum(len(sub.points) for sub in subpaths)
        if points > MAX_POINTS:
            raise BadInput(f"The artwork has more than {MAX_POINTS:,} points: simplify it first.")
        solid = [tag != "line" and (sub.closed or place.style.filled) for sub in subpaths]
        closed = [clean_ring(sub.points) for sub, whole in zip(subpaths, solid, strict=True) if whole]
        lines += [(name, sub.points) for sub, whole in zip(subpaths, solid, strict=True) if not whole]
        regions, crossed = regions_of_fill([ring for ring in closed if len(ring) > 2], place.style.evenodd, name)
        mended += crossed
        large = [region for region in regions if region.area >= SPECK]
        specks += len(regions) - len(large)
        for nth, region in enumerate(large, 1):
            found.append(Drawn(name if len(large) == 1 else f"{name} {nth}", region, place.style.fill, place.layer))
    if not found and not (lines_alone and lines):
        raise BadInput(_nothing(texts, len(lines), specks))
    lines = [(name, line) for name, line in lines if len(line) > 1 and np.ptp(line, axis=0).max() >= SHORTEST]
    if lines:
        notes.append(lines_told(len(lines)))
    if mended:
        notes.append(mended_told(mended))
    if specks:
        notes.append(f"{specks} speck{'s' * (specks > 1)} under {SPECK} mm² left out.")
    if texts:
        notes.append("Text left out: turn it into outlines to sew it.")
    return centred(found, notes, lines)


def _parse(data: bytes) -> Element:
    if not data.strip():
        raise BadInput("The file is empty: choose an SVG file with at least one closed outline.")
    if len(data) > MAX_BYTES:
        raise BadInput(f"The file is {len(data) / 1e6:.0f} MB: at most {MAX_BYTES // 1_000_000} MB of SVG are read.")
    try:
        root: Element = ElementTree.fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
    except DefusedXmlException:
        raise BadInput("The SVG declares entities or outside references, which are not read.") from None
    except (ParseError, ValueError, LookupError) as error:
        where = getattr(error, "position", None)
        place = f" at line {where[0]}, column {where[1] + 1}" if where else ""
        raise BadInput(f"The file is not well-formed SVG{place}: save it again as plain SVG.") from None
    if _local(root) != "svg":
        raise BadInput(f"The file holds <{_local(root)[:40]}> where <svg> should stand: choose an SVG file.")
    return root


def _walk(root: Element, sheet: Sheet) -> Iterator[tuple[Element, _Place]]:
    """Drawn elements in document order, with matrix and style, <use> followed."""
    by_id = {element.get("id"): element for element in root.iter() if element.get("id")}
    start = _Place(Matrix.identity(), Style(), 0)
    todo = [(root, start)]
    seen = read = 0
    while todo:
        element, place = todo.pop()
        tag = _local(element)
        seen += 1
        read += sum(len(element.get(key, "")) for key in WORDY)
        if seen > MAX_ELEMENTS:
            raise BadInput(f"The SVG draws more than {MAX_ELEMENTS:,} elements: simplify it first.")
        if read > MAX_READ:
            raise BadInput("The SVG uses its longest outlines over and over: simplify it first.")
        if not tag or tag in SKIPPED:
            continue
        if place.depth > MAX_DEPTH:
            raise BadInput(f"The SVG nests more than {MAX_DEPTH} groups deep: flatten its groups first.")
        style = style_of(element, tag, place.style, sheet)
        if style.hidden:
            continue
        matrix = place.matrix @ parse_transform(element.get("transform", ""), _name(element, 0))
        if tag == "svg":
            matrix = matrix @ viewport(element, outermost=place.depth == 0)
        layer = place.layer or (_name(element, 0) if tag == "g" and place.depth == 1 and element.get("id") else "")
        here = replace(place, matrix=matrix, style=style, depth=place.depth + 1, layer=layer)
        if tag == "use":
            todo.extend(_used(element, by_id, here))
            continue
        yield element, here
        todo.extend((child, here) for child in reversed(list(element)) if isinstance(child.tag, str))


def _used(element: Element, by_id: dict[str | None, Element], place: _Place) -> list[tuple[Element, _Place]]:
    href = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
    if not href.startswith("#"):
        raise BadInput("The SVG refers to another file, which is not read: embed the shapes in it.")
    target = by_id.get(href[1:])
    if target is None:
        return []
    x, y = _number(element.get("x")), _number(element.get("y"))
    moved = replace(place, matrix=place.matrix @ Matrix(1, 0, 0, 1, x, y))
    if _local(target) == "symbol":
        return [(child, moved) for child in reversed(list(target)) if isinstance(child.tag, str)]
    return [(target, moved)]


def _number(text: str | None) -> float:
    try:
        return read_number((text or "0").removesuffix("px"))
    except ValueError:
        return 0.0


def _local(element: Element) -> str:
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


def _name(element: Element, nth: int) -> str:
    title = next((child.text for child in element if _local(child) == "title" and child.text), None)
    text = title or element.get("id") or f"Shape {nth}"
    return " ".join(text[:200].replace("_", " ").replace("-", " ").split())[:60] or f"Shape {nth}"


def mended_told(count: int) -> str:
    """What is said of outlines that crossed themselves."""
    what = "An outline crosses itself and was" if count == 1 else f"{count} outlines cross themselves and were"
    return f"{what} filled as the fill rule says: look whether it is what you meant."


def lines_told(count: int) -> str:
    """What is said of open lines in an artwork."""
    what = "a line" if count == 1 else "lines"
    return f"{count} open line{'s' * (count > 1)} came in as {what}: only closed outlines become cloth."


def _bounds(found: Sequence[Drawn], lines: Sequence[tuple[str, Array]]) -> tuple[float, float, float, float]:
    """Bounds in mm of all regions, or of the lines where there are none."""
    shapes = [part.region for part in found] or [shapely.linestrings(line) for _, line in lines]
    left, top, right, bottom = shapely.total_bounds(np.array(shapes, dtype=object)).tolist()
    return left, top, right, bottom


def centred(found: list[Drawn], notes: list[str], lines: list[tuple[str, Array]]) -> Artwork:
    """Regions and open lines moved so that the middle of their box is the origin; too large ones are refused."""
    box = np.array(_bounds(found, lines))
    low, high = box[:2], box[2:]
    if float((high - low).max()) > WIDEST:
        raise BadInput(
            f"The artwork is {(high - low).max():,.0f} mm across, beyond any sewing field: check its units."
        )
    middle = 0.5 * (low + high)
    moved = tuple(replace(part, region=shapely.transform(part.region, lambda points: points - middle))
                  for part in found)  # fmt: skip
    return Artwork(moved, tuple(notes), tuple((name, line - middle) for name, line in lines[:MAX_LINES]))


def _nothing(texts: int, lines: int, specks: int) -> str:
    if texts and not lines:
        return "The SVG holds only text: turn the text into outlines, then bring it in again."
    if lines:
        return "The SVG holds only open lines: close at least one outline, then bring it in again."
    if specks:
        return f"Every shape in the SVG is smaller than {SPECK} mm²: check its size and units."
    return "The SVG holds no closed outline: draw at least one, then bring it in again."
