"""Jobs for tests, made of the shapes beside this file."""

from velamen.core.building.build import build_job
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


def why_lost(job):
    """Why pieces of a job cannot be built, in sentences."""
    return " ".join(one.why for one in build_job(job).lost)


def order_of(build):
    """Keys of what is done to the pieces of a build, in order."""
    return [one.key for one in build.operations if one.piece]


def done_of(built):
    """Passes and hand operations of a piece in the order of its construction, as far as they are done in the hoop."""
    found = []
    for one in built.operations:
        found += [one] if one.does and one.when.value != "after" else built.passes.get(one.key, ())
    return found


def edge_cover_of(built):
    """What the edge-cover proof of a piece found, None where it has no edge to hide."""
    proved = built.proofs.get("edge_cover")
    return proved.detail if proved else None


def edge_fixes(built):
    """What would end a bare edge of a piece."""
    return built.proofs["edge_cover"].fixes
