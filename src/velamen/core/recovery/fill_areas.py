"""Fills by their rows: the area that these cover, angle and spacing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.arrays import Array, Index, Mask
from velamen.core.geometry.region import Area, polygons_of
from velamen.core.recovery.parts import Part
from velamen.core.recovery.strips import Stitches, angle_of

ROW, ALONG = 0.3, 0.97  # mm of a row, and cosine of it to the angle of all
LONE, LONE_OFF, LONE_BOW, ROUNDS = 1.2, 0.021, 0.13, 4  # spacings, rad and mm of a row that no section has
BESIDE = 0.4, 1.25  # spacings that a row lies off the one beside it
LEAST, OFF = 0.1, 0.35  # mm of a step and of what two rows share; share of the middle step that others are off
STRAIGHT_ON, INNER = 0.96, 8  # cosine within a row, and stitches that tell how long they are
SLIVER = 1e-6  # mm² of no area
SLIT, STRETCH = 0.85, 40.0  # half the spacings of a slit along rows that is closed, and how flat its ends are seen
NEAR, NEXT = 0.4, 2.3  # spacings between which rows are neighbours
MENDED, HOLE = 0.55, 3.0  # of a spacing that gaps are closed by, and of its square that a hole has at least


@dataclass(frozen=True)
class Fill:
    """A fill. spacing: mm; angle: rad; length: mm of its stitches within rows, None where rows are single ones."""

    area: Area
    spacing: float
    angle: float
    length: float | None = None


def fill_of(found: Stitches, parts: Sequence[Part]) -> Fill | None:
    """The area between the rows of some sections of one fill, with those beside them that no section has."""
    rows = np.concatenate([_rows(found, one.first, one.last) for one in parts])
    if len(rows) < 3:
        return None
    way = rows[:, 1] - rows[:, 0]
    angle, _ = angle_of(way)
    along = np.abs(way @ np.array([np.cos(angle), np.sin(angle)])) > ALONG * np.linalg.norm(way, axis=1)
    rows = rows[along]  # others lead from row to row
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    flat = rows @ turn
    level = flat[..., 1].mean(axis=1)
    left, right = flat[..., 0].min(axis=1), flat[..., 0].max(axis=1)
    spacing = _spacing(level, left, right)
    if spacing <= 0:
        return None
    lone = _orphans(found, parts, turn, (level, left, right), spacing)
    level, left, right = (np.concatenate(both) for both in zip((level, left, right), lone, strict=True))
    area = _between(level, left, right, spacing)
    whole = shapely.transform(area, lambda points: points @ turn.T)
    return Fill(whole, spacing, angle, _length(found, parts))


def _orphans(
    found: Stitches, parts: Sequence[Part], turn: Array, rows: tuple[Array, Array, Array], spacing: float
) -> tuple[Array, Array, Array]:
    """Strokes of the same strip that no section has, and that lie beside known rows as one of them would: levels and
    ends, level rows being turned so."""
    lone = _level_strokes(found, parts, turn)
    size = np.abs(lone[:, 1, 0] - lone[:, 0, 0])
    lone = lone[(size > LONE * spacing) & _is_level(lone[:, 1] - lone[:, 0])]
    level, left, right = rows
    for _ in range(ROUNDS):
        mine = lone[..., 1].mean(axis=1), lone[..., 0].min(axis=1), lone[..., 0].max(axis=1)
        known_rows = shapely.STRtree(
            shapely.box(left, level - BESIDE[1] * spacing, right, level + BESIDE[1] * spacing)
        )
        own, row = known_rows.query(shapely.box(mine[1], mine[0], mine[2], mine[0]))
        step = np.abs(mine[0][own] - level[row]) / spacing
        over = np.minimum(mine[2][own], right[row]) - np.maximum(mine[1][own], left[row])
        least = np.minimum(mine[2][own] - mine[1][own], right[row] - left[row])
        beside = (step > BESIDE[0]) & (step < BESIDE[1]) & (over > least / 2)
        taken = np.zeros(len(lone), dtype=bool)
        taken[own[beside]] = True
        if not taken.any():
            break
        known = (level, left, right)
        level, left, right = (np.concatenate([old, new[taken]]) for old, new in zip(known, mine, strict=True))
        lone = lone[~taken]
    return level[len(rows[0]) :], left[len(rows[0]) :], right[len(rows[0]) :]


def _level_strokes(found: Stitches, parts: Sequence[Part], turn: Array) -> Array:
    """Level strokes (k, 2, 2) of a strip outside some of its parts, each as far as its stitches stay level."""
    free = found.strip == found.strip[parts[0].first]
    for one in parts:
        free[one.first : one.last + 1] = False
    at = np.flatnonzero(free)
    begin, end = found.begin[at] @ turn, found.end[at] @ turn
    way = end - begin
    level = _is_level(way)
    goes_on = level[1:] & level[:-1] & (np.diff(at) == 1) & (way[1:, 0] * way[:-1, 0] > 0)
    starts = np.flatnonzero(level & np.concatenate([[True], ~goes_on]))
    ends = np.flatnonzero(level & np.concatenate([~goes_on, [True]]))
    return np.stack([begin[starts], end[ends]], axis=1)


def _is_level(way: Array) -> Mask:
    """Whether ways (n, 2) are level as far as a needle grid lets one tell."""
    out: Mask = np.abs(way[:, 1]) < LONE_BOW + LONE_OFF * np.abs(way[:, 0])
    return out


def _rows(found: Stitches, first: int, last: int) -> Array:
    """Straight strokes (k, 2, 2) among stitches, those long enough to be rows."""
    begin, end = found.begin[first : last + 1], found.end[first : last + 1]
    way = end - begin
    unit = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    straight = (unit[:-1] * unit[1:]).sum(axis=1) > 0.96
    starts = np.flatnonzero(np.concatenate([[True], ~straight]))
    ends = np.concatenate([starts[1:], [len(begin)]]) - 1
    rows = np.stack([begin[starts], end[ends]], axis=1)
    size = np.linalg.norm(rows[:, 1] - rows[:, 0], axis=1)
    long: Array = rows[size > ROW]
    return long


def _length(found: Stitches, parts: Sequence[Part]) -> float | None:
    """mm of the stitches that have others of their row before and after them: their middle, ends of rows left out."""
    at = np.concatenate([np.arange(one.first, one.last + 1) for one in parts])
    way = found.end[at] - found.begin[at]
    size = np.linalg.norm(way, axis=1)
    unit = way / np.maximum(size, 1e-9)[:, None]
    goes_on = ((unit[1:] * unit[:-1]).sum(axis=1) > STRAIGHT_ON) & (np.diff(at) == 1)
    inner = size[1:-1][goes_on[1:] & goes_on[:-1]]
    return float(np.median(inner)) if len(inner) >= INNER else None


def _spacing(level: Array, left: Array, right: Array) -> float:
    """mm from row to row; 0 where no two rows lie beside one another.

    The mean step between rows sewn one after another, those that skip rows left out: files on a needle grid have
    steps of 0.4 and 0.5 for 0.45.
    """
    step = np.abs(np.diff(level))
    over = np.minimum(right[1:], right[:-1]) - np.maximum(left[1:], left[:-1])
    steps = step[(step > LEAST) & (over > LEAST)]
    if not len(steps):
        return 0.0
    middle = float(np.sort(steps)[len(steps) // 2])
    return float(steps[np.abs(steps - middle) < OFF * middle].mean())


def _between(level: Array, left: Array, right: Array, spacing: float) -> Area:
    """The area between rows that lie beside one another, half a spacing more where a row has no neighbour."""
    low, high = _neighbours(level, left, right, spacing)
    corners = [_clipped(low, high, left, right), _clipped(high, low, left, right)]
    quads = np.stack([
        np.stack([corners[0][0], level[low]], axis=1), np.stack([corners[0][1], level[low]], axis=1),
        np.stack([corners[1][1], level[high]], axis=1), np.stack([corners[1][0], level[high]], axis=1),
    ], axis=1)  # fmt: skip
    alone = [~np.isin(np.arange(len(level)), low), ~np.isin(np.arange(len(level)), high)]
    bands = [shapely.box(left[mine], level[mine], right[mine], (level + way * spacing / 2)[mine])
             for mine, way in zip(alone, (1.0, -1.0), strict=True)]  # fmt: skip
    polygons = np.concatenate([shapely.polygons(quads), *bands])
    area = shapely.union_all(polygons[shapely.is_valid(polygons) & (shapely.area(polygons) > SLIVER)])
    by = MENDED * spacing
    area = shapely.buffer(shapely.buffer(area, by, join_style="mitre"), -by, join_style="mitre")
    # Where sections meet a row may be missing: such slits are as long as they like, and low.
    low = shapely.transform(area, lambda points: points * (STRETCH, 1.0))
    low = shapely.buffer(shapely.buffer(low, SLIT * spacing, join_style="mitre"), -SLIT * spacing, join_style="mitre")
    area = shapely.transform(low, lambda points: points / (STRETCH, 1.0))
    kept = [shapely.Polygon(part.exterior, [ring for ring in part.interiors
                                            if shapely.Polygon(ring).area > HOLE * spacing**2])
            for part in polygons_of(area)]  # fmt: skip
    return shapely.union_all(kept) if kept else shapely.Polygon()


def _neighbours(level: Array, left: Array, right: Array, spacing: float) -> tuple[Index, Index]:
    """Numbers of rows that lie next to one another: the lower and the higher of each pair.

    By place alone, no matter when they were sewn: sections of one fill may have lattices of their own.
    """
    rows = shapely.STRtree(shapely.box(left, level, right, level))
    low, high = rows.query(shapely.box(left, level + NEAR * spacing, right, level + NEXT * spacing))
    off = level[high] - level[low]
    over = np.minimum(right[low], right[high]) - np.maximum(left[low], left[high])
    well = over > np.minimum(right[low] - left[low], right[high] - left[high]) / 2
    above, below = (np.full(len(level), NEXT * spacing) for _ in range(2))
    np.minimum.at(above, low[well], off[well])
    np.minimum.at(below, high[well], off[well])
    first = np.stack([off < above[low] + NEAR * spacing, off < below[high] + NEAR * spacing])
    kept = (over > 0.0) & (first.all(axis=0) | (first.any(axis=0) & (off < BESIDE[1] * spacing)))
    return low[kept], high[kept]


def _clipped(one: Index, other: Index, left: Array, right: Array) -> tuple[Array, Array]:
    """Left and right ends of rows in pairs with others: between two neighbours of one row lies a hole."""
    order = np.lexsort((left[other], one))
    same = one[order][1:] == one[order][:-1]
    apart = left[other[order]][1:] > right[other[order]][:-1]
    ends = left[one].copy(), right[one].copy()
    later, sooner = order[1:][same & apart], order[:-1][same & apart]
    ends[0][later] = np.maximum(ends[0][later], left[other[later]])
    ends[1][sooner] = np.minimum(ends[1][sooner], right[other[sooner]])
    return ends
