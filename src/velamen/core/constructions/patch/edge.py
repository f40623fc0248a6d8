"""The border of a patch, and the proof that it hides the edge of its cloth."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely
from msgspec.structs import replace as replaced

from velamen.core.arrays import Place
from velamen.core.constructions.applique.edge_proof import edge_finding, shown
from velamen.core.constructions.base import Sewn, Work
from velamen.core.constructions.edge import satin_values
from velamen.core.constructions.patch.settings import SETTINGS
from velamen.core.constructions.plain import BORDER
from velamen.core.proofs.edge_cover import CUT_ERROR, TRIM_ERROR, EdgeCover, prove_edge_cover, wanted_width
from velamen.core.proofs.proved import Fix, Proof, Proved
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.entering import loops_entered
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.rope import ropes
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

ERRORS = {"film": CUT_ERROR, "trimmed": TRIM_ERROR, "direct": CUT_ERROR}  # mm that the cloth may be cut off, by way


def sides(values: Values) -> tuple[float, float]:
    """How far the finished border lies off the cloth and on it, mm."""
    width, share = number(values, "patch_width"), number(values, "patch_share") / 100.0
    return width * share, width * (1.0 - share)


def border(work: Work, values: Values) -> list[Pass]:
    """The border, sewn last."""
    width = number(values, "patch_width")
    label = "overedge" if choice(values, "patch_edge") == "overedge" else "satin"
    strands = loops_entered(_strands(work, values, work.end or work.start), work.region, 0.0, work.start, work.end)
    return [Pass(BORDER, f"Border, {label} {width:.1f}", work.thread, work.piece, tuple(strands))]


def _strands(work: Work, values: Values, start: Place | None) -> list[Strand]:
    outside, inside = sides(values)
    if choice(values, "patch_edge") == "overedge":
        pull = number(values, "patch_pull")
        return [one for part in shapely.get_parts(work.region)
                for one in ropes(part, BORDER, outside + pull, inside + pull, start)]  # fmt: skip
    sewing = SatinSewing(outside, inside, *satin_values(values, "patch"), choice(values, "patch_corner"))
    return satin_borders(work.region, BORDER, sewing, start)


def edge_cover(sewn: Sewn) -> Proved | None:
    """The proof that the border hides the cut edge; None where no cloth ends under it."""
    cut = next((one.cut.region for one in sewn.operations if one.cut), None)
    strands = [part for one in sewn.passes if one.role == BORDER for part in one.strands]
    if cut is None or not strands:
        return None
    proof = _proved(sewn.work, sewn.values, strands)
    fixes = () if proof.held else tuple(_fixes(sewn.work, sewn.values, proof))
    return shown(proof, fixes, () if proof.held else (edge_finding(sewn.work.piece, sewn.work.name, proof, fixes),))


def _proved(work: Work, values: Values, strands: list[Strand]) -> EdgeCover:
    outside, inside = sides(values)
    extra, pull = number(values, "patch_pull"), float(values["patch_pull"].matched)
    lines = [one.xy[np.isin(one.role, [CODE[BORDER]])] for one in strands]
    error = ERRORS[choice(values, "patch_way")]
    return prove_edge_cover(work.region, lines, error, pull, outside + extra, inside + extra)


def _fixes(work: Work, values: Values, proof: EdgeCover) -> list[Fix]:
    """Ways within bounds that hide more of the edge: each border is sewn and proved."""
    known, found = {one.key: one for one in SETTINGS}, []
    for change, label in _tries(values, proof):
        if any(not known[key].low <= wanted <= known[key].high for key, wanted in change.items()):
            continue
        changed = {**values, **{key: replaced(values[key], value=wanted) for key, wanted in change.items()}}
        after = _proved(work, changed, _strands(work, changed, work.start))
        if after.share > proof.share:
            found.append(Fix(change, label, after.share))
    return found


def _tries(values: Values, proof: EdgeCover) -> list[tuple[Mapping[str, float], str]]:
    width, share, extra = (number(values, f"patch_{key}") for key in ("width", "share", "pull"))
    tried: list[tuple[Mapping[str, float], str]] = []
    if extra < proof.pull:
        tried.append(({"patch_pull": proof.pull}, f"pull {proof.pull:g} mm a side"))
    for wanted, to in ((share, {}), (50.0, {"patch_share": 50.0})):
        wide = wanted_width(wanted, extra, proof.error, proof.pull)
        if wide > width:
            tried.append(({"patch_width": wide, **to}, f"width {wide:g} mm" + (", half outside" if to else "")))
    return tried


EDGE_COVER = Proof(
    "edge_cover", "Edge cover", edge_cover, "held: every cut edge stays under thread", "a stretch that can show"
)
