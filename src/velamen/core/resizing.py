"""The whole design made larger or smaller, to a finished width."""

from __future__ import annotations

from velamen.core.building import build_job
from velamen.core.errors import BadInput
from velamen.core.job import Job, Shape, change

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
    """The job with every shape scaled about the field's centre."""
    shapes = [
        Shape(shape.id, shape.name, [[(round(x * factor, 4), round(y * factor, 4)) for x, y in ring]
                                     for ring in shape.rings])
        for shape in job.shapes
    ]  # fmt: skip
    return change(job, shapes=shapes)  # type: ignore[no-any-return]
