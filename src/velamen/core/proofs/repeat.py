"""Whether all copies of a design lie in the sewing field."""

from __future__ import annotations

import shapely
from shapely import Polygon

from velamen.core.geometry.region import grown
from velamen.core.plan.repeat import Grid, fitting
from velamen.core.proofs.finding import Finding

EVEN = 0.05  # mm over the field that count as none


def repeat_findings(grid: Grid | None, field: Polygon) -> list[Finding]:
    """That some copies leave the field, and how many would fit."""
    if grid is None:
        return []
    left, top, right, bottom = grid.box
    boxes = [shapely.box(left + x, top + y, right + x, bottom + y) for x, y in grid.moves().tolist()]
    out = int((~shapely.covers(grown(field, EVEN), boxes)).sum())
    if not out:
        return []
    wide, high = grid.size
    columns, rows = fitting(grid.box, grid.gap, 0.0, field.bounds)
    hint = f"{columns} x {rows} fit" if columns * rows > 1 else "sew one at a time, or take a larger hoop"
    return [Finding(
        "repeat_outside", "error", "",
        f"{out} of {grid.copies} copies leave the sewing field: together they are {wide:.0f} x {high:.0f} mm. "
        f"With {grid.gap:g} mm between them {hint}.",
    )]  # fmt: skip
