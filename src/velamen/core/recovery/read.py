"""A stitch file read by what it holds."""

from __future__ import annotations

from velamen.core.errors import BadInput
from velamen.core.recovery.csv_reading import read_csv
from velamen.core.recovery.gcode_reading import is_gcode, read_gcode
from velamen.core.recovery.stitch_rows import LARGEST, UNITS, StitchRows, checked


def read_stitches(data: bytes, unit: str = "", columns: str = "") -> StitchRows:
    """The rows of a stitch file: CSV or G-code. Raises BadInput in a sentence."""
    if len(data) > LARGEST:
        raise BadInput(f"The stitch file has {len(data) / 1e6:.0f} MB: {LARGEST / 1e6:.0f} MB can be brought in.")
    if unit and unit not in UNITS:
        raise BadInput(f"There is no unit {unit[:20]!r}: use one of {', '.join(UNITS)}.")
    if b"\0" in data[:4096]:
        raise BadInput("That is no text: bring in a stitch list as CSV, or G-code.")
    text = data.decode("utf-8", errors="replace")
    return checked(read_gcode(text) if is_gcode(text) else read_csv(text, unit, columns))
