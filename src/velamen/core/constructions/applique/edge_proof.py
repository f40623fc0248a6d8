"""The edge of an appliqué proved: hidden by a satin, held by bites or a line; what would end a bare place."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from msgspec.structs import replace as replaced

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
from velamen.core.geometry.region import Area
from velamen.core.proofs.edge_cover import (
    CUT_ERROR,
    IN_HAND,
    TRIM_ERROR,
    EdgeCover,
    prove_edge_cover,
    prove_edge_held,
    wanted_width,
)
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Fix, Proof, Proved
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number, switch

CORNERS = 0.7  # mm deeper than straight stretches call for, since bites on the diagonal reach less far in
SURE = 0.7  # mm under later cloth, from which an edge counts as hidden by it
WHOLE = 0.9995  # of an edge, from which all of it counts as hidden


def edge_cover(sewn: Sewn) -> Proved | None:
    """The proof of a piece's edge; None where it is to have no cover."""
    work, values = sewn.work, sewn.values
    cloth = next(one.cut.region for one in sewn.operations if one.cut)
    strands = [part for one in sewn.passes if one.role in (COVER, RAW_EDGE) for part in one.strands]
    proof = prove_cover(cloth, values, strands, work.later)
    if proof is None:
        return None
    fixes = () if proof.held else edge_fixes(work, cloth, values, proof)
    findings = () if proof.held else (edge_finding(work.piece, work.name, proof, fixes),)
    return shown(proof, fixes, findings)


def shown(proof: EdgeCover, fixes: tuple[Fix, ...], findings: tuple[Finding, ...]) -> Proved:
    """The proof of an edge as it is told, with what would end a bare place."""
    word = "hidden" if proof.hides else "held"
    return Proved(
        proof.held, _told(proof), _row(proof), f"{100 * proof.share:.1f} % {word}", _about(proof),
        _fails(proof), "No width or share within bounds hides it: reshape the outline there.", proof.bare, fixes,
        findings, proof,
    )  # fmt: skip


def _told(proof: EdgeCover) -> str:
    if proof.held:
        return f"Edge cover held, {min(proof.spare_inside, proof.spare_outside):.1f} mm spare"
    count = len(proof.bare)
    return f"Edge can show in {count} place{'' if count == 1 else 's'}: {100 * proof.share:.1f} % hidden"


def _row(proof: EdgeCover) -> dict[str, object]:
    return {
        "share_hidden": round(proof.share, 4), "trim_error_mm": proof.error, "pull_mm": proof.pull,
        "spare_outside_mm": proof.spare_outside, "spare_inside_mm": proof.spare_inside,
        "bare": [{"at": [place.x, place.y], "length_mm": place.length} for place in proof.bare],
    }  # fmt: skip


def _about(proof: EdgeCover) -> str:
    text = f"Cut edge up to {proof.error:.1f} mm off, pull {proof.pull:.2f} mm a side."
    if proof.held:
        outside = f"{proof.spare_outside:.1f} mm outside, " if proof.hides else ""
        text += f" Spare {outside}{proof.spare_inside:.1f} mm inside."
    return text


def _fails(proof: EdgeCover) -> str:
    if proof.held:
        return ""
    bare, count = sum(place.length for place in proof.bare), len(proof.bare)
    fails = "show" if proof.hides else "come loose"
    return f"{bare:.1f} mm of edge can {fails} in {count} place{'' if count == 1 else 's'}."


EDGE_COVER = Proof(
    "edge_cover", "Edge cover", edge_cover, "held: every cut edge stays under thread", "a stretch that can show"
)


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
    """Ways to hide or hold more of the edge, those within bounds that do: each cover is sewn and proved."""
    found, known = [], {one.key: one for one in SETTINGS}
    for change, label in _tries(values, proof) if proof.hides else _deeper(values, proof):
        if any(not known[key].low <= wanted <= known[key].high for key, wanted in change.items()):
            continue
        changed = {**values, **{key: replaced(values[key], value=wanted) for key, wanted in change.items()}}
        sewn = cover_strands(work, changed, region)
        after = prove_cover(region, changed, sewn[1] if sewn else [], work.later)
        if after is not None and after.share > proof.share:
            found.append(Fix(change, label, after.share))
    return tuple(found)


def edge_finding(piece: str, name: str, proof: EdgeCover, fixes: tuple[Fix, ...]) -> Finding:
    """The finding of an edge that can show."""
    best = next((fix for fix in fixes if fix.share >= WHOLE), None)
    bare = sum(place.length for place in proof.bare)
    fails, ends = ("can show", "hides it") if proof.hides else ("can come loose", "holds it")
    message = (
        f"{bare:.1f} mm of the edge of {name} {fails} after a trimming error of "
        f"{proof.error:g} mm and {proof.pull:g} mm pull"
    )
    message += f": {best.label} {ends}." if best else "."
    at = tuple((place.x, place.y) for place in proof.bare)
    label = f"Set {best.label}" if best else ""
    return Finding("edge_bare", "warning", piece, message, at, dict(best.values) if best else {}, label,
                   proof="edge_cover")  # fmt: skip


def _tries(values: Values, proof: EdgeCover) -> list[tuple[dict[str, float], str]]:
    width, share = number(values, "cover_width"), number(values, "cover_share")
    extra, spacing = number(values, "cover_pull"), number(values, "cover_spacing")
    tried: list[tuple[dict[str, float], str]] = []
    matched = float(values["cover_spacing"].matched)
    close = {"cover_spacing": matched} if spacing > matched else {}
    if close:
        tried.append((close, f"spacing {matched:g}"))
    if extra < proof.pull:  # also between the sides of a mitre, which no width closes
        tried.append(({**close, "cover_pull": proof.pull}, f"pull {proof.pull:g} mm a side"))
    least = 100.0 * (proof.error + proof.pull - extra + IN_HAND) / width
    if least <= 50.0:
        fitting = float(round(min(max(share, least), 100.0 - least)))
        tried.append(({**close, "cover_share": fitting}, f"share outside {fitting:g} %"))
    wide = wanted_width(share, extra, proof.error, proof.pull)
    if wide > width:
        tried.append(({**close, "cover_width": wide}, f"width {wide:g} mm"))
    even = wanted_width(50.0, extra, proof.error, proof.pull)
    if even > width:
        tried.append(({**close, "cover_width": even, "cover_share": 50.0}, f"width {even:g} mm, half outside"))
    return tried


def _deeper(values: Values, proof: EdgeCover) -> list[tuple[dict[str, float], str]]:
    """A deeper bite or line where the one there is cannot catch what is cut too deep."""
    cover = choice(values, "cover_kind")
    key = {"raw": "cover_inset", "estitch": "cover_bite", "blanket": "cover_bite", "overedge": "cover_width"}[cover]
    wanted = round(number(values, key) - min(proof.spare_inside, 0.0) + CORNERS, 1)
    return [({key: wanted}, f"{values[key].setting.label.lower()} {wanted:g} mm")]
