"""A plan as one binary block for the browser: a header in JSON, then bare arrays.

Layout, little-endian: uint32 length of the header; the header in UTF-8, padded with
spaces to a multiple of four; float32 x, y by turns for every row; uint8 command a row.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.geometry.region import Area, rings_of
from velamen.core.materials.hoops import field
from velamen.core.outputs.laid import Ridges, Sheet, pressed_sheets, presses_of, sheets_of
from velamen.core.outputs.picture import shown_box
from velamen.core.plan.heights import (
    PRESSED_BY_THREAD,
    PRESSES_FROM,
    SETTLED,
    THREAD_HIGH,
    THREAD_WIDE,
    pile_left,
)
from velamen.core.plan.repeat import Grid
from velamen.core.plan.stitch_plan import COMMANDS, STITCH
from velamen.core.relief.fluff import TALL
from velamen.core.relief.light import (
    ACROSS,
    BRIGHTEST,
    DARKEST,
    DEEP,
    FAR,
    LAMP,
    SHADE,
    SHINE,
    STEEPEST,
)
from velamen.core.relief.relief import FLUFF, LEANS, LIGHT_FINDS, NEAR, ROUGH, STEP, SUNK, WIDE
from velamen.core.relief.surface import surface_of
from velamen.core.stitching.roles import role_of
from velamen.core.timeline.effects import Lays
from velamen.core.timeline.layers import TOPPING

RELIEF = {
    "step": STEP, "near": NEAR, "wide": WIDE, "leans": LEANS, "finds": LIGHT_FINDS, "thread_wide": THREAD_WIDE,
    "thread_high": SETTLED * THREAD_HIGH, "presses_from": PRESSES_FROM, "pressed": PRESSED_BY_THREAD,
    "lamp": LAMP.tolist(), "steepest": STEEPEST, "deep": DEEP, "far": FAR, "darkest": DARKEST,
    "brightest": BRIGHTEST, "shade": SHADE, "shine": SHINE, "across": ACROSS, "sunk": SUNK, "fluff": FLUFF,
    "rough": ROUGH,
}  # fmt: skip
"""Constants of height and light, so that the browser has the same."""


def plan_binary(build: Build, hooping: bool = False) -> bytes:
    """The plan of a build for drawing (docs/formats.md). hooping: of every copy in the hoop."""
    grid = build.grid if hooping else None
    shown = build.hooped if grid else build
    plan = shown.plan
    return binary(msgspec.json.encode(_header(shown, grid)), plan.xy, plan.command)


def binary(header: bytes, xy: Array, command: NDArray[np.uint8]) -> bytes:
    """A header and rows in that layout."""
    header += b" " * (-len(header) % 4)
    return b"".join([len(header).to_bytes(4, "little"), header, xy.astype("<f4").tobytes(), command.tobytes()])


def _header(build: Build, grid: Grid | None) -> dict[str, Any]:
    plan, brief = build.plan, build.job.brief
    sheets = sheets_of(build)
    laid = {one.piece: one for one in sheets if one.is_cloth}
    base, hoop = build.library.bases[brief.base], build.library.hoops[brief.hoop]
    return {
        "rows": len(plan.xy),
        "commands": list(COMMANDS),
        "copies": np.round(grid.moves(), 3).tolist() if grid else [],
        "turned": bool(grid and grid.turned),
        "stitches": build.figures.stitches,
        "stack": round(_height(build), 2),
        "base": {"name": base.name, "colour": base.colour, "pile": base.pile, "surface": surface_of(base)},
        "table": build.table or None,
        "relief": RELIEF | {"box": [round(side, 3) for side in shown_box(build)]},
        "toppings": [
            {"from": one.from_row, "to": one.to_row, "left": pile_left(one.layer),
             "rings": None if one.layer.region is None else _rings(one.layer.region)}
            for one in build.laid if one.layer.kind == TOPPING
        ],
        "presses": [_sheet(one) for one in pressed_sheets(build, presses_of(build, grid))],
        "hoop": {
            "name": hoop.name, "width": hoop.width, "height": hoop.height,
            "field": [[round(x, 3), round(y, 3)] for x, y in field(hoop).exterior.coords[:-1]],
        },
        "blocks": [
            {
                "first": block.first, "count": block.count, "role": block.role, "key": block.key,
                "broad": role_of(block.role).broad,
                "label": block.label,
                "piece": block.piece, "colour": build.library.threads[block.thread].colour, "thread": block.thread,
                "stitches": int(np.count_nonzero(
                    plan.command[block.first : block.first + block.count] == STITCH)),
            }
            for block in plan.blocks
        ],
        "stops": [
            {"row": stop.row, "kind": stop.step.kind, "symbol": stop.step.symbol, "piece": stop.step.piece,
             "label": stop.step.label, "text": stop.step.text, "keys": [one.key for one in stop.step.operations]}
            for stop in plan.stops
        ],
        "pieces": [_piece(built, build, grid, laid) for built in build.pieces],
        "sheets": [_sheet(one) for one in sheets],
    }  # fmt: skip


def _height(build: Build) -> float:
    """Height in mm that the materials reach where most of them lie, stitches left out."""
    height = 0.0
    for one in build.operations:
        laid = [layer for effect in one.effects if isinstance(effect, Lays) for layer in effect.layers]
        lying = [layer for layer in build.layers[one.key] if not one.piece or _meet(layer.region, one.region)]
        if laid:
            height = max(height, sum(layer.thickness + layer.pile for layer in [*lying, *laid]))
    return height


def _meet(one: Area | None, other: Area | None) -> bool:
    return one is None or other is None or bool(shapely.intersects(one, other))


def _piece(built: BuiltPiece, build: Build, grid: Grid | None, laid: Mapping[str, Sheet]) -> dict[str, Any]:
    """A piece, its cloth where it has one, and the rows at which that is laid and has its last outline."""
    cloth = build.library.cloths[built.piece.cloth]
    sheet = laid.get(built.piece.id)
    return {
        "id": built.piece.id,
        "name": built.piece.name,
        "colour": cloth.colour,
        "print": cloth.print,
        "print_colour": cloth.print_colour,
        "lays": sheet is not None,
        "rings": [ring for area in (grid.laid(built.outline) if grid else [built.outline]) for ring in _rings(area)],
        "laid": sheet.laid if sheet else 0,
        "trimmed": sheet.states[-1][0] if sheet else 0,
    }


def _sheet(sheet: Sheet) -> dict[str, Any]:
    """What a piece has laid, for drawing."""
    return {
        "piece": sheet.piece, "colour": sheet.shown.colour, "surface": sheet.shown.surface,
        "thickness": sheet.thickness, "pile": sheet.pile, "left": sheet.left, "print": sheet.shown.print,
        "print_colour": sheet.shown.print_colour,
        "states": [{"from": row, "rings": [] if region is None else _rings(region)} for row, region in sheet.states],
        **({"clear": sheet.shown.clear} if sheet.shown.clear else {}),
        **({"table": sheet.table} if sheet.table else {}),
        **({"ridges": _ridges(sheet.ridges)} if sheet.ridges else {}),
    }  # fmt: skip


def _ridges(ridges: Ridges) -> dict[str, Any]:
    """Fluff, for drawing."""
    return {
        "spines": [np.round(line, 2).tolist() for line in ridges.spines], "reaches": list(ridges.reaches),
        "colours": list(ridges.colours), "tall": round(TALL * ridges.thickness, 3),
    }  # fmt: skip


def _rings(region: Area) -> list[list[list[float]]]:
    return [ring for part in shapely.get_parts(region) for ring in rings_of(part, 2)]
