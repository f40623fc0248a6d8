"""Patch: a cleanly edged badge, alone or sewn onto an item to look like one (handbook, section 8)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from velamen.core.artwork.framed import FORMS, framed
from velamen.core.constructions.base import (
    Around,
    Construction,
    Ends,
    Family,
    PlainParts,
    Sample,
    Sewn,
    Thread,
    Ways,
    Work,
)
from velamen.core.constructions.edge import outside, round_corners, sides
from velamen.core.constructions.framing import OWN, ground_of
from velamen.core.constructions.patch.edge import EDGE_COVER
from velamen.core.constructions.patch.operations import operations
from velamen.core.constructions.patch.settings import SETTINGS
from velamen.core.constructions.plain import BORDER, GROUND
from velamen.core.geometry.region import Area, across, band, grown, spot_in
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain
from velamen.core.stitching.fill import COVERS
from velamen.core.values.value import Values, choice, number

BORDERS = ("width", "share", "spacing", "pull", "underlay", "corner")  # settings that a satin border has alike
GAP, CALM, MOST_MARGIN, HALVINGS = 24.0, 6.0, 60.0, 10  # mm, and how often a margin is halved in on
ALIKE = 0.12  # share of its area by which a shape may differ from one on offer
USUAL_WIDTH, USUAL_SHARE = 4.0, 55.0  # mm and % of a border, until its own values are known


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """Its cloth: the shape as it is drawn, or an outline round what lies on it."""
    return ground_of(work, known, "patch")


def read(shape: Area, sources: Sequence[Area]) -> Mapping[str, Plain]:
    """The outline on offer that is nearest to a shape round what lies on it, at the margin that makes it as large."""
    found: dict[str, float] = {}
    for form, _ in FORMS:
        low, high = 0.0, MOST_MARGIN
        for _ in range(HALVINGS):
            margin = (low + high) / 2
            less = framed(sources, form, margin, GAP, CALM).area < shape.area
            low, high = (margin, high) if less else (low, margin)
        found[form] = round(low, 1)

    def off(form: str) -> float:
        area = framed(sources, form, found[form], GAP, CALM)
        return float(shapely.symmetric_difference(area, shape).area / max(shape.area, 1e-9))

    best = min(found, key=off)
    best = best if off(best) <= ALIKE else "calm"
    return {"patch_outline": best, "patch_margin": found[best]}


def wider(sewn: Sewn) -> Ways:
    """A margin that leaves its decoration the clearance."""
    values = sewn.values
    if choice(values, "patch_outline") == OWN:
        return
    inside = 0.0 if choice(values, "patch_edge") == "none" else sides(values, "patch")[1]
    needed = float(np.ceil(2.0 * (number(values, "patch_clearance") + inside)) / 2.0)
    for margin in (needed, needed + 2.0):
        if margin > number(values, "patch_margin"):
            yield f"Set margin {margin:g}", {"patch_margin": margin}


def stands_on(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """The band of its border; its ground stands on all of it."""
    if role == BORDER:
        width = float(known.get("patch_width", USUAL_WIDTH))
        share = float(known.get("patch_share", USUAL_SHARE)) / 100.0
        return band(work.region, round(width * share, 3), round(width * (1.0 - share), 3))
    return work.region if role == GROUND else None


def beyond(known: Mapping[str, Plain]) -> float:
    """How far the finished border lies outside the cloth."""
    return 0.0 if known["patch_edge"] == "none" else outside(known, "patch")


def pointed(known: Mapping[str, Plain]) -> bool:
    """Whether its border comes to points."""
    return known["patch_edge"] == "satin" and known["patch_corner"] != "rounded"


def hides(work: Work, values: Values) -> Area | None:
    """What its ground and border hide; not its cloth, which is a layer."""
    if choice(values, "patch_ground") == "fill" and number(values, "patch_ground_spacing") <= COVERS:
        return work.region
    return None if choice(values, "patch_edge") == "none" else band(work.region, *sides(values, "patch"))


def clear(work: Work, values: Values) -> tuple[Area, float]:
    """Up to its border, and the clearance that its decoration keeps from it."""
    inside = 0.0 if choice(values, "patch_edge") == "none" else sides(values, "patch")[1]
    return grown(work.region, -inside), number(values, "patch_clearance")


def findings(sewn: Sewn) -> list[Finding]:
    """No room for the border, and corners it leaves round."""
    work, values = sewn.work, sewn.values
    if choice(values, "patch_edge") == "none":
        return []
    found, width, wide = [], number(values, "patch_width"), across(work.region)
    if wide < 2.0 * width:
        found.append(Finding(
            "patch_narrow", "warning", work.piece,
            f"{work.name} is {wide:.1f} mm at its widest: its {width:.1f} mm border leaves little cloth to see.",
            spot_in(work.region),
        ))  # fmt: skip
    if choice(values, "patch_edge") == "satin":
        found += round_corners(
            work, work.region, sides(values, "patch"), number(values, "patch_pull"), choice(values, "patch_corner")
        )
    return found


def apart(known: Mapping[str, Plain]) -> tuple[PlainParts, PlainParts]:
    """Cloth without a cover and ground before the decoration, the border after it."""
    way, ground, edged = (str(known[f"patch_{key}"]) for key in ("way", "ground", "edge"))
    under: list[tuple[str, Mapping[str, Plain]]] = []
    if way != "direct" or ground == "cloth":
        trimmed = way == "trimmed"
        held: dict[str, Plain] = {"second_tack": "zigzag", "tack_kind": "run", "tack_inset": 0.8}
        under.append(("applique", {"cover_kind": "none", "precut": not trimmed, **(held if trimmed else {})}))
    if ground == "fill":
        rows = {f"fill_{key}": known[f"patch_ground_{key}"] for key in ("spacing", "angle")}
        under.append(("fill", {**rows, "fill_spacing_end": rows["fill_spacing"]}))
    if edged == "none":
        return tuple(under), ()
    kind, kept = ("overedge", ("width", "share")) if edged == "overedge" else ("satin_border", BORDERS)
    name = "overedge" if edged == "overedge" else "border"
    return tuple(under), ((kind, {f"{name}_{key}": known[f"patch_{key}"] for key in kept}),)


CONSTRUCTION = Construction(
    "patch", "Patch", SETTINGS, operations, Family.CLOTH, materials=frozenset({"cloth"}), stands_on=stands_on,
    beyond=beyond, pointed=pointed, hides=hides, ends=Ends.LOOP, proofs=(EDGE_COVER,), findings=findings,
    around=Around(ground, read=read, thread=Thread.CLOTH, early=True, frozen={"patch_outline": OWN},
                  asks="Make a patch of it",
                  told="A badge round the design: its cloth is laid first, its border sewn last"),
    ways={"clearance_small": wider},
    apart=apart, clear=clear, shown_on=Sample.BODY, shown_with={"patch_edge": "overedge", "patch_width": 3.0},
)  # fmt: skip
