"""The stack as it is drawn: materials and passes, last sewn on top."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velamen.core.building.build import Build, BuiltPiece
from velamen.core.constructions import colour_of
from velamen.core.constructions.base import HandStep
from velamen.core.plan.stitch_plan import Block, Stop


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


def as_sewn(build: Build) -> list[dict[str, Any]]:
    """Passes, hand steps and what is laid at them in sewing order, last first, each with the pieces it is for."""
    names = {built.piece.id: built.piece.name for built in build.pieces}
    items: list[tuple[int, dict[str, Any]]] = [
        (block.first, _pass(block, build) | {"piece": block.piece, "for": names.get(block.piece, "")})
        for block in build.plan.blocks
    ]
    for nth, stop in enumerate(build.plan.stops, 1):
        step = stop.step
        items.append((stop.row, _step(stop, nth, step.piece) | {"piece": step.piece, "for": ", ".join(step.names)}))
        items += [(stop.row, {**row, "for": ""}) for row in _laid(step, stop.row, build)]
    return [row for _, row in sorted(items, key=lambda item: item[0])][::-1]


def _band(thickness: float) -> int:
    """Height in px of a material band: 10 px a mm, thin sheets kept visible."""
    return max(4, min(round(10 * thickness), 64)) if thickness else 0


def _pass(block: Block, build: Build) -> dict[str, Any]:
    return {
        "kind": "pass", "row": block.first, "role": block.role, "unit": f"{block.piece}:{block.role}",
        "label": block.label, "stitches": len(build.plan.stitches(block)),
        "colour": build.library.threads[block.thread].colour,
    }  # fmt: skip


def _step(stop: Stop, nth: int, piece: str) -> dict[str, Any]:
    step = stop.step
    return {"kind": "step", "row": stop.row, "label": step.label, "text": step.text, "nth": nth, "does": step.kind,
            "unit": f"{piece}:{step.kind}"}  # fmt: skip


def _laid(step: HandStep, row: int, build: Build) -> list[dict[str, Any]]:
    """Bands of what lies there once a hand step is done."""
    laid = [(build.library.foams[step.foam.key],) * 2] if step.foam is not None else []
    if step.kind == "lay":
        cloth = build.library.cloths[step.cloth]
        laid.append((cloth, build.library.like(cloth)))
    return [{"kind": "cloth", "row": row, "label": shown.name, "colour": shown.colour,
             "band": _band(like.thickness + getattr(like, "pile", 0.0))} for shown, like in laid]  # fmt: skip


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
        rows += [_step(item, number[row], own), *_laid(item.step, row, build)]
    total = sum(entry["stitches"] for entry in rows if entry["kind"] == "pass")
    return PieceRows(built, rows[::-1], total, colour_of(built.piece, build.library),
                     build.library.threads[built.piece.thread].colour)  # fmt: skip
