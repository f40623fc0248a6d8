"""Rows of a fill: a region cut at many levels, and the sections in which rows follow one another."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse
from shapely import Polygon

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.region import boundaries, grown, ready
from velamen.core.memo import worked_out
from velamen.core.stitching.frame import Frame, straight

FINE = 8  # finer rows to one, when parts are joined
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


def levels_over(rings: list[Array], spacing: float, last: float | None = None) -> Array:
    """Levels over all of some rings, centred on them, `spacing` mm apart or growing evenly to `last` mm."""
    across = np.concatenate(rings)[:, 1]
    low, high = float(across.min()), float(across.max())
    if last is None or abs(last - spacing) < 1e-9:
        count = max(int(np.ceil((high - low) / spacing - 1e-9)), 1)
        return np.asarray(
            low + ((high - low) - (count - 1) * spacing) / 2 + spacing * np.arange(count), dtype=np.float64
        )
    grown = np.log(last / spacing) / (last - spacing) * (high - low)  # rows there: the sum of 1 / spacing
    count = max(int(np.ceil(grown - 1e-9)), 1)
    share = (np.arange(count) + 0.5) / count
    return np.asarray(low + (high - low) * ((last / spacing) ** share - 1.0) / (last / spacing - 1.0))


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
    order = np.argsort(row * _beyond(at) + at, kind="stable")
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
    count, section = _hanging(above[plain], below[plain], size)
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


@dataclass(frozen=True)
class Join:
    """A way inside the region between two stretches whose parts do not hang together by their rows."""

    one: int  # stretch it begins on
    other: int  # stretch it ends on
    path: Array  # (n, 2) mm along and across


def joins(rows: Rows, rings: list[Array]) -> list[Join]:
    """The shortest ways that join all parts of a region where rows leave them apart.

    Found among rows so much finer that thin and slanting places hang together by them too.
    """
    count, part = _hanging(*overlaps(rows), len(rows.row))
    if count < 2:
        return []
    # Cut again eight times finer: thin places that rows step over hang together there.
    fine = cut(rings, rows.frame, _finer(rows.levels))
    above, below = overlaps(fine)
    # Every fine stretch belongs to the stretch it is fewest steps from; where two parts meet is a bridge.
    nearest = _nearest_stretches(rows, fine, above, below)
    bridges = _bridges(nearest, part, above, below)
    # Shortest first, each that joins two parts still apart (Kruskal, 1956): no more joins than are needed.
    found: list[Join] = []
    group = np.arange(count)
    middle = (np.maximum(fine.left[above], fine.left[below]) + np.minimum(fine.right[above], fine.right[below])) / 2
    place = dict(zip(zip(above.tolist(), below.tolist(), strict=True), middle.tolist(), strict=True))
    for nth in bridges.tolist():
        one, other = int(nearest.owner[above[nth]]), int(nearest.owner[below[nth]])
        if group[part[one]] == group[part[other]]:
            continue
        group[group == group[part[other]]] = group[part[one]]
        chain = _chain(nearest.came, int(above[nth]))[::-1] + _chain(nearest.came, int(below[nth]))
        steps = [(place[min(here, there), max(here, there)], (fine.across[here] + fine.across[there]) / 2)
                 for here, there in pairwise(chain)]  # fmt: skip
        found.append(Join(one, other, np.array(steps).reshape(-1, 2)))
    return found


class _Nearest(NamedTuple):
    """For every finer stretch the stretch that it is fewest steps from."""

    owner: Index  # that stretch, -1 where none is reached
    far: Array  # steps to it
    came: Index  # the finer stretch one step nearer to it, below 0 at its own


def _nearest_stretches(rows: Rows, fine: Rows, above: Index, below: Index) -> _Nearest:
    """The stretches that finer ones belong to, all at once (Dijkstra's algorithm, each step counting one)."""
    size = len(fine.row)
    graph = sparse.coo_matrix((np.ones(len(above)), (above, below)), shape=(size, size)).tocsr()
    here = _same(rows, fine)
    known = here >= 0
    far, came, source = sparse.csgraph.dijkstra(
        graph, directed=False, indices=here[known], unweighted=True, min_only=True, return_predecessors=True
    )
    belongs = np.full(size, -1)
    belongs[here[known]] = np.flatnonzero(known)
    reached = (source >= 0) & np.isfinite(far)
    return _Nearest(np.where(reached, belongs[np.where(reached, source, 0)], -1), far, came)


def _bridges(nearest: _Nearest, part: Index, above: Index, below: Index) -> Index:
    """Pairs of finer stretches that belong to stretches of parts apart, those of the shortest way first."""
    owner, far = nearest.owner, nearest.far
    apart = (owner[above] >= 0) & (owner[below] >= 0)
    apart[apart] = part[owner[above[apart]]] != part[owner[below[apart]]]
    return np.flatnonzero(apart)[np.argsort((far[above] + far[below])[apart], kind="stable")]


def _chain(came: Index, at: int) -> list[int]:
    """Nodes from one back to where its way began."""
    chain = [at]
    while came[chain[-1]] >= 0:
        chain.append(int(came[chain[-1]]))
    return chain


def _finer(levels: Array) -> Array:
    """Levels with FINE steps to each one, and a step more at either end."""
    size = len(levels)
    step = levels[1] - levels[0] if size > 1 else 1.0
    last = levels[-1] - levels[-2] if size > 1 else 1.0
    known = np.concatenate(([levels[0] - step], levels, [levels[-1] + last]))
    return np.interp(np.arange(FINE * (size + 1) + 1) / FINE, np.arange(size + 2), known)


def _same(rows: Rows, fine: Rows) -> Index:
    """The stretch among finer rows that each stretch is, -1 where it is none of them."""
    row_offset = _beyond(np.concatenate([fine.left, fine.right]))
    keys = fine.row * row_offset + fine.left
    wanted = (rows.row + 1) * FINE * row_offset + rows.left
    nth = np.clip(np.searchsorted(keys, wanted - 1e-6), 0, len(keys) - 1)
    return np.where(np.abs(keys[nth] - wanted) < 1e-3, nth, -1)


def _hanging(above: Index, below: Index, size: int) -> tuple[int, Index]:
    """In how many parts stretches hang together by given pairs, the first of each in order; and the part of each."""
    begins = np.searchsorted(above, np.arange(size + 1)).astype(np.int32)
    links = sparse.csr_matrix((np.ones(len(above)), below.astype(np.int32), begins), shape=(size, size))
    count, part = sparse.csgraph.connected_components(links, directed=False)
    return int(count), part.astype(np.int64)


def overlaps(rows: Rows, others: Rows | None = None, down: int = 1) -> tuple[Index, Index]:
    """Pairs of stretches that overlap, of a row and the one `down` below it, among others or the same."""
    others = rows if others is None else others
    row_offset = _beyond(np.concatenate([rows.left, rows.right, others.left, others.right]))
    lefts, rights = others.row * row_offset + others.left, others.row * row_offset + others.right
    begin = np.searchsorted(rights, (rows.row + down) * row_offset + rows.left, side="right")
    end = np.searchsorted(lefts, (rows.row + down) * row_offset + rows.right, side="left")
    count = np.maximum(end - begin, 0)
    above = np.repeat(np.arange(len(count)), count)
    return above, begin[above] + numbered(count)


def _beyond(at: Array) -> float:
    """A length that keeps rows apart when their number is multiplied by it."""
    return float(4.0 * np.abs(at).max() + 1.0) if len(at) else 1.0
