"""A job built: every piece's values, passes, findings and proof, and the plan they make."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import msgspec

from velamen.core.constructions import construction
from velamen.core.constructions.base import HandStep, Pass, Step, Work
from velamen.core.figures.counts import Figures, figures_of
from velamen.core.figures.section import Section, laid_rows, section
from velamen.core.following import served, whole
from velamen.core.job import Job, Piece
from velamen.core.layering import Area, Layer
from velamen.core.matched import PieceValues, ground, matched_job
from velamen.core.matching.value import Values, plain_values
from velamen.core.materials.library import Library
from velamen.core.proofs.access import Cloth, access_findings
from velamen.core.proofs.density import density_findings
from velamen.core.proofs.edge_cover import EdgeCover
from velamen.core.proofs.edge_fixes import Fix, edge_finding, edge_fixes, prove_cover
from velamen.core.proofs.finding import Finding, nothing_sewn, order_finding, piece_findings
from velamen.core.proofs.lettering import letter_findings
from velamen.core.proofs.materials import job_findings
from velamen.core.proofs.standing import prove_standing, standing_finding
from velamen.core.proofs.thread_ends import end_findings
from velamen.core.same import FORGET, Same
from velamen.core.sequencing.order import COVERS, Placed, Unit, in_order, merged, violations
from velamen.core.sequencing.plan import StitchPlan, plan_of
from velamen.core.sequencing.routing import Routed, routable, route
from velamen.core.stitching.border import sampled


@dataclass(frozen=True)
class BuiltPiece:
    """One piece built.

    below: layers that lie there before it; outline: of its cloth as it is cut, or of its shape;
    edge_cover: None where it has no cut edge to hide;
    fixes: for its edge cover, each proved.
    """

    piece: Piece
    work: Work
    below: tuple[Layer, ...]
    outline: Area
    values: Values
    steps: tuple[Step, ...]
    findings: tuple[Finding, ...]
    edge_cover: EdgeCover | None
    fixes: tuple[Fix, ...]


@dataclass(frozen=True)
class BuiltRoute:
    """A route as built: the ids of its pieces in sewing order, and trims before and after."""

    pieces: tuple[str, ...]
    before: int
    after: int


@dataclass(frozen=True)
class Build:
    """A whole job built, on the materials it knows."""

    job: Job
    library: Library
    pieces: tuple[BuiltPiece, ...]
    plan: StitchPlan
    figures: Figures
    findings: tuple[Finding, ...]
    routes: tuple[BuiltRoute, ...] = ()
    placed: tuple[Placed, ...] = ()
    units: tuple[Unit, ...] = ()

    @property
    def cut(self) -> list[BuiltPiece]:
        """The pieces that lay a cloth of their own."""
        return [one for one in self.pieces if construction(one.piece.construct).lays]

    def piece(self, piece_id: str) -> BuiltPiece | None:
        """A built piece by id."""
        return next((one for one in self.pieces if one.piece.id == piece_id), None)


def build_job(job: Job) -> Build:
    """Builds every piece of a job and joins them into one plan. Unchanged pieces are kept."""
    library = job.library
    pieces = tuple(_built(one) for one in matched_job(job))
    steps_of, routes = _routes(job, pieces)
    placed = _placed(job, pieces)
    units = in_order(placed, steps_of, job.order)
    plan = plan_of(merged([step for unit in units for step in unit.steps]))
    findings = [finding for built in pieces for finding in built.findings]
    findings += job_findings(job, library, plan, [built.values for built in pieces])
    findings += letter_findings(job)
    findings += access_findings(plan, [_cloth(one) for one in pieces if construction(one.piece.construct).lays])
    findings += density_findings(plan.xy[plan.sewn], job.brief, library)
    findings += end_findings(plan)
    wrong = violations(placed, units)
    regions = {one.id: one.region for one in placed}
    findings += [order_finding(unit.piece, why, regions[unit.piece]) for unit, _, why in wrong]
    return Build(job, library, pieces, plan, figures_of(plan), tuple(findings), routes, placed, tuple(units))


def _cloth(built: BuiltPiece) -> Cloth:
    late = any(isinstance(step, HandStep) and step.late for step in built.steps)
    return Cloth(built.piece.id, built.piece.name, built.outline, late)


def _placed(job: Job, pieces: tuple[BuiltPiece, ...]) -> tuple[Placed, ...]:
    """What the order of steps depends on, of every piece."""
    sewn = [one.piece for one in pieces]
    found = []
    for one in pieces:
        kind = construction(one.piece.construct)
        serves = tuple(each.id for each in served(one.piece, sewn)) if not one.piece.shape else ()
        shadow = bool(one.values["shadow"].value) if "shadow" in one.values else False
        found.append(Placed(one.piece.id, one.piece.name, one.piece.construct, one.work.region, kind.lays,
                            kind.under, serves, one.piece.on, shadow))  # fmt: skip
    return tuple(found)


def _routes(job: Job, pieces: tuple[BuiltPiece, ...]) -> tuple[dict[str, tuple[Step, ...]], tuple[BuiltRoute, ...]]:
    """Steps of every piece by its id, those of a route all with its first piece."""
    steps_of = {built.piece.id: built.steps for built in pieces}
    routes = []
    for asked in job.routes:
        group = [built for built in pieces if built.piece.id in asked.pieces and routable(built.steps)]
        group = [built for built in group if built.steps and built.piece.thread == group[0].piece.thread]
        if len(group) < 2 or any(built.piece.id not in steps_of for built in group):
            continue
        found = _routed(tuple(_hashed(built) for built in group), asked.start, asked.end)
        first = group[0].piece.id
        for built in group:
            del steps_of[built.piece.id]
        steps_of[first] = tuple(step for steps in found.steps for step in steps)
        order = tuple(group[nth].piece.id for nth in found.order)
        routes.append(BuiltRoute(order, found.before, found.after))
    return steps_of, tuple(routes)


def _hashed(built: BuiltPiece) -> tuple[bytes, _Hashed]:
    return msgspec.json.encode(built.piece), _Hashed(built.work, built.values)


@lru_cache(maxsize=32)
def _routed(
    group: tuple[tuple[bytes, _Hashed], ...], start: tuple[float, float] | None, end: tuple[float, float] | None
) -> Routed:
    """A group of pieces, each with its work and values, as one route."""
    kinds = [construction(msgspec.json.decode(piece, type=Piece).construct) for piece, _ in group]

    def sew(nth: int, begin: tuple[float, float] | None, upto: tuple[float, float] | None) -> tuple[Step, ...]:
        piece, given = group[nth]
        if begin is None:
            return _sewn(piece, given)[0]
        return tuple(kinds[nth].steps(replace(given.work, start=begin, end=upto), given.values))

    covers = [kind.cover(given.work, given.values) for kind, (_, given) in zip(kinds, group, strict=True)]
    return route([given.work.region for _, given in group], covers, sew, start, end)


def section_of(build: Build, middle: tuple[float, float], angle: float, length: float) -> Section:
    """The stack of a build cut through a place in mm at an angle in rad, over a length in mm."""
    pieces = []
    for built in build.pieces:
        events = construction(built.piece.construct).events(built.work, plain_values(built.values))
        pieces.append((built.piece.id, events))
    laid = laid_rows(ground(build.job.brief, build.library), pieces, build.plan.stops)
    return section(build.plan, laid, middle, angle, length)


def _built(one: PieceValues) -> BuiltPiece:
    """A piece built; what is sewn depends on its outline and values alone."""
    work, values = one.work, one.values
    steps, findings, proof, fixes = _sewn(msgspec.json.encode(one.piece), _Hashed(work, values))
    outline = construction(one.piece.construct).cut(work, plain_values(values))
    if one.piece.threads:
        steps = tuple(
            replace(step, thread=one.piece.threads.get(step.role, step.thread)) if isinstance(step, Pass) else step
            for step in steps
        )
    return BuiltPiece(one.piece, work, one.below, outline, values, steps, findings, proof, fixes)


class _Hashed:
    """Work and values of a piece under a key that says all that its stitches depend on."""

    def __init__(self, work: Work, values: Values) -> None:
        self.work, self.values = work, values
        known = tuple((key, value.value, value.matched) for key, value in values.items())
        self.key = (*work.key(), known)

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Hashed) and self.key == other.key


@lru_cache(maxsize=512)
def _sewn(
    piece_json: bytes, given: _Hashed
) -> tuple[tuple[Step, ...], tuple[Finding, ...], EdgeCover | None, tuple[Fix, ...]]:
    piece = msgspec.json.decode(piece_json, type=Piece)
    work, values = given.work, given.values
    kind = construction(piece.construct)
    steps = tuple(kind.steps(work, values))
    if not any(isinstance(step, Pass) for step in steps):
        return steps, (nothing_sewn(piece.id, piece.name, kind.title, work.region),), None, ()
    if "standing" in kind.proofs:
        return steps, _standing(piece, work), None, ()
    if "edge_cover" not in kind.proofs:
        return steps, (), None, ()
    outline = kind.cut(work, plain_values(values))
    covers = [part for step in steps if isinstance(step, Pass) and step.role in COVERS for part in step.strands]
    proof = prove_cover(outline, values, covers, work.later)
    found = piece_findings(piece.id, piece.name, work.region, values)
    fixes: tuple[Fix, ...] = ()
    if proof is not None and not proof.held:
        fixes = edge_fixes(kind, work, outline, values, proof)
        found.append(edge_finding(piece.id, piece.name, proof, fixes))
    return steps, tuple(found), proof, fixes


def _standing(piece: Piece, work: Work) -> tuple[Finding, ...]:
    """The finding of an embossed motif some parts of which vanish in the pile."""
    proof = prove_standing(whole(tuple(Same(one) for one in work.sources)), work.pile)
    return () if proof.held else (standing_finding(piece.id, piece.name, proof, work.pile),)


def forget() -> None:
    """Drops every kept piece, so that the next build computes all of it."""
    _sewn.cache_clear()
    _routed.cache_clear()
    sampled.cache_clear()
    for forgotten in FORGET:
        forgotten()
