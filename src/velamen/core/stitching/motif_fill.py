"""Motif fill: copies of motifs over an area, sewn on in one thread."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import Polygon

from velamen.core.arrays import Place
from velamen.core.errors import within
from velamen.core.geometry.region import Area, ready
from velamen.core.stitching.motif_copies import Pattern, rows_over
from velamen.core.stitching.motif_thread import (
    Sewing,
    cut_chains,
    cut_loops,
    round_loops,
    sewn_on,
    whole_chains,
    whole_loops,
)
from velamen.core.stitching.strand import Strand

STRAIGHT = 1.6  # motif sizes from one copy to another that are gone straight
LOOKED_AT = 6_000  # places of an area that are asked whether thread lies near
HOP, HOP_SIZE = 1.5, 0.9  # gaps, and motif sizes more, up to which neighbouring motifs hang together by a hop


def motif_fill(
    region: Polygon, pattern: Pattern, sewing: Sewing, cut: bool, start: Place | None = None
) -> list[Strand]:
    """A region filled with copies of motifs, a strand for all that hangs together.

    cut: whether motifs are cut at the edge and follow it there, or left out where not whole. Raises BadInput.
    """
    within("size of a motif", pattern.size, 1.0, 100.0)
    rows = rows_over(region, pattern, whole=not cut)
    largest = pattern.size * max(pattern.grown, 1.0)
    near = STRAIGHT * largest + max(pattern.gap, pattern.row_gap, 0.0)
    if all(figure.closed for figure in pattern.figures):
        loops = cut_loops(rows, region, largest) if cut else whole_loops(rows, region)
        reach = HOP * max(pattern.gap, pattern.row_gap, 0.0) + HOP_SIZE * largest
        return round_loops(loops, region, sewing, reach, near, start)
    chains = cut_chains(rows, region, largest) if cut else whole_chains(rows, region)
    return sewn_on(chains, region, sewing, near, start)


def open_share(region: Area, sewn: Sequence[Strand], reach: float) -> float:
    """The share of a region that lies farther than `reach` mm from any needle point."""
    left, top, right, bottom = region.bounds
    step = max(float(np.sqrt((right - left) * (bottom - top) / LOOKED_AT)), 1e-3)
    spots = np.stack(np.meshgrid(np.arange(left, right, step), np.arange(top, bottom, step)), axis=-1).reshape(-1, 2)
    spots = spots[shapely.contains_xy(ready(region), spots[:, 0], spots[:, 1])]
    if not sewn or not len(spots):
        return float(not sewn)
    far, _ = cKDTree(np.concatenate([one.xy for one in sewn])).query(spots)
    return float((far > reach).mean())
