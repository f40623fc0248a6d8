"""Basting that holds base, stabilizer and topping: a long run in a box round everything."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.constructions.base import Pass, Step
from velamen.core.geometry.region import clean_ring
from velamen.core.materials.hoops import field
from velamen.core.materials.records import Hoop
from velamen.core.stitching.run import run_round
from velamen.core.stitching.strand import CODE, Strand, join

LENGTH = 6.0  # mm (handbook, section 7: 4.5 to 10)
MARGIN = 5.0  # mm round everything (1 to 10)
INSIDE = 1.0  # mm it stays within the sewing field
LOCK = 0.5  # mm of the two tiny lock stitches at either end


def basting_box(steps: list[Step], hoop: Hoop) -> Pass | None:
    """Basting round all that is sewn, within the sewing field; None where it would have no room."""
    sewn = [part.xy for step in steps if isinstance(step, Pass) for part in step.strands]
    if not sewn:
        return None
    points = np.concatenate(sewn)
    low, high = points.min(axis=0) - MARGIN, points.max(axis=0) + MARGIN
    room = shapely.intersection(shapely.box(*low, *high), shapely.buffer(field(hoop), -INSIDE))
    if room.geom_type != "Polygon" or room.area < 4.0 * LENGTH**2:
        return None
    run = run_round(clean_ring(shapely.get_coordinates(room.exterior)), LENGTH, LENGTH)
    thread = next(step.thread for step in steps if isinstance(step, Pass))
    return Pass("basting", f"Basting, run {LENGTH:g}", thread, "", (_locked(run),))


def _locked(run: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> Strand:
    """A run with two tiny stitches to and fro at either end, easily pulled out."""
    ends = []
    for first, second in ((run[0], run[1]), (run[-1], run[-2])):
        way = second - first
        ends.append(np.stack([first, first + LOCK * way / np.linalg.norm(way), first]))
    tie, sew = CODE["tie"], CODE["basting"]
    return join([
        Strand(ends[0], np.full(3, tie, dtype=np.uint8)),
        Strand(run[1:], np.full(len(run) - 1, sew, dtype=np.uint8)),
        Strand(ends[1][1:], np.full(2, tie, dtype=np.uint8)),
    ])  # fmt: skip
