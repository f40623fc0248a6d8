"""A job built: every piece's values and passes, the plan they make, and its findings and proofs once asked for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.building.by_hand import over_passes
from velamen.core.building.following import sewn_area
from velamen.core.building.lace import is_lace, lace_findings, openings, rinse_of, table_under
from velamen.core.building.lost import Lost, setting_aside
from velamen.core.building.matched import Matched, PieceValues, matched_job, without
from velamen.core.building.progress import tell
from velamen.core.building.routes import BuiltRoute, routed_passes
from velamen.core.building.sealed import sealed_findings
from velamen.core.building.sewn import Passes, given_of, judged, known_from, sewn
from velamen.core.building.shadows import shadow_findings
from velamen.core.constructions.base import Fluff
from velamen.core.geometry.region import Area
from velamen.core.job.document import COPY, Job
from velamen.core.materials.hoops import field
from velamen.core.materials.library import Library
from velamen.core.memo import worked_out
from velamen.core.plan.figures import Figures, figures_of
from velamen.core.plan.repeat import Box, Grid, Spread, box_of, for_copies, kept_gap, repeated
from velamen.core.plan.section import Laid, Opened, Section, laid_rows, section
from velamen.core.plan.stitch_plan import Step, StitchPlan, plan_of
from velamen.core.proofs.access import Cloth, access_findings, opening_findings
from velamen.core.proofs.clearance import Clear, clearance_finding
from velamen.core.proofs.density import density_findings
from velamen.core.proofs.finding import Finding, order_finding
from velamen.core.proofs.lettering import letter_findings
from velamen.core.proofs.materials import Sight, job_findings
from velamen.core.proofs.repeat import repeat_findings
from velamen.core.proofs.rinse.proof import Rinse
from velamen.core.proofs.thread_ends import end_findings
from velamen.core.timeline.layers import Layer
from velamen.core.timeline.operation import Operation, Stop, When
from velamen.core.timeline.placed import Placed
from velamen.core.timeline.refusals import violations
from velamen.core.timeline.stops import together
from velamen.core.values.value import plain_values

SLIT = 0.7  # mm that a slit is drawn wide
SPARE = 1e-6  # of a repeat that need not be sewn for
MATCHED, SEWN = 0.2, 0.8  # shares of the work that are done then


@dataclass(frozen=True)
class Build:
    """A whole job built, on the materials it knows."""

    job: Job
    library: Library
    pieces: tuple[BuiltPiece, ...]  # in stack order
    plan: StitchPlan
    placed: tuple[Placed, ...]  # what the order depends on
    operations: tuple[Operation, ...]  # in order, the brief's before and after all others
    steps: tuple[Operation | Stop, ...]  # the same, hand operations as stops
    passes: Passes  # of operations, those of a route with the first one of it
    layers: Mapping[str, tuple[Layer, ...]]  # lying there before each operation, by its key
    routes: tuple[BuiltRoute, ...] = ()
    lost: tuple[Lost, ...] = ()  # pieces that cannot be built
    spread: Grid | None = None  # the copies that its plan and steps have

    def plan_in(self, operations: Sequence[Operation]) -> StitchPlan:
        """The plan of the same operations in another order."""
        return plan_of(_plan_steps(together(operations), self.passes))

    @worked_out
    def grid(self) -> Grid | None:
        """The copies in the hoop, None where the design is sewn once."""
        repeat = self.job.repeat
        if repeat is None or repeat.columns * repeat.rows < 2:
            return None
        return Grid(repeat.columns, repeat.rows, kept_gap(self.box, repeat.gap), self.box, repeat.turned)

    @worked_out
    def box(self) -> Box:
        """The box of all that is sewn and cut, mm."""
        left, top, right, bottom = box_of(_plan_steps(self.steps, self.passes))
        cuts = [one.cut.region.bounds for one in self.operations if one.cut]
        sides = np.array([(left, top, right, bottom), *cuts])
        return (*sides[:, :2].min(axis=0).tolist(), *sides[:, 2:].max(axis=0).tolist())

    @worked_out
    def hooping(self) -> StitchPlan:
        """What the machine sews: the plan, of every copy in the hoop."""
        if self.grid is None or self.job.repeat is None:
            return self.plan
        return self.hooping_of(self.grid.copies)

    def hooping_of(self, copies: int) -> StitchPlan:
        """What the machine sews in a hooping with only the first so many copies."""
        if self.grid is None or self.job.repeat is None:
            return self.plan
        steps = _plan_steps(self.steps, self.passes)
        return plan_of(repeated(steps, self.grid, self.job.repeat.order, copies))

    @worked_out
    def hooped(self) -> Build:
        """This build with every copy in the hoop, to be drawn and cut through; itself where there is one alone."""
        if self.grid is None:
            return self
        spread = Spread(self.grid)
        hooped = [one for one in self.steps if isinstance(one, Operation) and one.when is When.BEFORE]
        before = [spread.stop(one) for one in self.before_sewing]
        return replace(self, plan=self.hooping, steps=(*hooped, *before, *(halt.step for halt in self.hooping.stops)),
                       spread=self.grid)  # fmt: skip

    @worked_out
    def laid(self) -> list[Laid]:
        """When each layer lies, by the rows of the plan, what is slit out of the hoop at its end."""
        return laid_rows(
            self.steps, self.plan, {piece: self._opened(piece, one.slits) for piece, one in self.fluff.items()}
        )

    @worked_out
    def fluff(self) -> dict[str, Fluff]:
        """What becomes of layers that are slit once all is sewn, by the id of their piece."""
        found = {one.piece.id: one.kind.fluffed(one.work, one.values, one.sewn) for one in self.pieces
                 if one.kind.fluffed}  # fmt: skip
        return {piece: fluff for piece, fluff in found.items() if fluff.slits}

    @worked_out
    def repeat_length(self) -> float:
        """mm of a strip that one copy makes, what it overlaps the next by left out."""
        left, _, right, _ = self.box if self.grid is None else self.grid.one
        return max(right - left + (0.0 if self.grid is None else self.grid.gap), 1.0)

    @property
    def wanted(self) -> int:
        """Pieces that are to be sewn altogether, as many as a strip takes where one is; 0 where nobody has said."""
        strip = self.job.strip
        if strip is None or not self.plan.sewn.any():
            return self.job.wanted
        return ceil(strip.length * strip.fullness / self.repeat_length - SPARE)

    @property
    def followed(self) -> StitchPlan:
        """The plan by which a person follows the machine: of one copy, where each is finished before the next."""
        by_copy = self.job.repeat is not None and self.job.repeat.order == COPY
        return self.plan if by_copy else self.hooping

    @worked_out
    def hooping_figures(self) -> Figures:
        """Counts, size and time of all that the machine sews."""
        return figures_of(self.hooping)

    @worked_out
    def figures(self) -> Figures:
        """Counts, size and time."""
        return figures_of(self.plan)

    @worked_out
    def findings(self) -> tuple[Finding, ...]:
        """Findings of all pieces, of the materials and of the plan; worked out when first asked for."""
        found = [one.finding for one in self.lost]
        found += [finding for built in self.pieces for finding in built.findings]
        sights = [Sight(one.piece.id, one.piece.name, one.values) for one in self.pieces]
        found += job_findings(self.job.brief, self.library, self.plan, self.operations, sights)
        found += letter_findings(self.job)
        found += access_findings(self.plan, self.cloths)
        found += opening_findings(self.plan, {one.piece.id: one.piece.name for one in self.pieces})
        found += density_findings(self.plan.xy[self.plan.sewn], self.job.brief, self.library)
        found += end_findings(self.plan)
        if self.rinse is not None:
            plan = self.plan if self.grid is None or self.grid.gap >= 0 else self.hooping
            found += lace_findings(self.rinse, plan, {one.piece.id: one.piece.name for one in self.pieces})
        found += self._crowded()
        found += sealed_findings(self.pieces, self.hosts)
        found += shadow_findings(self.pieces, self.hosts, self.library)
        found += repeat_findings(self.grid, field(self.library.hoops[self.job.brief.hoop]))
        regions = {one.piece.id: one.work.region for one in self.pieces}
        wrong = violations(self.placed, self.operations)
        return (*found, *(order_finding(one.operation.piece, one.why, regions[one.operation.piece]) for one in wrong))

    @worked_out
    def rinse(self) -> Rinse | None:
        """The rinse proof, of all copies where they overlap; None where it is no lace, or nothing is sewn."""
        if not self._lace:
            return None
        meant = openings([(one.kind.family, one.work) for one in self.pieces])
        if self.grid is None or self.grid.gap >= 0:
            return rinse_of(self.plan, meant)
        return rinse_of(self.hooping, None if meant is None else shapely.union_all(self.grid.laid(meant)))

    @property
    def table(self) -> str:
        """The colour of the table that it lies on once rinsed, "" where it is no lace."""
        colours = [self.library.threads[block.thread].colour for block in self.plan.blocks]
        return table_under(colours) if self._lace else ""

    @property
    def _lace(self) -> bool:
        return is_lace(self.job, self.library, len(self.cut)) and bool(self.plan.sewn.any())

    def clear_of(self, piece_id: str) -> Clear | None:
        """How far what decorates a piece may reach; None where it has no border."""
        built = self.piece(piece_id)
        if built is None or built.kind.clear is None:
            return None
        return Clear(piece_id, built.piece.name, *built.kind.clear(built.work, built.values))

    def guests_of(self, piece_id: str) -> list[tuple[str, Area]]:
        """Names and sewn areas of what decorates a piece."""
        return [(one.piece.name, sewn_area(one.piece, one.work.region, plain_values(one.values)))
                for one in self.pieces if self.host_of(one.piece.id) == piece_id and not one.work.region.is_empty
                ]  # fmt: skip

    def host_of(self, piece_id: str) -> str:
        """Id of the piece that one decorates, "" where it decorates none."""
        return self.hosts.get(piece_id, "")

    @worked_out
    def hosts(self) -> dict[str, str]:
        """For each piece the id of the one that it decorates, "" for none."""
        return {one.id: one.on for one in self.placed}

    def _opened(self, piece: str, lines: Sequence[Array]) -> Opened:
        """What hands make of a piece along its slits, in every copy that this build has."""
        built = self.piece(piece)
        assert built is not None
        slits = shapely.union_all([shapely.buffer(shapely.LineString(one), SLIT / 2) for one in lines])
        every = [shapely.union_all(self.spread.laid(one)) if self.spread else one
                 for one in (built.work.region, slits)]  # fmt: skip
        return Opened(every[0], every[1])

    def _crowded(self) -> list[Finding]:
        hosts = [self.clear_of(one) for one in dict.fromkeys(each.on for each in self.placed) if one]
        found = [clearance_finding(one, self.guests_of(one.piece)) for one in hosts if one is not None]
        return [one for one in found if one is not None]

    @property
    def cut(self) -> list[BuiltPiece]:
        """The pieces that lay something cut to an outline."""
        return [one for one in self.pieces if any(each.cut for each in one.operations)]

    @property
    def cloths(self) -> list[Cloth]:
        """What is cut, as the access proof sees it."""
        return [Cloth(one.piece.id, one.piece.name, one.outline, any(
            each.when is When.LATE and each.effects for each in one.operations)) for one in self.cut]  # fmt: skip

    def piece(self, piece_id: str) -> BuiltPiece | None:
        """A built piece by id."""
        return next((one for one in self.pieces if one.piece.id == piece_id), None)

    @worked_out
    def before_sewing(self) -> tuple[Stop, ...]:
        """What hands do while the hoop is made ready."""
        return tuple(one for one in self.steps if isinstance(one, Stop) and one.when is When.BEFORE)

    @worked_out
    def after_sewing(self) -> tuple[Stop, ...]:
        """What hands do out of the hoop, for every copy that was in it."""
        found = [one for one in self.steps if isinstance(one, Stop) and one.when is When.AFTER]
        return tuple(for_copies(one, self.grid.copies) if self.grid else one for one in found)


def build_job(job: Job) -> Build:
    """Builds every piece of a job and joins them into one plan. Unchanged pieces are kept."""
    matched = matched_job(job)
    lost: list[Lost] = []
    found: list[BuiltPiece] = []
    for nth, one in enumerate(matched.pieces):
        tell(MATCHED + (SEWN - MATCHED) * nth / len(matched.pieces), one.piece.name)
        with setting_aside(one.piece, lost):
            found.append(_built(one))
    tell(SEWN, "the plan")
    if lost:
        rest = build_job(without(job, [*matched.lost, *lost]))
        return replace(rest, job=job, lost=(*matched.lost, *lost, *rest.lost))
    pieces = tuple(found)
    passes = {key: each for one in pieces for key, each in one.passes.items()}
    routes = routed_passes(job, pieces, passes, matched.skeleton.operations)
    operations = _done(matched, pieces, passes)
    steps = together(operations)
    plan = plan_of(_plan_steps(steps, passes))
    placed = matched.skeleton.placed
    return Build(job, job.library, pieces, plan, placed, tuple(operations), tuple(steps), passes,
                 matched.skeleton.layers, tuple(routes), matched.lost)  # fmt: skip


def _plan_steps(steps: Sequence[Operation | Stop], passes: Passes) -> list[Step]:
    """What the machine does and stops for."""
    found: list[Step] = []
    for step in steps:
        if isinstance(step, Operation):
            found += [(step.key, one) for one in passes.get(step.key, ())]
        elif step.when not in (When.BEFORE, When.AFTER):
            found.append(step)
    return found


def _done(matched: Matched, pieces: Sequence[BuiltPiece], passes: Passes) -> list[Operation]:
    """Operations that are done: those of a route by its first one, and nothing is taken out that was never sewn."""
    sewn = {"", *(one.piece.id for one in pieces if any(each.strands for each in one.sewn))}
    done = [one for one in matched.skeleton.operations if one.fills is None or passes.get(one.key)]
    return [one for one in done if one.when is not When.AFTER or one.piece in sewn]


def section_of(
    build: Build, middle: tuple[float, float], angle: float, length: float, presses: Sequence[tuple[int, Area]] = ()
) -> Section:
    """The stack of a build cut through a place in mm at an angle in rad, over a length in mm; presses: as there."""
    return section(build.plan, build.laid, middle, angle, length, presses)


def _built(one: PieceValues) -> BuiltPiece:
    """A piece built, its passes in the threads that the person has chosen for them."""
    operations = one.framed.operations
    passes = sewn(given_of(one.piece, one.work, one.values, operations))
    threads = one.piece.threads
    if threads:
        passes = {key: tuple(replace(each, thread=threads.get(each.role, each.thread)) for each in found)
                  for key, found in passes.items()}  # fmt: skip
    passes, unfit = over_passes(one.piece, passes)
    return BuiltPiece(one.piece, one.work, one.values, operations, passes, unfit)


def take_up(build: Build) -> None:
    """Makes known what a build from elsewhere holds, so that an edit of it works out only what it touches."""
    for one in build.pieces:
        given = given_of(one.piece, one.work, one.values, one.operations)
        if not one.piece.threads and not one.piece.by_hand:
            known_from(one.passes, sewn, given)
        if (proved := vars(one).get("proved")) is not None:
            known_from(proved, judged, given)
