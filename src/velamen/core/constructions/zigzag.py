"""Zigzag: an open zigzag along every outline of a shape (handbook, section 1)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import Ends, FoundPart, Sewn, Work
from velamen.core.constructions.edge import SHARES, reaching, round_corners, sides
from velamen.core.constructions.plain import BORDER, plain
from velamen.core.geometry.corners import CORNERS
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Setting
from velamen.core.stitching.border import zigzag_borders
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SETTINGS = (
    Setting("zigzag_width", "Width", "Border", "From rail to rail.", low=0.6, high=10.0, measure="border_width"),
    Setting("zigzag_share", "Share outside", "Border", "How much of the width lies off the shape.", unit="%",
            low=0, high=100, step=1, measure="border_share"),
    Setting("zigzag_spacing", "Spacing", "Border", "Between neighbouring penetrations on one rail.",
            low=0.5, high=6.0),
    Setting("zigzag_corner", "Corners", "Border", "Turned round, mitred on the diagonal, or one side lapped over the "
            "other.", kind="choice", unit="", choices=CORNERS, measure="corner"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A zigzag along every outline."""
    outside, inside = sides(values, "zigzag")
    spacing, corner = number(values, "zigzag_spacing"), choice(values, "zigzag_corner")
    strands = zigzag_borders(work.region, "border", outside, inside, spacing, corner, work.start)
    return f"Zigzag {outside + inside:.1f}", strands


def findings(sewn: Sewn) -> list[Finding]:
    """That some of its corners stay round."""
    work, values = sewn.work, sewn.values
    return round_corners(work, work.region, sides(values, "zigzag"), 0.0, choice(values, "zigzag_corner"))


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A closed zigzag found, on one of its rails or on its middle."""
    share = SHARES.get(part.way)
    if part.kind != "zigzag" or share is None:
        return None
    return {"zigzag_width": part.width, "zigzag_share": share, "zigzag_spacing": part.spacing}


CONSTRUCTION = plain(
    "zigzag", "Zigzag", BORDER, SETTINGS, sewing, ends=Ends.LOOP, findings=findings, reads=reads, **reaching("zigzag")
)
