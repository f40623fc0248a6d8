"""Blends: rows of one fill shared out among threads, so that colours pass over while the cover stays even."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.stitching.fill import FillSewing, check_rows, sewn_rows
from velamen.core.stitching.frame import straight
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.rows import cut, flat_rings, levels_over
from velamen.core.stitching.strand import Strand

TRIM = 25.0  # mm of travel on other threads' rows, over which a trim is better


def blend(
    region: Polygon, role: str, angle: float, spacing: float, length: float, places: list[float],
    stagger: str = "plain", pull: float = 0.0,
) -> list[list[Strand]]:  # fmt: skip
    """Strands of every thread; colours pass over across the rows.

    places: where each thread is alone, as shares of the way across, growing; between two places rows
    change hands little by little. Every row of the plain fill is sewn by exactly one thread, so that
    densities add up to it everywhere. All else as in `fill`. Raises BadInput out of bounds.
    """
    check_rows(angle, spacing, length, pull)
    if not 2 <= len(places) <= 6:
        raise BadInput(f"A blend of {len(places)} threads cannot be sewn: use 2 to 6.")
    if not all(one < other for one, other in pairwise(places)):
        raise BadInput("The places of a blend's threads must grow from the first to the last.")
    frame = straight(angle)
    rings = flat_rings(region, frame)
    levels = levels_over(rings, spacing)
    low, high = float(levels[0]) - spacing / 2, float(levels[-1]) + spacing / 2
    owner = shared_out((levels - low) / (high - low), np.array(places))
    sewing = FillSewing(angle, spacing, length, stagger, pull, covers=True)
    found: list[list[Strand]] = []
    for thread in range(len(places)):
        mine = np.flatnonzero(owner == thread)
        if len(mine) == 0:
            found.append([])
            continue
        rows = cut(rings, frame, levels[mine])
        orders = [sewing]  # what comes later hides the first thread's ways
        if thread > 0:  # those of others would lie on rows of the first: along the edge, in the shorter order
            orders = [replace(sewing, edge=True, longest=TRIM, covers=one) for one in (True, False)]
        found.append(
            min((sewn_rows(region, role, rows, rings, one, numbers=mine) for one in orders), key=_on_the_way)
        )
    return found


def _on_the_way(sewn: list[Strand]) -> float:
    """mm of travel, each trim as much as is travelled to save one."""
    steps = [np.linalg.norm(np.diff(one.xy, axis=0), axis=1)[one.role[1:] == CODE["travel"]].sum() for one in sewn]
    return float(sum(steps)) + TRIM * (len(sewn) - 1)


def shared_out(at: Array, places: Array) -> NDArray[np.int64]:
    """The thread (n,) of every row at shares of the way across, by error diffusion.

    Each row goes to the thread that has been kept waiting longest (Floyd and Steinberg, 1976, in one
    dimension), so that over any few rows every thread gets its share.

    >>> shared_out(np.linspace(0, 1, 9), np.array([0.0, 1.0])).tolist()
    [0, 0, 0, 1, 0, 1, 1, 0, 1]
    """
    weight = np.stack([np.interp(at, places, np.eye(len(places))[nth]) for nth in range(len(places))], axis=1)
    owed = np.zeros(len(places))
    owner = np.empty(len(at), dtype=np.int64)
    for row, mine in enumerate(weight):
        owed += mine
        owner[row] = int(np.argmax(np.where(mine > 0, owed, -np.inf)))
        owed[owner[row]] -= 1.0
    return owner
