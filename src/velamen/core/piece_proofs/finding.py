"""Findings: what is worth telling before sewing, each with its place and its words."""

from __future__ import annotations

from dataclasses import dataclass, field

from shapely import Polygon

from velamen.core.constructions.applique_steps import falls_back
from velamen.core.geometry.region import Area, across, holes_of
from velamen.core.setting import Plain
from velamen.core.values.value import Values, choice, number, switch

SCISSORS = 8.0  # mm across; smaller cut-outs cannot be trimmed (handbook, section 5)


@dataclass(frozen=True)
class Finding:
    """One finding. severity: error, warning or info; at: places in mm.

    fix: values of the piece that end it; label: what its button says; brief: fields of the
    brief that end it instead.
    """

    code: str
    severity: str
    piece: str
    message: str
    at: tuple[tuple[float, float], ...] = ()
    fix: dict[str, float] = field(default_factory=dict)
    label: str = ""
    brief: dict[str, Plain] = field(default_factory=dict)


def piece_findings(piece: str, name: str, region: Polygon, values: Values) -> list[Finding]:
    """Findings that concern one piece alone."""
    found = []
    if not switch(values, "precut"):
        for inside in holes_of(region):
            wide = across(inside)
            if wide < SCISSORS:
                spot = inside.representative_point()
                found.append(Finding(
                    "cutout_small", "warning", piece,
                    f"A cut-out of {name} is {wide:.1f} mm across: scissors need about {SCISSORS:g}. "
                    "Use pre-cut cloth or fill the hole.",
                    ((round(spot.x, 2), round(spot.y, 2)),),
                ))  # fmt: skip
    if choice(values, "cover_kind") == "satin":
        found += _satin_findings(piece, name, region, values)
    elif falls_back(values):
        spot = region.representative_point()
        found.append(Finding(
            "cover_fell_back", "info", piece,
            f"{name} is too narrow for bites: they would be {number(values, 'cover_bite'):.1f} mm long. "
            "A double run is sewn instead.",
            ((round(spot.x, 2), round(spot.y, 2)),),
        ))  # fmt: skip
    return found


def _satin_findings(piece: str, name: str, region: Polygon, values: Values) -> list[Finding]:
    """Findings about a satin cover: no room for it, a tack-down that shows beside it."""
    found = []
    width = number(values, "cover_width")
    strip = across(region)
    if strip < width:
        spot = region.representative_point()
        found.append(Finding(
            "piece_narrow", "warning", piece,
            f"{name} is {strip:.1f} mm at its widest, narrower than its {width:.1f} mm cover: "
            "little or no cloth will show.",
            ((round(spot.x, 2), round(spot.y, 2)),),
        ))  # fmt: skip
    inside = width * (1.0 - number(values, "cover_share") / 100.0)
    kind = choice(values, "tack_kind")
    key = "tack_width" if kind in ("zigzag", "estitch") else "tack_inset"
    deep = number(values, key)
    if deep > inside:
        found.append(Finding(
            "tack_shows", "warning", piece,
            f"The tack-down of {name} shows {deep - inside:.1f} mm inside its cover.",
            fix={key: round(max(inside - 0.2, values[key].setting.low), 2)},
            label=f"Set {values[key].setting.label.lower()} {max(inside - 0.2, values[key].setting.low):.1f}",
        ))  # fmt: skip
    return found


def nothing_sewn(piece: str, name: str, title: str, region: Polygon) -> Finding:
    """That a piece has no stitches at all with the values it has."""
    if region.is_empty:
        return Finding("nothing_sewn", "warning", piece, f"{name} has nothing left to go round: nothing is sewn.")
    place = region.representative_point()
    return Finding(
        "nothing_sewn", "warning", piece,
        f"{name} is too small to be sewn as {title.lower()} with these values: nothing is sewn.",
        ((round(place.x, 2), round(place.y, 2)),),
    )  # fmt: skip


def order_finding(piece: str, why: str, region: Area) -> Finding:
    """That a step of a piece is sewn where it cannot be."""
    place = region.representative_point()
    at = () if place.is_empty else ((round(place.x, 2), round(place.y, 2)),)
    return Finding("order_wrong", "error", piece, why, at)
