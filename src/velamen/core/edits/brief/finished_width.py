"""The whole design made larger or smaller, to a finished width."""

from __future__ import annotations

import numpy as np

from velamen.core.building.build import build_job
from velamen.core.edits.shapes.choosing import grown
from velamen.core.edits.shapes.live_shapes import carried, followed
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.job.shape import transformed

SMALLEST = 5.0  # mm
ROUNDS = 3
NEAR = 0.02  # mm


def resized(job: Job, width: float) -> Job:
    """The job with all shapes scaled about the field's centre so that it sews `width` mm wide.

    What is sewn beyond the outlines (cover, pull) keeps its width, so the outlines take up
    the whole difference.
    """
    if not job.shapes or not job.pieces:
        return job
    if width < SMALLEST:
        raise BadInput(f"A finished width of {width:g} mm is too small to sew: use {SMALLEST:g} mm or more.")
    for _ in range(ROUNDS):
        sewn = build_job(job).figures.width
        if abs(sewn - width) <= NEAR:
            break
        outlines = outline_width(job)
        beyond = sewn - outlines
        if width - beyond <= 0.1 * outlines:
            raise BadInput(f"{width:g} mm is too narrow: {beyond:.1f} mm of it is sewn beyond the outlines.")
        job = scaled(job, (width - beyond) / outlines)
    return job


def outline_width(job: Job) -> float:
    """Width in mm of all outlines together."""
    xs = [x for shape in job.shapes for x, _ in shape.rings[0]]
    return max(xs) - min(xs)


def scaled(job: Job, factor: float) -> Job:
    """The job with every shape scaled about the field's centre, what grows with pieces with them; a die refuses."""
    cut = next((shape for shape in job.shapes if shape.die), None)
    if cut is not None:
        raise BadInput(f"{cut.name!r} is cut with a die, so the design keeps its size: free it from the die first.")
    matrix, ids = np.eye(2) * factor, [shape.id for shape in job.shapes]
    job = change(job, shapes=[transformed(shape, matrix, np.zeros(2)) for shape in job.shapes])
    return followed(carried(grown(job, ids, factor), ids, matrix, np.zeros(2)))
