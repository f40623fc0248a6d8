"""The stack as it is drawn: materials and passes, last sewn on top."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velamen.core.building import Build, BuiltPiece
from velamen.core.constructions import colour_of
from velamen.core.sequencing.plan import Block


@dataclass(frozen=True)
class PieceRows:
    """One piece in the stack: its rows, top first, and what is true of all of it."""

    built: BuiltPiece
    rows: list[dict[str, Any]]
    stitches: int
    colour: str
    thread: str


def stack_of(build: Build) -> dict[str, Any]:
    """Pieces top first, then base and stabilizer, for the template."""
    pieces = [_piece(built, build) for built in reversed(build.pieces)]
    brief = build.job.brief
    base = build.library.bases[brief.base]
    stabilizer = build.library.stabilizers[brief.stabilizer]
    layers = brief.stabilizer_layers if stabilizer.thickness else 0
    return {
        "pieces": pieces,
        "base": base,
        "base_band": _band(base.thickness + base.pile),
        "stabilizer": stabilizer,
        "layers": layers,
        "stabilizer_band": _band(stabilizer.thickness * layers),
        "topping": build.library.toppings[brief.topping],
        "hoop": build.library.hoops[brief.hoop],
    }


def _band(thickness: float) -> int:
    """Height in px of a material band: 10 px a mm, thin sheets kept visible."""
    return max(4, min(round(10 * thickness), 64)) if thickness else 0


def _pass(block: Block, build: Build) -> dict[str, Any]:
    return {
        "kind": "pass", "row": block.first, "role": block.role, "unit": f"{block.piece}:{block.role}",
        "label": block.label, "stitches": len(build.plan.stitches(block)),
        "colour": build.library.threads[block.thread].colour,
    }  # fmt: skip


def _piece(built: BuiltPiece, build: Build) -> PieceRows:
    plan, rows = build.plan, []
    own = built.piece.id
    items = [(block.first, "pass", block) for block in plan.blocks if block.piece == own]
    items += [(stop.row, "step", stop) for stop in plan.stops if own in stop.step.pieces]
    number = {stop.row: nth for nth, stop in enumerate(plan.stops, 1)}
    for row, kind, item in sorted(items, key=lambda entry: entry[0]):
        if kind == "pass":
            rows.append(_pass(item, build))
            continue
        rows.append({"kind": "step", "row": row, "label": item.step.label, "text": item.step.text,
                     "nth": number[row], "does": item.step.kind, "unit": f"{own}:{item.step.kind}"})  # fmt: skip
        if item.step.foam is not None:
            foam = build.library.foams[item.step.foam.key]
            rows.append({"kind": "cloth", "row": row, "label": foam.name, "colour": foam.colour,
                         "band": _band(foam.thickness)})  # fmt: skip
        if item.step.kind == "lay":
            cloth = build.library.cloths[item.step.cloth]
            thick = build.library.like(cloth)
            rows.append({"kind": "cloth", "row": row, "label": cloth.name, "colour": cloth.colour,
                         "band": _band(thick.thickness + thick.pile)})  # fmt: skip
    total = sum(entry["stitches"] for entry in rows if entry["kind"] == "pass")
    return PieceRows(built, rows[::-1], total, colour_of(built.piece, build.library),
                     build.library.threads[built.piece.thread].colour)  # fmt: skip
