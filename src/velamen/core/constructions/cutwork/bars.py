"""Bars of cutwork by the values of a piece, and the proof that they hold its opening."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from velamen.core.constructions.base import Led, Sewn, Ways, Work, pass_of
from velamen.core.geometry.region import polygons_of
from velamen.core.proofs.bars import FREE, SAGS, Bars, prove_bars
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Fix, Proof, Proved, spots_row
from velamen.core.setting import Plain
from velamen.core.stitching.bar_lines import Bar
from velamen.core.stitching.bar_plan import Wanted, plan_bars
from velamen.core.stitching.bars import BAR, sewn_bars
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, plain_values

SPACINGS, TURNS = (8.0, 7.0, 10.0), (90.0, 45.0, -45.0)  # mm and degrees tried where bars do not hold an opening


def bars_of(work: Work, known: Mapping[str, Plain]) -> list[list[Bar]]:
    """Where the bars of each opening lie."""
    angle = float(np.radians(float(known["bar_angle"])))
    wanted = Wanted(float(known["bar_spacing"]), round(float(known["bar_count"])), angle, float(known["bar_width"]),
                    bool(known["bar_crossed"]))  # fmt: skip
    return [plan_bars(part, work.guides, wanted) for part in polygons_of(work.region)]


def lines(work: Work, known: Mapping[str, Plain]) -> list[Led]:
    """The middles of all bars."""
    return [Led(bar.line) for part in bars_of(work, known) for bar in part]


def bars(work: Work, values: Values) -> list[Pass]:
    """All bars, opening by opening."""
    known = plain_values(values)
    return pass_of(work, BAR, f"Bars {float(known['bar_width']):.1f}", _sewn(work, known))


def _sewn(work: Work, known: Mapping[str, Plain]) -> list[Strand]:
    parts, width = polygons_of(work.region), float(known["bar_width"])
    return [one for part, planned in zip(parts, bars_of(work, known), strict=True) if planned
            for one in sewn_bars(part, planned, width)]  # fmt: skip


def _proved(found: Sewn) -> Proved | None:
    """Whether bars hold the opening."""
    if found.work.region.is_empty:
        return None
    strands = [strand for one in found.passes if one.role == BAR for strand in one.strands]
    proof = prove_bars(found.work.region, strands)
    row = spots_row(loose=(*proof.loose, *proof.islands), sagging=proof.sagging, free=proof.free,
                    crossing=proof.crossing)  # fmt: skip
    about = f"{proof.count} bars, the longest {proof.longest:.1f} mm"
    sagging = _sagging(found, proof)
    if proof.held:
        return Proved(True, "Bars hold the opening", row, about=about, findings=sagging, lines=proof.lines)
    told = " ".join(_told(proof))
    finding = Finding("bars_loose", "warning", found.work.piece, f"{found.work.name}: {told}",
                      tuple(one.at for one in proof.bad), proof="bars")  # fmt: skip
    return Proved(False, "Bars do not hold the opening", row, about=about, fails=told, spots=proof.bad,
                  fixes=_fixes(found), hopeless=f"Set them closer, turn them or draw a guide line: no more than "
                  f"{FREE:g} mm without a bar.", findings=(finding, *sagging), lines=proof.lines)  # fmt: skip


def _told(proof: Bars) -> list[str]:
    def of(count: int, one: str, some: str) -> str:
        return one if count == 1 else f"{count} {some}"

    told = []
    if proof.loose:
        told.append(of(len(proof.loose), "A bar is", "bars are") + " not anchored 1 mm in the cloth.")
    if proof.free:
        told.append(f"Up to {max(one.length for one in proof.free):.1f} mm of it have no bar.")
    if proof.crossing:
        told.append(of(len(proof.crossing), "A bar lies", "bars lie") + " over another without a joint.")
    if proof.islands:
        told.append(of(len(proof.islands), "An island hangs", "islands hang") + " on fewer than two bars.")
    return told


def _sagging(found: Sewn, proof: Bars) -> tuple[Finding, ...]:
    """That bars are too long."""
    if not proof.sagging:
        return ()
    longest = max(one.length for one in proof.sagging)
    told = f"{found.work.name} has bars that sag: {longest:.1f} mm between what holds them, over {SAGS:g}."
    places = tuple(one.at for one in proof.sagging)
    return (Finding("bars_sag", "info", found.work.piece, told, places, proof="bars"),)


def crossed(found: Sewn) -> Ways:
    """Cross bars over those that sag."""
    yield "Add cross bars", {"bar_crossed": True}


def _fixes(found: Sewn) -> tuple[Fix, ...]:
    """Spacings and angles that hold the opening, each sewn and proved."""
    known = plain_values(found.values)
    turned = [((float(known["bar_angle"]) + turn + 90.0) % 180.0 - 90.0, turn) for turn in TURNS]
    tries: list[tuple[Mapping[str, Plain], str]] = [
        *((_spaced(one), f"spacing {one:g}") for one in SPACINGS),
        *(({**_spaced(SPACINGS[0]), "bar_angle": angle}, f"turned by {turn:g}°")
          for angle, turn in turned),
    ]  # fmt: skip
    fixes = []
    for own, label in tries:
        if prove_bars(found.work.region, _sewn(found.work, {**known, **own})).held:
            fixes.append(Fix(own, label, 1.0))
        if len(fixes) == 2:
            break
    return tuple(fixes)


def _spaced(spacing: float) -> dict[str, Plain]:
    return {"bar_count": 0, "bar_spacing": spacing}


BARS = Proof("bars", "Bars", _proved, "a bar that holds", "a bar that is loose, or a place without one",
             joined=True)  # fmt: skip
