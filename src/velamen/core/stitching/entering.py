"""Where sewing begins and ends: strands turned, put in order, and led to from an entry under what is sewn later."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from velamen.core.arrays import Array, Place
from velamen.core.geometry.interior_paths import EdgeWays, Ways
from velamen.core.geometry.region import Area
from velamen.core.stitching import travel
from velamen.core.stitching.fill import bare
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import DROP, Strand, join, tied

UNDER_BORDER = 0.05  # mm that travel under a narrow border may leave its line


def loops_entered(
    strands: Sequence[Strand], region: Area, inset: float, start: Place | None, end: Place | None
) -> list[Strand]:
    """Strands round boundaries, each ending where it begins, entered at one place and left at another.

    They are sewn to begin nearest to `end`, or to `start` where no end is asked for; that of the boundary nearest to
    the entry comes first, that nearest to the exit last, and where it is the same one, last. Travel leads from the
    entry along its boundary, `inset` mm inside it, under what is sewn over it next.
    """
    first, last = (_nearest(strands, place) for place in (start, end))
    found = list(strands)
    if start and first >= 0 and _far(found[first], start):
        edge = EdgeWays(region, inset, np.inf)
        found[first] = _led(found[first], edge.between(edge.nearest(np.array(start)), found[first].xy[0]))
    ends = [first] if first >= 0 and first != last else [], [last] if last >= 0 else []
    middle = [nth for nth in range(len(found)) if nth not in (first, last)]
    return [found[nth] for nth in (*ends[0], *middle, *ends[1])]


def paths_entered(
    strands: Sequence[Strand], region: Area, start: Place | None, end: Place | None, turned: bool
) -> list[Strand]:
    """Strands that begin at one end of an area and end at another, turned so that they end where asked.

    turned: whether they were sewn to begin at `end`; otherwise they end there already. Travel inside the region leads
    to where the sewing begins.
    """
    order = [one.back() for one in strands[::-1]] if turned and end else list(strands)
    if start and order and _far(order[0], start):
        part = _part_at(region, order[0].xy[0])
        order[0] = _led(order[0], Ways(part).between(np.array(start), order[0].xy[0]))
    return order


def _part_at(region: Area, place: Array) -> Area:
    parts = shapely.get_parts(region)
    return parts[int(np.argmin(shapely.distance(parts, shapely.Point(place))))]


def _nearest(strands: Sequence[Strand], place: Place | None) -> int:
    """The strand that comes nearest to a place, -1 where none is asked for."""
    if place is None or not strands:
        return -1
    return int(np.argmin([np.linalg.norm(one.xy - np.array(place), axis=1).min() for one in strands]))


def _far(one: Strand, start: Place) -> bool:
    """Whether a strand begins farther from an entry than thread is sewn on by itself."""
    return float(np.linalg.norm(one.xy[0] - np.array(start))) > travel.SEWN_ON


def _led(part: Strand, way: Array | None) -> Strand:
    """A strand with travel along a way to where it begins."""
    if way is None:
        return part
    run = run_along(way, travel.STITCH, UNDER_BORDER, DROP)
    return tied(join([Strand(run, np.full(len(run), CODE["travel"], dtype=np.uint8)), bare(part)]))
