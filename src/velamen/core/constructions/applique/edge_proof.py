"""The edge of an appliqué proved: hidden by a satin, held by bites or a line; what would end a bare place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from velamen.core.constructions.applique.cover import (
    COVER,
    OFF,
    RAW_EDGE,
    RUN_INSET,
    cover_strands,
    falls_back,
    sides,
)
from velamen.core.constructions.applique.settings import SETTINGS
from velamen.core.constructions.base import Sewn, Work
from velamen.core.constructions.hidden_edge import edge_proof, fixes_of, hiding, shown
from velamen.core.geometry.region import Area
from velamen.core.proofs.edge_cover import (
    CUT_ERROR,
    TRIM_ERROR,
    EdgeCover,
    prove_edge_cover,
    prove_edge_held,
)
from velamen.core.proofs.proved import Fix, Proved
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number, switch

CORNERS = 0.7  # mm deeper than straight stretches call for, since bites on the diagonal reach less far in
SURE = 0.7  # mm under later cloth, from which an edge counts as hidden by it


def edge_cover(sewn: Sewn) -> Proved | None:
    """The proof of a piece's edge; None where it is to have no cover."""
    work, values = sewn.work, sewn.values
    cloth = next(one.cut.region for one in sewn.operations if one.cut)
    strands = [part for one in sewn.passes if one.role in (COVER, RAW_EDGE) for part in one.strands]
    proof = prove_cover(cloth, values, strands, work.later)
    if proof is None:
        return None
    return shown(proof, work.piece, work.name, () if proof.held else edge_fixes(work, cloth, values, proof))


EDGE_COVER = edge_proof(edge_cover)


def prove_cover(region: Area, values: Values, cover: Sequence[Strand], later: Area | None) -> EdgeCover | None:
    """The proof of a piece's edge by the strands of its cover; None where it is to have none.

    later: cloth laid later, which hides what lies well under it.
    """
    kind = choice(values, "cover_kind")
    if kind == "none":
        return None
    error = CUT_ERROR if switch(values, "precut") else TRIM_ERROR
    pull = float(values["cover_pull"].matched)
    hidden = None if later is None else shapely.buffer(later, -SURE)  # even when it is itself cut a little too deep
    lines = [part.xy[np.isin(part.role, [CODE[COVER], CODE[RAW_EDGE]])] for part in cover]
    if kind == "satin":
        outside, inside = sides(values)
        return prove_edge_cover(region, lines, error, pull, outside, inside, hidden)
    inside, apart = _catch(values)
    return prove_edge_held(region, lines, error, pull if kind != "raw" else 0.0, inside, apart, hidden)


def _catch(values: Values) -> tuple[float, float]:
    """How far a cover that holds reaches onto the cloth, and how far along the edge it may leave off, mm."""
    kind = choice(values, "cover_kind")
    if kind == "raw":
        return number(values, "cover_inset"), number(values, "cover_length")
    if kind == "overedge":
        inside = number(values, "cover_width") * (1.0 - number(values, "cover_share") / 100.0)
        return inside, 2.0 * number(values, "cover_slant") + number(values, "cover_width")
    if falls_back(values):
        return min(RUN_INSET, number(values, "cover_bite")), 2.5
    return number(values, "cover_bite") - OFF, number(values, "cover_step")


def edge_fixes(work: Work, region: Area, values: Values, proof: EdgeCover) -> tuple[Fix, ...]:
    """Ways to hide or hold more of the edge."""

    def prove(changed: Values) -> EdgeCover | None:
        sewn = cover_strands(work, changed, region)
        return prove_cover(region, changed, sewn[1] if sewn else [], work.later)

    tries = hiding("cover", values, proof) if proof.hides else _deeper(values, proof)
    return fixes_of(tries, SETTINGS, values, proof, prove)


def _deeper(values: Values, proof: EdgeCover) -> list[tuple[dict[str, float], str]]:
    """A deeper bite or line where the one there is cannot catch what is cut too deep."""
    cover = choice(values, "cover_kind")
    key = {"raw": "cover_inset", "estitch": "cover_bite", "blanket": "cover_bite", "overedge": "cover_width"}[cover]
    wanted = round(number(values, key) - min(proof.spare_inside, 0.0) + CORNERS, 1)
    return [({key: wanted}, f"{values[key].setting.label.lower()} {wanted:g} mm")]
