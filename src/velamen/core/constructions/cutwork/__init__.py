"""Cutwork: an opening cut into the base and bridged with bars, its edge in satin (handbook, section 12)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from velamen.core.constructions.base import MOST_GUIDES, Construction, Family, Sample, Work, pass_of
from velamen.core.constructions.cutwork.bars import BARS, bars, crossed, lines
from velamen.core.constructions.cutwork.edge import EDGE_COVER, edge
from velamen.core.constructions.cutwork.settings import SETTINGS
from velamen.core.constructions.edge import outside, sides
from velamen.core.constructions.plain import BORDER
from velamen.core.geometry.region import Area, band
from velamen.core.setting import Plain
from velamen.core.stitching.bars import BAR
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.roles import declare
from velamen.core.timeline.effects import Opens
from velamen.core.timeline.operation import Does, Hand, Operation, Share
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values

CUT_OUTLINE = declare("cut_outline", "cut outline", dash="3 1.6")
OUTLINE_RUN, OUTLINE_OUT = 1.8, 0.6  # mm of a stitch, and outside the edge of the double run that holds it
CUT_SECONDS, CUT_SECONDS_PER_CM = 60.0, 1.5  # ours


def operations(work: Work, known: Mapping[str, Plain]) -> tuple[Operation, ...]:
    """Outline sewn, opening cut, bars across it, its edge in satin."""
    if work.region.is_empty:
        return ()
    step, region = partial(Operation, work.piece, work.name), work.region
    seconds = CUT_SECONDS + CUT_SECONDS_PER_CM * float(region.length) / 10.0
    text = "Cut the cloth out of {names}, close inside the double run; leave the stabilizer."
    cut = Does(Hand.CUT_OPENING, "Cut the opening", text, seconds, "small scissors")
    return (
        step(CUT_OUTLINE, region, role=CUT_OUTLINE, fills=_outline),
        step("cut", region, (CUT_OUTLINE,), (Opens(region),), does=cut, share=Share("opening")),
        step(BAR, region, ("cut",), role=BAR, fills=bars),
        step(BORDER, region, (BAR,), role=BORDER, fills=edge),
    )  # fmt: skip


def stands_on(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """Its edge stands on the band of cloth beside the opening and on what is left in it; bars on that alone."""
    if role != BORDER:
        return work.region
    width, on = float(known["cut_width"]), outside(known, "cut")
    return band(work.region, round(on, 3), round(width - on, 3))


def _outline(work: Work, values: Values) -> list[Pass]:
    twice = [one for _ in range(2) for one in run_borders(work.region, CUT_OUTLINE, OUTLINE_RUN, -OUTLINE_OUT)]
    return pass_of(work, CUT_OUTLINE, "Cut outline, double run", twice)


CONSTRUCTION = Construction(
    "cutwork", "Cutwork", SETTINGS, operations, Family.EDGES, shown_on=Sample.OVAL,
    shown_with={"bar_spacing": 5.0, "cut_width": 2.4},
    beyond=lambda known: outside(known, "cut"), pointed=lambda known: known["cut_corner"] != "rounded",
    hides=lambda work, values: band(work.region, *sides(values, "cut")), proofs=(BARS, EDGE_COVER),
    stands_on=stands_on, cuts_open=True, guides=MOST_GUIDES, led=lines, ways={"bars_sag": crossed},
)  # fmt: skip
