"""What is worth telling about one appliqué piece before it is sewn, and the values that end it."""

from __future__ import annotations

from shapely import Polygon

from velamen.core.constructions.applique.cover import falls_back
from velamen.core.constructions.base import Sewn, Ways
from velamen.core.constructions.edge import round_corners
from velamen.core.geometry.region import across, holes_of, spot_in
from velamen.core.proofs.access import CUT_OUT
from velamen.core.proofs.finding import Finding
from velamen.core.values.value import Values, choice, number, switch


def findings(sewn: Sewn) -> list[Finding]:
    """Cut-outs too small for scissors, no room for the cover or its corners, a tack-down that shows beside it."""
    piece, name, region, values = sewn.work.piece, sewn.work.name, sewn.work.region, sewn.values
    found = _untacked(piece, name, values) if choice(values, "tack_kind") == "none" else []
    if not switch(values, "precut"):
        small = [hole for hole in holes_of(region) if across(hole) < CUT_OUT]
        closing = max((hole.area for hole in small), default=0.0)
        for inside in holes_of(region):
            wide = across(inside)
            if wide < CUT_OUT:
                found.append(Finding(
                    "cutout_small", "warning", piece,
                    f"A cut-out of {name} is {wide:.1f} mm across: scissors need about {CUT_OUT:g}. "
                    "Use pre-cut cloth or fill the hole.",
                    spot_in(inside), holes_below=closing,
                ))  # fmt: skip
    if choice(values, "cover_kind") == "satin":
        found += _satin_findings(piece, name, region, values)
        width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
        cloth = next(one.cut.region for one in sewn.operations if one.cut)
        sides = width * share, width * (1.0 - share)
        found += round_corners(sewn.work, cloth, sides, number(values, "cover_pull"), choice(values, "cover_corner"))
    elif falls_back(values):
        found.append(Finding(
            "cover_fell_back", "info", piece,
            f"{name} is too narrow for bites: they would be {number(values, 'cover_bite'):.1f} mm long. "
            "A double run is sewn instead.",
            spot_in(region),
        ))  # fmt: skip
    return found


def _untacked(piece: str, name: str, values: Values) -> list[Finding]:
    """What it takes to do without a tack-down: cloth that needs no scissors yet, and something else that holds it."""
    if not switch(values, "precut") and choice(values, "trim_when") == "now":
        return [Finding(
            "tack_needed", "warning", piece,
            f"{name} is trimmed in the hoop without a tack-down: nothing holds its cloth under the scissors or shows "
            "them its edge. Use pre-cut cloth or a tack-down.",
            fix={"precut": True}, label="Use pre-cut cloth",
        )]  # fmt: skip
    if switch(values, "fusible"):
        return []
    return [Finding(
        "tack_left_out", "info", piece,
        f"No tack-down holds the cloth of {name} until it is covered: fuse it, or glue it down.",
        fix={"fusible": True}, label="Use fusible web",
    )]  # fmt: skip


def _satin_findings(piece: str, name: str, region: Polygon, values: Values) -> list[Finding]:
    """Findings about a satin cover: no room for it, a tack-down that shows beside it."""
    found = []
    width = number(values, "cover_width")
    strip = across(region)
    if strip < width:
        found.append(Finding(
            "piece_narrow", "warning", piece,
            f"{name} is {strip:.1f} mm at its widest, narrower than its {width:.1f} mm cover: "
            "little or no cloth will show.",
            spot_in(region),
        ))  # fmt: skip
    inside = width * (1.0 - number(values, "cover_share") / 100.0)
    kind = choice(values, "tack_kind")
    if kind == "none":
        return found
    key = "tack_width" if kind in ("zigzag", "estitch") else "tack_inset"
    deep = number(values, key)
    if deep > inside:
        hidden = round(max(inside - 0.2, values[key].setting.low), 2)
        found.append(Finding(
            "tack_shows", "warning", piece,
            f"The tack-down of {name} shows {deep - inside:.1f} mm inside its cover.",
            fix={key: hidden}, label=f"Set {values[key].setting.label.lower()} {hidden:.1f}",
        ))  # fmt: skip
    return found


def precut(sewn: Sewn) -> Ways:
    """Pre-cut cloth, which needs no scissors in the hoop."""
    yield "Use pre-cut cloth", {"precut": True}


def trimmed_now(sewn: Sewn) -> Ways:
    """Cloth trimmed in the hoop, so that later cloth does not lie on its loose margin."""
    if choice(sewn.values, "trim_when") == "after":
        yield f"Trim {sewn.work.name} in the hoop", {"trim_when": "now"}
