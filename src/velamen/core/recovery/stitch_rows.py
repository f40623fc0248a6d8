"""Stitch rows: a stitch file as plain arrays, whatever format it came in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index
from velamen.core.errors import BadInput
from velamen.core.plan.stitch_plan import COLOR, END, JUMP, STITCH, STOP, TRIM

LARGEST = 60_000_000  # bytes of a file
MOST_ROWS, MOST_BREAKS = 2_000_000, 20_000  # of a file; each break begins a part, and nobody looks through more
FARTHEST = 1500.0  # mm from the middle of the field that a needle point may lie
UNITS: Mapping[str, float] = {"mm": 1.0, "cm": 10.0, "in": 25.4, "0.1mm": 0.1}
WORDS: Mapping[str, int] = {
    "stitch": STITCH, "sew": STITCH, "normal": STITCH, "needle": STITCH, "jump": JUMP, "move": JUMP, "travel": JUMP,
    "trim": TRIM, "cut": TRIM, "stop": STOP, "pause": STOP, "color": COLOR, "colour": COLOR, "change": COLOR,
    "color_change": COLOR, "end": END,
}  # fmt: skip
"""What the commands of other lists mean."""


@dataclass(frozen=True)
class StitchRows:
    """xy: (n, 2) mm; command: (n,) as in a stitch plan; thread: (n,) number of the thread, from 0; names: what the
    file calls threads, by number, where it does; unit, columns: as which it was read, "" where it says so itself."""

    xy: Array
    command: NDArray[np.uint8]
    thread: Index
    names: tuple[str, ...] = ()
    unit: str = ""
    columns: str = ""

    @property
    def stitches(self) -> int:
        return int(np.count_nonzero(self.command == STITCH))


def checked(rows: StitchRows) -> StitchRows:
    """The rows themselves. Raises BadInput where nobody could sew them."""
    if len(rows.xy) > MOST_ROWS:
        raise BadInput(f"The stitch file has {len(rows.xy):,} rows: {MOST_ROWS:,} can be brought in at once.")
    if not np.isfinite(rows.xy).all():
        row = int(np.flatnonzero(~np.isfinite(rows.xy).all(axis=1))[0]) + 1
        raise BadInput(f"Row {row} of the stitch file has a place that is not a number: mend it there.")
    if rows.stitches < 2:
        raise BadInput("The stitch file has no stitches: bring in a list of needle points.")
    sews = rows.command == STITCH
    breaks = int(np.count_nonzero(sews[1:] & ~sews[:-1]))
    if breaks > MOST_BREAKS:
        raise BadInput(f"The thread breaks off {breaks:,} times: up to {MOST_BREAKS:,} can be brought in.")
    sewn = rows.xy[sews]
    size = float(np.ptp(sewn, axis=0).max())
    if size > FARTHEST:
        raise BadInput(f"The stitches reach over {size / 1000:,.3g} m: say in which unit the file is.")
    if size < 0.5:
        raise BadInput(f"The stitches reach over {size:.2g} mm only: say in which unit the file is.")
    return rows
