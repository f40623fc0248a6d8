"""The border of a patch, and the proof that it hides the edge of its cloth."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Place
from velamen.core.constructions.base import Sewn, Work
from velamen.core.constructions.edge import satin_values, sides
from velamen.core.constructions.hidden_edge import edge_proof, fixes_of, hiding, shown
from velamen.core.constructions.patch.settings import SETTINGS
from velamen.core.constructions.plain import BORDER
from velamen.core.proofs.edge_cover import CUT_ERROR, TRIM_ERROR, EdgeCover, prove_edge_cover
from velamen.core.proofs.proved import Fix, Proved
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.entering import loops_entered
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.rope import ropes
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

ERRORS = {"film": CUT_ERROR, "trimmed": TRIM_ERROR, "direct": CUT_ERROR}  # mm that the cloth may be cut off, by way


def border(work: Work, values: Values) -> list[Pass]:
    """The border, sewn last."""
    width = number(values, "patch_width")
    label = "overedge" if choice(values, "patch_edge") == "overedge" else "satin"
    start, end = ends(work, values)
    strands = loops_entered(_strands(work, values, end or start), work.region, 0.0, start, end)
    return [Pass(BORDER, f"Border, {label} {width:.1f}", work.thread, work.piece, tuple(strands))]


def ends(work: Work, values: Values) -> tuple[Place | None, Place | None]:
    """Where the border begins and ends, mm; None on its calmest stretch."""
    if work.start or work.end or choice(values, "patch_start") == "calm":
        return work.start, work.end
    left, top, right, bottom = work.region.bounds
    line = shapely.LineString([((left + right) / 2, top - 1.0), ((left + right) / 2, bottom + 1.0)])
    met = shapely.get_coordinates(shapely.intersection(line, work.region.boundary))
    lowest = met[np.argmax(met[:, 1])] if len(met) else (line.centroid.x, bottom)
    return (float(lowest[0]), float(lowest[1])), None


def _strands(work: Work, values: Values, start: Place | None) -> list[Strand]:
    outside, inside = sides(values, "patch")
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
    fixes = () if proof.held else _fixes(sewn.work, sewn.values, proof)
    return shown(proof, sewn.work.piece, sewn.work.name, fixes)


EDGE_COVER = edge_proof(edge_cover)


def _proved(work: Work, values: Values, strands: list[Strand]) -> EdgeCover:
    outside, inside = sides(values, "patch")
    extra, pull = number(values, "patch_pull"), float(values["patch_pull"].matched)
    lines = [one.xy[np.isin(one.role, [CODE[BORDER]])] for one in strands]
    error = ERRORS[choice(values, "patch_way")]
    return prove_edge_cover(work.region, lines, error, pull, outside + extra, inside + extra)


def _fixes(work: Work, values: Values, proof: EdgeCover) -> tuple[Fix, ...]:
    """Ways to hide more of the edge."""

    def proved(changed: Values) -> EdgeCover:
        return _proved(work, changed, _strands(work, changed, ends(work, changed)[0]))

    return fixes_of(hiding("patch", values, proof), SETTINGS, values, proof, proved)
