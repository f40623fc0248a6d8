"""A stitch file as one binary block for the browser, laid out as a plan is: its parts are the blocks."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from velamen.core.outputs.plan_binary import binary
from velamen.core.recovery.recovered import Recovered
from velamen.core.recovery.ways import LEADING


def parts_binary(found: Recovered, colours: Sequence[str]) -> bytes:
    """The rows of a file where they lie on the field. colours: "#rrggbb" by number of its threads."""
    rows = found.rows
    blocks = [
        {"first": one.first, "count": one.last - one.first + 1, "colour": colours[one.thread],
         "piece": str(found.owners[nth]),
         "thread": one.thread,
         "broad": one.kind not in LEADING, "key": str(nth)}
        for nth, one in enumerate(found.segments)
    ]  # fmt: skip
    pieces = [{"id": str(nth), "name": str(number)} for nth, number in found.numbers.items()]
    low, high = rows.xy.min(axis=0) + found.shift, rows.xy.max(axis=0) + found.shift
    header = {"rows": len(rows.xy), "blocks": blocks, "stops": [], "pieces": pieces,
              "box": np.round([*low, *high], 3).tolist()}  # fmt: skip
    return binary(msgspec.json.encode(header), rows.xy + found.shift, rows.command)
