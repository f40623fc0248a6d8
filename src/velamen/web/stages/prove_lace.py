"""What Prove shows of lace after the rinse: its thread part by part, its weakest place, and what does not hold."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.proofs.rinse.openings import WIRE
from velamen.core.proofs.rinse.proof import LEAST_PARTED, WIDEST_CELL, Part, Rinse, Unsupported
from velamen.web.jobs.pictures import ring_path

COLOURS = ("#f3ead6", "#e3a34a", "#7fb3c9", "#d77f74", "#9fb878", "#c3a2d0", "#d9d36a")
"""Of the parts, the largest first, on a dark table; the last is that of all further ones."""
CALM = 0.04  # mm that a drawn line may be off
MOST_LISTED = 8  # parts, cells and places that are listed


def lace_context(build: Build, proof: Rinse) -> dict[str, Any]:
    """The picture and the lists of one build's rinse proof."""
    names = {one.piece.id: one.piece.name for one in build.pieces}
    return {
        "lace": proof,
        "rinsed_parts": [_part(nth, one, proof) for nth, one in enumerate(proof.parts)],
        "weakest": _weakest(proof),
        "bare": [_bare(one, build, names) for one in proof.unsupported],
        "cells": [{"at": one.at, "radius": one.much / 2, "width": f"{one.much:.1f}"} for one in proof.sagging],
        "wires": [{"at": one.at, "much": f"{one.much:.0f}"} for one in proof.wire],
        "listed": MOST_LISTED,
        "widest_cell": WIDEST_CELL,
        "wire": WIRE,
        "metres": f"{proof.length / 1000:.2f}",
    }


def rinse_told(proof: Rinse) -> str:
    """What the proof comes to, in one line."""
    parts = len(proof.parts)
    if parts > 1:
        return f"in {parts} parts"
    wrong = [told for told, true in (
        ("hangs by one strand", proof.hinged), ("rows without thread under them", bool(proof.unsupported)),
        ("cells that sag", bool(proof.sagging)),
    ) if true]  # fmt: skip
    if wrong:
        return f"one part, but {' and '.join(wrong)}"
    weak = proof.weakest
    return "one part" if weak is None else f"one part, at least {weak.least} strands hold it"


def _part(nth: int, part: Part, proof: Rinse) -> dict[str, Any]:
    """A part as it is drawn and listed."""
    share = 100 * part.length / max(proof.length, 1e-9)
    return {
        "path": line_path(part.lines), "colour": COLOURS[min(nth, len(COLOURS) - 1)], "at": part.at,
        "length": f"{part.length / 1000:.2f} m" if part.length >= 1000 else f"{part.length:.0f} mm",
        "share": f"{share:.0f} %" if share >= 1 else "under 1 %",
    }  # fmt: skip


def line_path(lines: Array) -> str:
    """SVG path data of stretches (k, 2, 2), those that lead on to one another drawn as one line."""
    long = lines[np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1) > CALM]
    merged = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(shapely.linestrings(long))))
    drawn = shapely.simplify(merged, CALM)
    return ring_path([shapely.get_coordinates(one) for one in drawn], closed=False, decimals=1)


def _weakest(proof: Rinse) -> dict[str, Any] | None:
    """The weakest place in words, with the strands that would give."""
    weak = proof.weakest
    if weak is None:
        return None
    strands = "a single strand" if weak.strands == 1 else f"{weak.strands} strands"
    least = f"{100 * LEAST_PARTED:.0f}"
    if not weak.exact:
        told = f"{weak.least} strands or more hold it everywhere, at the weakest place at most {weak.strands}."
        return {"told": told, "path": "", "spots": [], "hinged": False, "least": least}
    told = f"Where {strands} give, {100 * weak.share:.0f} % part."
    lines = [line for line in weak.lines if np.linalg.norm(line[1] - line[0]) > CALM]
    return {
        "told": told, "at": weak.at, "count": weak.strands, "path": ring_path(lines, closed=False, decimals=2),
        "spots": [tuple(line.mean(axis=0).round(2).tolist()) for line in weak.lines], "hinged": proof.hinged,
        "least": least,
    }  # fmt: skip


def _bare(one: Unsupported, build: Build, names: dict[str, str]) -> dict[str, Any]:
    """Rows with no thread under them."""
    piece = build.plan.blocks[int(build.plan.block[one.row[0]])].piece
    line = one.line if len(one.line) > 1 else np.repeat(one.line, 2, axis=0)
    return {"piece": names.get(piece, ""), "rows": one.rows, "at": one.at,
            "path": ring_path([line], closed=False, decimals=1)}  # fmt: skip
