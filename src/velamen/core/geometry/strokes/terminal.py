"""The end edge of a stroke: the slant at which its last rows are laid."""

from __future__ import annotations

import numpy as np
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import ring_arc_lengths
from velamen.core.geometry.region import boundaries

CORNER = np.radians(35.0)  # turn from which a place of the outline is a corner
OVER = 0.35  # half widths either side of it, over which that is told
ACROSS, AHEAD = 0.9, 2.3  # half widths: between the two corners of an end, and to their middle
STEEPEST = np.radians(60.0)  # from square
BEYOND = 0.22  # of the distance between the corners, that nothing may reach past them


def end_slant(region: Polygon, tip: Array, outward: Array, half: float) -> tuple[float, float]:
    """The slant of the edge in which a stroke ends: rad from square, and how far ahead of `tip` it crosses, mm.

    tip: (2,) the last measured place of its middle; outward: (2,) unit; half: half width. Slant 0 for round and
    pointed ends. The slant is the turn from (-outward y, outward x) to the edge.
    """
    corners, ring = _corners(region, half)
    if len(corners) < 2:
        return 0.0, 0.0
    aside = np.array([-outward[1], outward[0]])
    rel = corners - tip
    ahead, across = rel @ outward, rel @ aside
    one, other = np.triu_indices(len(corners), 1)
    swap = across[one] > across[other]
    one, other = np.where(swap, other, one), np.where(swap, one, other)
    wide, far = across[other] - across[one], ahead[other] - ahead[one]
    slant = np.arctan2(far, np.maximum(wide, 1e-9))
    share = np.clip(-across[one] / np.maximum(wide, 1e-9), 0.0, 1.0)
    at = ahead[one] + share * far
    fit = (wide >= ACROSS * half) & (np.abs(slant) <= STEEPEST) & (across[one] < 0.2 * half)
    fit &= (across[other] > -0.2 * half) & (np.abs(at) <= AHEAD * half) & (np.maximum(ahead[one], ahead[other]) > 0.0)
    best: tuple[float, float, float] | None = None
    for nth in np.flatnonzero(fit):
        a, b = corners[one[nth]], corners[other[nth]]
        along = (b - a) / np.linalg.norm(b - a)
        normal = np.array([along[1], -along[0]])
        normal = normal if normal @ outward > 0 else -normal
        size = float(np.linalg.norm(b - a))
        local = ring[np.linalg.norm(ring - (a + b) / 2, axis=1) < 1.2 * size]
        if len(local) and float(((local - a) @ normal).max()) > BEYOND * size:
            continue
        score = float(at[nth] + 0.3 * wide[nth])
        if best is None or score > best[0] + 1e-6:
            best = (score, float(slant[nth]), float(at[nth]))
    return (0.0, 0.0) if best is None else best[1:]


def _corners(region: Polygon, half: float) -> tuple[Array, Array]:
    """Convex corners of a region's outer ring, and that ring."""
    ring = boundaries(region)[0]
    closed, way = np.concatenate([ring, ring[:1]]), ring_arc_lengths(ring)
    total = way[-1]
    over = min(max(OVER * half, 0.15), total / 6)

    def at(where: Array) -> Array:
        where = np.mod(where, total)
        return np.stack([np.interp(where, way, closed[:, axis]) for axis in (0, 1)], axis=1)

    back, ahead = ring - at(way[:-1] - over), at(way[:-1] + over) - ring
    turn = np.arctan2(back[:, 0] * ahead[:, 1] - back[:, 1] * ahead[:, 0], (back * ahead).sum(axis=1))
    return ring[turn >= CORNER], ring
