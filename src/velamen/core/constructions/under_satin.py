"""Ways and underlay of satin on foam, kept where that covers them: what leaves it lies on foam that is torn away."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from velamen.core.geometry.region import Area
from velamen.core.proofs.foam_tear import foam_edge
from velamen.core.stitching.kept_inside import runs_inside
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand


def under_satin(sewn: Sequence[Strand], roles: Sequence[str], covered: Area | None = None) -> list[Strand]:
    """Strands whose ways and underlay lie under the zigzags of some roles, where those hang together.

    covered: by those zigzags, where that is known.
    """
    rows = [CODE[role] for role in roles]
    parts = shapely.get_parts(foam_edge(sewn, roles).covered if covered is None else covered)
    under = [parts[shapely.intersects(parts, shapely.linestrings(one.xy))] for one in sewn]
    return [runs_inside(one, part[0], rows) if len(part) == 1 else one for one, part in zip(sewn, under, strict=True)]
