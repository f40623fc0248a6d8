"""A plan as one binary block for the browser: a header in JSON, then bare arrays.

Layout, little-endian: uint32 length of the header; the header in UTF-8, padded with
spaces to a multiple of four; float32 x, y by turns for every row; uint8 command a row.
"""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np

from velamen.core.building.build import Build, BuiltPiece
from velamen.core.building.matched import ground
from velamen.core.constructions import construction
from velamen.core.constructions.base import HandStep
from velamen.core.geometry.region import rings_of
from velamen.core.materials.hoops import field
from velamen.core.plan.stitch_plan import COMMANDS, STITCH


def plan_binary(build: Build) -> bytes:
    """The plan of a build for drawing (docs/formats.md)."""
    plan = build.plan
    header = msgspec.json.encode(_header(build))
    header += b" " * (-len(header) % 4)
    return b"".join([
        len(header).to_bytes(4, "little"),
        header,
        plan.xy.astype("<f4").tobytes(),
        plan.command.tobytes(),
    ])  # fmt: skip


def _header(build: Build) -> dict[str, Any]:
    plan, brief = build.plan, build.job.brief
    base, hoop = build.library.bases[brief.base], build.library.hoops[brief.hoop]
    return {
        "rows": len(plan.xy),
        "commands": list(COMMANDS),
        "stitches": build.figures.stitches,
        "stack": round(_height(build), 2),
        "base": {"name": base.name, "colour": base.colour, "pile": base.pile},
        "hoop": {
            "name": hoop.name, "width": hoop.width, "height": hoop.height,
            "field": [[round(x, 3), round(y, 3)] for x, y in field(hoop).exterior.coords[:-1]],
        },
        "blocks": [
            {
                "first": block.first, "count": block.count, "role": block.role, "label": block.label,
                "piece": block.piece, "colour": build.library.threads[block.thread].colour, "thread": block.thread,
                "stitches": int(np.count_nonzero(
                    plan.command[block.first : block.first + block.count] == STITCH)),
            }
            for block in plan.blocks
        ],
        "stops": [
            {"row": stop.row, "kind": stop.step.kind, "piece": stop.step.piece,
             "label": stop.step.label, "text": stop.step.text}
            for stop in plan.stops
        ],
        "pieces": [_piece(built, build) for built in build.pieces],
    }  # fmt: skip


def _height(build: Build) -> float:
    """Height in mm that the materials reach where most of them lie, stitches left out."""
    under = sum(layer.thickness + layer.pile for layer in ground(build.job.brief, build.library))
    return under + max((_laid(built) for built in build.cut), default=0.0)


def _laid(built: BuiltPiece) -> float:
    """Cloth and foam of a piece and of those that may lie under it."""
    foam = next((step.foam for step in built.steps if isinstance(step, HandStep) and step.foam), None)
    beneath = sum(layer.thickness for layer in built.below if layer.owner)
    return beneath + built.work.cloth.thickness + built.work.cloth.pile + (foam.thickness if foam else 0.0)


def _piece(built: BuiltPiece, build: Build) -> dict[str, Any]:
    """A piece's cloth and the rows at which it is laid and trimmed to its outline."""
    rows = {stop.step.kind: stop.row for stop in build.plan.stops if built.piece.id in stop.step.pieces}
    cloth = build.library.cloths[built.piece.cloth]
    return {
        "id": built.piece.id,
        "name": built.piece.name,
        "colour": cloth.colour,
        "print": cloth.print,
        "print_colour": cloth.print_colour,
        "lays": construction(built.piece.construct).lays,
        "rings": rings_of(built.outline, 2),
        "laid": rows.get("lay", 0),
        "trimmed": rows.get("trim", rows.get("lay", 0)),
    }
