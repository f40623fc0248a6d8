"""How much an edit leaves to be worked out, told before it is: what is little is done on the spot."""

from __future__ import annotations

from collections.abc import Collection

from velamen.core.constructions import sewn_pieces
from velamen.core.job.document import Job
from velamen.core.job.shape import Shape

# What each takes of a quarter of a second, measured with discs and wavy outlines sewn as appliqué, nothing kept.
LITTLE_PIECES = 10  # 25 ms each with their values and proofs of order
LITTLE_POINTS = 2500  # of outlines, 100 ms in one shape
LITTLE_AREA = 80_000.0  # mm² of boxes, 90 ms


def is_little(after: Job, before: Job | None = None) -> bool:
    """Whether a job is built in about a quarter of a second, where another version of it is built already.

    >>> is_little(Job(name="Empty"))
    True
    """
    touched = _touched(after, before)
    shapes = [shape for shape in after.shapes if shape.id in touched]
    return (
        len(touched) <= LITTLE_PIECES
        and sum(len(ring) for shape in shapes for ring in shape.rings) <= LITTLE_POINTS
        and sum(map(_box, shapes)) <= LITTLE_AREA
    )


def _touched(after: Job, before: Job | None) -> Collection[str]:
    """Shapes, and pieces without one, that are not as they were."""
    pieces = sewn_pieces(after)
    whole = before is None or (before.brief, before.library) != (after.brief, after.library)
    known = {} if whole or before is None else {one.id: one for one in sewn_pieces(before)}
    shapes = {} if whole or before is None else {one.id: one for one in before.shapes}
    other = {one.id for one in after.shapes if shapes.get(one.id) != one}
    return {
        one.shape or one.id
        for one in pieces
        if known.get(one.id) != one or one.shape in other or not other.isdisjoint(one.around)
    }


def _box(shape: Shape) -> float:
    """mm² of a shape's box."""
    xs, ys = zip(*shape.rings[0], strict=True)
    return float((max(xs) - min(xs)) * (max(ys) - min(ys)))
