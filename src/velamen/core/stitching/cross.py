"""Cross-stitch: a grid of crosses, every one with the same arm on top, sewn without visible travel.

The grid is fitted to the shape, and where its outline cuts a cell in half the one arm inside is sewn.

The arms of one direction are sewn first; on the way from one row of them to the next the thread
runs along the other arms, which later lie over it.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import ndimage, sparse
from shapely import Polygon

from velamen.core.arrays import Array, Index, Mask
from velamen.core.errors import BadInput, within
from velamen.core.geometry.region import Area, ready
from velamen.core.stitching.fill import linked
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand, join, tied

ROOM = 0.08  # mm a cross may leave the region
MOST_CROSSES = 160_000  # crosses
FAR = 20.0  # mm of travel between parts of the grid, beyond which the thread is trimmed
FITTED = 1.12  # times larger or smaller may a cell be to fit the shape
HALF = 0.45  # of a cell that lies within the region, from which an arm stands alone
AGAIN = 3.0  # times as dear: travel along arms that lie on top


def cross_stitch(region: Polygon, role: str, size: float, start: tuple[float, float] | None = None) -> list[Strand]:
    """A region covered with crosses of about `size` mm that lie wholly within it, as one strand where they can.

    Beside them stand half ones: an arm within the region, of a cell of which that has HALF or more.

    start: where sewing begins, as near as may be. Raises BadInput out of bounds.
    """
    within("size of a cross-stitch", size, 0.8, 8.0)
    if region.area > MOST_CROSSES * size**2:
        raise BadInput(f"Crosses of {size:g} are too small for {region.area / 100:.0f} cm²: use larger ones.")
    corner, pitch, cells = _cells(region, size)
    if not cells.any():
        return []
    arms = _arms_within(region, corner, pitch, cells)
    sewn: list[Strand] = []
    at = None if start is None else np.array(start)
    group, count = ndimage.label(arms.any(axis=0), structure=np.ones((3, 3)))
    left = list(range(1, count + 1))
    while left:
        nth = min(left, key=lambda one: _far(corner + pitch * np.argwhere(group == one), at))
        left.remove(nth)
        for parity, first in ((0, True), (1, True), (1, False), (0, False)):
            for walk in _walks(arms & (group == nth), parity, first, at, corner, pitch):
                places = corner + pitch * (_round_corners(walk, cells) if (parity, first) == (0, False) else walk)
                sewn.append(Strand(places, np.full(len(places), CODE[role], dtype=np.uint8)))
                at = places[-1]
    return linked([tied(part) for part in _joined(sewn, 1.6 * size)], region, FAR)


def _cells(region: Polygon, size: float) -> tuple[Array, Array, Mask]:
    """Corner of the grid and size of its cells (2,), mm, fitted to the region, and which (w, h) lie within that."""
    left, top, right, bottom = region.bounds
    count = np.maximum(np.round(np.array([right - left, bottom - top]) / size), 1).astype(np.int64)
    pitch = np.clip(np.array([right - left, bottom - top]) / count, size / FITTED, size * FITTED)
    count = np.maximum((np.array([right - left, bottom - top]) / pitch + 1e-6).astype(np.int64), 1)
    corner = np.array([left + right, top + bottom]) / 2 - count * pitch / 2
    i, j = np.mgrid[0 : count[0], 0 : count[1]]
    inside = shapely.covers(_room(region), _boxes(corner, pitch, i.ravel(), j.ravel()))
    return corner, pitch, inside.reshape(*count)


def _room(region: Polygon) -> Area:
    return ready(shapely.buffer(region, ROOM, join_style="mitre"))


def _boxes(corner: Array, pitch: Array, i: Index, j: Index) -> NDArray[np.object_]:
    x, y = corner[0] + pitch[0] * i, corner[1] + pitch[1] * j
    return np.asarray(shapely.box(x, y, x + pitch[0], y + pitch[1]))


def _arms_within(region: Polygon, corner: Array, pitch: Array, cells: Mask) -> Mask:
    """Which cells have an arm running down to the right, and which one running up: (2, w, h)."""
    beside = ndimage.binary_dilation(cells, structure=np.ones((3, 3))) & ~cells
    i, j = np.nonzero(beside)
    arms = np.stack([cells, cells])
    if len(i) == 0:
        return arms
    near = shapely.area(shapely.intersection(_boxes(corner, pitch, i, j), region)) >= HALF * pitch.prod()
    room = _room(region)
    for nth, (begin, end) in enumerate((((i, j), (i + 1, j + 1)), ((i, j + 1), (i + 1, j)))):
        ends = [corner + pitch * np.stack(each, axis=1) for each in (begin, end)]
        arms[nth, i, j] = near & shapely.covers(room, shapely.linestrings(np.stack(ends, axis=1)))
    return arms


def _arms(arms: Mask, parity: int, down: bool) -> tuple[Index, Index]:
    """Both ends (n, 2) of the arms whose nodes have a parity, those running down or up to the right."""
    i, j = np.nonzero(arms[0 if down else 1])
    mine = (i + j + (0 if down else 1)) % 2 == parity
    i, j = i[mine], j[mine]
    return (np.stack([i, j], axis=1), np.stack([i + 1, j + 1], axis=1)) if down else (
        np.stack([i, j + 1], axis=1), np.stack([i + 1, j], axis=1))  # fmt: skip


def _walks(arms: Mask, parity: int, down: bool, at: Array | None, corner: Array, pitch: Array) -> list[Index]:
    """Nodes passed in sewing all arms of one direction and parity; a new walk wherever none leads on."""
    height = arms.shape[2] + 1
    one, other = _arms(arms, parity, down)
    if len(one) == 0:
        return []
    # Arms to sew, and the arms across them, along which the thread may pass: free below, dear where it lies on top.
    aside = _arms(arms, parity, not down)
    ends = [np.concatenate([mine, extra]) @ [height, 1] for mine, extra in ((one, aside[0]), (other, aside[1]))]
    cost = np.concatenate([np.ones(len(one)), np.full(len(aside[0]), 1.0 if down else AGAIN)])
    total = (arms.shape[1] + 1) * height
    graph = sparse.coo_matrix((cost, (ends[0], ends[1])), shape=(total, total)).tocsr()
    # Arms that follow one another in a line are one chain, sewn from whichever end is nearer.
    chains = _chains(one @ [height, 1], other @ [height, 1])
    walks: list[Index] = []
    walk: list[int] = []
    heads = np.array([[chain[0], chain[-1]] for chain in chains])
    left = np.ones(len(chains), dtype=bool)
    # On and on to the nearest chain that is left (Dijkstra over the arms); where none is reached a new walk begins.
    while left.any():
        if not walk:
            nodes = heads[left].ravel()
            places = corner + pitch * np.stack(np.divmod(nodes, height), axis=1)
            nearest = 0 if at is None else int(np.argmin(np.linalg.norm(places - at, axis=1)))
            nth, end = int(np.flatnonzero(left)[nearest // 2]), nearest % 2
            way = [int(nodes[nearest])]
        else:
            found = _nearest(graph, walk[-1], heads, left)
            if found is None:
                walks.append(np.stack(np.divmod(np.array(walk), height), axis=1))
                at, walk = corner + pitch * walks[-1][-1], []
                continue
            nth, end, way = found
        chain = chains[nth] if end == 0 else chains[nth][::-1]
        walk += [*(way if not walk else way[1:]), *chain[1:].tolist()]
        left[nth] = False
    return [*walks, np.stack(np.divmod(np.array(walk), height), axis=1)]


def _round_corners(walk: Index, cells: Mask) -> Index:
    """A last walk whose travel along arms that now lie underneath goes by the sides of the whole cells instead."""
    step = np.diff(walk, axis=0)
    cell = np.minimum(walk[:-1], walk[1:])
    whole = cells[np.minimum(cell[:, 0], cells.shape[0] - 1), np.minimum(cell[:, 1], cells.shape[1] - 1)]
    under = np.flatnonzero((step[:, 0] * step[:, 1] > 0) & whole)
    by = np.stack([walk[under, 0], walk[under + 1, 1]], axis=1)
    return np.insert(walk, under + 1, by, axis=0)


def _nearest(
    graph: sparse.csr_matrix, at: int, heads: Index, left: NDArray[np.bool_]
) -> tuple[int, int, list[int]] | None:
    """The chain not sewn yet whose end is nearest along the arms, which end, and the nodes on the way."""
    open_ = np.flatnonzero(left)
    for limit in (3.0, np.inf):
        far, came = sparse.csgraph.dijkstra(graph, directed=False, indices=at, limit=limit, return_predecessors=True)
        reach = far[heads[open_]]
        if np.isfinite(reach).any():
            nth, end = np.unravel_index(int(np.argmin(reach)), reach.shape)
            way = [int(heads[open_[nth], end])]
            while way[-1] != at:
                way.append(int(came[way[-1]]))
            return int(open_[nth]), int(end), way[::-1]
    return None


def _chains(one: Index, other: Index) -> list[Index]:
    """Arms that follow one another in a straight line, as nodes from end to end."""
    onward = dict(zip(one.tolist(), other.tolist(), strict=True))
    begins = sorted(set(onward) - set(onward.values()))
    chains = []
    for begin in begins:
        chain = [begin]
        while chain[-1] in onward:
            chain.append(onward[chain[-1]])
        chains.append(np.array(chain))
    return chains


def _far(places: Array, at: Array | None) -> float:
    """How far the nearest of some places is, mm."""
    return 0.0 if at is None else float(np.linalg.norm(places - at, axis=1).min())


def _joined(parts: list[Strand], reach: float) -> list[Strand]:
    """Walks that end beside the next one's beginning sewn on."""
    found = [[parts[0]]]
    for part in parts[1:]:
        if np.linalg.norm(part.xy[0] - found[-1][-1].xy[-1]) > reach:
            found.append([])
        found[-1].append(part)
    return [join(run) for run in found]
