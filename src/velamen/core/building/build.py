"""A job built: every piece's values and passes, the plan they make, and its findings and proofs once asked for."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from threading import RLock

import msgspec

from velamen.core.building.following import served, whole
from velamen.core.building.matched import PieceValues, forget_values, ground, matched_job
from velamen.core.constructions import construction
from velamen.core.constructions.base import HandStep, Pass, Step, Work
from velamen.core.job.document import Job, Piece
from velamen.core.materials.library import Library
from velamen.core.memo import FORGET, Keyed, Same
from velamen.core.piece_proofs.edge_cover import EdgeCover
from velamen.core.piece_proofs.edge_fixes import Fix, edge_finding, edge_fixes, prove_cover
from velamen.core.piece_proofs.finding import Finding, nothing_sewn, order_finding, piece_findings
from velamen.core.piece_proofs.standing import prove_standing, standing_finding
from velamen.core.plan.figures import Figures, figures_of
from velamen.core.plan.routing import Routed, routable, route
from velamen.core.plan.section import Section, laid_rows, section
from velamen.core.plan.stitch_plan import StitchPlan, plan_of
from velamen.core.proofs.access import Cloth, access_findings
from velamen.core.proofs.density import density_findings
from velamen.core.proofs.lettering import letter_findings
from velamen.core.proofs.materials import job_findings
from velamen.core.proofs.thread_ends import end_findings
from velamen.core.stitching.border import sampled
from velamen.core.timeline.layers import Area, Layer
from velamen.core.timeline.order import COVERS, Placed, Unit, in_order, merged, violations
from velamen.core.values.value import Values, plain_values

# Areas that are kept are prepared to be asked of, which only one thread at a time may do.
ALONE = RLock()


@dataclass(frozen=True)
class BuiltPiece:
    """One piece built.

    below: layers that lie there before it; outline: of its cloth as it is cut, or of its shape.
    """

    piece: Piece
    work: Work
    below: tuple[Layer, ...]
    outline: Area
    values: Values
    steps: tuple[Step, ...]

    @cached_property
    def proved(self) -> Proved:
        """What its proofs find; worked out when first asked for."""
        with ALONE:
            return _proved(msgspec.json.encode(self.piece), _given(self.work, self.values))

    @property
    def findings(self) -> tuple[Finding, ...]:
        return self.proved.findings

    @property
    def edge_cover(self) -> EdgeCover | None:
        """None where it has no cut edge to hide."""
        return self.proved.edge_cover

    @property
    def fixes(self) -> tuple[Fix, ...]:
        """For its edge cover, each proved."""
        return self.proved.fixes


@dataclass(frozen=True)
class Proved:
    """What the proofs of one piece found."""

    findings: tuple[Finding, ...] = ()
    edge_cover: EdgeCover | None = None
    fixes: tuple[Fix, ...] = ()


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
    routes: tuple[BuiltRoute, ...] = ()
    placed: tuple[Placed, ...] = ()
    units: tuple[Unit, ...] = ()

    @cached_property
    def figures(self) -> Figures:
        """Counts, size and time."""
        return figures_of(self.plan)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """Findings of all pieces, of the materials and of the plan; worked out when first asked for."""
        with ALONE:
            return self._found()

    def _found(self) -> tuple[Finding, ...]:
        found = [finding for built in self.pieces for finding in built.findings]
        found += job_findings(self.job, self.library, self.plan, [built.values for built in self.pieces])
        found += letter_findings(self.job)
        found += access_findings(self.plan, [_cloth(one) for one in self.cut])
        found += density_findings(self.plan.xy[self.plan.sewn], self.job.brief, self.library)
        found += end_findings(self.plan)
        regions = {one.id: one.region for one in self.placed}
        wrong = violations(self.placed, self.units)
        return (*found, *(order_finding(unit.piece, why, regions[unit.piece]) for unit, _, why in wrong))

    @property
    def cut(self) -> list[BuiltPiece]:
        """The pieces that lay a cloth of their own."""
        return [one for one in self.pieces if construction(one.piece.construct).lays]

    def piece(self, piece_id: str) -> BuiltPiece | None:
        """A built piece by id."""
        return next((one for one in self.pieces if one.piece.id == piece_id), None)


def build_job(job: Job) -> Build:
    """Builds every piece of a job and joins them into one plan. Unchanged pieces are kept."""
    with ALONE:
        return _built_job(job)


def _built_job(job: Job) -> Build:
    library = job.library
    pieces = tuple(_built(one) for one in matched_job(job))
    steps_of, routes = _routes(job, pieces)
    placed = _placed(job, pieces)
    units = in_order(placed, steps_of, job.order)
    plan = plan_of(merged([step for unit in units for step in unit.steps]))
    return Build(job, library, pieces, plan, routes, placed, tuple(units))


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


def _hashed(built: BuiltPiece) -> tuple[bytes, Given]:
    return msgspec.json.encode(built.piece), _given(built.work, built.values)


@lru_cache(maxsize=32)
def _routed(
    group: tuple[tuple[bytes, Given], ...], start: tuple[float, float] | None, end: tuple[float, float] | None
) -> Routed:
    """A group of pieces, each with its work and values, as one route."""
    kinds = [construction(msgspec.json.decode(piece, type=Piece).construct) for piece, _ in group]

    def sew(nth: int, begin: tuple[float, float] | None, upto: tuple[float, float] | None) -> tuple[Step, ...]:
        piece, given = group[nth]
        work, values = given.it
        if begin is None and upto is None:
            return _sewn(piece, given)
        return tuple(kinds[nth].steps(replace(work, start=begin, end=upto), values))

    covers = [kind.cover(*given.it) for kind, (_, given) in zip(kinds, group, strict=True)]
    return route([given.it[0].region for _, given in group], covers, sew, start, end)


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
    steps = _sewn(msgspec.json.encode(one.piece), _given(work, values))
    outline = construction(one.piece.construct).cut(work, plain_values(values))
    if one.piece.threads:
        steps = tuple(
            replace(step, thread=one.piece.threads.get(step.role, step.thread)) if isinstance(step, Pass) else step
            for step in steps
        )
    return BuiltPiece(one.piece, work, one.below, outline, values, steps)


Given = Keyed[tuple[Work, Values]]


def _given(work: Work, values: Values) -> Given:
    """Work and values of a piece under a key that says all that its stitches depend on."""
    known = tuple((key, value.value, value.matched) for key, value in values.items())
    return Keyed((work, values), (*work.key(), known))


@lru_cache(maxsize=512)
def _sewn(piece_json: bytes, given: Given) -> tuple[Step, ...]:
    piece = msgspec.json.decode(piece_json, type=Piece)
    return tuple(construction(piece.construct).steps(*given.it))


@lru_cache(maxsize=512)
def _proved(piece_json: bytes, given: Given) -> Proved:
    piece, steps = msgspec.json.decode(piece_json, type=Piece), _sewn(piece_json, given)
    work, values = given.it
    kind = construction(piece.construct)
    if not any(isinstance(step, Pass) for step in steps):
        return Proved((nothing_sewn(piece.id, piece.name, kind.title, work.region),))
    if "standing" in kind.proofs:
        return Proved(_standing(piece, work))
    if "edge_cover" not in kind.proofs:
        return Proved()
    outline = kind.cut(work, plain_values(values))
    covers = [part for step in steps if isinstance(step, Pass) and step.role in COVERS for part in step.strands]
    proof = prove_cover(outline, values, covers, work.later)
    found = piece_findings(piece.id, piece.name, work.region, values)
    fixes: tuple[Fix, ...] = ()
    if proof is not None and not proof.held:
        fixes = edge_fixes(kind, work, outline, values, proof)
        found.append(edge_finding(piece.id, piece.name, proof, fixes))
    return Proved(tuple(found), proof, fixes)


def _standing(piece: Piece, work: Work) -> tuple[Finding, ...]:
    """The finding of an embossed motif some parts of which vanish in the pile."""
    proof = prove_standing(whole(tuple(Same(one) for one in work.sources)), work.pile)
    return () if proof.held else (standing_finding(piece.id, piece.name, proof, work.pile),)


def forget() -> None:
    """Drops every kept piece, so that the next build computes all of it."""
    _sewn.cache_clear()
    _proved.cache_clear()
    _routed.cache_clear()
    sampled.cache_clear()
    forget_values()
    for forgotten in FORGET:
        forgotten()
