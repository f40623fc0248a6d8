"""Guide lines of a shape on Build: one more laid across it, one bent, one taken away."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.constructions import construction
from velamen.core.edits.shapes.choosing import free_shapes, with_shapes
from velamen.core.edits.stack.makeup import wanted_piece
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Line, Shape, plain

GUIDE, MOST_POINTS = "guide", 400
POINTS = 25  # of a line that is laid, so that it bends softly


def guides_of(job: Job, piece_id: str) -> list[Array]:
    """The guide lines (n, 2) of a piece's shape."""
    return [np.array(one.points) for one in _shape(job, piece_id).lines if one.kind == GUIDE]


def guide_laid(job: Job, piece_id: str) -> Job:
    """The job with one guide line more on a piece's shape: across the middle of its longer side, or beside others."""
    piece, shape = wanted_piece(job, piece_id), _shape(job, piece_id)
    most, known = construction(piece.construct).guides, guides_of(job, piece_id)
    if len(known) >= most:
        raise BadInput(f"{piece.name} goes by {most} guide line{'s' if most > 1 else ''} at most: bend one of them.")
    left, top, right, bottom = region_of(shape).bounds
    share = np.linspace(0.0, 1.0, POINTS)[:, None]
    middle = np.array([left + right, top + bottom]) / 2
    level = right - left >= bottom - top
    half = np.array([(right - left) / 2, 0.0]) if level else np.array([0.0, (bottom - top) / 2])
    aside = np.array([0.0, bottom - top]) if level else np.array([right - left, 0.0])
    place = middle + aside * (-0.3 + 0.6 * ((0.5 + 0.31 * len(known)) % 1.0))
    return _with(job, shape, [*known, place - half + 2 * half * share])


def guide_bent(job: Job, piece_id: str, nth: int, points: Array) -> Job:
    """The job with a guide line of a piece's shape lying otherwise. points: (n, 2) mm."""
    shape, known = _shape(job, piece_id), guides_of(job, piece_id)
    check_guide(known, nth, points, region_of(shape))
    return _with(job, shape, [*known[:nth], points, *known[nth + 1 :]])


def guide_taken(job: Job, piece_id: str, nth: int) -> Job:
    """The job without one of those lines."""
    known = guides_of(job, piece_id)
    if not 0 <= nth < len(known):
        raise BadInput("That guide line is gone: reload the page.")
    return _with(job, _shape(job, piece_id), known[:nth] + known[nth + 1 :])


def check_guide(known: list[Array], nth: int, points: Array, region: shapely.Geometry) -> None:
    """Raises BadInput where a guide line cannot lie so."""
    if not 0 <= nth < len(known):
        raise BadInput("That guide line is gone: reload the page.")
    if not 2 <= len(points) <= MOST_POINTS or not np.isfinite(points).all():
        raise BadInput("The guide line cannot be read: bend it again.")
    if float(np.ptp(points, axis=0).max()) < 1.0:
        raise BadInput("The guide line has no length: draw it out over the shape.")
    if not shapely.intersects(shapely.linestrings(points), region):
        raise BadInput("The guide line lies off its shape: lead it across.")


def _shape(job: Job, piece_id: str) -> Shape:
    piece = wanted_piece(job, piece_id)
    if not piece.shape:
        raise BadInput(f"{piece.name} goes round others and has no guide lines.")
    return next(one for one in job.shapes if one.id == piece.shape)


def _with(job: Job, shape: Shape, guides: list[Array]) -> Job:
    free_shapes(job, [shape.id])
    others = [one for one in shape.lines if one.kind != GUIDE]
    lines = [Line(GUIDE, plain([one])[0]) for one in guides]
    return with_shapes(job, [change(shape, lines=[*others, *lines])])
