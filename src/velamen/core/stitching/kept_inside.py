"""Stitches that would cross open ground between two parts of a shape, led round inside it instead."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.geometry.interior_paths import Ways
from velamen.core.geometry.region import grown, ready
from velamen.core.stitching import travel
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import DROP, LONGEST, Strand

ROOM = 0.1  # mm beside the pull that a stitch may leave the region
LOOKED_AT = np.array([0.25, 0.5, 0.75])  # shares of a stitch at which it is told whether it lies inside
OUTSIDE, SEEN = 0.3, 0.05  # mm of a stitch, and of a run between rows, that may lie outside


def kept_inside(sewn: Strand, region: Polygon, pull: float) -> Strand:
    """A strand with every stitch that leaves a region by more than its pull and a little led round as travel."""
    room = ready(grown(region, pull + ROOM, 2))
    step = sewn.xy[1:] - sewn.xy[:-1]
    spots = sewn.xy[:-1, None] + LOOKED_AT[:, None] * step[:, None]
    inside = shapely.contains_xy(room, spots[..., 0], spots[..., 1]).all(axis=1)
    doubtful = np.flatnonzero(~inside | (np.linalg.norm(step, axis=1) > LONGEST))  # a link may cross much between
    if len(doubtful) == 0:
        return sewn
    lines = shapely.linestrings(np.stack([sewn.xy[doubtful], sewn.xy[doubtful + 1]], axis=1))
    bad = doubtful[shapely.length(shapely.difference(lines, room)) > OUTSIDE]
    return _led(sewn, bad, region)


def runs_inside(sewn: Strand, region: Polygon, rows: Sequence[int]) -> Strand:
    """A strand with every stitch between its rows that leaves a region led round as travel. rows: codes of roles."""
    room = shapely.buffer(region, ROOM, quad_segs=2)
    kept = np.isin(sewn.role, rows) | shapely.intersects_xy(room, sewn.xy[:, 0], sewn.xy[:, 1])
    sewn = Strand(sewn.xy[kept], sewn.role[kept])
    mine = np.isin(sewn.role, rows)
    runs = np.flatnonzero(~(mine[1:] & mine[:-1]))
    lines = shapely.linestrings(np.stack([sewn.xy[runs], sewn.xy[runs + 1]], axis=1))
    left = shapely.length(shapely.difference(lines, room))
    return _led(sewn, runs[left > SEEN], region)


def _led(sewn: Strand, bad: NDArray[np.int64], region: Polygon) -> Strand:
    """A strand with some of its stitches led round inside a region."""
    ways = Ways(region)
    parts, roles, done = [], [], 0
    for nth in bad.tolist():
        way = ways.between(sewn.xy[nth], sewn.xy[nth + 1])
        if way is None:
            continue
        run = run_along(way, travel.STITCH, travel.CHORD, DROP)[1:-1]
        parts += [sewn.xy[done : nth + 1], run]
        roles += [sewn.role[done : nth + 1], np.full(len(run), CODE["travel"], dtype=np.uint8)]
        done = nth + 1
    return Strand(np.concatenate([*parts, sewn.xy[done:]]), np.concatenate([*roles, sewn.role[done:]]))
