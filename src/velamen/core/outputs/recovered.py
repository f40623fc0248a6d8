"""What was found in a stitch file, written down: segments.json, shapes.svg, appliques.json; cut lines of satins."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any
from xml.sax.saxutils import quoteattr

import msgspec
import numpy as np

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area, boundaries, largest, polygons_of
from velamen.core.outputs.cut_file import dxf_of, svg_of
from velamen.core.outputs.cut_sheet import LABEL, Cut
from velamen.core.recovery.proposals import Proposal
from velamen.core.recovery.segments import Segment

MARGIN = 5.0  # mm round all shapes
MATERIAL = {"cloth": ("Cloth", "#23303a")}


def write_recovered(segments: Sequence[Segment], found: Sequence[Proposal], out: Path) -> list[Path]:
    """Writes the three files into a folder; their paths."""
    out.mkdir(parents=True, exist_ok=True)
    written = [out / "segments.json", out / "shapes.svg", out / "appliques.json"]
    rows = [_row(nth, one) for nth, one in enumerate(segments, 1)]
    written[0].write_bytes(msgspec.json.format(msgspec.json.encode(rows), indent=1))
    written[1].write_text(_svg(segments), encoding="utf-8")
    written[2].write_bytes(msgspec.json.format(msgspec.json.encode([_cloth(one) for one in found]), indent=1))
    return written


def write_cut(area: Area, name: str, out: Path) -> list[Path]:
    """Writes a cut line as cut.svg and cut.dxf; their paths."""
    out.mkdir(parents=True, exist_ok=True)
    written = []
    for file, text in cut_files(area, name).items():
        written.append(out / file)
        written[-1].write_text(text, encoding="utf-8")
    return written


def cut_files(area: Area, name: str) -> dict[str, str]:
    """A cut line as the text of cut.svg and cut.dxf."""
    rings = tuple(boundaries(area))
    place = float(area.bounds[0]), float(area.bounds[3]) + 2 * LABEL
    cuts = [Cut("recovered", name, "cloth", False, rings, name, place)]
    return {"cut.svg": svg_of(name, cuts, MATERIAL), "cut.dxf": dxf_of(cuts, MATERIAL)}


def _row(nth: int, one: Segment) -> dict[str, Any]:
    outer, holes = _rings(one)
    return {
        "id": f"s{nth}", "kind": one.kind, "first": one.first, "last": one.last, "closed": one.closed,
        "spacing_mm": _near(one.spacing, 3), "width_mm": _near(one.width, 2), "angle_deg": _near(one.angle, 2),
        "length_mm": _near(one.length, 2),
        "outline": outer, "holes": holes,
        "rails": [_plain(rail) for rail in one.rails] if one.rails else None,
    }  # fmt: skip


def _cloth(one: Proposal) -> dict[str, Any]:
    part = largest(one.cloth)
    return {
        "outline": _plain(np.asarray(part.exterior.coords)),
        "holes": [_plain(np.asarray(ring.coords)) for ring in part.interiors],
        "placement": _names(one.placement), "drops": _names(one.drops), "on_top": _names(one.on_top),
    }  # fmt: skip


def _names(numbers: Sequence[int]) -> list[str]:
    return [f"s{nth + 1}" for nth in numbers]


def _rings(one: Segment) -> tuple[list[list[float]] | None, list[list[list[float]]]]:
    """The outline of its largest part with its holes; of an open line that line."""
    if one.area is None or one.area.is_empty:
        return (_plain(one.line) if one.line is not None and not one.rails else None), []
    part = largest(one.area)
    return _plain(np.asarray(part.exterior.coords)), [_plain(np.asarray(ring.coords)) for ring in part.interiors]


def _near(value: float | None, decimals: int) -> float | None:
    return None if value is None else round(value, decimals)


def _plain(line: Array) -> list[list[float]]:
    rows: list[list[float]] = np.round(line, 3).tolist()
    return rows


def _svg(segments: Sequence[Segment]) -> str:
    """Outlines with the ids of their segments, in mm; lines stay open."""
    paths, points = [], [np.zeros((1, 2))]
    for nth, one in enumerate(segments, 1):
        if one.kind in ("tie", "travel"):
            continue
        rings = _drawn(one)
        if not rings:
            continue
        points += [ring for ring, _ in rings]
        path = "".join("M" + "L".join(f"{x:.3f},{y:.3f}" for x, y in ring) + ("Z" if closed else "")
                       for ring, closed in rings)  # fmt: skip
        fill = "#b9a98a" if rings[0][1] else "none"
        look = f'fill="{fill}" fill-opacity="0.3" fill-rule="evenodd" stroke="#23303a" stroke-width="0.2"'
        paths.append(f'<path id={quoteattr(f"s{nth}")} d="{path}" {look}><title>{one.kind}</title></path>')
    every = np.concatenate(points)
    left, top = every.min(axis=0) - MARGIN
    width, height = every.max(axis=0) + MARGIN - (left, top)
    return (f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
            f'viewBox="{left:.3f} {top:.3f} {width:.3f} {height:.3f}">' + "".join(paths) + "</svg>\n")  # fmt: skip


def _drawn(one: Segment) -> list[tuple[Array, bool]]:
    if one.area is not None and not one.area.is_empty:
        parts = polygons_of(one.area)
        return [(np.asarray(ring.coords)[:-1], True) for part in parts for ring in (part.exterior, *part.interiors)]
    return [(one.line, False)] if one.line is not None and len(one.line) > 1 else []
