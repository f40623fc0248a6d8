"""Run: a single line along every outline of a shape, on it, inside or outside (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.base import Work
from velamen.core.constructions.plain import plain
from velamen.core.matching.value import Values, number
from velamen.core.setting import Setting
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.strand import Strand

SETTINGS = (
    Setting("run_length", "Length", "Line", "Of a stitch; shorter round tight curves.", low=1.0, high=6.0,
            measure="run_length"),
    Setting("run_inset", "Inset", "Line", "How far inside the outline it lies, outside where negative.",
            low=-10.0, high=10.0, measure="line_inset"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A run along every outline."""
    return "Run", run_borders(work.region, "outline", number(values, "run_length"), number(values, "run_inset"))


CONSTRUCTION = plain("run", "Run", "outline", SETTINGS, sewing)
