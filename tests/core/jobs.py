"""Jobs for tests, made of the shapes beside this file."""

from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece, brief_for
from velamen.core.job.shape import Shape


def job_of(*regions, base="terry", hoop="h200x300", own=None, name="Test"):
    """A job with an appliqué piece for each region."""
    shapes, pieces = [], []
    for nth, region in enumerate(regions, 1):
        rings = [[(x, y) for x, y in ring] for ring in rings_of(region)]
        shapes.append(Shape(f"s{nth}", f"shape {nth}", rings))
        pieces.append(Piece(f"p{nth}", f"piece {nth}", f"s{nth}", own=own or {}))
    return Job(name=name, brief=brief_for(base, hoop), shapes=shapes, pieces=pieces)
