"""The order from the centre out and bottom up: cloth is pushed ahead of what is sewn (handbook, section 8)."""

from __future__ import annotations

import heapq
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area
from velamen.core.timeline.placed import Placed
from velamen.core.timeline.sheets import runs

TOUCH = 1.0  # mm within which one piece pulls on another, so that they keep the stack's order
SAME_ROW = 0.5  # share of its height by which a piece may stand over or under the others of its row


def outward(pieces: Sequence[Placed], middle: float | None = None) -> list[Placed]:
    """Pieces in the order they are sewn from the centre out and bottom up, the stack's wherever they touch.

    Neighbours under one sheet stay together, in that order among themselves.

    Rows from the lowest up; in a row what lies on the middle line, then one side of it from there out, then the
    other. A piece goes with all that decorates it, and that in the same way; what it serves stays behind it.
    pieces: in stack order; middle: x of the middle line, mm, None for that of all of them.
    """
    sheets = {nth: run for run in runs(pieces) for nth in run} if len(pieces) > 1 else {}
    if len(sheets) == len(pieces) and len(runs(pieces)) == 1:
        return _under_sheet(pieces, middle)
    units = _joined(_units(pieces), sheets)
    regions = [_regions(pieces, unit) for unit in units]
    boxes = np.array([shapely.total_bounds(np.array(each, dtype=object)) for each in regions]).reshape(-1, 4)
    if np.isnan(boxes).all():
        return list(pieces)
    middle = float(np.nanmin(boxes[:, 0]) + np.nanmax(boxes[:, 2])) / 2 if middle is None else middle
    ranks = _ranks(boxes, middle)
    after, waits = _kept(pieces, units, regions)
    ready = [(*ranks[nth], nth) for nth in range(len(units)) if not waits[nth]]
    heapq.heapify(ready)
    found: list[Placed] = []
    while ready:
        nth = heapq.heappop(ready)[-1]
        host, *guests = (pieces[one] for one in units[nth])
        found += outward([host, *guests], middle) if units[nth][0] in sheets else [host, *outward(guests, middle)]
        for other in after[nth]:
            waits[other] -= 1
            if not waits[other]:
                heapq.heappush(ready, (*ranks[other], other))
    return found


def _under_sheet(pieces: Sequence[Placed], middle: float | None) -> list[Placed]:
    """Neighbours under one sheet, which none of them is kept off: each by itself."""
    bare = [replace(one, operations=tuple(replace(each, guards=(), share=None) for each in one.operations))
            for one in pieces]  # fmt: skip
    known = {one.id: one for one in pieces}
    return [known[one.id] for one in outward(bare, middle)]


def _joined(units: list[list[int]], sheets: Mapping[int, list[int]]) -> list[list[int]]:
    """Units, those of neighbours under one sheet as one."""
    found: dict[int, list[int]] = {}
    for unit in units:
        found.setdefault(sheets[unit[0]][0] if unit[0] in sheets else unit[0], []).extend(unit)
    return sorted(found.values())


def _units(pieces: Sequence[Placed]) -> list[list[int]]:
    """Numbers of pieces that are sewn together: a piece, and all that decorates it."""
    at = {piece.id: nth for nth, piece in enumerate(pieces)}
    units: dict[int, list[int]] = {}  # by the number of the host, which stands first
    for nth in range(len(pieces)):
        host, seen = nth, {nth}
        while (on := at.get(pieces[host].on, -1)) >= 0 and on not in seen:
            seen.add(on)
            host = on
        first = min(seen) if at.get(pieces[host].on, -1) >= 0 else host
        units.setdefault(first, [first])
        units[first] += [nth] if nth != first else []
    return sorted(units.values())


def _regions(pieces: Sequence[Placed], unit: Sequence[int]) -> list[Area]:
    """All areas that a unit works in or keeps others off."""
    found: dict[int, Area] = {}
    for nth in unit:
        for one in pieces[nth].operations:
            areas = [one.region, *(guard.region for guard in one.guards)]
            found |= {id(area): area for area in areas if area is not None and not area.is_empty}
    return list(found.values())


def _ranks(boxes: Array, middle: float) -> list[tuple[int, int, float]]:
    """Row from the bottom, side of the middle line, and how far out: of each box (n, 4), none where it is not one."""
    known = ~np.isnan(boxes[:, 0])
    ranks = [(-1, 0, 0.0)] * len(boxes)
    row, limit = -1, -np.inf
    for nth in sorted(np.flatnonzero(known).tolist(), key=lambda one: -float(boxes[one, 3])):
        left, top, right, bottom = boxes[nth].tolist()
        if row < 0 or bottom - SAME_ROW * (bottom - top) < limit:
            row, limit = row + 1, -np.inf
        limit = max(limit, top - SAME_ROW * (bottom - top))  # by its small ones, whatever large one lies under them
        x = (left + right) / 2 - middle
        side = 0 if left <= middle <= right else 1 if x > 0 else 2
        ranks[nth] = (row, side, abs(x))
    return ranks


def _kept(
    pieces: Sequence[Placed], units: Sequence[Sequence[int]], regions: Sequence[Sequence[Area]]
) -> tuple[dict[int, set[int]], list[int]]:
    """For each unit those that must come after it, and of how many each must wait."""
    unit_of = {pieces[one].id: nth for nth, unit in enumerate(units) for one in unit}
    owner = np.array([nth for nth, each in enumerate(regions) for _ in each])
    areas = np.array([area for each in regions for area in each], dtype=object)
    pairs = shapely.STRtree(areas).query(areas, predicate="dwithin", distance=TOUCH)
    after: dict[int, set[int]] = defaultdict(set)
    for low, high in np.unique(owner[pairs].T, axis=0).tolist():
        if low < high:
            after[low].add(high)
    for piece in pieces:
        for served in piece.serves:
            one, other = unit_of[piece.id], unit_of.get(served)
            if other is not None and one < other:
                after[one].add(other)
    for nth, unit in enumerate(units):  # what works everywhere stays where it is
        if any(one.region is None for each in unit for one in pieces[each].operations):
            for other in range(len(units)):
                if other != nth:
                    after[min(nth, other)].add(max(nth, other))
    waits = [0] * len(units)
    for others in after.values():
        for other in others:
            waits[other] += 1
    return after, waits
