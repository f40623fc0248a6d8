"""Blends: rows of one fill shared out among threads, so that colours pass over while the cover stays even."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.stitching.fill import FillSewing, check_rows, lines_of, sewn_rows, threaded
from velamen.core.stitching.frame import straight
from velamen.core.stitching.open_rows import sewn_openly
from velamen.core.stitching.rows import cut, flat_rings, levels_over
from velamen.core.stitching.strand import Strand


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
    levels, owner = _owned(rings, spacing, places)
    sewing = FillSewing(angle, spacing, length, stagger, pull, covers=True)
    found: list[list[Strand]] = []
    for thread in range(len(places)):
        mine = np.flatnonzero(owner == thread)
        if len(mine) == 0:
            found.append([])
            continue
        rows = cut(rings, frame, levels[mine])
        if thread == 0:  # what comes later hides its ways
            found.append(sewn_rows(region, role, rows, rings, sewing, numbers=mine))
        else:  # those of others would lie on rows of the first
            found.append(sewn_openly(region, role, [threaded(region, rows, rings, sewing, mine)], pull, None))
    return found


def rows_of(region: Polygon, angle: float, spacing: float, places: list[float]) -> list[tuple[Array, int]]:
    """Where the rows of a blend lie, as lines (n, 2) mm, each with the number of its thread."""
    frame = straight(angle)
    rings = flat_rings(region, frame)
    levels, owner = _owned(rings, spacing, places)
    rows = cut(rings, frame, levels)
    return list(zip(lines_of(rows), owner[rows.row].tolist(), strict=True))


def _owned(rings: list[Array], spacing: float, places: list[float]) -> tuple[Array, NDArray[np.int64]]:
    """Levels of all rows, and the thread of each."""
    levels = levels_over(rings, spacing)
    low, high = float(levels[0]) - spacing / 2, float(levels[-1]) + spacing / 2
    return levels, shared_out((levels - low) / (high - low), np.array(places))


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
