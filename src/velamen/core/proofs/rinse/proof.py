"""The rinse proof of lace: its parts, its weakest place, satins without thread under them, cells, wire."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from velamen.core.arrays import Array, Index
from velamen.core.proofs.rinse.cuts import ASKED, Cut, weakest
from velamen.core.proofs.rinse.flows import bounded
from velamen.core.proofs.rinse.hold import LOCK, Web, web_of
from velamen.core.proofs.rinse.meeting import meetings
from velamen.core.proofs.rinse.openings import Spot, sagging, wire
from velamen.core.proofs.rinse.rows import Rows, rows_of
from velamen.core.proofs.rinse.thread import Lying, Stitches, lying

LEAST_PARTED = 0.02  # of the thread, below which what comes off is no weakness
WIDEST_CELL = 6.0  # mm across, above which a cell sags (handbook, section 9)
LEAST_PART = 0.5  # mm of thread that counts as a part
LONG_BARE, LONG_BARE_END = 3.0, 1.5  # mm of a satin with nothing under it, between held rows as wide as a cell may
# be, and at an end of it, from which it is told
HINGE = 1  # strands by which lace does not hold


@dataclass(frozen=True)
class Part:
    """A part that hangs together. lines: (k, 2, 2) mm; length: mm of thread; at: a place on it."""

    lines: Array
    length: float
    at: tuple[float, float]


@dataclass(frozen=True)
class Weakest:
    """Where fewest strands hold. at: mm; lines: (k, 2, 2) mm of what would give; strands: how many; threads: passes
    of the thread on them; share: of the thread that parts there; exact: whether no fewer do anywhere; least: strands
    that hold it everywhere at least; sides: (k, 2) mm, places of the thread on either side of it."""

    at: tuple[float, float]
    lines: Array
    strands: int
    threads: int
    share: float
    exact: bool
    least: int
    sides: tuple[Array, Array]


@dataclass(frozen=True)
class Unsupported:
    """Rows of a satin or fill with no thread under them. rows: how many; row: of the plan, first and last."""

    at: tuple[float, float]
    line: Array
    rows: int
    row: tuple[int, int]


@dataclass(frozen=True)
class Rinse:
    """What the proof found."""

    parts: tuple[Part, ...]  # the largest first
    touching: int  # parts there would be if threads that only touch held
    weakest: Weakest | None  # None where none of so few strands parts it, or it is in several parts
    unsupported: tuple[Unsupported, ...]
    sagging: tuple[Spot, ...]
    wire: tuple[Spot, ...]
    length: float  # mm of thread

    @property
    def hinged(self) -> bool:
        """Whether a single strand holds more than a scrap of it."""
        return self.weakest is not None and self.weakest.strands <= HINGE

    @property
    def held(self) -> bool:
        return len(self.parts) == 1 and not (self.hinged or self.unsupported or self.sagging)


def prove_rinse(stitches: Stitches, meant: shapely.Geometry | None = None) -> Rinse:
    """The proof of all stitches of a piece of lace; meant: openings that are wanted, and no cells."""
    lies = lying(stitches)
    if not len(lies.ends):
        return Rinse((), 0, None, (), (), (), 0.0)
    rows = rows_of(lies)
    met = meetings(lies, rows)
    web = web_of(lies, rows, met.of(met.holds))
    count, group = _by_thread(web)
    parts = _parts(web, count, group)
    return Rinse(
        tuple(parts), _touching(lies, web, met.of(~met.holds).strand, group, len(parts)),
        _weakest(lies, web, group) if len(parts) == 1 else None, tuple(_unsupported(rows, web, lies)),
        tuple(sagging(lies.begins, lies.stops, WIDEST_CELL, meant)),
        tuple(wire(lies.begins, lies.stops, lies.passes)), float((lies.lengths * lies.passes).sum()),
    )  # fmt: skip


def _by_thread(web: Web) -> tuple[int, Index]:
    """How many parts there are, and the part of each node, the one with most thread first."""
    heavy = np.bincount(web.part, web.heavy)
    order = np.argsort(-heavy, kind="stable")
    rank = np.empty(len(order), np.int64)
    rank[order] = np.arange(len(order))
    return int((heavy > LEAST_PART).sum()), rank[web.part]


def _parts(web: Web, count: int, group: Index) -> list[Part]:
    lines = np.stack([web.begins, web.stops], axis=1)
    real = web.strand != LOCK
    mine = group[web.ends[:, 0]]
    length = np.bincount(mine[real], web.weight[real], max(count, 1))
    order = np.argsort(mine[real], kind="stable")
    begin = np.searchsorted(mine[real][order], np.arange(count + 1))
    found = []
    for nth in range(count):
        own = lines[real][order[begin[nth] : begin[nth + 1]]]
        middle = own.mean(axis=1)
        near = middle[np.argmin(np.linalg.norm(middle - np.median(middle, axis=0), axis=1))]
        found.append(Part(own, float(length[nth]), _place(near)))
    return found


def _touching(lies: Lying, web: Web, strand: Index, group: Index, count: int) -> int:
    """How many parts there are if threads that touch held one another. strand: (k, 2) strands that touch."""
    part = group[web.node_of[lies.run[2 * strand]]]
    part = part[(part < count).all(axis=1)]
    if count < 2 or not len(part):
        return count
    return int(connected_components(coo_array((np.ones(len(part)), part.T), (count, count)), directed=False)[0])


def _weakest(lies: Lying, web: Web, group: Index) -> Weakest | None:
    """The weakest place of the largest part."""
    own = np.flatnonzero(group[web.ends[:, 0]] == 0)
    nodes, ends = np.unique(web.ends[own], return_inverse=True)
    ends, weight = ends.reshape(-1, 2), web.heavy[nodes]
    asked = weakest(ends, weight, LEAST_PARTED)
    cut = asked if asked and asked.edges else bounded(ends, weight, LEAST_PARTED)
    if cut is None:
        return None
    least = len(cut.edges) if cut.exact else ASKED + (asked is None)  # not all cuts of three could be asked
    edges = own[list(cut.edges)]
    lines = np.stack([web.begins[edges], web.stops[edges]], axis=1)
    strands = web.strand[edges]
    passes = np.where(strands == LOCK, 1, lies.passes[np.maximum(strands, 0)])
    return Weakest(_place(lines.mean(axis=(0, 1))), lines, len(edges), int(passes.sum()), cut.share, cut.exact,
                   least, _sides(web, own, ends, cut))  # fmt: skip


def _sides(web: Web, own: Index, ends: Index, cut: Cut) -> tuple[Array, Array]:
    """Places of the thread on either side of a cut. own: its edges in the web; ends: their nodes."""
    kept = np.ones(len(ends), bool)
    kept[list(cut.edges)] = False
    count = int(ends.max()) + 1
    _, part = connected_components(
        coo_array((np.ones(int(kept.sum())), ends[kept].T), (count, count)), directed=False
    )
    first = part[ends[:, 0]] == part[ends[cut.edges[0], 0]]
    middle = (web.begins[own] + web.stops[own]) / 2
    return middle[kept & first], middle[kept & ~first]


def _unsupported(rows: Rows, web: Web, lies: Lying) -> list[Unsupported]:
    """Stretches of rows with nothing under them."""
    bare = np.flatnonzero(web.unsupported)
    if not len(bare):
        return []
    apart = np.flatnonzero((np.diff(bare) > 1) | (np.diff(rows.field[bare]) != 0)) + 1
    found = []
    for each in np.split(bare, apart):
        middle = (rows.begins[each] + rows.stops[each]) / 2
        if not _told(rows, each, middle):
            continue
        span = int(lies.row[rows.first[each[0]]]), int(lies.row[rows.last[each[-1]]])
        found.append(Unsupported(_place(middle[len(middle) // 2]), middle, len(each), span))
    return sorted(found, key=lambda one: -one.rows)


def _told(rows: Rows, bare: Index, middle: Array) -> bool:
    """Whether a stretch of bare rows is long, or all of its satin."""
    sides = [nth for nth in (bare[0] - 1, bare[-1] + 1) if 0 <= nth < len(rows.field)]
    held = sum(bool(rows.field[nth] == rows.field[bare[0]]) for nth in sides)
    least = {0: 0.0, 1: LONG_BARE_END, 2: LONG_BARE}[held]
    return float(np.linalg.norm(np.diff(middle, axis=0), axis=1).sum()) >= least


def _place(spot: Array) -> tuple[float, float]:
    return round(float(spot[0]), 2), round(float(spot[1]), 2)
