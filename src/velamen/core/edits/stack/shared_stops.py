"""Stops shared: pieces of one cloth that lie apart laid, tacked and trimmed together, and taken apart again."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from velamen.core.building.build import Build, build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.plan.figures import figures_of
from velamen.core.plan.stitch_plan import plan_of
from velamen.core.timeline.order import Unit, merged, shared_order

APART = 4.0  # mm between cloths, so that neither the cover nor the scissors of one reach the other


@dataclass(frozen=True)
class Savings:
    """What sharing stops would save: stops, and seconds of hands and machine."""

    stops: int
    seconds: float


def savings(build: Build) -> Savings | None:
    """What sharing stops would save in a build; None where nothing is left to share."""
    units = _together(build)
    if units is None:
        return None
    after = figures_of(plan_of(merged([step for unit in units for step in unit.steps])))
    stops = build.figures.stops - after.stops
    return Savings(stops, round(build.figures.seconds - after.seconds, 1)) if stops > 0 else None


def shared(job: Job) -> Job:
    """The job with stops shared wherever pieces of one cloth allow it."""
    units = _together(build_job(job))
    if units is None:
        raise BadInput("No two pieces of one cloth lie apart: there is no stop to share.")
    return change(job, order=[unit.key for unit in units])  # type: ignore[no-any-return]


def taken_apart(job: Job) -> Job:
    """The job with every piece sewn by itself again, in the order of the stack."""
    return change(job, order=[])  # type: ignore[no-any-return]


def _together(build: Build) -> list[Unit] | None:
    outlines = {one.piece.id: one.outline for one in build.cut}
    cloths = {one.piece.id: one.piece.cloth for one in build.cut}

    def apart(one: str, other: str) -> bool:
        return float(shapely.distance(outlines[one], outlines[other])) > APART

    return shared_order(build.placed, build.units, cloths, apart)
