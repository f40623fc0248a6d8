"""Even grounds: areas joined, and what lies at an even margin round them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from velamen.core.geometry import combine
from velamen.core.geometry.region import Area
from velamen.core.memo import kept


@kept(128, lasting=True)
def even_ground(
    areas: Sequence[Area], margin: float, gap: float = 0.0, calm: float = 0.0, sharp: bool = False
) -> Area:
    """The ground at an even margin round areas, mm, gaps closed and outline calmed, in one part or several.

    Holes that no scissors or pile would show, narrower than the gap, are closed with it.
    """
    if not areas:
        return shapely.MultiPolygon()
    parts = combine.offset(list(areas), margin, sharp, gap, calm)
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


@kept(256, lasting=True)
def joined(areas: Sequence[Area]) -> Area:
    """Areas joined, nothing where there are none."""
    return shapely.union_all(np.array(areas, dtype=object)) if areas else shapely.MultiPolygon()
