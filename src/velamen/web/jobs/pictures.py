"""Pictures of a job's shapes as SVG, for the board and the stages."""

from __future__ import annotations

from html import escape
from typing import Any

from velamen.core.constructions import colour_of
from velamen.core.job.document import Job

MARGIN = 6.0


def job_picture(job: Job) -> str:
    """Every piece in its cloth colour on the base, seen from above."""
    library = job.library
    base = library.bases[job.brief.base]
    points = [point for shape in job.shapes for point in shape.rings[0]]
    xs = [x for x, _ in points] or [-50.0, 50.0]
    ys = [y for _, y in points] or [-50.0, 50.0]
    left, top = min(xs) - MARGIN, min(ys) - MARGIN
    width, height = max(xs) - left + MARGIN, max(ys) - top + MARGIN
    shapes = {shape.id: shape for shape in job.shapes}
    paths = [
        f'<path d="{ring_path(shapes[piece.shape].rings)}" fill="{colour_of(piece, library)}" '
        f'fill-rule="evenodd" stroke="#00000055" stroke-width="0.8"><title>{escape(piece.name)}</title></path>'
        for piece in job.pieces
        if piece.shape
    ]
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left:.2f} {top:.2f} {width:.2f} {height:.2f}">'
        f'<rect x="{left:.2f}" y="{top:.2f}" width="{width:.2f}" height="{height:.2f}" fill="{base.colour}"/>'
        + "".join(paths)
        + "</svg>"
    )


def ring_path(rings: Any, closed: bool = True, decimals: int = 3) -> str:
    """SVG path data of rings, or of open lines."""
    end = "Z" if closed else ""
    return "".join("M" + "L".join(f"{x:.{decimals}f},{y:.{decimals}f}" for x, y in ring) + end for ring in rings)
