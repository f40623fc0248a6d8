"""Contour rings: runs that echo the outline of a region, ring by ring or as one spiral."""

from __future__ import annotations

from shapely import Polygon

from velamen.core.errors import within
from velamen.core.stitching.contour_rings import rings_of, trees
from velamen.core.stitching.contour_spiral import round_all, spiral
from velamen.core.stitching.fill import linked
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import Strand, strand, tied

STYLES = (("rings", "rings"), ("spiral", "spiral"))


def contour(
    region: Polygon, role: str, spacing: float, length: float, style: str = "rings", pull: float = 0.0,
    start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """Rings inside a region, `spacing` mm apart, the first on its outline, as one strand.

    length: mm of a stitch; style: "rings", or "spiral" where each ring winds on into the next; pull:
    mm that the first ring lies outside; start: where sewing begins. Raises BadInput out of bounds.
    """
    within("spacing of contour rings", spacing, 0.2, 20.0)
    within("length of contour rings", length, 0.5, 12.0)
    rings = rings_of(region, spacing, pull)
    sewn = []
    for root, children in trees(rings, start):
        path = (spiral if style == "spiral" and children[root] else round_all)(rings, root, children, start)
        sewn.append(tied(strand(run_along(path, length), role)))
    return linked(sewn, region)
