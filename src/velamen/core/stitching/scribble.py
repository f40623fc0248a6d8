"""Scribble: one line of loose round loops that overlap, along a hidden stipple: a ground that looks drawn by hand."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import ready
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import run_along
from velamen.core.stitching.stipple import stipple
from velamen.core.stitching.strand import Strand, strand, tied

SEED = 11
GUIDE = 1.3  # spacings between the stretches of the line that the loops follow
LOOP = 0.85  # spacings, half a loop across
ONWARD = 0.9  # spacings from loop to loop
LOOSE = 0.25  # by which loops differ in size and distance
ROOM = 0.3  # of half a loop that the line keeps from the edge, so that loops have room there
EDGE = 0.15  # mm kept from the region's edge
TURNS = 24  # places of a loop that are worked out
CHORD = 0.08  # mm


def scribble(
    region: Polygon, role: str, spacing: float, length: float, start: tuple[float, float] | None = None
) -> list[Strand]:
    """A region scribbled over with loops about a spacing apart, one strand for each line of `stipple`.

    length: longest stitch in mm; start: where sewing begins. Raises BadInput out of bounds.
    """
    inner = shapely.buffer(region, -EDGE)
    found = []
    roomy = _roomy(region, ROOM * LOOP * spacing)
    guides = stipple(roomy, role, GUIDE * spacing, length, start)
    for guide in guides or stipple(region, role, GUIDE * spacing, length, start):
        line = guide.xy[guide.role != CODE["tie"]]
        loops = _kept_in(_loops(line, spacing), inner if not inner.is_empty else region)
        found.append(tied(strand(run_along(loops, length, CHORD), role)))
    return found


def _roomy(region: Polygon, inset: float) -> Polygon:
    """A region so much smaller, or less where it would fall apart or vanish."""
    while inset > EDGE:
        inner = shapely.buffer(region, -inset)
        if inner.geom_type == "Polygon" and not inner.is_empty:
            return inner
        inset /= 2.0
    return region


def _loops(line: Array, spacing: float) -> tuple[Array, Array]:
    """Places along a line (n, 2) and those of loops round them."""
    way = arc_lengths(line)
    chance = np.random.default_rng(SEED)
    count = max(round(float(way[-1]) / (ONWARD * spacing)), 1)
    size, pace = (1.0 + LOOSE * chance.uniform(-1.0, 1.0, count + 2) for _ in (0, 1))
    at = np.concatenate([[0.0], np.cumsum(pace[:count])])
    turn = np.linspace(0.0, count, count * TURNS + 1)
    along = np.interp(turn, np.arange(count + 1), at * (way[-1] / at[-1]))
    middle = np.stack([np.interp(along, way, line[:, axis]) for axis in (0, 1)], axis=1)
    radius = LOOP * spacing * np.interp(turn, np.arange(count + 2) - 0.5, size)
    ends = np.minimum(np.minimum(turn, count - turn) * 2.0, 1.0)  # begins and ends on the line
    angle = 2.0 * np.pi * turn
    return middle, middle + (radius * ends)[:, None] * np.stack([np.cos(angle), np.sin(angle)], axis=1)


def _kept_in(places: tuple[Array, Array], region: Polygon) -> Array:
    """Places of loops, those outside a region drawn back towards the line until they lie inside."""
    middle, loops = places
    off = loops - middle
    share = np.ones(len(loops))
    room = ready(region)
    for _ in range(5):
        here = middle + share[:, None] * off
        outside = ~shapely.contains_xy(room, here[:, 0], here[:, 1])
        if not outside.any():
            break
        share[outside] *= 0.7
    here = middle + share[:, None] * off
    outside = np.flatnonzero(~shapely.contains_xy(room, here[:, 0], here[:, 1]))
    nearest = shapely.shortest_line(region, shapely.points(here[outside]))
    here[outside] = shapely.get_coordinates(nearest)[::2]
    return here
