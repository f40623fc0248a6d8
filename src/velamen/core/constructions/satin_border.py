"""Satin border: a closed zigzag with underlay along every outline of a shape (handbook, section 1)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import Ends, FoundPart, Sewn, SortedAs, Work
from velamen.core.constructions.edge import (
    SHARES,
    band_of,
    reaching,
    round_corners,
    satin_settings,
    satin_values,
    sides,
)
from velamen.core.constructions.plain import BORDER, plain
from velamen.core.geometry.corners import CORNERS
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Setting
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SETTINGS = (
    Setting("border_width", "Width", "Border", "Of the finished satin.", low=1.0, high=10.0, measure="border_width"),
    Setting("border_share", "Share outside", "Border", "How much of the width lies off the shape.", unit="%",
            low=0, high=90, step=1, measure="border_share"),
    *satin_settings("border", "border"),
    Setting("border_corner", "Corners", "Border", "Turned round, mitred on the diagonal, or one side lapped over the "
            "other.", kind="choice", unit="", choices=CORNERS, measure="corner"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A satin along every outline."""
    outside, inside = sides(values, "border")
    sewing = SatinSewing(outside, inside, *satin_values(values, "border"), choice(values, "border_corner"))
    strands = satin_borders(work.region, BORDER, sewing, work.start)
    return f"Satin {outside + inside:.1f}", strands


def findings(sewn: Sewn) -> list[Finding]:
    """That some of its corners stay round."""
    work, values = sewn.work, sewn.values
    pull, corner = number(values, "border_pull"), choice(values, "border_corner")
    return round_corners(work, work.region, sides(values, "border"), pull, corner)


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A closed satin found, on one of its rails or on its middle."""
    share = SHARES.get(part.way)
    if part.kind != "satin" or share is None:
        return None
    return {"border_width": part.width, "border_share": share, "border_spacing": part.spacing, "border_pull": 0.0}


CONSTRUCTION = plain(
    "satin_border", "Satin border", BORDER, SETTINGS, sewing, hides=band_of("border"), ends=Ends.LOOP,
    **reaching("border"), shown_with={"border_width": 2.4}, findings=findings, reads=reads,
    sorted_as=SortedAs("Satin outline"),
)  # fmt: skip
