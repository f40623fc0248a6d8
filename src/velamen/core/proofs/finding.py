"""Findings: what is worth telling before sewing, each with its place and its words."""

from __future__ import annotations

from dataclasses import dataclass, field

from velamen.core.geometry.region import Area, spot_in
from velamen.core.setting import Plain
from velamen.core.values.cautions import Severity

SMALL = 60.0  # mm² of a piece that may be too small


@dataclass(frozen=True)
class Finding:
    """One finding."""

    code: str
    severity: Severity
    piece: str  # id, "" for the whole job
    message: str
    at: tuple[tuple[float, float], ...] = ()  # places in mm
    fix: dict[str, float] = field(default_factory=dict)  # values of the piece that end it
    label: str = ""  # of the button that takes the fix
    brief: dict[str, Plain] = field(default_factory=dict)  # fields of the brief that end it instead
    proof: str = ""  # key of the proof that tells it, with places and fixes of its own
    others: tuple[str, ...] = ()  # ids of the pieces that cause it
    holes_below: float = 0.0  # mm² of holes that may be closed to end it
    instead: str = ""  # key of the construction that the piece is better sewn as


def nothing_sewn(piece: str, name: str, title: str, region: Area) -> Finding:
    """That a piece has no stitches at all with the values it has."""
    if region.is_empty:
        return Finding("nothing_sewn", "warning", piece, f"{name} has nothing left to go round: nothing is sewn.")
    small = region.area < SMALL
    why = f"is too small to be sewn as {title.lower()} with" if small else f"has no place for {title.lower()} with"
    return Finding(
        "nothing_sewn", "warning", piece,
        f"{name} {why} these values: nothing is sewn.",
        spot_in(region),
    )  # fmt: skip


def order_finding(piece: str, why: str, region: Area) -> Finding:
    """That a step of a piece is sewn where it cannot be."""
    return Finding("order_wrong", "error", piece, why, spot_in(region))
