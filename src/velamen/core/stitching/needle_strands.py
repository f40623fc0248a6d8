"""Strands of needle points cut, joined and tied anew."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Mask
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.job.needles import Strands
from velamen.core.stitching.roles import TIE as TIE_ROLE
from velamen.core.stitching.roles import TRAVEL
from velamen.core.stitching.strand import TIE

ROLES = ("needle", TIE_ROLE, TRAVEL)
SEWN, TIED, TRAVELLED = range(3)
TO_AND_FRO = 4  # stitches of a tie, which ends where it began


def tie_points(line: Array) -> Array:
    """Needle points (5, 2) of a tie to and fro over the first half millimetre of a line, back to its start."""
    way = arc_lengths(line)
    far = np.array([np.interp(TIE, way, line[:, axis]) for axis in (0, 1)])
    return np.stack([line[0], far])[np.arange(TO_AND_FRO + 1) % 2]


def retied(strands: Strands, before: Mask, after: Mask) -> Strands:
    """Strands with ties at their beginnings and ends where these were cut, unless a tie is there already.

    before, after: (m,) of the strands; roles must be ROLES.
    """
    if not (before.any() or after.any()):
        return strands
    xy: list[Array] = []
    role: list[NDArray[np.uint8]] = []
    counts = []
    for nth, (first, count) in enumerate(zip(strands.first.tolist(), strands.counts.tolist(), strict=True)):
        line, codes = strands.xy[first : first + count], strands.role[first : first + count]
        parts, told = [line], [codes]
        if before[nth] and TIED not in codes[1:3]:
            ahead = tie_points(line)
            parts, told = [ahead, line[1:]], [np.full(len(ahead), TIED, dtype=np.uint8), codes[1:]]
        if after[nth] and TIED not in codes[-2:]:
            behind = tie_points(line[::-1])[1:]
            parts.append(behind)
            told.append(np.full(len(behind), TIED, dtype=np.uint8))
        xy += parts
        role += told
        counts.append(sum(map(len, parts)))
    return Strands(np.concatenate(xy), np.concatenate(role), strands.roles, np.array(counts, dtype=np.int64))
