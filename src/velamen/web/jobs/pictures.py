"""Pictures of a job's shapes as SVG, for the board and the stages."""

from __future__ import annotations

from html import escape
from typing import Any

from velamen.core.building.following import hosting
from velamen.core.building.lace import is_lace, table_under
from velamen.core.building.skeleton import skeleton
from velamen.core.constructions import colour_of, construction, constructions, lays_cloth
from velamen.core.constructions.base import Family
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece

MARGIN = 6.0
ALONG = (Family.LINES, Family.EDGES)


def job_picture(job: Job) -> str:
    """Every piece in its cloth colour on the base, seen from above; of lace the outlines alone, on a table."""
    library = job.library
    base = library.bases[job.brief.base]
    lace = bool(job.pieces) and is_lace(job, library, sum(lays_cloth(piece) for piece in job.pieces))
    ground = table_under([library.threads[piece.thread].colour for piece in job.pieces]) if lace else base.colour
    shapes = {shape.id: shape.rings for shape in job.shapes}
    rings = {piece.id: shapes[piece.shape] for piece in job.pieces if piece.shape} | _round_others(job)
    points = [point for shape in [*shapes.values(), *rings.values()] for point in shape[0]]
    xs = [x for x, _ in points] or [-50.0, 50.0]
    ys = [y for _, y in points] or [-50.0, 50.0]
    left, top = min(xs) - MARGIN, min(ys) - MARGIN
    width, height = max(xs) - left + MARGIN, max(ys) - top + MARGIN
    paths = [
        f'<path d="{ring_path(rings[piece.id])}" {_looks(piece, job, lace)}>'
        f"<title>{escape(piece.name)}</title></path>"
        for piece in job.pieces if piece.id in rings
    ]  # fmt: skip
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left:.2f} {top:.2f} {width:.2f} {height:.2f}">'
        f'<rect x="{left:.2f}" y="{top:.2f}" width="{width:.2f}" height="{height:.2f}" fill="{ground}"/>'
        + "".join(paths)
        + "</svg>"
    )


def _looks(piece: Piece, job: Job, lace: bool) -> str:
    """How a piece is painted: what is sewn along an edge as that edge, everything else filled."""
    colour = colour_of(piece, job.library)
    if lace:
        return f'fill="{colour}" fill-rule="evenodd" stroke="{colour}" fill-opacity="0.3" stroke-width="1.4"'
    if piece.construct in constructions() and construction(piece.construct).family in ALONG:
        inside = table_under(_bridged(job)) if construction(piece.construct).cuts_open else "none"
        return f'fill="{inside}" fill-rule="evenodd" stroke="{colour}" stroke-width="2.6" stroke-linejoin="round"'
    return f'fill="{colour}" fill-rule="evenodd" stroke="#00000055" stroke-width="0.8"'


def _bridged(job: Job) -> list[str]:
    """Colours of the threads that bridge openings."""
    known = [one for one in job.pieces if one.construct in constructions()]
    return [job.library.threads[one.thread].colour for one in known if construction(one.construct).cuts_open]


def _round_others(job: Job) -> dict[str, list[Any]]:
    """Rings of the cloths that go round a design and have no shape of their own, by the id of the piece."""
    if not any(hosting(piece) for piece in job.pieces):
        return {}
    found = {one.piece.id: one.work.region for one in skeleton(job).pieces if hosting(one.piece)}
    return {key: rings_of(region, 2) for key, region in found.items() if not region.is_empty}


def ring_path(rings: Any, closed: bool = True, decimals: int = 3) -> str:
    """SVG path data of rings, or of open lines."""
    end = "Z" if closed else ""
    return "".join("M" + "L".join(f"{x:.{decimals}f},{y:.{decimals}f}" for x, y in ring) + end for ring in rings)
