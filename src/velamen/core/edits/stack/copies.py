"""Copies in the hoop: so many columns and rows, or as many as the sewing field holds."""

from __future__ import annotations

from velamen.core.building.build import build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import MOST_COPIES, Job, Repeat, change, check_repeat
from velamen.core.materials.hoops import field
from velamen.core.plan.repeat import fitting
from velamen.core.proofs.repeat import copies_inside

MARGIN = 2.0  # mm to the edge of the sewing field


def with_copies(job: Job, columns: int, rows: int, gap: float, order: str) -> Job:
    """The job with a repeat in the hoop, with none where that is one copy. Raises BadInput out of bounds."""
    repeat = Repeat(columns, rows, gap, order)
    check_repeat(repeat)
    return change(job, repeat=repeat if columns * rows > 1 else None)


def filled(job: Job, gap: float, order: str) -> Job:
    """The job with as many copies as its hoop holds. Raises BadInput where it holds not even one."""
    check_repeat(Repeat(1, 1, gap, order))
    build = build_job(job)
    hoop = job.library.hoops[job.brief.hoop]
    within = field(hoop)
    if not len(build.plan.blocks):
        raise BadInput("Nothing is sewn yet that could be repeated.")
    most = [min(count, MOST_COPIES) for count in fitting(build.box, gap, MARGIN, within.bounds)]
    # A round or curved field holds fewer than its box: the most copies of which none leaves it, the squarest of them.
    grids = [(columns, rows) for columns in range(1, most[0] + 1) for rows in range(1, most[1] + 1)
             if columns * rows <= MOST_COPIES]  # fmt: skip
    for columns, rows in sorted(grids, key=lambda grid: (-grid[0] * grid[1], abs(grid[0] - grid[1]))):
        if copies_inside(columns, rows, gap, build.box, within):
            return with_copies(job, columns, rows, gap, order)
    raise BadInput(f"The {hoop.name} sewing field holds no copy of the design: take a larger hoop on the Brief.")
