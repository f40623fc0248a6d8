"""Routes: a group of pieces of one thread sewn on from a chosen start to a chosen end.

Pieces that touch are sewn without a trim, the thread running under stitches that are sewn later;
those that do not are put in an order of short hops: nearest neighbour first, then improved by
turning stretches of the order round (2-opt: Croes, 1958) and by moving single pieces.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Geometry, Polygon

from velamen.core.arrays import Array, Place
from velamen.core.geometry.interior_paths import EdgeWays, Ways
from velamen.core.plan.stitch_plan import TRIM, plan_of
from velamen.core.stitching import travel
from velamen.core.stitching.roles import CODE, TIE, TRAVEL
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import DROP, Strand, join
from velamen.core.timeline.passes import Pass

Sew = Callable[[int, Place | None, Place | None], Sequence[Pass]]
"""Passes of a piece by its number, begun and ended near two places."""

TOUCH = 0.3  # mm between pieces that still touch
ROUNDS = 60
NEAR_GATE = 1.0  # mm from the next piece at which sewing may end without looking farther
ON_LINE = 3.0  # mm from a line within which travel runs along it


@dataclass(frozen=True)
class Routed:
    """A routed group."""

    order: tuple[int, ...]  # pieces by number in sewing order
    passes: tuple[tuple[Pass, ...], ...]  # of each in that order
    before: int  # trims without the route
    after: int  # trims with it


def route(
    regions: Sequence[Polygon], covers: Sequence[Geometry | None], sew: Sew, start: Place | None = None,
    end: Place | None = None,
) -> Routed:  # fmt: skip
    """A group of pieces of one thread as one route.

    regions: what each is sewn over; covers: the area its stitches hide, None for open ones; sew: gives
    the passes of a piece for a start and an end.
    """
    unrouted = [list(sew(nth, None, None)) for nth in range(len(regions))]
    before = _trims([one for passes in unrouted for one in passes])
    order = short_order(np.array(regions, dtype=object), start, end)
    found: list[tuple[Pass, ...]] = []
    last: Array | None = None
    for nth, piece in enumerate(order):
        onward = regions[order[nth + 1]] if nth + 1 < len(order) else None
        passes = _sewn_towards(piece, regions[piece], onward, sew, start if nth == 0 else None, end)
        touches = nth > 0 and shapely.distance(regions[order[nth - 1]], regions[piece]) <= TOUCH
        if last is not None and touches and found:
            later = [covers[one] for one in order[nth:] if covers[one] is not None]
            way = _hidden_way(
                last, _first_place(passes), regions[piece], covers[piece], later, covers[order[nth - 1]]
            )
            if way is not None:
                found[-1] = _without_tie(found[-1], ending=True)
                passes = list(_with_travel(_without_tie(tuple(passes), ending=False), way))
        found.append(tuple(passes))
        last = _last_place(passes) if _last_place(passes) is not None else last
    after = _trims([one for passes in found for one in passes])
    if after > before:
        kept = tuple(tuple(passes) for passes in unrouted)
        return Routed(tuple(range(len(regions))), kept, before, before)
    return Routed(tuple(order), tuple(found), before, after)


def _sewn_towards(
    piece: int, region: Polygon, onward: Polygon | None, sew: Sew, start: Place | None, end: Place | None
) -> list[Pass]:
    """Passes of a piece that begin at a place, and end as near as may be to the next one, or to the end asked for."""
    if onward is None:
        return list(sew(piece, start, end))
    best: list[Pass] = []
    least = np.inf
    for gate in _gates(region, onward):
        passes = list(sew(piece, start, gate))
        last = _last_place(passes)
        off = np.inf if last is None else float(shapely.distance(onward, shapely.Point(last)))
        if not best or off < least:
            best, least = passes, off
        if least <= NEAR_GATE:
            break
    return best


def _gates(region: Polygon, onward: Polygon) -> list[Place]:
    """Places at which a piece may be left for the next: where they come nearest, or both ends of where they touch."""
    contact = shapely.intersection(shapely.buffer(region, TOUCH), onward.boundary)
    if contact.is_empty or contact.length < 1.0:
        x, y = shapely.get_coordinates(shapely.shortest_line(region, onward))[0]
        return [(float(x), float(y))]
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(contact))
    ends = (box[0] + box[1]) / 2, (box[2] + box[3]) / 2
    if np.linalg.norm(box[1] - box[0]) > np.linalg.norm(box[2] - box[1]):
        ends = (box[1] + box[2]) / 2, (box[3] + box[0]) / 2
    points = shapely.points(np.stack([*ends, (ends[0] + ends[1]) / 2]))
    places = shapely.get_coordinates(shapely.shortest_line(contact, points))[::2]
    return [(float(x), float(y)) for x, y in places]


def short_order(regions: NDArray[np.object_], start: Place | None = None, end: Place | None = None) -> list[int]:
    """Numbers of regions in an order of short hops, from the one nearest to `start` to that nearest to `end`."""
    count = len(regions)
    if count < 2:
        return list(range(count))
    middle = shapely.get_coordinates(shapely.centroid(regions))
    apart = shapely.distance(regions[:, None], regions[None])
    far = apart + 1e-3 * np.linalg.norm(middle[:, None] - middle[None], axis=2)
    first = 0 if start is None else int(np.argmin(shapely.distance(regions, shapely.Point(start))))
    last = None
    if end is not None:
        off = shapely.distance(regions, shapely.Point(end))
        off[first] = np.inf
        last = int(np.argmin(off))
    order = _nearest_next(far, first, last)
    for _ in range(ROUNDS):
        shorter = _turned(far, order, last is not None) or _moved(far, order, last is not None)
        if shorter is None:
            break
        order = shorter
    return order


def _nearest_next(far: Array, first: int, last: int | None) -> list[int]:
    order, left = [first], set(range(len(far))) - {first, last}
    while left:
        at = order[-1]
        order.append(min(left, key=lambda one: float(far[at, one])))
        left.remove(order[-1])
    return order if last is None else [*order, last]


def _turned(far: Array, order: list[int], fixed_end: bool) -> list[int] | None:
    """The order with the stretch turned round that saves most; None where none saves."""
    row = np.array(order)
    count = len(row)
    i, j = np.triu_indices(count, 1)
    inner = (i > 0) & ((j < count - 1) if fixed_end else (j > 0))
    i, j = i[inner], j[inner]
    if len(i) == 0:
        return None
    before, after = row[i - 1], row[np.minimum(j + 1, count - 1)]
    tail = j < count - 1
    gain = far[before, row[i]] - far[before, row[j]] + np.where(tail, far[row[j], after] - far[row[i], after], 0.0)
    best = int(np.argmax(gain))
    if gain[best] < 1e-9:
        return None
    return [*order[: i[best]], *order[i[best] : j[best] + 1][::-1], *order[j[best] + 1 :]]


def _moved(far: Array, order: list[int], fixed_end: bool) -> list[int] | None:
    """The order with one piece moved elsewhere that saves most; None where none saves."""
    count = len(order)
    best, found = 1e-9, None
    for nth in range(1, count - 1 if fixed_end else count):
        a, b = order[nth - 1], order[nth]
        c = order[nth + 1] if nth + 1 < count else None
        gain = far[a, b] + (far[b, c] - far[a, c] if c is not None else 0.0)
        rest = [*order[:nth], *order[nth + 1 :]]
        one, two = np.array(rest[:-1]), np.array(rest[1:])
        if len(one) == 0:
            continue
        cost = far[one, b] + far[b, two] - far[one, two]
        at = int(np.argmin(cost))
        if gain - cost[at] > best:
            best, found = float(gain - cost[at]), [*rest[: at + 1], b, *rest[at + 1 :]]
    return found


def _hidden_way(
    here: Array, there: Array | None, region: Polygon, cover: Geometry | None, later: Sequence[Geometry | None],
    sewn: Geometry | None,
) -> Array | None:  # fmt: skip
    """A way from place to place under stitches sewn later, along a line where there are none; None without one."""
    if there is None:
        return None
    if cover is None:
        way = EdgeWays(region, 0.0, ON_LINE).between(here, there)
        return way if way is not None else (np.stack([here, there]) if _off(here, there) <= travel.SEWN_ON else None)
    for areas in (later, [*later, sewn]):
        under = shapely.union_all([shapely.buffer(area, TOUCH / 2) for area in areas if area is not None])
        part = min(shapely.get_parts(under), key=lambda one: one.distance(shapely.Point(there)))
        if shapely.distance(part, shapely.Point(here)) <= travel.SEWN_ON:
            way = Ways(part).between(here, there)
            if way is not None:
                return way
    return None


def _off(one: Array, other: Array) -> float:
    return float(np.linalg.norm(other - one))


def _trims(passes: list[Pass]) -> int:
    return int((plan_of([("", one) for one in passes]).command == TRIM).sum()) if _sewing(passes) else 0


def _sewing(passes: Sequence[Pass]) -> list[int]:
    return [nth for nth, one in enumerate(passes) if one.strands]


def _first_place(passes: Sequence[Pass]) -> Array | None:
    found = _sewing(passes)
    return None if not found else passes[found[0]].strands[0].xy[0]


def _last_place(passes: Sequence[Pass]) -> Array | None:
    """Where sewing ends, before it is tied off."""
    found = _sewing(passes)
    if not found:
        return None
    part = passes[found[-1]].strands[-1]
    sewn = np.flatnonzero(part.role != CODE[TIE])
    return np.asarray(part.xy[sewn[-1] if len(sewn) else -1])


def _without_tie(passes: tuple[Pass, ...], ending: bool) -> tuple[Pass, ...]:
    """Passes whose first strand is not tied in, or whose last one is not tied off."""
    nth = _sewing(passes)[-1 if ending else 0]
    item = passes[nth]
    strands = list(item.strands)
    at = -1 if ending else 0
    strands[at] = _bare_end(strands[at], ending)
    return (*passes[:nth], replace(item, strands=tuple(strands)), *passes[nth + 1 :])


def _bare_end(part: Strand, ending: bool) -> Strand:
    sewn = np.flatnonzero(part.role != CODE[TIE])
    if len(sewn) == 0:
        return part
    if ending:
        return Strand(part.xy[: sewn[-1] + 1], part.role[: sewn[-1] + 1])
    first = int(sewn[0])
    role = part.role[first:].copy()
    return Strand(np.concatenate([part.xy[:1], part.xy[first:]]), np.concatenate([role[:1], role]))


def _with_travel(passes: tuple[Pass, ...], way: Array) -> tuple[Pass, ...]:
    """Passes begun by travel along a way."""
    run = run_along(way, travel.STITCH, travel.CHORD, DROP)[1:-1]
    nth = _sewing(passes)[0]
    item = passes[nth]
    leading = Strand(run, np.full(len(run), CODE[TRAVEL], dtype=np.uint8))
    first = join([leading, item.strands[0]]) if len(run) else item.strands[0]
    return (*passes[:nth], replace(item, strands=(first, *item.strands[1:])), *passes[nth + 1 :])
