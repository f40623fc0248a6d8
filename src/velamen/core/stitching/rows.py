"""Rows of a fill: a region cut at many levels, and the sections in which rows follow one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse
from shapely import Polygon

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.region import boundaries, grown, ready
from velamen.core.memo import worked_out
from velamen.core.stitching.frame import Frame, straight

STEP = 1.2  # mm; a shorter step from row to row may cut a corner
ROOM = 0.1  # mm that a longer one may leave the region
THIN = 0.02  # mm; a shorter stretch of a row is no row


@dataclass(frozen=True)
class Rows:
    """Stretches of rows inside a region, row by row, from left to right.

    row: (m,) number of each stretch's row; left, right: (m,) where it begins and ends, mm along
    the row; levels: (r,) where the rows lie, mm across; frame: what along and across mean.
    """

    row: Index
    left: Array
    right: Array
    levels: Array
    frame: Frame

    @worked_out
    def across(self) -> Array:
        """Where each stretch's row lies, mm across."""
        return np.asarray(self.levels[self.row])

    @property
    def spacing(self) -> float:
        """Mean mm between rows."""
        return float((self.levels[-1] - self.levels[0]) / (len(self.levels) - 1)) if len(self.levels) > 1 else 1.0


@dataclass(frozen=True)
class Sections:
    """Sections of rows without a branch, sewn to and fro each.

    section: (m,) the section of each stretch; top, bottom: (s,) its first and last stretch;
    gates: (g, 2) stretches in neighbouring rows, of two sections, that overlap.
    """

    section: Index
    top: Index
    bottom: Index
    gates: Index


def hatch(region: Polygon, angle: float, spacing: float) -> Rows:
    """The rows of a region at an angle in rad, `spacing` mm apart and centred on it.

    No row lies farther than half a spacing from the region's first or last reach.

    >>> from shapely import box
    >>> rows = hatch(box(0, 0, 10, 2), 0.0, 0.5)
    >>> rows.across.tolist(), (rows.right - rows.left).tolist()
    ([0.25, 0.75, 1.25, 1.75], [10.0, 10.0, 10.0, 10.0])
    """
    frame = straight(angle)
    rings = flat_rings(region, frame)
    return cut(rings, frame, levels_over(rings, spacing))


def flat_rings(region: Polygon, frame: Frame) -> list[Array]:
    """The boundaries of a region in mm along and across a frame."""
    return [frame.flat(ring) for ring in boundaries(region)]


WHOLE = (0.0, 1.0)


def levels_over(
    rings: list[Array], spacing: float, last: float | None = None, ramp: tuple[float, float] = WHOLE
) -> Array:
    """Levels over all of some rings, centred on them, `spacing` mm apart or growing evenly to `last` mm.

    ramp: shares of the way across between which they grow; before and after them they lie evenly.
    """
    across = np.concatenate(rings)[:, 1]
    low, high = float(across.min()), float(across.max())
    if last is None or abs(last - spacing) < 1e-9:
        count = max(int(np.ceil((high - low) / spacing - 1e-9)), 1)
        return np.asarray(
            low + ((high - low) - (count - 1) * spacing) / 2 + spacing * np.arange(count), dtype=np.float64
        )
    begin, end = (low + share * (high - low) for share in ramp)
    before, after = (begin - low) / spacing, (high - end) / last  # rows there: the sum of 1 / spacing
    grown = np.log(last / spacing) / (last - spacing) * (end - begin)
    count = max(int(np.ceil(before + grown + after - 1e-9)), 1)
    row = (np.arange(count) + 0.5) / count * (before + grown + after)
    share = np.clip((row - before) / max(grown, 1e-12), 0.0, 1.0)
    level = begin + (end - begin) * ((last / spacing) ** share - 1.0) / (last / spacing - 1.0)
    level = np.where(row < before, low + row * spacing, level)
    return np.asarray(np.where(row > before + grown, end + (row - before - grown) * last, level))


def cut(rings: list[Array], frame: Frame, levels: Array) -> Rows:
    """The rows within rings, as `flat_rings` gives them, at given growing levels, mm across."""
    begin = np.concatenate(rings)
    end = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    down = begin[:, 1] > end[:, 1]
    lower, upper = np.where(down[:, None], end, begin), np.where(down[:, None], begin, end)
    from_, upto = np.searchsorted(levels, lower[:, 1]), np.searchsorted(levels, upper[:, 1])
    crossed = upto - from_
    edge = np.repeat(np.arange(len(crossed)), crossed)
    row = from_[edge] + numbered(crossed)
    rise = np.maximum(upper[:, 1] - lower[:, 1], 1e-300)
    slope = (upper[:, 0] - lower[:, 0]) / rise
    at = lower[edge, 0] + (levels[row] - lower[edge, 1]) * slope[edge]
    order = np.argsort(row * beyond(at) + at, kind="stable")
    row, at = row[order][::2], at[order]
    left, right = at[::2], at[1::2]
    wide = right - left > THIN
    return Rows(row[wide], left[wide], right[wide], levels, frame)


def sections_of(rows: Rows, region: Polygon) -> Sections:
    """Sections of rows: a stretch follows the one before where they alone overlap.

    Not so where the step from the end of one to that of the other would leave the region.
    """
    above, below = overlaps(rows)
    size = len(rows.row)
    # A stretch with one neighbour on either side goes on into it; where rows part or meet, only those pairs stay that
    # no wall stands between.
    down, up = np.bincount(above, minlength=size), np.bincount(below, minlength=size)
    open_ = (down[above] == 1) & (up[below] == 1)
    open_[~open_] = _open(rows, region, above[~open_], below[~open_])
    above, below = above[open_], below[open_]
    # Of those that are left, a pair alone at both ends is one section, if the steps from end to end stay inside.
    down, up = np.bincount(above, minlength=size), np.bincount(below, minlength=size)
    plain = (down[above] == 1) & (up[below] == 1)
    plain[plain] = _inside(rows, region, above[plain], below[plain])
    # All others lead from section to section, where the way between them is open.
    open_ = plain.copy()
    open_[~plain] = _open(rows, region, above[~plain], below[~plain])
    above, below, plain = above[open_], below[open_], plain[open_]
    count, section = hanging(above[plain], below[plain], size)
    nth = np.arange(size)
    top, bottom = np.full(count, size), np.full(count, -1)
    np.minimum.at(top, section, nth)
    np.maximum.at(bottom, section, nth)
    return Sections(section, top, bottom, np.stack([above[~plain], below[~plain]], axis=1))


def _open(rows: Rows, region: Polygon, above: Index, below: Index) -> NDArray[np.bool_]:
    """Whether no wall stands between two stretches in the middle of where they overlap."""
    middle = (np.maximum(rows.left[above], rows.left[below]) + np.minimum(rows.right[above], rows.right[below])) / 2
    ends = [rows.frame.places(np.stack([middle, rows.across[nth]], axis=1)) for nth in (above, below)]
    return np.asarray(shapely.covers(ready(region), shapely.linestrings(np.stack(ends, axis=1))))


def _inside(rows: Rows, region: Polygon, above: Index, below: Index) -> NDArray[np.bool_]:
    """Whether the steps between both pairs of ends of two stretches stay in the region."""
    inside, across = np.ones(len(above), dtype=bool), rows.across
    room = ready(grown(region, ROOM))
    for ends in (rows.left, rows.right):
        far = np.flatnonzero(np.hypot(ends[above] - ends[below], across[above] - across[below]) > STEP)
        if len(far):
            places = [
                rows.frame.places(np.stack([ends[nth[far]], across[nth[far]]], axis=1)) for nth in (above, below)
            ]
            inside[far] &= shapely.covers(room, shapely.linestrings(np.stack(places, axis=1)))
    return inside


def hanging(above: Index, below: Index, size: int) -> tuple[int, Index]:
    """In how many parts stretches hang together by given pairs, the first of each in order; and the part of each."""
    begins = np.searchsorted(above, np.arange(size + 1)).astype(np.int32)
    links = sparse.csr_matrix((np.ones(len(above)), below.astype(np.int32), begins), shape=(size, size))
    count, part = sparse.csgraph.connected_components(links, directed=False)
    return int(count), part.astype(np.int64)


def overlaps(rows: Rows, others: Rows | None = None, down: int = 1) -> tuple[Index, Index]:
    """Pairs of stretches that overlap, of a row and the one `down` below it, among others or the same."""
    others = rows if others is None else others
    row_offset = beyond(np.concatenate([rows.left, rows.right, others.left, others.right]))
    lefts, rights = others.row * row_offset + others.left, others.row * row_offset + others.right
    begin = np.searchsorted(rights, (rows.row + down) * row_offset + rows.left, side="right")
    end = np.searchsorted(lefts, (rows.row + down) * row_offset + rows.right, side="left")
    count = np.maximum(end - begin, 0)
    above = np.repeat(np.arange(len(count)), count)
    return above, begin[above] + numbered(count)


def beyond(at: Array) -> float:
    """A length that keeps rows apart when their number is multiplied by it."""
    return float(4.0 * np.abs(at).max() + 1.0) if len(at) else 1.0
