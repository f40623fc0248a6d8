"""Joins of a fill: ways inside a region between stretches that do not hang together by their rows."""

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
from velamen.core.geometry.region import grown, ready
from velamen.core.stitching.rows import ROOM, Rows, Sections, beyond, cut, hanging, overlaps

FINE = 8  # finer rows to one, when parts are joined
BESIDE = 1.6  # spacings within which rows lie beside one another, with nothing between
BEND = 1.5  # mm between places of a row that bends


@dataclass(frozen=True)
class Join:
    """A way inside the region between two stretches whose parts do not hang together by their rows."""

    one: int  # stretch it begins on
    other: int  # stretch it ends on
    path: Array  # (n, 2) mm along and across


def joins(rows: Rows, rings: list[Array], region: Polygon, sections: Sections) -> list[Join]:
    """The shortest ways that join all parts of a region where rows leave them apart.

    Found among rows so much finer that thin and slanting places hang together by them too; and straight over where
    parts do so by no open way, as on both sides of a guide's bend.
    """
    found = _by_finer_rows(rows, rings)
    links = [*sections.section[sections.gates].tolist(),
             *([sections.section[way.one], sections.section[way.other]] for way in found)]  # fmt: skip
    one, other = np.array(links, dtype=np.int64).reshape(-1, 2).T
    size = len(sections.top)
    graph = sparse.coo_matrix((np.ones(len(one)), (one, other)), shape=(size, size))
    count, part = sparse.csgraph.connected_components(graph, directed=False)
    return found if count < 2 else found + _straight_over(rows, region, part[sections.section])


def _by_finer_rows(rows: Rows, rings: list[Array]) -> list[Join]:
    """Joins of parts that hang together by finer rows alone."""
    count, part = hanging(*overlaps(rows), len(rows.row))
    if count < 2:
        return []
    group = np.arange(count)
    # Cut again eight times finer: thin places that rows step over hang together there.
    fine = cut(rings, rows.frame, _finer(rows.levels))
    above, below = overlaps(fine)
    # Every fine stretch belongs to the stretch it is fewest steps from; where two parts meet is a bridge.
    nearest = _nearest_stretches(rows, fine, above, below)
    bridges = _bridges(nearest, part, above, below)
    # Shortest first, each that joins two parts still apart (Kruskal, 1956): no more joins than are needed.
    found: list[Join] = []
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


def _straight_over(rows: Rows, region: Polygon, part: Index) -> list[Join]:
    """Joins of parts, that of each stretch given, where their rows come near and nothing lies between."""
    group = np.arange(int(part.max()) + 1)
    lines = _lines(rows)
    one, other = shapely.STRtree(lines).query(lines, predicate="dwithin", distance=BESIDE * rows.spacing)
    apart = group[part[one]] < group[part[other]]
    one, other = one[apart], other[apart]
    over = shapely.shortest_line(lines[one], lines[other])
    clear = shapely.covers(ready(grown(region, ROOM)), over)
    one, other, over = one[clear], other[clear], over[clear]
    found: list[Join] = []
    for nth in np.argsort(shapely.length(over), kind="stable").tolist():
        here, there = int(one[nth]), int(other[nth])
        if group[part[here]] == group[part[there]]:
            continue
        group[group == group[part[there]]] = group[part[here]]
        ends = shapely.get_coordinates(over[nth])
        found.append(
            Join(here, there, np.array([_on(rows, lines, *at) for at in ((here, ends[0]), (there, ends[1]))]))
        )
    return found


def _lines(rows: Rows) -> NDArray[np.object_]:
    """Every stretch as a line, as it bends."""
    count = np.maximum(np.ceil((rows.right - rows.left) / BEND).astype(np.int64), 1) + 1
    owner = np.repeat(np.arange(len(count)), count)
    share = numbered(count) / (count - 1)[owner]
    along = rows.left[owner] + share * (rows.right - rows.left)[owner]
    return np.asarray(
        shapely.linestrings(rows.frame.places(np.stack([along, rows.across[owner]], axis=1)), indices=owner)
    )


def _on(rows: Rows, lines: NDArray[np.object_], nth: int, place: Array) -> tuple[float, float]:
    """A place on a stretch, mm along and across."""
    share = shapely.line_locate_point(lines[nth], shapely.Point(place), normalized=True)
    return float(rows.left[nth] + share * (rows.right[nth] - rows.left[nth])), float(rows.across[nth])


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
    row_offset = beyond(np.concatenate([fine.left, fine.right]))
    keys = fine.row * row_offset + fine.left
    wanted = (rows.row + 1) * FINE * row_offset + rows.left
    nth = np.clip(np.searchsorted(keys, wanted - 1e-6), 0, len(keys) - 1)
    return np.where(np.abs(keys[nth] - wanted) < 1e-3, nth, -1)
