"""The spiral of a contour: turns that wind from ring to ring, with all that lies aside gone round on the way."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely.ops import substring

from velamen.core.arrays import Array, Place
from velamen.core.geometry.polyline import arc_lengths, line_length
from velamen.core.stitching.contour_rings import BARE, Children, Rings
from velamen.core.stitching.run import start_ring_at

STUCK = 0.05  # of a ring along which a spiral cannot wind, from which that is left off
FINE = 0.25  # mm between places of a spiral
NEAR = 1.1  # spacings to one as deep, from which it does not
FAR = 6.0  # spacings to the next ring, from which a spiral does not wind towards it; in a tip they are many
APART = 0.35  # spacings at which a spiral leaves the outermost ring and comes to the innermost, whole ones both


@dataclass(frozen=True)
class _Turn:
    """places: (n, 2) of one turn; free: (n,) how far it may wind over there, of the whole way."""

    places: Array
    free: Array

    def beside(self, rings: Rings, places: Array) -> Array:
        """How far it may wind over beside places (n, 2) of the next ring, nowhere where another ring lies between."""
        nearest = cKDTree(self.places).query(places)[1]
        return np.where(rings.parted(places, self.places[nearest]), 0.0, self.free[nearest])


def round_all(rings: Rings, root: int, children: Children, start: Place | None) -> Array:
    """A ring from a place round to it, and all that hang on it, each entered where it comes nearest."""
    ring = rings.found[root].line
    ring = ring if start is None else start_ring_at(ring, np.array(start))
    return _with_detours(rings, root, ring, children[root], children, ring[:1])


def spiral(rings: Rings, root: int, children: Children, start: Place | None) -> Array:
    """One line (n, 2) from a place of a ring round it, that winds on into its longest child, and so on.

    All else that hangs on a ring is gone round on the way. Outermost and innermost ring are whole, and so is one on
    which it could not wind for a good part: there the next one begins anew.
    """
    chain = [root]
    while children[chain[-1]]:
        chain.append(max(children[chain[-1]], key=lambda nth: float(shapely.length(rings.lines[nth]))))
    gates = _gates(rings, chain)
    begin = gates[0][1][0] if start is None else np.array(start)
    ring, first = _begun(start_ring_at(rings.found[root].line, begin), gates[0][1])
    parts: list[Array] = []
    before: _Turn | None = None  # none where a whole ring comes first
    for nth, onward, (enter, leave) in zip(chain, chain[1:], gates[1:], strict=False):
        whole, others = before is None, [one for one in children[nth] if one != onward]
        shares = APART if whole else 0.0, 1.0 - APART if onward == chain[-1] else 1.0
        turn = _wound(rings, ring, (nth, onward), before, shares, line_length(first))
        if whole and float(np.mean(turn.free < 0.5)) > STUCK:
            parts += [_rest(ring, first)[::-1], _with_detours(rings, nth, ring, others, children, ring[:1]), enter]
        else:
            others = [one for one in others if not _served(rings, one, turn.places, children)]
            parts += [*([first] if whole else []), _with_detours(rings, nth, turn.places, others, children, enter)]
            before = turn
        ring = _onward(rings.found[onward].line, enter[0], turn.places)
        first = np.concatenate([ring, ring[:1]])
        if enter is not leave:
            before, (ring, first) = None, _begun(ring, leave)
    return np.concatenate([*parts, ring, ring[:1]])


def _gates(rings: Rings, chain: list[int]) -> list[tuple[Array, Array]]:
    """Where each ring of a chain is entered and left, (1, 2) both: at one place that lies beside both others.

    Where there is none it is entered where it comes nearest to the ring before.
    """
    leave = shapely.get_coordinates(rings.lines[chain[-1]])[:1]
    found = [(leave, leave)]
    for nth, onward in zip(chain[-2::-1], chain[:0:-1], strict=True):
        enter = found[-1][1]
        way = shapely.get_coordinates(shapely.shortest_line(rings.lines[nth], shapely.Point(enter[0])))
        if line_length(way) > FAR * rings.spacing or rings.parted(way[:1], way[1:])[0]:
            way = shapely.get_coordinates(shapely.shortest_line(rings.lines[nth], rings.lines[onward]))
            enter = way[1:]
            found[-1] = enter, enter if onward == chain[-1] else found[-1][1]
        leave = way[:1]
        found.append((leave, leave))
    return found[::-1]


def _served(rings: Rings, other: int, wound: Array, children: Children) -> bool:
    """Whether a turn goes so near to all of a ring beside it, one that it crosses or a spot, that it does for it."""
    turn = shapely.linestrings(wound)
    if children[other] or not (rings.found[other].spot or shapely.intersects(turn, rings.lines[other])):
        return False
    return bool((shapely.distance(shapely.points(rings.found[other].line), turn) < BARE * rings.spacing).all())


def _begun(ring: Array, place: Array) -> tuple[Array, Array]:
    """A ring from a place of it on, and the longer way to that from its first place."""
    line = shapely.LineString(np.concatenate([ring, ring[:1]]))
    at = float(shapely.line_locate_point(line, shapely.Point(place)))
    if min(at, line.length - at) < FINE:
        return ring, shapely.get_coordinates(line)
    if at < line.length / 2:
        line, at = line.reverse(), line.length - at
    way = shapely.get_coordinates(substring(line, 0.0, at))
    return start_ring_at(shapely.get_coordinates(line)[:-1], place), way


def _rest(ring: Array, sewn: Array) -> Array:
    """What is left of a ring, from its first place on, where the last of it is sewn: (n, 2), if anything."""
    line = shapely.LineString(np.concatenate([ring, ring[:1]]))
    left = line.length - line_length(sewn)
    return np.asarray(shapely.get_coordinates(substring(line, 0.0, left))) if left > FINE else ring[:0]


def _onward(ring: Array, place: Array, before: Array) -> Array:
    """A ring from a place of it on, in the direction in which a line comes to it."""
    ring = start_ring_at(ring, place)
    comes = before[-1] - before[max(len(before) - 6, 0)]
    return ring if float((ring[1] - ring[0]) @ comes) >= 0 else np.roll(ring[::-1], 1, axis=0)


def _with_detours(rings: Rings, here: int, ring: Array, mine: list[int], children: Children, end: Array) -> Array:
    """A ring from its first place round to `end`, all that hang on it gone round on the way."""
    order = [(here, nth) for nth in mine]
    for _, ring_ in order:  # grows while it is walked
        order += [(ring_, nth) for nth in children[ring_]]
    inner: dict[int, list[tuple[Array, Array]]] = {}
    for parent, nth in reversed(order):
        outside = shapely.linearrings(ring) if parent == here else rings.lines[parent]
        gate = shapely.get_coordinates(shapely.shortest_line(outside, rings.lines[nth]))
        own = start_ring_at(rings.found[nth].line, gate[1])
        inner.setdefault(parent, []).append((gate[0], _inserted(own, own[:1], inner.pop(nth, []))))
    return _inserted(ring, end, inner.pop(here, []))


def _inserted(ring: Array, end: Array, detours: list[tuple[Array, Array]]) -> Array:
    """A ring closed by `end`, with detours put in at the places where they leave it."""
    line = np.concatenate([ring, end])
    if not detours:
        return line
    way = arc_lengths(line)
    gates = np.stack([gate for gate, _ in detours])
    at = shapely.line_locate_point(shapely.LineString(line), shapely.points(gates))
    parts, done = [], 0
    for nth in np.argsort(at).tolist():
        upto = int(np.searchsorted(way, at[nth]))
        parts += [line[done:upto], gates[nth][None], detours[nth][1], gates[nth][None]]
        done = upto
    return np.concatenate([*parts, line[done:]])


def _wound(
    rings: Rings, line: Array, pair: tuple[int, int], before: _Turn | None, shares: tuple[float, float], sewn: float
) -> _Turn:
    """One turn along a line that winds from the first to the second of two rings, as far as they lie side by side.

    before: the turn outside it, if that winds; it is followed no farther than that went, so that no gap opens.
    shares: of the way over, at which it begins and ends; sewn: mm at its end over which it winds.
    """
    nth, onward = pair
    closed = shapely.segmentize(shapely.LineString(np.concatenate([line, line[:1]])), FINE)
    places = shapely.get_coordinates(closed)
    way = arc_lengths(places)
    shapely.prepare(rings.lines[onward])
    goal = shapely.get_coordinates(shapely.shortest_line(rings.lines[onward], shapely.points(places)))[::2]
    off = goal - places
    far = np.maximum(np.linalg.norm(off, axis=1), 1e-9)
    step = np.minimum(rings.spacing, far)
    free = np.ones(len(places)) if before is None else before.beside(rings, places)
    # Two rings as deep as one another meet in the middle of an area, and lie as near only where they are neighbours.
    reach = NEAR if rings.found[nth].depth == rings.found[onward].depth else FAR
    free[(far > reach * rings.spacing) | rings.parted(places, goal)] = 0.0
    free = _eased(free * step, way) / step
    turn = (way - way[-1]) / min(sewn, float(way[-1])) + 1.0
    share = np.where(turn < 0, 0.0, shares[0] + (shares[1] - shares[0]) * np.minimum(turn, 1.0))
    return _Turn(places + off * (share * free * step / far)[:, None], free)


def _eased(step: Array, way: Array) -> Array:
    """Steps (n,) made smaller where they would grow or shrink by more than the way (n,) between them."""
    grown = np.minimum.accumulate(step - way) + way
    return np.asarray(np.minimum(grown, np.minimum.accumulate((step + way)[::-1])[::-1] - way))
