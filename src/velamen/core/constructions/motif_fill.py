"""Motif fill: small figures in rows over an area, apart or overlapping as in lace (handbook, section 9)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from itertools import chain

import numpy as np
import shapely

from velamen.core.constructions.base import Ends, Sewn, Work
from velamen.core.constructions.motif_settings import GROWN, MOTIF, ROW_GAP, SEWN, WHICH, figures, sewing, told
from velamen.core.constructions.plain import plain
from velamen.core.geometry.region import spot_in
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.motif_copies import ACROSS, EVEN, GROWING, OUT, TURNS, Pattern
from velamen.core.stitching.motif_fill import motif_fill, open_share
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

EDGES = (("whole", "whole ones only"), ("cut", "cut, along the edge"))
OPEN = 0.1  # of an area that lies out of a motif's reach, from which it is told
OVERLAPS = (0.6, 1.0)  # mm more that figures overlap, tried where lace does not hold
SMALLER = (0.9, 0.8, 0.7, 0.6, 0.5)

SETTINGS = (
    *WHICH,
    ROW_GAP,
    Setting("motif_shift", "Row shift", "Rows", "How far every second row lies along, of the way from one figure to "
            "the next.", unit="%", low=0, high=100, step=5),
    Setting("motif_turn", "Rows", "Rows", "How the figures of every second row lie.", kind="choice", unit="",
            choices=TURNS),
    Setting("motif_angle", "Angle", "Rows", "Of the rows, clockwise from the horizontal.", unit="°", low=-180,
            high=180, step=1),
    Setting("motif_growing", "Sizes", "Rows", "Whether figures grow, and which way.", kind="choice", unit="",
            choices=GROWING),
    replace(GROWN, group="Rows", needs=("motif_growing", f"{ACROSS}|{OUT}")),
    Setting("motif_edge", "At the edge", "Rows", "What becomes of figures that the edge crosses.", kind="choice",
            unit="", choices=EDGES),
    *SEWN,
)  # fmt: skip


def pattern_of(work: Work, values: Values) -> Pattern:
    """How the copies lie."""
    growing = choice(values, "motif_growing")
    return Pattern(
        figures(work, values), number(values, "motif_size"), number(values, "motif_gap"),
        number(values, "motif_row_gap"), number(values, "motif_shift") / 100,
        float(np.radians(number(values, "motif_angle"))), choice(values, "motif_turn"), growing,
        1.0 if growing == EVEN else number(values, "motif_grown") / 100,
    )  # fmt: skip


def sewn(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Every part of the area in one thread."""
    pattern, cut = pattern_of(work, values), choice(values, "motif_edge") == "cut"
    parts = [part for part in shapely.get_parts(work.region) if not part.is_empty]
    strands = [motif_fill(part, pattern, sewing(values), cut, work.start) for part in parts]
    return f"Motifs, {told(work, values)}", list(chain(*strands))


def findings(found: Sewn) -> list[Finding]:
    """How much of the area has no figure near."""
    reach = 0.75 * number(found.values, "motif_size") + max(number(found.values, "motif_gap"), 0.0)
    strands = [strand for one in found.passes for strand in one.strands]
    share = open_share(found.work.region, strands, reach)
    if share < OPEN:
        return []
    message = (
        f"{100 * share:.0f} % of {found.work.name} have no figure near: change size or gap till the edge is even."
    )
    return [Finding("motif_open", "info", found.work.piece, message, spot_in(found.work.region))]


def smaller(found: Sewn) -> Iterator[tuple[str, Mapping[str, Plain]]]:
    """Smaller figures, the largest that do."""
    for times in SMALLER:
        size = round(number(found.values, "motif_size") * times, 1)
        yield f"Figures of {size:.1f} mm", {"motif_size": size}


def closer(found: Sewn) -> Iterator[tuple[str, Mapping[str, Plain]]]:
    """Figures that overlap more, so that they hold one another."""
    gap, row_gap = (min(number(found.values, key), 0.0) for key in ("motif_gap", "motif_row_gap"))
    for more in OVERLAPS:
        values = {"motif_gap": round(gap - more, 2), "motif_row_gap": round(row_gap - more, 2)}
        yield f"Let the figures of {found.work.name} overlap by {more - gap:.1f} mm", values


CONSTRUCTION = plain("motif_fill", "Motif fill", MOTIF, SETTINGS, sewn, ends=Ends.PATH, findings=findings,
                     ways={"motif_open": smaller, "lace_apart": closer, "lace_hinge": closer},
                     shown_with={"motif_size": 4.0, "motif_edge": "cut"})  # fmt: skip
