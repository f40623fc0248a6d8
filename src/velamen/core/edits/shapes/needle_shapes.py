"""Shapes that are the outline of needle points: made, and following when those change."""

from __future__ import annotations

import shapely

from velamen.core.arrays import Array
from velamen.core.edits.shapes.bring_in import free_name, with_region
from velamen.core.geometry.region import boundaries
from velamen.core.geometry.sewn_outline import outline_round
from velamen.core.job.document import Job, Piece, change
from velamen.core.job.needles import Needles, Strands, needles_key, needles_of, strands_of
from velamen.core.job.shape import AS_IT_IS, Frame, Shape, in_frame, reshaped


def with_needle_piece(job: Job, name: str, strands: Strands, shift: Array, like: Piece) -> Job:
    """The job with needle points more, moved by mm (2,), as a piece like another on top of the stack."""
    needles = needles_of(strands)
    key = needles_key(needles)
    x, y = (float(one) for one in shift)
    placed: Frame = (*AS_IT_IS[:4], x, y)
    region = shapely.transform(outline_round(strands_of(needles).xy, strands.counts), lambda xy: in_frame(xy, placed))
    job = with_region(job, free_name(job, name), region, like=like)
    shapes = [*job.shapes[:-1], change(job.shapes[-1], needles=key, placed=placed)]
    return change(job, shapes=shapes, needles={**job.needles, key: needles})


def with_other_needles(job: Job, shape: Shape, strands: Strands) -> Job:
    """The job with other needle points in the place of those of a shape, in the frame that these have."""
    needles = needles_of(strands)
    key = needles_key(needles)
    if key == shape.needles:
        return job
    region = shapely.transform(outline_round(strands.xy, strands.counts), lambda xy: in_frame(xy, shape.placed))
    new = change(reshaped(shape, boundaries(region)), needles=key, placed=shape.placed)
    shapes = [new if one.id == shape.id else one for one in job.shapes]
    return change(job, shapes=shapes, needles={**job.needles, key: needles})


def needle_strands(job: Job, shape: Shape) -> Strands:
    """The needle points of a shape, as they are kept."""
    known: Needles = job.needles[shape.needles]
    return strands_of(known)
