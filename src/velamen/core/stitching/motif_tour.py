"""One thread round closed motifs: each is gone round once, and left for its neighbours where these come nearest.

Neighbours hang together by hops: the shortest line between two outlines, or one place where they cross. A tree of the
shortest hops takes in all motifs; the thread goes round each motif and on its way into every one that hangs on it,
so that no outline is gone along more often than asked and every hop there and back.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import breadth_first_order, connected_components, minimum_spanning_tree
from shapely import Polygon

from velamen.core.arrays import Array, Index
from velamen.core.geometry.polyline import drawn
from velamen.core.stitching import travel
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import CORNER, runs_along
from velamen.core.stitching.strand import Strand, strand

TOGETHER = 0.5  # mm along an outline within which hops leave it at one place
IN_CORNER = 0.45  # mm from a corner within which a hop goes into it
SAME = 1e-9  # mm
TOUCH = 1e-3  # mm added to every hop, so that those of no length count


@dataclass(frozen=True)
class Hop:
    """From a motif to the one that hangs on it: places, as numbers, on either's outline."""

    place: int
    child: int
    entry: int


@dataclass
class Loop:
    """A motif's outline, first point again at its end, with places at mm along it from which hops go.

    way: (n,) mm along it; corners: (c,) mm along it.
    """

    line: Array
    way: Array
    corners: Array
    places: list[float] = field(default_factory=list)

    def place(self, along: float) -> int:
        """The number of a place, of one near it where there is one; near a corner that."""
        for corner in self.corners.tolist():
            if abs(corner - along) <= IN_CORNER:
                along = corner
                break
        total = float(self.way[-1])
        for nth, known in enumerate(self.places):
            off = abs(known - along)
            if min(off, total - off) <= TOGETHER:
                return nth
        self.places.append(along)
        return len(self.places) - 1

    def spots(self) -> Array:
        """(k, 2) of its places."""
        return np.stack([np.interp(self.places, self.way, self.line[:, axis]) for axis in (0, 1)], axis=1)

    def arcs(self, spots: Array) -> tuple[list[int], list[Array]]:
        """Numbers of its places in order along it, and the line from each to the next. spots: of its places."""
        order = np.argsort(self.places).tolist()
        at = [self.places[nth] for nth in order]
        bounds = np.searchsorted(self.way, np.array(at))
        found = []
        for nth, place in enumerate(order):
            onward = (nth + 1) % len(at)
            low, high = int(bounds[nth]), int(bounds[onward])
            low += at[nth] >= self.way[low] - SAME  # a place on a point of the outline is that point
            inner = self.line[low:high] if onward > nth else np.concatenate([self.line[low:-1], self.line[:high]])
            found.append(np.concatenate([spots[place][None], inner, spots[order[onward]][None]]))
        return order, found


def _loops(lines: Sequence[Array]) -> list[Loop]:
    """Loops of closed lines, those with as many points measured together."""
    found: list[Loop | None] = [None] * len(lines)
    sizes = np.array([len(line) for line in lines])
    for size in np.unique(sizes).tolist():
        mine = np.flatnonzero(sizes == size)
        drawn = np.stack([lines[nth] for nth in mine.tolist()])
        side = np.diff(drawn, axis=1)
        long = np.linalg.norm(side, axis=2)
        way = np.concatenate([np.zeros((len(mine), 1)), np.cumsum(long, axis=1)], axis=1)
        heading = np.arctan2(side[:, :, 1], side[:, :, 0])
        turn = np.abs(np.angle(np.exp(1j * (heading - np.roll(heading, 1, axis=1)))))
        for row, nth in enumerate(mine.tolist()):
            found[nth] = Loop(drawn[row], way[row], way[row, :-1][turn[row] > CORNER])
    return [one for one in found if one is not None]


def tours(
    lines: Sequence[Array], region: Polygon, reach: float, role: str, stitch: float, times: int, start: Array
) -> list[Strand]:  # fmt: skip
    """Closed lines (n, 2) sewn on as one strand for all that hang together by hops up to `reach` mm, none tied.

    Crossings and hops up to a tenth of that are looked for first, since most do with them.
    times: how often each is gone round; start: where the first begins, as near as may be.
    """
    loops = _loops(lines)
    size = (len(lines), len(lines))
    for far in (0.0, reach / 10, reach):
        one, other, hops = _hops(lines, region, far)
        cost = coo_array((shapely.length(hops) + TOUCH, (one, other)), size)
        tree = minimum_spanning_tree(cost.tocsr())
        count, part = connected_components(tree, directed=False)
        if count == 1:
            break
    spot, outlines = shapely.points(start), drawn(lines)
    off = shapely.distance(outlines, spot)
    roots = [int(mine[np.argmin(off[mine])]) for mine in (np.flatnonzero(part == nth) for nth in range(count))]
    entries = [loops[root].place(float(shapely.line_locate_point(outlines[root], spot))) for root in roots]
    hanging = _hanging(loops, tree.tocoo(), one, other, hops, roots)
    spots = [loop.spots() for loop in loops]
    arcs = _Arcs(loops, spots, stitch)
    return [_sewn(arcs, hanging, spots, place, role, times) for place in zip(roots, entries, strict=True)]


def _hops(lines: Sequence[Array], region: Polygon, reach: float) -> tuple[Index, Index, Array]:
    """Pairs of lines near one another, and the shortest line from the one to the other inside a region."""
    shapes = drawn(lines)
    tree = shapely.STRtree(shapes)
    one, other = tree.query(shapes, "dwithin", reach) if reach else tree.query(shapes, "intersects")
    one, other = one[one < other], other[one < other]
    hops = shapely.shortest_line(shapes[one], shapes[other])
    inside = shapely.dwithin(region, hops, TOUCH) & (shapely.length(shapely.difference(hops, region)) < TOGETHER / 5)
    return one[inside], other[inside], hops[inside]


def _hanging(
    loops: Sequence[Loop], tree: coo_array, one: Index, other: Index, hops: Array, roots: Sequence[int]
) -> list[list[Hop]]:  # fmt: skip
    """For each motif the hops to those that hang on it."""
    count = len(loops)
    number = {(a, b): nth for nth, (a, b) in enumerate(zip(one.tolist(), other.tolist(), strict=True))}
    lines = drawn([loop.line for loop in loops])
    ends = shapely.get_coordinates(hops).reshape(-1, 2, 2)
    along = [shapely.line_locate_point(lines[each], shapely.points(ends[:, end]))
             for end, each in ((0, one), (1, other))]  # fmt: skip
    both = coo_array((np.ones(len(tree.row)), (tree.row, tree.col)), (count, count)).tocsr()
    found: list[list[Hop]] = [[] for _ in range(count)]
    for root in roots:
        order, came = breadth_first_order(both, root, directed=False)
        for child in order[1:].tolist():
            parent = int(came[child])
            nth = number[min(parent, child), max(parent, child)]
            first = 0 if parent < child else 1
            away = loops[parent].place(float(along[first][nth]))
            here = loops[child].place(float(along[1 - first][nth]))
            found[parent].append(Hop(away, child, here))
    return found


class _Arcs:
    """Needle points of all arcs of all motifs, sewn at once."""

    def __init__(self, loops: Sequence[Loop], spots: Sequence[Array], stitch: float) -> None:
        self.order: list[list[int]] = []
        lines: list[Array] = []
        for loop, own in zip(loops, spots, strict=True):
            order, arcs = loop.arcs(own)
            self.order.append(order)
            lines += arcs
        runs = iter(runs_along(lines, stitch))
        self.runs = [[next(runs) for _ in order] for order in self.order]

    def from_(self, nth: int, place: int) -> list[tuple[int, Array]]:
        """Arcs of a motif once round from a place of it: the place each leads to, and its needle points."""
        order, runs = self.order[nth], self.runs[nth]
        first = order.index(place)
        turned = [(first + k) % len(order) for k in range(len(order))]
        return [(order[(k + 1) % len(order)], runs[k]) for k in turned]


def _sewn(
    arcs: _Arcs,
    hanging: Sequence[Sequence[Hop]],
    spots: Sequence[Array],
    first: tuple[int, int],
    role: str,
    times: int,
) -> Strand:
    """All that hangs on a motif as one strand, from a place of it and back. first: the motif and that place."""
    parts: list[Array] = [spots[first[0]][first[1]][None]]
    codes: list[str] = [role]
    stack: list[Iterator[tuple[str, Array, tuple[int, int] | None]]] = [
        _round(arcs, hanging, spots, *first, role, times)
    ]
    while stack:
        step = next(stack[-1], None)
        if step is None:
            stack.pop()
            continue
        code, points, into = step
        parts.append(points)
        codes.append(code)
        if into is not None:
            stack.append(_round(arcs, hanging, spots, *into, role, times))
    roles = np.repeat([CODE[code] for code in codes], [len(part) for part in parts]).astype(np.uint8)
    xy = np.concatenate(parts)
    kept = strand(xy, role).xy
    return Strand(xy, roles) if len(kept) == len(xy) else _thinned(xy, roles)


def _hopped(one: Array, other: Array) -> Array:
    """Needle points of a hop, both ends among them."""
    count = max(int(np.ceil(float(np.hypot(*(other - one))) / travel.STITCH)), 1)
    return np.stack([one, other]) if count == 1 else np.linspace(one, other, count + 1)


def _thinned(xy: Array, roles: NDArray[np.uint8]) -> Strand:
    """Without stitches of no length, which hops between crossing motifs are."""
    keep = np.concatenate([[True], np.linalg.norm(np.diff(xy, axis=0), axis=1) > TOUCH])
    return Strand(xy[keep], roles[keep])


def _round(
    arcs: _Arcs, hanging: Sequence[Sequence[Hop]], spots: Sequence[Array], nth: int, entry: int, role: str, times: int
) -> Iterator[tuple[str, Array, tuple[int, int] | None]]:  # fmt: skip
    """The thread round a motif: points to sew, and into which motif it goes before it goes on."""
    way = arcs.from_(nth, entry)
    for _ in range(times - 1):
        for _, points in way:
            yield role, points[1:], None
    place = entry
    for onward, points in way:
        for hop in hanging[nth]:
            if hop.place == place:
                away = _hopped(spots[nth][place], spots[hop.child][hop.entry])
                yield "travel", away[1:], (hop.child, hop.entry)
                yield "travel", away[-2::-1], None
        yield role, points[1:], None
        place = onward
