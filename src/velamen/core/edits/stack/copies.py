"""Copies in the hoop: so many columns and rows, or as many as the sewing field holds; pieces wanted altogether."""

from __future__ import annotations

from shapely import Polygon

from velamen.core.building.build import build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import MOST_COPIES, Job, Repeat, Strip, change, check_repeat, check_strip, check_wanted
from velamen.core.materials.hoops import field
from velamen.core.plan.repeat import Box, Grid, fitting, kept_gap
from velamen.core.proofs.repeat import copies_inside

MARGIN = 2.0  # mm to the edge of the sewing field


def with_copies(job: Job, columns: int, rows: int, gap: float, order: str, turned: bool = False) -> Job:
    """The job with a repeat in the hoop, with none where that is one copy. Raises BadInput out of bounds."""
    repeat = Repeat(columns, rows, gap, order, turned)
    check_repeat(repeat)
    return change(job, repeat=repeat if columns * rows > 1 else None)


def with_wanted(job: Job, wanted: int) -> Job:
    """The job with the number of pieces that are to be sewn altogether. Raises BadInput out of bounds."""
    check_wanted(wanted)
    return change(job, wanted=wanted, strip=None)


def with_strip(job: Job, length: float, fullness: float) -> Job:
    """The job with a length to be sewn repeat after repeat. Raises BadInput out of bounds."""
    strip = Strip(length, fullness)
    check_strip(strip)
    planned: Job = change(job, wanted=0, strip=strip)
    check_wanted(build_job(planned).wanted)
    return planned


def filled(job: Job, gap: float, order: str) -> Job:
    """The job with as many copies as its hoop holds, turned by 90 degrees where more fit so.

    Raises BadInput where it holds not even one.
    """
    check_repeat(Repeat(1, 1, gap, order))
    build = build_job(job)
    hoop = job.library.hoops[job.brief.hoop]
    if not len(build.plan.blocks):
        raise BadInput("Nothing is sewn yet that could be repeated.")
    kept = kept_gap(build.box, gap)
    found = [one for turned in (False, True) if (one := _most(build.box, kept, field(hoop), turned)) is not None]
    if not found:
        raise BadInput(f"The {hoop.name} sewing field holds no copy of the design: take a larger hoop on the Brief.")
    best = max(found, key=lambda grid: grid.copies)  # the first of those that hold as many
    return with_copies(job, best.columns, best.rows, gap, order, best.turned)


def _most(box: Box, gap: float, within: Polygon, turned: bool) -> Grid | None:
    """The most copies of a box of which none leaves a field, the squarest of them; None where not one fits."""
    one = Grid(1, 1, gap, box, turned).one
    most = [min(count, MOST_COPIES) for count in fitting(one, gap, MARGIN, within.bounds)]
    # A round or curved field holds fewer than its box.
    grids = [Grid(columns, rows, gap, box, turned) for columns in range(1, most[0] + 1)
             for rows in range(1, most[1] + 1) if columns * rows <= MOST_COPIES]  # fmt: skip
    grids.sort(key=lambda grid: (-grid.copies, abs(grid.columns - grid.rows)))
    return next((grid for grid in grids if copies_inside(grid, within)), None)
