"""Where sewing begins and ends: strands turned, put in order, and led to from an entry under what is sewn later."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.geometry.region import Area
from velamen.core.geometry.ways import EdgeWays, ways
from velamen.core.stitching.fill import TRAVEL, bare
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import CODE, DROP, Strand, join, tied

Array = NDArray[np.float64]
Place = tuple[float, float]

CHORD = 0.05  # mm that travel under a narrow border may leave its line
NEXT_TO = 0.3  # mm; a nearer entry needs no travel


def loops_entered(
    strands: Sequence[Strand], region: Area, inset: float, start: Place | None, end: Place | None
) -> list[Strand]:
    """Strands round boundaries, each ending where it begins, entered at one place and left at another.

    They are sewn to begin nearest to `end`, or to `start` where no end is asked for; that of the boundary nearest to
    the entry comes first, that nearest to the exit last. Travel leads from the entry along the boundary, `inset` mm
    inside it, under what is sewn over it next.
    """
    order = list(strands)
    if len(order) > 1 and (start or end):
        off = [[_off(one, place) if place else 0.0 for one in order] for place in (start, end)]
        first = int(np.argmin(off[0])) if start else -1
        last = int(np.argmin(off[1])) if end else -1
        middle = [nth for nth in range(len(order)) if nth not in (first, last)]
        kept = [first] if start and first != last else []
        order = [order[nth] for nth in [*kept, *middle, *([last] if end else [])]]
    if start and end and order:
        edge = EdgeWays(region, inset, np.inf)
        way = edge.between(np.array(start), order[0].xy[0])
        order[0] = _led(order[0], None if way is None else way[1:])
    return order


def paths_entered(
    strands: Sequence[Strand], region: Area, start: Place | None, end: Place | None, turned: bool
) -> list[Strand]:
    """Strands that begin at one end of an area and end at another, turned so that they end where asked.

    turned: whether they were sewn to begin at `end`; otherwise they end there already. Travel inside the region leads
    to where the sewing begins.
    """
    order = [one.back() for one in strands[::-1]] if turned and end else list(strands)
    if start and end and order:
        part = _part_at(region, order[0].xy[0])
        order[0] = _led(order[0], ways(part).between(np.array(start), order[0].xy[0]))
    return order


def _part_at(region: Area, place: Array) -> Area:
    parts = shapely.get_parts(region)
    return parts[int(np.argmin(shapely.distance(parts, shapely.Point(place))))]


def _off(one: Strand, place: Place) -> float:
    return float(np.linalg.norm(one.xy - np.array(place), axis=1).min())


def _led(part: Strand, way: Array | None) -> Strand:
    """A strand with travel along a way to where it begins."""
    if way is None or float(np.linalg.norm(np.diff(way, axis=0), axis=1).sum()) < NEXT_TO:
        return part
    run = run_along(way, TRAVEL, CHORD, DROP)
    return tied(join([Strand(run, np.full(len(run), CODE["travel"], dtype=np.uint8)), bare(part)]))
