"""Stitches that would cross open ground between two parts of a shape, led round inside it instead."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.geometry.interior_paths import Ways
from velamen.core.geometry.region import grown, ready
from velamen.core.stitching import travel
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import DROP, Strand

ROOM = 0.1  # mm beside the pull that a stitch may leave the region
LOOKED_AT = np.array([0.25, 0.5, 0.75])  # shares of a stitch at which it is told whether it lies inside
OUTSIDE = 0.3  # mm of a stitch that may lie outside


def kept_inside(sewn: Strand, region: Polygon, pull: float) -> Strand:
    """A strand with every stitch that leaves a region by more than its pull and a little led round as travel."""
    room = ready(grown(region, pull + ROOM, 2))
    step = sewn.xy[1:] - sewn.xy[:-1]
    spots = sewn.xy[:-1, None] + LOOKED_AT[:, None] * step[:, None]
    inside = shapely.contains_xy(room, spots[..., 0], spots[..., 1]).all(axis=1)
    doubtful = np.flatnonzero(~inside)
    if len(doubtful) == 0:
        return sewn
    lines = shapely.linestrings(np.stack([sewn.xy[doubtful], sewn.xy[doubtful + 1]], axis=1))
    bad = doubtful[shapely.length(shapely.difference(lines, room)) > OUTSIDE]
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
