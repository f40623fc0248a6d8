"""A design brought inside the border of what it decorates: moved to its middle, or made smaller there."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from shapely import affinity

from velamen.core.building.build import Build
from velamen.core.edits.shapes.arranging import moved
from velamen.core.geometry.region import Area
from velamen.core.job.document import Job
from velamen.core.proofs.finding import Finding

LEAST, HALVINGS = 0.3, 14  # of its size; times the size is halved in on
STEP = 0.01  # of its size


def drawn_inside(build: Build, finding: Finding) -> Iterator[tuple[str, Job]]:
    """The design moved to the middle, where it fits there; else made as large as fits about that."""
    host = build.clear_of(finding.piece)
    guests = build.guests_of(finding.piece)
    if host is None or not guests:
        return
    room = shapely.buffer(host.within, -host.clearance)
    design = shapely.union_all([area for _, area in guests])
    if room.is_empty or design.is_empty:
        return
    inside = [one.piece for one in build.pieces if build.host_of(one.piece.id) == finding.piece]
    shapes = [one.shape for one in inside if one.shape]
    goal, here = _middle(room), _middle(design)
    if shapely.covers(room, affinity.translate(design, *(goal - here))):
        yield "Move the design to the middle", moved(build.job, shapes, np.eye(2), goal - here)
        return
    size = _largest(design, room, here, goal)
    if size >= LEAST:
        label = f"Make the design {100 * (1.0 - size):.0f} % smaller"
        yield label, moved(build.job, shapes, size * np.eye(2), goal - size * here)


def _middle(area: Area) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """The middle of an area's box."""
    left, top, right, bottom = area.bounds
    return np.array([(left + right) / 2, (top + bottom) / 2])


def _largest(design: Area, room: Area, here: np.ndarray, goal: np.ndarray) -> float:
    """The largest share of its size at which a design, its middle at a place, fits into a room."""
    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        size = (low + high) / 2
        sized = affinity.affine_transform(design, [size, 0, 0, size, *(goal - size * here)])
        low, high = (size, high) if shapely.covers(room, sized) else (low, size)
    return float(np.floor(low / STEP) * STEP)
