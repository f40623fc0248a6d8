"""Overedge: slanted bites that overlap over a ridge, like an overlocked edge (handbook, section 8)."""

from __future__ import annotations

from velamen.core.constructions.base import Work
from velamen.core.constructions.plain import plain
from velamen.core.geometry.corners import CORNERS
from velamen.core.geometry.region import band
from velamen.core.layering import Area
from velamen.core.matching.value import Values, choice, number
from velamen.core.setting import Setting
from velamen.core.stitching.border import edge_borders
from velamen.core.stitching.strand import Strand

SETTINGS = (
    Setting("overedge_width", "Width", "Border", "Of the edge.", low=2.0, high=6.0, measure="overedge_width"),
    Setting("overedge_share", "Share outside", "Border", "How much of it lies off the shape.", unit="%", low=0,
            high=100, step=1, measure="edge_share"),
    Setting("overedge_spacing", "Spacing", "Border", "Between bites.", low=0.3, high=2.0,
            step=0.05, measure="overedge_spacing"),
    Setting("overedge_corner", "Corners", "Border", "Turned round, or mitred on the diagonal.", kind="choice",
            unit="", choices=CORNERS[:3], measure="edge_corner"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The edge, along every outline."""
    width, share = number(values, "overedge_width"), number(values, "overedge_share") / 100.0
    strands = edge_borders(
        work.region, "border", "overedge", width * share, width * (1.0 - share), number(values, "overedge_spacing"),
        choice(values, "overedge_corner"), work.start,
    )  # fmt: skip
    return f"Overedge {width:.1f}", strands


def cover(work: Work, values: Values) -> Area | None:
    """The band that it hides."""
    width, share = number(values, "overedge_width"), number(values, "overedge_share") / 100.0
    return band(work.region, width * share, width * (1.0 - share))


CONSTRUCTION = plain("overedge", "Overedge", "border", SETTINGS, sewing, cover=cover)
