"""Ways to end a bare edge: values that hide it, each built and proved before it is offered."""

from __future__ import annotations

from dataclasses import dataclass

from shapely import Polygon

from velamen.core.constructions.base import Construction, Pass
from velamen.core.matching.value import Values, number, switch
from velamen.core.proofs.edge_cover import (
    CUT_ERROR,
    IN_HAND,
    TRIM_ERROR,
    EdgeCover,
    prove_edge_cover,
    wanted_width,
)
from velamen.core.proofs.finding import Finding
from velamen.core.stitching.border import satin_borders
from velamen.core.stitching.strand import CODE


@dataclass(frozen=True)
class Fix:
    """Values that would end a finding, and the share of edge hidden once they are set."""

    values: dict[str, float]
    label: str
    share: float


def prove_cover(region: Polygon, values: Values, covers: list[Pass]) -> EdgeCover:
    """The edge-cover proof of a piece with a satin cover."""
    lines = [part.xy[part.role == CODE["cover"]] for cover in covers for part in cover.strands]
    error = CUT_ERROR if switch(values, "precut") else TRIM_ERROR
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    extra, pull = number(values, "cover_pull"), float(values["cover_pull"].matched)
    return prove_edge_cover(region, lines, error, pull, width * share + extra, width * (1.0 - share) + extra)


def edge_fixes(kind: Construction, region: Polygon, values: Values, proof: EdgeCover) -> tuple[Fix, ...]:
    """Ways to hide more of the edge, those within bounds that do."""
    found = []
    for change, label in _tries(values, proof):
        bounds = [kind.setting(key) for key in change]
        if any(one is None or not one.low <= change[one.key] <= one.high for one in bounds):
            continue
        found.append(Fix(change, label, _share_with(region, values, change, proof)))
    return tuple(fix for fix in found if fix.share > proof.share)


def edge_finding(piece: str, name: str, proof: EdgeCover, fixes: tuple[Fix, ...]) -> Finding:
    """The finding of an edge that can show."""
    best = next((fix for fix in fixes if fix.share >= 0.9995), None)
    bare = sum(place.length for place in proof.bare)
    message = (
        f"{bare:.1f} mm of the edge of {name} can show after a trimming error of "
        f"{proof.error:g} mm and {proof.pull:g} mm pull"
    )
    message += f": {best.label} hides it." if best else "."
    at = tuple((place.x, place.y) for place in proof.bare)
    label = f"Set {best.label}" if best else ""
    return Finding("edge_bare", "warning", piece, message, at, dict(best.values) if best else {}, label)


def _tries(values: Values, proof: EdgeCover) -> list[tuple[dict[str, float], str]]:
    width, share = number(values, "cover_width"), number(values, "cover_share")
    extra, spacing = number(values, "cover_pull"), number(values, "cover_spacing")
    tried: list[tuple[dict[str, float], str]] = []
    matched = float(values["cover_spacing"].matched)
    close = {"cover_spacing": matched} if spacing > matched else {}
    if close:
        tried.append((close, f"spacing {matched:g}"))
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


def _share_with(region: Polygon, values: Values, change: dict[str, float], proof: EdgeCover) -> float:
    """Share of the edge hidden when some values are changed, by building and proving it."""
    get = {key: change.get(key, number(values, key)) for key in
           ("cover_width", "cover_share", "cover_spacing", "cover_pull")}  # fmt: skip
    share = get["cover_share"] / 100.0
    outside, inside, extra = get["cover_width"] * share, get["cover_width"] * (1.0 - share), get["cover_pull"]
    strands = satin_borders(region, "cover", outside, inside, get["cover_spacing"], extra, "none")
    lines = [part.xy[part.role == CODE["cover"]] for part in strands]
    return prove_edge_cover(region, lines, proof.error, proof.pull, outside + extra, inside + extra).share
