"""A section of the stack as JSON for the Section view."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from velamen.core.arrays import stretches
from velamen.core.building.build import Build, section_of
from velamen.core.errors import BadInput
from velamen.core.outputs.laid import presses_of, shown
from velamen.core.plan.heights import PRESSED_BY_THREAD, THREAD_HIGH, pile_left
from velamen.core.plan.section import FOREVER, STEP

SHORTEST, LONGEST = 2.0, 400.0  # mm
FARTHEST = 1000.0  # mm


def section_json(build: Build, middle: tuple[float, float], angle: float, length: float) -> bytes:
    """The stack of a build cut through a place in mm, at an angle in rad (docs/formats.md)."""
    if not all(math.isfinite(value) for value in (*middle, angle, length)) or max(map(abs, middle)) > FARTHEST:
        raise BadInput("The cut lies nowhere near the design: move it back onto the cloth.")
    if not SHORTEST <= length <= LONGEST:
        raise BadInput(f"A cut of {length:g} mm is out of bounds: use {SHORTEST:g} to {LONGEST:g} mm.")
    presses = [(one.row, one.region) for one in presses_of(build)]
    found = section_of(build, middle, angle, length, presses)
    threads = found.threads
    colours = [build.library.threads[block.thread].colour for block in build.plan.blocks]
    return msgspec.json.encode({
        "length": length,
        "step": STEP,
        "sheets": [
            {
                "kind": sheet.laid.layer.kind,
                "name": sheet.laid.layer.name,
                "colour": shown(sheet.laid.layer, build.library).colour,
                "thickness": sheet.laid.layer.thickness,
                "pile": sheet.laid.layer.pile,
                "pile_left": pile_left(sheet.laid.layer),
                "place": sheet.laid.nth,
                "from": sheet.laid.from_row,
                "to": None if sheet.laid.to_row == FOREVER else sheet.laid.to_row,
                "spans": stretches(sheet.there).tolist(),
                "bottom": np.round(sheet.bottom, 2).tolist(),
            }
            for sheet in found.sheets
        ],
        "presses": [{"from": row, "spans": stretches(there).tolist()} for row, there in found.presses],
        "threads": {
            "high": THREAD_HIGH,
            "pile_left": PRESSED_BY_THREAD,
            "span": np.round(threads.span, 2).tolist(),
            "height": np.round(threads.height, 2).tolist(),
            "row": threads.row.tolist(),
            "block": threads.block.tolist(),
            "colours": colours,
        },
    })  # fmt: skip
