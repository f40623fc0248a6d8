"""Chosen shapes of a job: found, checked for what holds them, replaced by others."""

from __future__ import annotations

from collections.abc import Sequence

from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.constructions import construction
from velamen.core.edits.shapes.bring_in import free_name, with_region
from velamen.core.edits.shapes.live_shapes import released
from velamen.core.errors import BadInput
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import Job, change
from velamen.core.job.shape import Shape, reshaped


def chosen_shapes(job: Job, ids: Sequence[str], least: int = 1) -> list[Shape]:
    """Chosen shapes in stack order, those without a piece last."""
    known = {shape.id: shape for shape in job.shapes}
    stray = next((one for one in ids if one not in known), None)
    if stray is not None:
        raise BadInput("A chosen shape is no longer in the job: reload the page.")
    sewn = [piece.shape for piece in job.pieces if piece.shape]
    order = list(dict.fromkeys(sewn + [shape.id for shape in job.shapes]))
    chosen = [known[one] for one in order if one in set(ids)]
    if len(chosen) < least:
        raise BadInput(f"Choose at least {least} shape{'s' if least > 1 else ''} first.")
    return chosen


def free_shapes(
    job: Job, ids: Sequence[str], least: int = 1, size: bool = False, outline: bool = False
) -> list[Shape]:
    """Chosen shapes that may be changed. size: also in size, which a cutting die fixes; outline: also in outline,
    which needle points fix besides."""
    chosen = chosen_shapes(job, ids, least)
    locked = next((shape for shape in chosen if shape.locked), None)
    if locked is not None:
        raise BadInput(f"{locked.name!r} is locked: unlock it first.")
    points = {piece.shape for piece in job.pieces if construction(piece.construct).needles} if outline else set()
    sewn = next((shape for shape in chosen if shape.needles and shape.id in points), None)
    if sewn is not None:
        raise BadInput(
            f"The outline of {sewn.name!r} follows its needle points: change those on Build, "
            "or sew it as something else."
        )
    cut = next((shape for shape in chosen if shape.die), None) if size or outline else None
    if cut is not None:
        raise BadInput(
            f"{cut.name!r} is cut with a die, so its outline and size are fixed: free it from the die first."
        )
    return chosen


def grown(job: Job, ids: Sequence[str], factor: float) -> Job:
    """The job with what grows with the pieces of shapes grown with them. Raises BadInput where one keeps its size."""
    shapes = {shape.id: shape for shape in job.shapes if shape.id in set(ids)}
    pieces = []
    for piece in job.pieces:
        kind, shape = construction(piece.construct), shapes.get(piece.shape)
        if shape is not None:
            why = kind.rigid(shape)
            if why:
                raise BadInput(why)
            piece = change(piece, own=kind.grown(piece.own, factor))
        pieces.append(piece)
    return change(job, pieces=pieces)


def areas(job: Job, ids: Sequence[str], least: int = 1, size: bool = False) -> list[Shape]:
    """Chosen shapes that may be changed and are no open lines. size: also in size and outline."""
    chosen = free_shapes(job, ids, least, outline=size)
    line = next((shape for shape in chosen if shape.open), None)
    if line is not None:
        raise BadInput(f"{line.name!r} is an open line: close it, or give it a width, first.")
    return chosen


def replaced(job: Job, chosen: Sequence[Shape], regions: Sequence[Polygon], nodes: Sequence[Array] = ()) -> Job:
    """Chosen shapes replaced by regions: the first keeps id, name and piece, more get copies of that piece.

    nodes: curves of the first region's outlines, where they are known.
    """
    first, *others = chosen
    job = released(job, [shape.id for shape in chosen])
    job = without(job, [shape.id for shape in others])
    whole, *more = regions
    job = change(job, shapes=[
        reshaped(one, boundaries(whole), nodes) if one.id == first.id else one for one in job.shapes
    ])  # fmt: skip
    nth = next((nth for nth, piece in enumerate(job.pieces) if piece.shape == first.id), None)
    for count, region in enumerate(more, 1):
        like = None if nth is None else job.pieces[nth]
        at = None if nth is None else nth + count
        job = with_region(job, free_name(job, first.name), region, at=at, like=like)
    return job


def without(job: Job, ids: Sequence[str]) -> Job:
    """The job without shapes and their pieces."""
    gone = set(ids)
    shapes = [shape for shape in job.shapes if shape.id not in gone]
    pieces = [piece for piece in job.pieces if piece.shape not in gone]
    return change(job, shapes=shapes, pieces=pieces)


def with_shapes(job: Job, changed: Sequence[Shape]) -> Job:
    """The job with shapes replaced by others of the same id."""
    new = {shape.id: shape for shape in changed}
    return change(job, shapes=[new.get(shape.id, shape) for shape in job.shapes])


def names_of(shapes: Sequence[Shape]) -> str:
    """Names of shapes for a sentence."""
    names = [shape.name for shape in shapes[:3]]
    return ", ".join(names) + (" and others" if len(shapes) > 3 else "")
