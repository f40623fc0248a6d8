"""Ways inside a region: from place to place without leaving it, as straight as it allows."""

from __future__ import annotations

from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse
from scipy.spatial import KDTree
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.medial import Medial, medial_axis
from velamen.core.geometry.polyline import arc_lengths, line_length
from velamen.core.geometry.region import Area, grown, ready
from velamen.core.memo import kept, worked_out

ROOM = 0.03  # mm that a straight stretch may leave the region
ROUND, CORNER = 1.5, 1.0  # times as long and mm more may a way round a corner be
AROUND = 1.5  # times as long may a way become that is led round in places, before it is given up
ASKED = 12  # nodes of the medial axis tried for a first one in sight


class _Net(NamedTuple):
    """The medial axis of a region as a net to go along."""

    axis: Medial
    tree: Any  # of its places, None where it has none
    graph: Any  # its edges by their length


@kept(256, lasting=True)
def _net(region: Polygon) -> _Net:
    axis = medial_axis(region)
    one, other = axis.edge.T
    far = np.linalg.norm(axis.place[one] - axis.place[other], axis=1) if len(one) else np.zeros(0)
    graph = sparse.coo_matrix((np.maximum(far, 1e-9), (one, other)), shape=(len(axis.place),) * 2).tocsr()
    return _Net(axis, KDTree(axis.place) if len(axis.place) else None, graph)


class Ways:
    """Ways inside one region, along its medial axis and pulled straight; of one caller, who asks many times."""

    def __init__(self, region: Polygon) -> None:
        self.region = region

    @worked_out
    def room(self) -> Area:
        """The region with a little more round it, ready to be asked of."""
        return ready(grown(self.region, ROOM, 2))

    @worked_out
    def net(self) -> _Net:
        return _net(self.region)

    def between(self, one: Array, other: Array) -> Array | None:
        """Places (n, 2) to pass from one place to another, both included; None where there is no way inside."""
        here, there = self._inside(one), self._inside(other)
        ends = np.stack([here, there])
        if self._clear(ends[:1], ends[1:])[0]:
            return _plain(np.stack([one, here, there, other]))
        first, last = self._in_sight(here), self._in_sight(there)
        if first < 0 or last < 0:
            return None
        _, came = sparse.csgraph.dijkstra(self.net.graph, directed=False, indices=first, return_predecessors=True)
        chain = [last]
        while chain[-1] != first:
            if came[chain[-1]] < 0:
                return None
            chain.append(int(came[chain[-1]]))
        path = np.concatenate([here[None], self.net.axis.place[chain[::-1]], there[None]])
        return _plain(np.concatenate([one[None], self._straight(path), other[None]]))

    def _inside(self, place: Array) -> Array:
        """The place itself, or the nearest one in the region where it lies outside."""
        point = shapely.Point(place)
        if shapely.covers(self.room, point):
            return place
        return np.asarray(shapely.get_coordinates(shapely.shortest_line(point, self.region))[1])

    def _clear(self, one: Array, other: Array) -> NDArray[np.bool_]:
        return np.asarray(shapely.covers(self.room, shapely.linestrings(np.stack([one, other], axis=1))))

    def _in_sight(self, place: Array) -> int:
        if self.net.tree is None:
            return -1
        for asked in (ASKED, 12 * ASKED, self.net.tree.n):
            near = np.atleast_1d(self.net.tree.query(place, k=min(asked, self.net.tree.n))[1])
            clear = self._clear(np.broadcast_to(place, (len(near), 2)), self.net.axis.place[near])
            if clear.any():
                return int(near[int(np.argmax(clear))])
        return -1

    def _straight(self, path: Array) -> Array:
        """A path without the places that can be left out, the farthest in sight taken each time."""
        kept = [0]
        while kept[-1] < len(path) - 1:
            at, reach = kept[-1], 1
            while at + reach < len(path) - 1:  # doubling steps, then back to the last one in sight
                onward = min(2 * reach, len(path) - 1 - at)
                if not self._clear(path[at][None], path[at + onward][None])[0]:
                    break
                reach = onward
            ahead = np.arange(at + reach, min(at + 2 * reach, len(path) - 1) + 1)
            clear = self._clear(np.broadcast_to(path[at], (len(ahead), 2)), path[ahead])
            clear[0] = True
            kept.append(int(ahead[np.flatnonzero(clear)[-1]]))
        return np.asarray(path[kept])


class EdgeWays:
    """Ways along a region's edges, `inset` mm inside, between places no farther than `reach` mm from one of them."""

    def __init__(self, region: Polygon, inset: float, reach: float) -> None:
        self.region, self.inset, self.reach = region, inset, reach

    @worked_out
    def rings(self) -> NDArray[np.object_]:
        parts = shapely.get_parts(grown(self.region, -self.inset))
        return shapely.get_rings(parts) if len(parts) else np.zeros(0, dtype=object)

    @worked_out
    def lines(self) -> list[tuple[Array, Array]]:
        lines = [shapely.get_coordinates(ring) for ring in self.rings]
        return [(line, arc_lengths(line)) for line in lines]

    def between(self, one: Array, other: Array) -> Array | None:
        """Places (n, 2) to pass from one place to another along an edge, the shorter way round; None without one."""
        if len(self.rings) == 0:
            return None
        ends = shapely.points(np.stack([one, other]))
        off = shapely.distance(self.rings[:, None], ends[None])
        nth = int(np.argmin(off.sum(axis=1)))
        return self._along(nth, one, other) if off[nth].max() <= self.reach else None

    def nearest(self, place: Array) -> Array:
        """The place on an edge nearest to a place, or that itself where there is no edge."""
        if len(self.rings) == 0:
            return place
        lines = shapely.shortest_line(self.rings, shapely.Point(place))
        return np.asarray(shapely.get_coordinates(lines[int(np.argmin(shapely.length(lines)))])[0])

    def _along(self, nth: int, one: Array, other: Array, located: list[float] | None = None) -> Array:
        """The shorter way along one ring between two places near it, both included; located: their ways along it."""
        ring = self.rings[nth]
        if located is None:
            located = shapely.line_locate_point(ring, shapely.points(np.stack([one, other]))).tolist()
        begin, upto = located
        low, high = min(begin, upto), max(begin, upto)
        if high - low <= ring.length / 2:
            walk, back = self._stretch(nth, low, high), begin > upto
        else:
            walk = np.concatenate([self._stretch(nth, high, ring.length), self._stretch(nth, 0.0, low)])
            back = begin < upto
        return _plain(np.concatenate([one[None], walk[::-1] if back else walk, other[None]]))

    def stretch(self, nth: int, begin: float, end: float, up: bool) -> Array:
        """Places of a ring from one length along it on to another, round its first point where that lies between.

        up: in that order, not the other way round.
        """
        if begin <= end:
            walk = self._stretch(nth, begin, end)
        else:
            walk = np.concatenate([self._stretch(nth, begin, self.lines[nth][1][-1]), self._stretch(nth, 0.0, end)])
        return walk if up else walk[::-1]

    def _stretch(self, nth: int, begin: float, end: float) -> Array:
        """Places of a ring from one length along it to another, both ends among them."""
        points, along = self.lines[nth]
        first, last = np.searchsorted(along, begin, "right"), np.searchsorted(along, end, "left")
        ends = np.stack([np.interp([begin, end], along, points[:, axis]) for axis in (0, 1)], axis=1)
        return np.concatenate([ends[:1], points[first:last], ends[1:]])


class Inside:
    """Ways kept within a region and `room` mm round it.

    corners: an edge along which those go that would leave it, where that is little longer.
    """

    def __init__(self, region: Polygon, room: float, corners: EdgeWays | None = None) -> None:
        self.region, self.corners = region, corners
        self.room = ready(grown(region, room, 2))

    def instead(self, given: list[Array]) -> list[Array]:
        """Ways (n, 2) as they are where they stay within, and led otherwise where they do not."""
        if not given:
            return given
        found = list(given)
        inside = Ways(self.region)
        owner = np.repeat(np.arange(len(found)), [len(way) for way in found])
        lines = shapely.linestrings(np.concatenate(found), indices=owner)
        for nth in np.flatnonzero(~shapely.covers(self.room, lines)).tolist():
            way = self._led(found[nth], inside)
            if _long(way) > AROUND * _long(found[nth]) + CORNER:
                straight = inside.between(way[0], way[-1])
                way = way if straight is None else straight
            found[nth] = way
        return found

    def _led(self, way: Array, inside: Ways) -> Array:
        """A way with others in place of those stretches of it that leave, between the places where it is within."""
        kept = self.holds(np.stack([way[:-1], way[1:]], axis=1))
        parts, turns = [], np.flatnonzero(np.diff(kept)) + 1
        for begin, end in pairwise([0, *turns.tolist(), len(kept)]):
            part = way[begin : end + 1]
            if not kept[begin]:
                other = self._round_a_corner(part)
                other = inside.between(part[0], part[-1]) if other is None else other
                part = part if other is None else other
            parts.append(part[:-1])
        return np.concatenate([*parts, way[-1:]])

    def holds(self, lines: Array) -> NDArray[np.bool_]:
        """Which straight lines (n, 2, 2) stay within."""
        return np.asarray(shapely.covers(self.room, shapely.linestrings(lines)))

    def _round_a_corner(self, way: Array) -> Array | None:
        """A way along an edge that is little longer than a given one, or None."""
        if self.corners is None:
            return None
        along = self.corners.between(way[0], way[-1])
        return None if along is None or _long(along) > ROUND * _long(way) + CORNER else along


def _long(path: Array) -> float:
    return line_length(path)


def _plain(path: Array) -> Array:
    """A path without repeated places; both ends kept."""
    keep = np.concatenate(([True], np.linalg.norm(np.diff(path, axis=0), axis=1) > 1e-6))
    return np.asarray(path[keep]) if keep.sum() > 1 else path[[0, -1]]
