"""The stack as it is drawn: materials and passes, last sewn on top."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velamen.core.building.build import Build
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.constructions import colour_of
from velamen.core.outputs.laid import shown
from velamen.core.plan.stitch_plan import Block, Halt
from velamen.core.timeline.effects import Lays
from velamen.core.timeline.operation import Operation, Stop


@dataclass(frozen=True)
class PieceRows:
    """One piece in the stack."""

    built: BuiltPiece
    rows: list[dict[str, Any]]  # passes, hand steps and what is laid, top first
    stitches: int
    colour: str  # it shows
    thread: str  # colour of its thread


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


def as_sewn(build: Build) -> list[dict[str, Any]]:
    """Passes, hand steps and what is laid at them in sewing order, last first, each with the pieces it is for."""
    names = {built.piece.id: built.piece.name for built in build.pieces}
    items: list[tuple[int, dict[str, Any]]] = [
        (block.first, _pass(block, build) | {"piece": block.piece, "for": names.get(block.piece, "")})
        for block in build.plan.blocks
    ]
    for nth, halt in enumerate(build.plan.stops, 1):
        step = halt.step
        told = {"piece": step.piece, "for": ", ".join(step.names)}
        items.append((halt.row, _step(halt, nth, step.operations[0]) | told))
        items += [(halt.row, {**row, "for": ""}) for row in _laid(step, halt.row, build)]
    return [row for _, row in sorted(items, key=lambda item: item[0])][::-1]


def _band(thickness: float) -> int:
    """Height in px of a material band: 10 px a mm, thin sheets kept visible."""
    return max(4, min(round(10 * thickness), 64)) if thickness else 0


def _pass(block: Block, build: Build) -> dict[str, Any]:
    return {
        "kind": "pass", "row": block.first, "role": block.role, "unit": block.key, "label": block.label,
        "stitches": len(build.plan.stitches(block)), "colour": build.library.threads[block.thread].colour,
    }  # fmt: skip


def _step(halt: Halt, nth: int, operation: Operation) -> dict[str, Any]:
    step = halt.step
    return {"kind": "step", "row": halt.row, "label": step.label, "text": step.text, "nth": nth, "does": step.kind,
            "symbol": step.symbol, "unit": operation.key}  # fmt: skip


def _laid(step: Stop, row: int, build: Build, piece: str = "") -> list[dict[str, Any]]:
    """Bands of what lies there once a hand step is done, for all pieces or one of them; one band for a material."""
    laid = [layer for effect in step.effects if isinstance(effect, Lays) for layer in effect.layers]
    laid = [layer for layer in laid if not piece or piece in layer.owners]
    bands = {layer.key: layer for layer in laid}
    found = []
    for layer in bands.values():
        look = shown(layer, build.library)
        found.append({"kind": "cloth", "row": row, "label": look.name, "colour": look.colour,
                      "band": _band(layer.thickness + layer.pile)})  # fmt: skip
    return found


def _piece(built: BuiltPiece, build: Build) -> PieceRows:
    plan, rows = build.plan, []
    own = built.piece.id
    items: list[tuple[int, Block | Halt]] = [(block.first, block) for block in plan.blocks if block.piece == own]
    items += [(halt.row, halt) for halt in plan.stops if own in halt.step.pieces]
    number = {halt.row: nth for nth, halt in enumerate(plan.stops, 1)}
    for row, item in sorted(items, key=lambda entry: entry[0]):
        if isinstance(item, Block):
            rows.append(_pass(item, build))
            continue
        operation = next(one for one in item.step.operations if one.piece == own)
        rows += [_step(item, number[row], operation), *_laid(item.step, row, build, own)]
    total = sum(entry["stitches"] for entry in rows if entry["kind"] == "pass")
    return PieceRows(built, rows[::-1], total, colour_of(built.piece, build.library),
                     build.library.threads[built.piece.thread].colour)  # fmt: skip
