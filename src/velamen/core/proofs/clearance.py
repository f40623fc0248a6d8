"""Whether what decorates a piece keeps clear of its border."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.geometry.region import Area
from velamen.core.proofs.finding import Finding

EVEN = 0.05  # mm less than wanted that count as kept


@dataclass(frozen=True)
class Clear:
    """A piece with a border: within which its decoration may lie, and how far from the border that stays."""

    piece: str  # id
    name: str
    within: Area  # up to the border
    clearance: float  # mm


def clearance_finding(host: Clear, guests: Sequence[tuple[str, Area]]) -> Finding | None:
    """That decoration lies under a border or too near to it. guests: names and areas of what decorates the piece."""
    room = shapely.buffer(host.within, EVEN - host.clearance)
    areas = np.array([area for _, area in guests], dtype=object)
    out = np.flatnonzero(~shapely.covers(room, areas))
    if len(out) == 0:
        return None
    names = [guests[nth][0] for nth in out.tolist()]
    told = names[0] if len(names) == 1 else f"{len(names)} pieces, {names[0]} among them,"
    under = not bool(shapely.covers(host.within, areas[out]).all())
    near = float(shapely.distance(areas[out], shapely.boundary(host.within)).min())
    come = "lie" if len(names) > 1 else "lies"
    message = (
        f"{told} {come} under the border of {host.name}." if under else
        f"{told} {come} {near:.1f} mm from the border of {host.name}: {host.clearance:.1f} mm are wanted."
    )  # fmt: skip
    spots = shapely.point_on_surface(shapely.difference(areas[out], room))
    at = tuple((round(one.x, 2), round(one.y, 2)) for one in spots if not one.is_empty)
    return Finding("clearance_small", "warning", host.piece, message, at)
