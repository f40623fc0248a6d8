"""Embossing: a ground that flattens the pile all round a motif, which stands up in it (handbook, section 6)."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from velamen.core.constructions.base import Around, Sample, Sewn, SortedAs, Work
from velamen.core.constructions.ground import (
    cut_off,
    pressing,
    round_ground,
    round_settings,
    stitch_settings,
    stitched,
)
from velamen.core.constructions.plain import GROUND, OUTLINE, plain
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area, grown
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Proof, Proved
from velamen.core.proofs.standing import prove_standing, standing_finding
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import SatinSewing, run_borders, satin_borders, zigzag_borders
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number, plain_values

OUTLINES = (("satin", "satin"), ("zigzag", "zigzag"), ("run", "run"), ("none", "none"))
GROUNDS = (("outline", "even margin"), ("box", "rectangle"), ("field", "the whole sewing field"))
NOMINAL = 10.0  # mm; where its own margin is another one, its ground is judged as it is made
FROM_FIELD = 3.0  # mm a ground stays within the sewing field

SETTINGS = (
    Setting("emboss_ground", "Ground", "Outline", "What is flattened round the motif.", kind="choice", unit="",
            choices=GROUNDS),
    *round_settings("emboss", "Of the ground round the motif.", 80.0),
    *stitch_settings("emboss", "Ground"),
    Setting("emboss_outline", "Outline", "Motif", "What sharpens the edge of the motif.", kind="choice", unit="",
            choices=OUTLINES),
    Setting("emboss_width", "Width", "Motif", "Of the outline.", low=0.8, high=3.0),
    Setting("emboss_outline_spacing", "Spacing", "Motif", "Of the outline.", low=0.3, high=3.0, step=0.01,
            role="ground", measure="satin_spacing"),
)  # fmt: skip


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """The ground without the motif; the counters of a letter are ground."""
    motif = motif_of(work)
    if motif.is_empty or work.field is None:
        return shapely.MultiPolygon()
    room = shapely.buffer(work.field, -FROM_FIELD)
    area = room if str(known["emboss_ground"]) == "field" else wanted(work, known)
    left_over = shapely.difference(shapely.intersection(area, room), motif)
    parts = [part for part in shapely.get_parts(left_over) if part.geom_type == "Polygon" and part.area > 1.0]
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def wanted(work: Work, known: Mapping[str, Plain]) -> Area:
    """What its margin asks for round the motif, and the motif, wherever the sewing field ends."""
    motif, margin = motif_of(work), float(known["emboss_margin"])
    if str(known["emboss_ground"]) == "box":
        left, top, right, bottom = motif.bounds
        return shapely.box(left - margin, top - margin, right + margin, bottom + margin)
    # counters belong to the ground however wide its margin closes them
    return shapely.union(round_ground("emboss", work, known), shapely.convex_hull(motif))


def findings(sewn: Sewn) -> list[Finding]:
    """That its ground ends at the sewing field before its margin does."""
    work, known = sewn.work, plain_values(sewn.values)
    if work.field is None or work.region.is_empty or known["emboss_ground"] == "field":
        return []
    key = "emboss_margin"
    return cut_off(work, "The ground", wanted(work, known), motif_of(work), FROM_FIELD, key, float(known[key]))


def motif_of(work: Work) -> Area:
    """What stands up in the pile."""
    return joined(work.sources)


def flattened(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The ground."""
    return stitched("emboss", GROUND, work.region, work, values)


def sharpened(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The outline of the motif, where there is a ground."""
    kind, width = choice(values, "emboss_outline"), number(values, "emboss_width")
    if kind == "none" or work.region.is_empty:
        return "", []
    edge = [one for part in shapely.get_parts(motif_of(work))
            for one in _outline(part, kind, width, number(values, "emboss_outline_spacing"))]  # fmt: skip
    return f"Outline, {dict(OUTLINES)[kind]} {width:.1f}", edge


def _outline(motif: Area, kind: str, width: float, spacing: float) -> list[Strand]:
    """The edge of the motif, wholly on the ground beside it, so that nothing presses the motif down."""
    if kind == "run":
        return run_borders(motif, "outline", 2.0, -0.5)
    if kind == "zigzag":
        return zigzag_borders(motif, "outline", width, 0.0, max(spacing, 0.8), "auto")
    return satin_borders(
        motif, OUTLINE, SatinSewing(width, 0.0, spacing, 0.0, "centre_run" if width >= 1.2 else "none", "auto")
    )


def nominal(motif: Area) -> Area:
    """A ground round the motif that stays up."""
    return shapely.difference(grown(motif, NOMINAL, 8), motif)


def standing(sewn: Sewn) -> Proved | None:
    """Whether every part of the motif stands up."""
    work = sewn.work
    proof = prove_standing(motif_of(work), work.pile)
    found = () if proof.held else (standing_finding(work.piece, work.name, proof, work.pile),)
    lost = "A part vanishes" if len(proof.lost) == 1 else f"{len(proof.lost)} parts vanish"
    told = f"{'Stands up' if proof.held else lost} in {work.pile:g} mm of pile" if work.pile > 0 else ""
    return Proved(proof.held, told, findings=found, detail=proof)


CONSTRUCTION = plain(
    "emboss", "Embossing", GROUND, SETTINGS, flattened, then={OUTLINE: sharpened}, effects=pressing,
    around=Around(ground, nominal, motif=True, told="The shapes stand up in the pile, all round them is flattened"),
    findings=findings, proofs=(Proof("standing", "Standing", standing, listed=False),),
    sorted_as=SortedAs("Motif that stands up"),
    shown_on=Sample.RING, shown_with={"emboss_margin": 2.5, "emboss_spacing": 1.2, "emboss_width": 1.0})  # fmt: skip
