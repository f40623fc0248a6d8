"""The satin over the cut edge of an opening, and the proof that it hides and catches that edge."""

from __future__ import annotations

import numpy as np

from velamen.core.constructions.base import Sewn, Work, pass_of
from velamen.core.constructions.cutwork.settings import SETTINGS
from velamen.core.constructions.edge import satin_values, sides
from velamen.core.constructions.hidden_edge import edge_proof, fixes_of, hiding, shown
from velamen.core.constructions.plain import BORDER
from velamen.core.geometry.region import polygons_of
from velamen.core.proofs.edge_cover import TRIM_ERROR, EdgeCover, prove_edge_cover
from velamen.core.proofs.proved import Fix, Proved
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number


def edge(work: Work, values: Values) -> list[Pass]:
    """The edge, sewn last."""
    return pass_of(work, BORDER, f"Edge, satin {number(values, 'cut_width'):.1f}", _strands(work, values))


def _strands(work: Work, values: Values) -> list[Strand]:
    on, off = sides(values, "cut")  # its share outside the opening lies on the cloth
    sewing = SatinSewing(on, off, *satin_values(values, "cut"), choice(values, "cut_corner"))
    return satin_borders(work.region, BORDER, sewing, work.start)


def edge_cover(sewn: Sewn) -> Proved | None:
    """The proof that the satin hides the cut edge."""
    strands = [part for one in sewn.passes if one.role == BORDER for part in one.strands]
    if not strands:
        return None
    proof = _proved(sewn.work, sewn.values, strands)
    return shown(proof, sewn.work.piece, sewn.work.name, () if proof.held else _fixes(sewn.work, sewn.values, proof))


EDGE_COVER = edge_proof(edge_cover)


def _proved(work: Work, values: Values, strands: list[Strand]) -> EdgeCover:
    """Of all openings of a piece at once."""
    on, off = sides(values, "cut")
    extra, pull = number(values, "cut_pull"), float(values["cut_pull"].matched)
    lines = [one.xy[np.isin(one.role, [CODE[BORDER]])] for one in strands]
    proofs = [prove_edge_cover(part, lines, TRIM_ERROR, pull, on + extra, off + extra)
              for part in polygons_of(work.region)]  # fmt: skip
    lengths = np.array([part.length for part in polygons_of(work.region)])
    share = float(np.average([one.share for one in proofs], weights=lengths))
    bare = tuple(spot for one in proofs for spot in one.bare)
    return EdgeCover(share, bare, proofs[0].spare_outside, proofs[0].spare_inside, TRIM_ERROR, pull)


def _fixes(work: Work, values: Values, proof: EdgeCover) -> tuple[Fix, ...]:
    """Ways to hide more of the edge."""

    def proved(changed: Values) -> EdgeCover:
        return _proved(work, changed, _strands(work, changed))

    return fixes_of(hiding("cut", values, proof), SETTINGS, values, proof, proved)
