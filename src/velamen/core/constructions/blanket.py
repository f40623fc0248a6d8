"""Blanket: an edge run with equal bites, one on every corner (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.base import Work
from velamen.core.constructions.plain import plain
from velamen.core.geometry.corners import CORNERS
from velamen.core.matching.value import Values, choice, number
from velamen.core.setting import Setting
from velamen.core.stitching.border import edge_borders
from velamen.core.stitching.strand import Strand

SETTINGS = (
    Setting("blanket_width", "Bite", "Border", "Of every bite.", low=1.0, high=8.0, measure="bite"),
    Setting("blanket_share", "Share outside", "Border", "How much of it lies off the shape.", unit="%", low=0,
            high=100, step=1, measure="edge_share"),
    Setting("blanket_step", "Step", "Border", "Between bites, as evenly as corners allow.", low=1.0, high=8.0,
            step=0.1, measure="bite_step"),
    Setting("blanket_corner", "Corners", "Border", "Turned round, or mitred on the diagonal.", kind="choice",
            unit="", choices=CORNERS[:3], measure="edge_corner"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The edge, along every outline."""
    width, share = number(values, "blanket_width"), number(values, "blanket_share") / 100.0
    strands = edge_borders(
        work.region, "border", "blanket", width * share, width * (1.0 - share), number(values, "blanket_step"),
        choice(values, "blanket_corner"), work.start,
    )  # fmt: skip
    return f"Blanket {width:.1f}", strands


CONSTRUCTION = plain("blanket", "Blanket", "border", SETTINGS, sewing)
