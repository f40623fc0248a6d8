"""A job built: every piece's values, passes, findings and proof, and the plan they make."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import msgspec
import shapely
from shapely import Polygon

from velamen.core.constructions import construction
from velamen.core.constructions.base import Pass, Step, Work
from velamen.core.errors import BadInput
from velamen.core.figures.counts import Figures, figures_of
from velamen.core.geometry.region import region_from_rings
from velamen.core.job import Brief, Job, Piece, Plain, Shape
from velamen.core.matching.engine import match
from velamen.core.matching.settings import Values, number, switch
from velamen.core.materials.library import bases, cloths, hoops, pick, stabilizers, threads, toppings
from velamen.core.proofs.edge_cover import (
    CUT_ERROR,
    IN_HAND,
    TRIM_ERROR,
    EdgeCover,
    prove_edge_cover,
    wanted_width,
)
from velamen.core.proofs.finding import Finding, field_findings, piece_findings
from velamen.core.sequencing.plan import StitchPlan, plan_of
from velamen.core.stitching.border import sampled, satin_borders
from velamen.core.stitching.strand import CODE

CLOTH_PULL = 0.15  # mm per side of an appliqué cotton, a light woven


@dataclass(frozen=True)
class Fix:
    """Values that would end a finding, and the share of edge hidden once they are set."""

    values: dict[str, float]
    label: str
    share: float


@dataclass(frozen=True)
class BuiltPiece:
    """One piece built. fixes: for its edge cover, each checked by building it."""

    piece: Piece
    work: Work
    values: Values
    steps: tuple[Step, ...]
    findings: tuple[Finding, ...]
    edge_cover: EdgeCover
    fixes: tuple[Fix, ...]


@dataclass(frozen=True)
class Build:
    """A whole job built."""

    job: Job
    pieces: tuple[BuiltPiece, ...]
    plan: StitchPlan
    figures: Figures
    findings: tuple[Finding, ...]

    def piece(self, piece_id: str) -> BuiltPiece | None:
        """A built piece by id."""
        return next((one for one in self.pieces if one.piece.id == piece_id), None)


def build_job(job: Job) -> Build:
    """Builds every piece of a job and joins them into one plan. Unchanged pieces are kept."""
    shapes = {shape.id: shape for shape in job.shapes}
    pieces = tuple(
        _build_piece(msgspec.json.encode(piece), msgspec.json.encode(shapes[piece.shape]), job.brief)
        for piece in job.pieces
    )
    plan = plan_of([step for built in pieces for step in built.steps])
    findings = [finding for built in pieces for finding in built.findings]
    findings += field_findings(plan.xy[plan.sewn], hoops()[job.brief.hoop])
    return Build(job, pieces, plan, figures_of(plan), tuple(findings))


def brief_traits(brief: Brief) -> dict[str, Plain]:
    """Traits of the brief that rules may ask for."""
    base = bases()[brief.base]
    return {
        "base": base.key,
        "base_name": base.name.lower(),
        "pile": base.pile,
        "stretch": base.stretch,
        "pull": base.pull,
        "worse_pull": max(base.pull, CLOTH_PULL),
        "satin_spacing": base.satin_spacing,
        "stabilizer": brief.stabilizer,
        "stabilizer_removal": stabilizers()[brief.stabilizer].removal,
        "stabilizer_layers": float(brief.stabilizer_layers),
        "topping": toppings()[brief.topping].key,
    }


def values_of(piece: Piece, brief: Brief) -> Values:
    """Matched and own values of one piece."""
    kind = construction(piece.construct)
    unknown = next((key for key in piece.own if kind.setting(key) is None), None)
    if unknown is not None:
        raise BadInput(f"Piece {piece.name!r} has a value {unknown!r} that {kind.title} does not know.")
    traits = {**brief_traits(brief), "construct": piece.construct}
    return match(kind.settings, traits, piece.own, kind.derive)


@lru_cache(maxsize=512)
def _build_piece(piece_json: bytes, shape_json: bytes, brief: Brief) -> BuiltPiece:
    piece = msgspec.json.decode(piece_json, type=Piece)
    shape = msgspec.json.decode(shape_json, type=Shape)
    cloth = pick(cloths(), piece.cloth, "cloth")
    pick(threads(), piece.thread, "thread")
    work = Work(piece.id, piece.name, _region(shape), cloth.key, cloth.name.lower(), piece.thread)
    values = values_of(piece, brief)
    steps = tuple(construction(piece.construct).steps(work, values))
    covers = [step for step in steps if isinstance(step, Pass) and step.role == "cover"]
    proof = _prove(work.region, values, covers, brief)
    found = piece_findings(piece.id, piece.name, work.region, values)
    fixes: tuple[Fix, ...] = ()
    if not proof.held:
        fixes = _edge_fixes(work, values, brief, proof)
        found.append(_edge_finding(piece, proof, fixes))
    return BuiltPiece(piece, work, values, steps, tuple(found), proof, fixes)


def _region(shape: Shape) -> Polygon:
    region = region_from_rings([[list(point) for point in ring] for ring in shape.rings])
    if not region.is_valid:
        region = shapely.make_valid(region, method="structure", keep_collapsed=False)
        if region.geom_type != "Polygon":
            raise BadInput(f"Shape {shape.name!r} crosses itself: pull the crossing apart first.")
    if region.area < 0.5:
        raise BadInput(f"Shape {shape.name!r} encloses {region.area:.2f} mm²: too small to sew.")
    return region


def _reaches(values: Values) -> tuple[float, float]:
    """How far off and on the cloth the cover is sewn, pull compensation included, in mm."""
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    extra = number(values, "cover_pull")
    return width * share + extra, width * (1.0 - share) + extra


def _prove(region: Polygon, values: Values, covers: list[Pass], brief: Brief) -> EdgeCover:
    lines = [part.xy[part.role == CODE["cover"]] for cover in covers for part in cover.strands]
    error = CUT_ERROR if switch(values, "precut") else TRIM_ERROR
    pull = float(values["cover_pull"].matched)
    outside, inside = _reaches(values)
    return prove_edge_cover(region, lines, error, pull, outside, inside)


def _edge_fixes(work: Work, values: Values, brief: Brief, proof: EdgeCover) -> tuple[Fix, ...]:
    """Ways to hide the whole edge, each built and proved before it is offered."""
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
    kind = construction("applique")
    fixes = []
    for change, label in tried:
        bounds = [kind.setting(key) for key in change]
        if any(one is None or not one.low <= change[one.key] <= one.high for one in bounds):
            continue
        fixes.append(Fix(change, label, _share_with(work, values, change, proof)))
    return tuple(fix for fix in fixes if fix.share > proof.share)


def _share_with(work: Work, values: Values, change: dict[str, float], proof: EdgeCover) -> float:
    """Share of the edge hidden when some values are changed, by building and proving it."""
    get = {key: change.get(key, number(values, key)) for key in
           ("cover_width", "cover_share", "cover_spacing", "cover_pull")}  # fmt: skip
    share = get["cover_share"] / 100.0
    outside, inside, extra = get["cover_width"] * share, get["cover_width"] * (1.0 - share), get["cover_pull"]
    strands = satin_borders(work.region, "cover", outside, inside, get["cover_spacing"], extra, "none")
    lines = [part.xy[part.role == CODE["cover"]] for part in strands]
    return prove_edge_cover(work.region, lines, proof.error, proof.pull, outside + extra, inside + extra).share


def _edge_finding(piece: Piece, proof: EdgeCover, fixes: tuple[Fix, ...]) -> Finding:
    best = next((fix for fix in fixes if fix.share >= 0.9995), None)
    bare = sum(place.length for place in proof.bare)
    message = (
        f"{bare:.1f} mm of the edge of {piece.name} can show after a trimming error of "
        f"{proof.error:g} mm and {proof.pull:g} mm pull"
    )
    message += f": {best.label} hides it." if best else "."
    at = tuple((place.x, place.y) for place in proof.bare)
    return Finding("edge_bare", "warning", piece.id, message, at, dict(best.values) if best else {})


def forget() -> None:
    """Drops every kept piece, so that the next build computes all of it."""
    _build_piece.cache_clear()
    sampled.cache_clear()
