"""Faces of a shadow in flat satin: rows along the way it falls, so that faces meet corner to corner.

A column's thread goes out along its middle and comes back as rows, both from the side that lies under what casts the
shadow; from column to column it goes there too, so that no way shows.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.geometry.interior_paths import Ways
from velamen.core.geometry.region import Area
from velamen.core.stitching import travel
from velamen.core.stitching.border import UNDERLAY_RUN
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import run_along
from velamen.core.stitching.split import split
from velamen.core.stitching.strand import DROP, LONGEST, Strand, join, strand, tied

LEAST = 0.5  # mm of a row worth sewing
OVERLAPS, MOVED = 0.25, 1.5  # share of its length and mm by which a row of the same column may lie aside
SHORTEST = 1.2  # mm of a face, shorter ones take their neighbour's colour
HIDDEN = 0.2  # mm that ways keep inside what hides them
EDGE = 0.3  # mm about a row's beginning where the edge is looked for that casts it


@dataclass(frozen=True)
class FaceSewing:
    """How faces are sewn. way: (2,) mm that the shadow falls; spacing between needle points of a rail, pull: mm;

    two: whether faces turned to either side are sewn apart.
    """

    way: Array
    spacing: float
    pull: float
    two: bool = False


@dataclass(frozen=True)
class _Column:
    """Rows side by side. begin, end: (n, 2) mm, the first under what casts the shadow; side: 0 or 1."""

    begin: Array
    end: Array
    side: int


def sewn_faces(area: Area, casts: Area, sewing: FaceSewing) -> tuple[list[Strand], list[Strand]]:
    """The strands of faces turned to one side, and to the other. casts: what they lie behind, which hides ways."""
    columns = [
        one for each in _columns(area, sewing) for one in (_sides(each, casts, sewing) if sewing.two else [each])
    ]
    hidden = shapely.get_parts(shapely.buffer(casts, -HIDDEN, quad_segs=4))
    first, second = ([one for one in columns if one.side == side] for side in (0, 1))
    return _threads(first, hidden, casts, sewing), _threads(second, hidden, casts, sewing)


def _columns(area: Area, sewing: FaceSewing) -> list[_Column]:
    """Rows along the way, half a spacing apart, chained into columns."""
    unit = sewing.way / np.linalg.norm(sewing.way)
    turn = np.array([[unit[0], -unit[1]], [unit[1], unit[0]]])  # way along x
    turned = shapely.transform(area, lambda xy: xy @ turn)
    if turned.is_empty:
        return []
    left, low, right, high = turned.bounds
    step = sewing.spacing / 2
    level = np.arange(low + step / 2, high, step)
    ends = np.stack([np.full(len(level), left - 1.0), level, np.full(len(level), right + 1.0), level], axis=1)
    rows = shapely.intersection(shapely.linestrings(ends.reshape(-1, 2, 2)), turned)
    parts, line = shapely.get_parts(rows, return_index=True)
    long = shapely.length(parts) > LEAST
    box, line = shapely.bounds(parts[long]), line[long]
    found = [_Column(np.stack([box[one, 0] - sewing.pull, box[one, 1]], axis=1) @ turn.T,
                     np.stack([box[one, 2] + sewing.pull, box[one, 1]], axis=1) @ turn.T, 0)
             for one in _chained(box[:, [0, 2]], line)]  # fmt: skip
    return [one for one in found if len(one.begin) > 2]


def _chained(span: Array, line: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """Rows by column. span: (n, 2) from where to where each lies, mm; line: (n,) the number of the line it is on."""
    chains: list[list[int]] = []
    open_: list[int] = []  # numbers of the chains that reach the line before
    for nth in np.unique(line).tolist():
        here = np.flatnonzero(line == nth).tolist()
        onward, taken = [], set()
        for row in here:
            best = max((one for one in open_ if one not in taken and line[chains[one][-1]] == nth - 1),
                       key=lambda one: _shared(span[chains[one][-1]], span[row]), default=-1)  # fmt: skip
            if best >= 0 and _goes_on(span[chains[best][-1]], span[row]):
                chains[best].append(row)
            else:
                best = len(chains)
                chains.append([row])
            taken.add(best)
            onward.append(best)
        open_ = onward
    return [np.array(one) for one in chains]


def _shared(one: Array, other: Array) -> float:
    return float(min(one[1], other[1]) - max(one[0], other[0]))


def _goes_on(one: Array, other: Array) -> bool:
    shorter = min(one[1] - one[0], other[1] - other[0])
    return _shared(one, other) >= OVERLAPS * shorter and bool(np.abs(one - other).max() < MOVED)


def _sides(column: _Column, casts: Area, sewing: FaceSewing) -> list[_Column]:
    """A column parted where the edge that casts it turns from one side of the way to the other."""
    side = _turned_to(
        column.begin + (sewing.pull + EDGE) * sewing.way / np.linalg.norm(sewing.way), casts, sewing.way
    )
    least = max(int(SHORTEST / (sewing.spacing / 2)), 1)
    while True:
        edge = np.flatnonzero(np.diff(side)) + 1
        begin, upto = np.append(0, edge), np.append(edge, len(side))
        nth = int(np.argmin(upto - begin))
        if len(begin) == 1 or upto[nth] - begin[nth] >= least:
            break
        side[begin[nth] : upto[nth]] = side[begin[nth] - 1] if nth else side[upto[nth]]
    found = []
    for low, high in zip(begin.tolist(), upto.tolist(), strict=True):
        more = slice(max(low - int(side[low] == 0), 0), high + int(side[low] == 0))  # the first sewn reaches a row on
        found.append(_Column(column.begin[more], column.end[more], int(side[low])))
    return [one for one in found if len(one.begin) > 2]


def _turned_to(places: Array, casts: Area, way: Array) -> NDArray[np.int64]:
    """To which side of the way the edge is turned that lies nearest to each place: 0 or 1."""
    rings = [shapely.get_coordinates(one) for one in shapely.get_rings(shapely.get_parts(casts))]
    begin, end = (np.concatenate(part) for part in zip(*((one[:-1], one[1:]) for one in rings), strict=True))
    tree = shapely.STRtree(shapely.linestrings(np.stack([begin, end], axis=1)))
    along = (end - begin)[tree.nearest(shapely.points(places))]
    flip = np.sign(along[:, 0] * way[1] - along[:, 1] * way[0])  # an edge casts with the same of its faces either way
    along = along * np.where(flip < 0, -1.0, 1.0)[:, None]
    return np.asarray(along @ way > 0, dtype=np.int64)


def _threads(columns: list[_Column], hidden: Sequence[Area], casts: Area, sewing: FaceSewing) -> list[Strand]:
    """Columns sewn on, nearest next, one thread for each part of what hides the ways between them."""
    if not columns:
        return []
    begins = shapely.points(np.stack([one.begin[len(one.begin) // 2] for one in columns]))
    nearest = shapely.STRtree(hidden).nearest(begins) if len(hidden) else np.zeros(len(columns), dtype=np.int64)
    found = []
    for part in np.unique(nearest).tolist():
        mine = [one for one, under in zip(columns, nearest, strict=True) if under == part]
        ways = Ways(hidden[part]) if len(hidden) else None
        found += _thread(mine, ways, sewing)
    return found


def _thread(columns: list[_Column], ways: Ways | None, sewing: FaceSewing) -> list[Strand]:
    left, parts, found = list(columns), list[Strand](), list[Strand]()
    at = min(left, key=lambda one: float(one.begin[0, 0])).begin[0]
    while left:
        starts = np.array([one.begin[end] for one in left for end in (0, -1)])
        nth, back = divmod(int(np.argmin(np.linalg.norm(starts - at, axis=1))), 2)
        column = left.pop(nth)
        sewn = _sewn(_Column(column.begin[::-1], column.end[::-1], column.side) if back else column, sewing)
        way = ways.between(parts[-1].xy[-1], sewn.xy[0]) if parts and ways else None
        if parts and way is None:
            found.append(tied(join(parts)))
            parts = []
        if way is not None:
            run = run_along(way, travel.STITCH, travel.CHORD, DROP)[1:-1]
            parts.append(Strand(run, np.full(len(run), CODE["travel"], dtype=np.uint8)))
        parts.append(sewn)
        at = sewn.xy[-1]
    return [*found, tied(join(parts))] if parts else found


def _sewn(column: _Column, sewing: FaceSewing) -> Strand:
    """Out along the middle under the rows, and back as satin, from the hidden side to the hidden side."""
    middle = (column.begin + column.end) / 2
    out = run_along(np.concatenate([column.begin[:1], middle[1:-1]]), UNDERLAY_RUN)
    turn = np.arange(len(column.begin))[::-1]
    rows = np.where((turn % 2 == 0)[:, None], column.begin[turn], column.end[turn])
    rows = split(rows, "limit", min(LONGEST - 0.1, 12.0))
    return join([strand(out, "underlay"), strand(rows, "column")])
