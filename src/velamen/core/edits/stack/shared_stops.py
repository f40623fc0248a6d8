"""Stops shared: pieces of one cloth that lie apart, or of one sheet of foam, done together, and taken apart again."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from velamen.core.building.build import Build, build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.plan.figures import figures_of
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.order import shared_order

APART = 4.0  # mm between cloths, so that neither the cover nor the scissors of one reach the other


@dataclass(frozen=True)
class Savings:
    """What sharing stops would save."""

    stops: int
    seconds: float  # of hands and machine


def savings(build: Build) -> Savings | None:
    """What sharing stops would save in a build; None where nothing is left to share."""
    operations = _together(build)
    if operations is None:
        return None
    after = figures_of(build.plan_in(operations))
    stops = build.figures.stops - after.stops
    return Savings(stops, round(build.figures.seconds - after.seconds, 1)) if stops > 0 else None


def shared(job: Job) -> Job:
    """The job with stops shared wherever pieces of one cloth or of one sheet allow it."""
    operations = _together(build_job(job))
    if operations is None:
        raise BadInput("No two pieces of one cloth lie apart, and none share a sheet: there is no stop to share.")
    return change(job, order=[one.key for one in operations if one.piece])


def taken_apart(job: Job) -> Job:
    """The job with every piece sewn by itself again, in the order of the stack."""
    return change(job, order=[])


def _together(build: Build) -> list[Operation] | None:
    outlines = {one.piece.id: one.outline for one in build.cut}
    sheets = {one.id for one in build.placed if any(each.share and each.share.sheet for each in one.operations)}

    def apart(one: str, other: str) -> bool:
        if one in sheets and other in sheets:
            return True  # one sheet lies over both, however near they are
        return (
            one in outlines and other in outlines and bool(shapely.distance(outlines[one], outlines[other]) > APART)
        )

    sharing = [one for one in build.placed if one.id in outlines or one.id in sheets]
    return shared_order(sharing, build.placed, build.operations, apart)
