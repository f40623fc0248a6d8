"""Even grounds: areas joined, and what lies at an even margin round them."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import shapely

from velamen.core.geometry import combine
from velamen.core.geometry.region import Area
from velamen.core.memo import Same


@lru_cache(maxsize=256)
def whole(areas: tuple[Same[Area], ...]) -> Area:
    """Areas joined."""
    return shapely.union_all(np.array([one.it for one in areas], dtype=object))


def even_ground(
    areas: Sequence[Area], margin: float, gap: float = 0.0, calm: float = 0.0, sharp: bool = False
) -> Area:
    """The ground at an even margin round areas, mm, gaps closed and outline calmed, in one part or several.

    Holes that no scissors or pile would show, narrower than the gap, are closed with it.
    """
    return _even_ground(tuple(Same(one) for one in areas), margin, gap, calm, sharp)


@lru_cache(maxsize=128)
def _even_ground(areas: tuple[Same[Area], ...], margin: float, gap: float, calm: float, sharp: bool) -> Area:
    if not areas:
        return shapely.MultiPolygon()
    parts = combine.offset([one.it for one in areas], margin, sharp, gap, calm)
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def joined(areas: Sequence[Area]) -> Area:
    """Areas joined, nothing where there are none."""
    return whole(tuple(Same(one) for one in areas)) if areas else shapely.MultiPolygon()
