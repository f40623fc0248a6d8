"""Whether all copies of a design lie in the sewing field."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.geometry.region import grown
from velamen.core.plan.repeat import Grid, fitting
from velamen.core.proofs.finding import Finding

EVEN = 0.05  # mm over the field that count as none


def repeat_findings(grid: Grid | None, field: Polygon) -> list[Finding]:
    """That some copies leave the field, and how many would fit."""
    if grid is None:
        return []
    out = int((~_inside(grid, field)).sum())
    if not out:
        return []
    wide, high = grid.size
    columns, rows = fitting(grid.one, grid.gap, 0.0, field.bounds)
    hint = f"{columns} x {rows} fit" if columns * rows > 1 else "sew one at a time, or take a larger hoop"
    return [Finding(
        "repeat_outside", "error", "",
        f"{out} of {grid.copies} copies leave the sewing field: together they are {wide:.0f} x {high:.0f} mm. "
        f"With {grid.gap:g} mm between them {hint}.",
    )]  # fmt: skip


def copies_inside(grid: Grid, field: Polygon) -> bool:
    """Whether all copies lie in a field."""
    return bool(_inside(grid, field).all())


def _inside(grid: Grid, field: Polygon) -> NDArray[np.bool_]:
    """Which copies lie in a field."""
    (left, top, right, bottom), (x, y) = grid.one, grid.moves().T
    return np.asarray(shapely.covers(grown(field, EVEN), shapely.box(left + x, top + y, right + x, bottom + y)))
