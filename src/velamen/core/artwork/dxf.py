"""Regions out of a DXF file: lines, arcs, polylines, splines and hatches joined to closed outlines."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterable
from itertools import islice
from typing import Any

import numpy as np
import shapely
from scipy.spatial import KDTree
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.dxf_checks import check_drawing
from velamen.core.artwork.fill import regions_of_fill
from velamen.core.artwork.flatten import TOLERANCE
from velamen.core.artwork.svg import (
    MAX_BYTES,
    MAX_ELEMENTS,
    MAX_POINTS,
    SPECK,
    Artwork,
    Drawn,
    centred,
    lines_told,
    mended_told,
)
from velamen.core.errors import BadInput
from velamen.core.geometry.region import clean_ring

PEN = 7  # number of the colour that is black on white and white on black
JOIN = 0.05  # mm between ends that are taken for one
UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 25.4e-6, 9: 0.0254, 10: 914.4, 13: 1e-3, 14: 100.0}
"""mm of the header's $INSUNITS (DXF reference), those a drawing of this size may be in."""
TYPED = {"mm": 1.0, "cm": 10.0, "in": 25.4}
CURVES = {"LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
SOLIDS = {"3DSOLID", "BODY", "REGION", "SURFACE", "MESH", "3DFACE", "POLYFACE"}
WORDS = {"TEXT", "MTEXT", "ATTRIB", "ATTDEF", "DIMENSION"}


def is_dxf(data: bytes) -> bool:
    """Whether a file looks like DXF: group code 0 and SECTION first, or a comment before it."""
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    lines = [line.strip() for line in head.split(b"\n")[:2]]
    section = len(lines) == 2 and lines[0] == b"0" and lines[1].startswith(b"SECTION")
    return section or lines[:1] == [b"999"] or head.startswith(b"AutoCAD Binary DXF")


def read_dxf(data: bytes, unit: str = "", lines_alone: bool = False) -> Artwork:
    """Closed regions of a DXF drawing, a name for each out of its layer.

    unit: "mm", "cm" or "in" where the header does not say. Outlines lying in one another on a
    layer are holes by turns. Raises BadInput with one sentence on anything unusable.
    """
    if len(data) > MAX_BYTES:
        raise BadInput(f"The file is {len(data) / 1e6:.0f} MB: at most {MAX_BYTES // 1_000_000} MB of DXF are read.")
    drawing = _parse(data)
    factor = _factor(_header_unit(drawing), unit)
    check_drawing(drawing, factor, MAX_ELEMENTS)
    lines, left = _lines(drawing, factor)
    found: list[Drawn] = []
    open_lines: list[tuple[str, Array]] = []
    specks = mended = 0
    colours = _colours(drawing)
    for layer, parts in lines.items():
        rings, rest = _joined(parts)
        open_lines += [(layer if layer not in ("0", "") else "Line", line) for line in rest]
        regions, crossed = _nested(rings, layer)
        mended += crossed
        large = [region for region in regions if region.area >= SPECK]
        specks += len(regions) - len(large)
        name = layer if layer not in ("0", "") else "Outline"
        found += [Drawn(name if len(large) == 1 else f"{name} {nth}", one, colours.get(layer, ""), name)
                  for nth, one in enumerate(large, 1)]  # fmt: skip
    if not found and not (lines_alone and open_lines):
        raise BadInput(_nothing(left, len(open_lines)))
    notes = [lines_told(len(open_lines))] if open_lines else []
    if mended:
        notes.append(mended_told(mended))
    if specks:
        notes.append(f"{specks} speck{'s' * (specks > 1)} under {SPECK} mm² left out.")
    if left:
        kinds = ", ".join(sorted(kind.lower() for kind in left))
        notes.append(f"Left out, since it has no outline to sew: {kinds}.")
    return centred(found, notes, open_lines)


def _parse(data: bytes) -> Any:
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    if data.startswith(b"AutoCAD Binary DXF"):
        raise BadInput("The file is a binary DXF: save it again as text (ASCII) DXF.")
    try:
        drawing, _ = recover.read(io.BytesIO(data))
    except (DXFError, ValueError, LookupError, TypeError, AttributeError, OSError, RecursionError):
        raise BadInput("The file is not a readable DXF: save it again as DXF, version 2000 or later.") from None
    return drawing


def _header_unit(drawing: Any) -> int:
    unit = drawing.header.get("$INSUNITS", 0)
    return unit if isinstance(unit, int) else 0


def unit_factor(unit: str) -> float:
    """mm a unit that is typed. Raises BadInput where it is none."""
    if unit not in TYPED:
        raise BadInput(f"The unit {unit[:20]!r} is not known: choose one of {', '.join(TYPED)}.")
    return TYPED[unit]


def _factor(header: int, unit: str) -> float:
    """mm a drawing unit."""
    if unit:
        return unit_factor(unit)
    if header not in UNITS:
        raise NoUnit("The DXF does not say in which unit it is drawn: choose mm, cm or inches.")
    return UNITS[header]


def _colours(drawing: Any) -> dict[str, str]:
    """Colours of layers as "#rrggbb": of those that have one of their own, not the pen's black or white."""
    from ezdxf.colors import aci2rgb

    found = {}
    for layer in drawing.layers:
        true, index = layer.rgb, abs(int(layer.dxf.get("color", PEN)))
        if true is not None:
            found[str(layer.dxf.name)] = "#" + "".join(f"{part:02x}" for part in true)
        elif 0 < index < 256 and index != PEN:
            red, green, blue = aci2rgb(index)
            found[str(layer.dxf.name)] = f"#{red:02x}{green:02x}{blue:02x}"
    return found


class NoUnit(BadInput):
    """A drawing without a unit, so that one must be chosen."""


def _lines(drawing: Any, factor: float) -> tuple[dict[str, list[Array]], Counter[str]]:
    """Flattened lines in mm by layer, y down, and the kinds of what was left out."""
    from ezdxf.disassemble import recursive_decompose

    lines: dict[str, list[Array]] = {}
    left: Counter[str] = Counter()
    points = 0
    for nth, entity in enumerate(recursive_decompose(drawing.modelspace())):
        if nth >= MAX_ELEMENTS:
            raise BadInput(f"The DXF draws more than {MAX_ELEMENTS:,} elements: simplify it first.")
        kind = entity.dxftype()
        for part in _flattened(entity, kind, factor):
            points += len(part)
            if points > MAX_POINTS:
                raise BadInput(f"The artwork has more than {MAX_POINTS:,} points: simplify it first.")
            lines.setdefault(str(entity.dxf.get("layer", "0")), []).append(part)
        if kind not in CURVES and kind != "HATCH":
            left[kind] += 1
    return lines, left


def _flattened(entity: Any, kind: str, factor: float) -> list[Array]:
    from ezdxf import path
    from ezdxf.lldxf.const import DXFError

    try:
        if kind == "HATCH":
            paths = path.from_hatch(entity)
        elif kind in CURVES and not (kind == "POLYLINE" and not entity.is_2d_polyline):
            paths = iter([path.make_path(entity)])
        else:
            return []
        found = [_points(one.flattening(TOLERANCE / factor)) for one in paths]
    except (DXFError, ValueError, ArithmeticError, LookupError, TypeError):
        raise BadInput(f"A {kind.lower()} of the DXF cannot be read: redraw it or save the file again.") from None
    found = [part * factor for part in found if len(part) > 1]
    if any(not np.isfinite(part).all() for part in found):
        raise BadInput(f"A {kind.lower()} of the DXF has a point that is not a finite number.")
    return found


def _points(places: Iterable[Any]) -> Array:
    return np.array([(at.x, -at.y) for at in islice(places, MAX_POINTS + 1)])


def _joined(parts: list[Array]) -> tuple[list[Array], list[Array]]:
    """Rings out of lines whose ends meet within JOIN, and the lines that stay open."""
    ends = np.concatenate([part[[0, -1]] for part in parts])
    near = KDTree(ends).query_pairs(JOIN, output_type="ndarray")
    snapped = ends.copy()
    for one, other in near[np.lexsort((near[:, 1], near[:, 0]))]:
        snapped[other] = snapped[one]
    rings: list[Array] = []
    open_lines: list[Array] = []
    for nth, part in enumerate(parts):
        part = part.copy()
        part[0], part[-1] = snapped[2 * nth], snapped[2 * nth + 1]
        closed = len(part) > 3 and (part[0] == part[-1]).all()
        (rings if closed else open_lines).append(part)
    lines = [shapely.linestrings(part) for part in open_lines if (part[0] != part[-1]).any()]
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(lines))) if lines else []
    rings += [shapely.get_coordinates(line) for line in merged if shapely.is_ring(line)]
    cleaned = [clean_ring(ring) for ring in rings]
    rest = [shapely.get_coordinates(line) for line in merged if not shapely.is_ring(line)]
    return [ring for ring in cleaned if len(ring) > 2], rest


def _nested(rings: list[Array], layer: str) -> tuple[list[Polygon], int]:
    """Regions of one layer, and how many outlines crossed themselves.

    What lies inside an outline is its hole, inside that a region again.
    """
    fills = [regions_of_fill([ring], True, layer) for ring in rings]
    mended = sum(one.mended for one in fills)
    whole = _once(sorted((region for one in fills for region in one.regions), key=lambda region: -region.area))
    if not whole:
        return [], mended
    inner, outer = shapely.STRtree(whole).query(np.array(whole), predicate="within")
    depth = np.bincount(inner[inner != outer], minlength=len(whole))
    regions = []
    for nth, region in enumerate(whole):
        if depth[nth] % 2 == 0:
            holes = [whole[one] for one in inner[(outer == nth) & (inner != nth)] if depth[one] == depth[nth] + 1]
            regions.append(shapely.difference(region, shapely.union_all(np.array(holes, dtype=object))))
    return [part for one in regions for part in shapely.get_parts(one) if part.geom_type == "Polygon"], mended


def _once(whole: list[Polygon]) -> list[Polygon]:
    """Outlines drawn twice, as a hatch and its border, taken once."""
    kept: list[Polygon] = []
    for region in whole:
        twin = any(
            abs(region.area - other.area) < 0.02 * region.area
            and shapely.symmetric_difference(region, other).area < 0.02 * region.area
            for other in kept[-6:]
        )
        if not twin:
            kept.append(region)
    return kept


def _nothing(left: Counter[str], opened: int) -> str:
    if set(left) & SOLIDS:
        return "The DXF holds only solids or faces in space: save their outline as lines in the plane."
    if set(left) & WORDS and not opened:
        return "The DXF holds only text: turn it into outlines first."
    if opened:
        return f"The DXF has {opened} open line{'s' * (opened > 1)} and no closed outline: join their ends first."
    return "The DXF has no closed outline: draw one, then bring it in again."
