"""Cutwork: an opening cut into the base and bridged with bars, its edge in satin (handbook, section 12)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

import numpy as np

from velamen.core.arrays import Array
from velamen.core.constructions.base import Construction, Family, Sample, Sewn, Work, pass_of
from velamen.core.constructions.edge import outside, satin_settings, satin_values, sides
from velamen.core.constructions.plain import BORDER
from velamen.core.geometry.corners import CORNERS
from velamen.core.geometry.region import band, polygons_of
from velamen.core.proofs.bars import FREE, SAGS, Bars, prove_bars
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Proof, Proved, spots_row
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.bars import BAR, across, sewn_bars
from velamen.core.stitching.border import SatinSewing, run_borders, satin_borders
from velamen.core.stitching.roles import declare
from velamen.core.timeline.effects import Opens
from velamen.core.timeline.operation import Does, Hand, Operation, Share
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

CUT_OUTLINE = declare("cut_outline", "cut outline", dash="3 1.6")
OUTLINE_RUN, OUTLINE_OUT = 1.8, 0.6  # mm of a stitch, and outside the edge of the double run that holds it
CUT_SECONDS, CUT_SECONDS_PER_CM = 60.0, 1.5  # ours

SETTINGS = (
    Setting("bar_spacing", "Spacing", "Bars", "From bar to bar, where no number is asked for.", low=3.0, high=30.0),
    Setting("bar_count", "Number", "Bars", "How many lie beside one another; 0 for what the spacing gives.", unit="",
            low=0, high=100, step=1),
    Setting("bar_width", "Width", "Bars", "Of a finished bar.", low=1.0, high=4.0),
    Setting("bar_angle", "Angle", "Bars", "Of the bars.", unit="°", low=-180, high=180, step=1),
    Setting("cut_width", "Width", "Edge", "Of the satin over the cut edge.", low=2.0, high=6.0, early=True),
    Setting("cut_share", "Share outside", "Edge", "How much of it lies on the cloth.", unit="%", low=30, high=80,
            step=1, early=True),
    *satin_settings("cut", "border"),
    Setting("cut_corner", "Corners", "Edge", "Turned round, mitred on the diagonal, or one side over the other.",
            kind="choice", unit="", choices=CORNERS, measure="corner"),
)  # fmt: skip


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
        step(BAR, region, ("cut",), role=BAR, fills=_bars),
        step(BORDER, region, (BAR,), role=BORDER, fills=_edge),
    )  # fmt: skip


def lines_of(work: Work, values: Values) -> list[list[Array]]:
    """Where the bars of each opening lie."""
    spacing, count, angle = (number(values, f"bar_{key}") for key in ("spacing", "count", "angle"))
    return [across(part, spacing, round(count), float(np.radians(angle))) for part in polygons_of(work.region)]


def _outline(work: Work, values: Values) -> list[Pass]:
    twice = [one for _ in range(2) for one in run_borders(work.region, CUT_OUTLINE, OUTLINE_RUN, -OUTLINE_OUT)]
    return pass_of(work, CUT_OUTLINE, "Cut outline, double run", twice)


def _bars(work: Work, values: Values) -> list[Pass]:
    width, parts = number(values, "bar_width"), polygons_of(work.region)
    sewn = [one for part, lines in zip(parts, lines_of(work, values), strict=True) if lines
            for one in sewn_bars(part, lines, width)]  # fmt: skip
    return pass_of(work, BAR, f"Bars {width:.1f}", sewn)


def _edge(work: Work, values: Values) -> list[Pass]:
    off, on = sides(values, "cut")
    sewing = SatinSewing(off, on, *satin_values(values, "cut"), choice(values, "cut_corner"))
    sewn = satin_borders(work.region, BORDER, sewing, work.start)
    return pass_of(work, BORDER, f"Edge, satin {off + on:.1f}", sewn)


def _proved(found: Sewn) -> Proved | None:
    """Whether bars hold the opening."""
    lines, parts = lines_of(found.work, found.values), polygons_of(found.work.region)
    width = number(found.values, "bar_width")
    proofs = [prove_bars(part, every, width) for part, every in zip(parts, lines, strict=True)]
    proof = Bars(sum(one.count for one in proofs), *(tuple(each for one in proofs for each in getattr(one, key))
                                                     for key in ("loose", "sagging", "free")))  # fmt: skip
    row = spots_row(loose=proof.loose, sagging=proof.sagging, free=proof.free)
    about = f"{proof.count} bars" + (f", {len(proof.sagging)} of them over {SAGS:g} mm" if proof.sagging else "")
    if proof.held:
        return Proved(True, "Bars hold the opening", row, about=about)
    told = [f"{len(proof.loose)} bars are not anchored 1 mm in the cloth."] if proof.loose else []
    told += [f"Up to {max(one.length for one in proof.free):.1f} mm of it have no bar."] if proof.free else []
    bad = (*proof.loose, *proof.free)
    finding = Finding("bars_loose", "warning", found.work.piece, f"{found.work.name}: {' '.join(told)}",
                      tuple(one.at for one in bad), proof="bars")  # fmt: skip
    return Proved(False, "Bars do not hold the opening", row, about=about, fails=" ".join(told), spots=bad,
                  hopeless=f"Set them closer, or at another angle: no more than {FREE:g} mm without a bar.",
                  findings=(finding,))  # fmt: skip


CONSTRUCTION = Construction(
    "cutwork", "Cutwork", SETTINGS, operations, Family.EDGES, shown_on=Sample.OVAL,
    shown_with={"bar_spacing": 5.0, "cut_width": 2.4},
    beyond=lambda known: outside(known, "cut"), pointed=lambda known: known["cut_corner"] != "rounded",
    hides=lambda work, values: band(work.region, *sides(values, "cut")),
    proofs=(Proof("bars", "Bars", _proved, "edge of the opening", "a bar that is loose, or a place without one",
                  joined=True),),
)  # fmt: skip
