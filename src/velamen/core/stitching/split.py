"""Long satin stitches divided: by a limit, staggered so that no line shows, along drawn lines, or all alike."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from scipy.ndimage import maximum_filter1d

from velamen.core.arrays import Array, numbered

EVEN = "even"  # for constructions that divide what no machine sews in one stitch, and nothing else
SPLITS = (("limit", "above a length"), ("lines", "along drawn lines"), ("none", "not at all"))
SHIFTS = np.array([-0.18, 0.06, 0.2, -0.06])  # of a part, by which division lies aside, stitch after stitch
LEAST = 0.6  # mm; no part of a stitch is shorter
TOGETHER, LEAST_EVEN = 12, 3.0  # stitches on either side divided alike, and mm of a part that makes it worth it


def split(points: Array, how: str, longest: float, lines: Sequence[Array] = ()) -> Array:
    """Penetrations (n, 2) of a satin with its long stitches divided.

    how: key of SPLITS, or EVEN; longest: mm of an undivided stitch; lines: (m, 2) to divide along.
    """
    if how == "none" or len(points) < 2:
        return points
    if how == "lines" and len(lines):
        return _along(points, lines)
    size = np.linalg.norm(np.diff(points, axis=0), axis=1)
    parts = np.maximum(np.ceil(size / longest - 1e-9), 1).astype(np.int64)
    if (parts == 1).all():
        return points
    if how == EVEN:
        parts = np.minimum(maximum_filter1d(parts, 2 * TOGETHER + 1), np.maximum(parts, size // LEAST_EVEN))
        parts = parts.astype(np.int64)
    owner = np.repeat(np.arange(len(parts)), parts)
    nth = numbered(parts) + 1
    shift = np.where(nth < parts[owner], SHIFTS[owner % len(SHIFTS)] * (how != EVEN), 0.0)
    share = ((nth + shift) / parts[owner])[:, None]
    inner = (1.0 - share) * points[owner] + share * points[owner + 1]
    return np.concatenate([points[:1], inner])


def _along(points: Array, lines: Sequence[Array]) -> Array:
    """Penetrations with one more wherever a stitch crosses one of the lines."""
    stitches = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    drawn = shapely.multilinestrings([shapely.LineString(line) for line in lines])
    spots, owner = shapely.get_coordinates(shapely.intersection(stitches, drawn), return_index=True)
    if len(spots) == 0:
        return points
    size = np.linalg.norm(points[owner + 1] - points[owner], axis=1)
    far = np.linalg.norm(spots - points[owner], axis=1)
    kept = (far > LEAST) & (size - far > LEAST)
    owner, spots, far, size = owner[kept], spots[kept], far[kept], size[kept]
    place = np.concatenate([np.arange(len(points), dtype=np.float64), owner + far / size])
    order = np.argsort(place, kind="stable")
    return np.concatenate([points, spots])[order]
