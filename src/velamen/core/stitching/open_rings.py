"""Open rings inside a shape, which hold what lies there and let it show: one after another, joined where near."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import line_length
from velamen.core.geometry.region import Area, across, boundaries, polygons_of
from velamen.core.stitching.border import OVERLAP
from velamen.core.stitching.run import run_round, start_ring_at
from velamen.core.stitching.strand import Strand, join, strand, tied

NEAR, SMALL = 1.5, 4.0  # times the spacing that leads on to the next ring, and that a ring is round which is left out
MOST = 200  # rings one in the other
CALM = 0.2  # mm by which an outline is simplified before: sharp rings of a ragged one take seconds


def open_rings(area: Area, role: str, spacing: float, length: float) -> list[Strand]:
    """Rings `spacing` mm inside an area's edge and inside one another, as few strands as hops of that size allow."""
    sewn: list[Strand] = []
    for part in polygons_of(area):
        calm = shapely.simplify(part, CALM)
        count = min(int(across(calm) / 2 / spacing), MOST)
        inner = [shapely.buffer(calm, -nth * spacing, join_style="mitre") for nth in range(1, count + 1)]
        rings = [ring for each in shapely.get_parts(inner) for ring in boundaries(each)]
        sewn += _joined([one for one in rings if line_length(one) > SMALL * spacing], role, spacing, length)
    return sewn


def _joined(rings: list[Array], role: str, spacing: float, length: float) -> list[Strand]:
    """Rings sewn one after another, the nearest next."""
    left, found, parts = list(rings), list[Strand](), list[Strand]()
    while left:
        at = parts[-1].xy[-1] if parts else left[0][0]
        off = [float(np.linalg.norm(ring - at, axis=1).min()) for ring in left]
        nth = int(np.argmin(off)) if parts else 0
        if parts and off[nth] > NEAR * spacing:
            found.append(tied(join(parts)))
            parts = []
        ring = start_ring_at(left.pop(nth), at)
        parts.append(strand(run_round(ring, length, OVERLAP), role))
    return [*found, tied(join(parts))] if parts else found
