"""Corners of satin borders: which are mitred or lapped, not turned round, and where their rows meet the others."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.ndimage import median_filter
from scipy.spatial import KDTree

from velamen.core.arrays import Array
from velamen.core.geometry.corner_rows import (
    WITHIN,
    Band,
    Corner,
    Rows,
    joined,
    kept_rows,
    lapped,
    mitred,
    place_along,
    side_rows,
)
from velamen.core.geometry.outline import OutlineSamples, Surroundings, reach
from velamen.core.geometry.rails import Rails

CORNERS = (("auto", "by their angle"), ("rounded", "rounded"), ("mitred", "mitred"), ("lapped", "lapped"))
LEAST, MOST = np.radians(40.0), np.radians(151.0)  # turns that are treated; sharper ones are tips of needles
FAR, BLUNT = 1.0, 0.8  # mm from a corner within which its sides' courses are told, and by which it may be blunted
SHARE = 0.7  # of a corner's turn that lies within WITHIN of it
STRAIGHT = 0.1  # mm a side may bow and still count as straight
SHORT, SHORTEST = 0.4, 1.2  # of the width and in mm, the shortest side of a corner
UNREST = np.radians(75.0)  # turns in all of a side that is calm, over a width
FREE = 0.98  # of a rail's distance that must be open round the longer way
LEAD, FARTHEST = 2.0, 4.0  # widths before a corner from which rows are squared up, and from which at most
UNWANTED = 0.05  # of a mm by which rows are squared up elsewhere than asked, against mm by which rails lie off
STEADY = 5  # samples over which it is told how far rows may go
MATCH = 0.9  # mm, by which squared rows may lie off those that lead to them


def with_corners(
    rails: Rails, samples: OutlineSamples, around: Surroundings, found: list[Corner], sides: tuple[float, float],
    pull: float, how: str,
) -> tuple[Rails, list[Corner]]:  # fmt: skip
    """Rails whose corners are treated, and those of the corners that are left round, without room for it.

    samples: of the outline they run along; around: what surrounds it; found: its corners; sides: mm of the rails off
    and on the cloth, of them pull; how: key of CORNERS.
    """
    if how == "rounded" or not found:
        return rails, []
    band = _band(samples, around, *sides, pull)
    rails, treated = _rebuilt(rails, band, [one for one in found if _fits(band, one)], found, how)
    done = set(map(id, treated))
    return rails, [one for one in found if id(one) not in done]


def corners_of(samples: OutlineSamples, ring: Array) -> list[Corner]:
    """All corners of a ring (n, 2), those of needles too: turns of at least LEAST that lie in one place.

    samples: of the ring.
    """
    line = shapely.get_coordinates(shapely.simplify(shapely.LinearRing(ring), STRAIGHT))[:-1]
    if len(line) < 3:
        return []
    at = np.unique(samples.along[KDTree(samples.point).query(line)[1]])
    beside = 0.5 * np.minimum(_gaps(at, samples.length), np.roll(_gaps(at, samples.length), 1))
    here, near = np.zeros(len(at)), np.minimum(WITHIN, 0.5 * beside)
    _, _, blunted = _turns(samples, at, here, near)
    before, after, turn = _turns(samples, at, near, np.minimum(FAR, beside))
    place = _meeting(samples, at, near, before, after)
    sharp = (np.abs(turn) >= LEAST) & (np.abs(blunted) >= SHARE * np.abs(turn))
    gap = _gaps(at[sharp], samples.length)
    room = np.minimum(gap, np.roll(gap, 1))
    return [
        Corner(float(at[nth]), place[nth], before[nth], after[nth], float(turn[nth]), float(free))
        for nth, free in zip(np.flatnonzero(sharp).tolist(), room.tolist(), strict=True)
    ]


def _turns(samples: OutlineSamples, at: Array, near: Array, far: Array) -> tuple[Array, Array, Array]:
    """Unit courses before and after places, between two distances from them in mm, and the turn between in rad."""
    ways = [
        place_along(samples, at - near) - place_along(samples, at - far),
        place_along(samples, at + far) - place_along(samples, at + near),
    ]
    before, after = (way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9) for way in ways)
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    return before, after, np.asarray(np.arctan2(cross, np.einsum("ij,ij->i", before, after)))


def _meeting(samples: OutlineSamples, at: Array, near: Array, before: Array, after: Array) -> Array:
    """Where the sides of blunted corners would meet (n, 2), no farther from the outline than BLUNT."""
    place, begin = place_along(samples, at), place_along(samples, at - near)
    gap = place_along(samples, at + near) - begin
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    safe = np.where(np.abs(cross) > 1e-3, cross, 1.0)
    ahead = (gap[:, 0] * after[:, 1] - gap[:, 1] * after[:, 0]) / safe
    met = begin + ahead[:, None] * before
    close = (np.abs(cross) > 1e-3) & (np.linalg.norm(met - place, axis=1) < BLUNT)
    return np.where(close[:, None], met, place)


def _gaps(at: Array, length: float) -> Array:
    """Way in mm from each of some places round an outline to the next."""
    return np.asarray(np.diff(np.append(at, at[:1] + length)))


def _band(samples: OutlineSamples, around: Surroundings, outside: float, inside: float, pull: float) -> Band:
    depths = [
        median_filter(reach(samples, around, limit, outward).depth, STEADY, mode="wrap")
        if limit > 0 else np.zeros(len(samples.point)) for limit, outward in ((outside, True), (inside, False))
    ]  # fmt: skip
    heading = np.arctan2(samples.normal[:, 1], samples.normal[:, 0])
    return Band(samples, max(outside, 0.0), max(inside, 0.0), depths[0], depths[1], pull, heading)


def pointed(corner: Corner, width: float) -> bool:
    """Whether a corner is blunt enough, and its sides long enough, for a border so many mm wide to be pointed."""
    return abs(corner.turn) <= MOST and corner.room >= max(SHORT * width, SHORTEST)


def _fits(band: Band, corner: Corner) -> bool:
    """Whether a corner can be treated: the longer way round is open too, its sides are calm."""
    size, _ = band.sizes(corner)
    fan = band.between(corner.along - 1e-6, corner.along + 1e-6)
    free = (band.off if corner.turn > 0 else band.on)[fan[len(fan) // 2]]
    return bool(pointed(corner, band.width) and free >= FREE * size and _calm(band, corner))


def _calm(band: Band, corner: Corner) -> bool:
    """Whether neither side turns to and fro, as an outline drawn by a shaking hand does."""
    far = min(band.width, corner.room - WITHIN)
    for near in (corner.along - far, corner.along + WITHIN):
        side = band.heading[band.between(near, near + far - WITHIN)]
        if float(np.abs(np.angle(np.exp(1j * np.diff(side)))).sum()) > UNREST:
            return False
    return True


@dataclass(frozen=True)
class _Arc:
    """A stretch of outline whose rows are square to it, from one place along it to another, with its corners.

    An end beyond the outline's length has gone past its first sample. whole: all of a closed outline.
    """

    start: float
    end: float
    corners: tuple[Corner, ...]
    whole: bool = False


def _arcs(band: Band, treated: list[Corner], found: list[Corner]) -> list[_Arc]:
    """Stretches round the treated corners; where two would come near each other they are one."""
    length = band.samples.length
    gap = _gaps(np.array([one.along for one in found]), length)
    ours = set(map(id, treated))
    mine = [nth for nth, one in enumerate(found) if id(one) in ours]
    lead = {nth: LEAD * band.width + band.deep(found[nth]) for nth in mine}
    most = {nth: FARTHEST * band.width + band.deep(found[nth]) for nth in mine}
    joined = [
        nth in lead and (after := (nth + 1) % len(found)) in lead
        and gap[nth] < lead[nth] + lead[after] + band.width for nth in range(len(found))
    ]  # fmt: skip
    if all(joined):
        return [_Arc(found[0].along, found[0].along + length, tuple(found), whole=True)]
    first = next(nth for nth in range(len(found)) if not joined[nth - 1])
    arcs: list[_Arc] = []
    for turned in range(len(found)):
        nth = (first + turned) % len(found)
        if nth not in lead:
            continue
        along = found[nth].along + (length if nth < first else 0.0)
        before, after = min(most[nth], 0.5 * gap[nth - 1]), min(most[nth], 0.5 * gap[nth])
        if joined[nth - 1]:
            last = arcs.pop()
            arcs.append(_Arc(last.start, along + after, (*last.corners, found[nth])))
        else:
            arcs.append(_Arc(along - before, along + after, (found[nth],)))
    return arcs


def _rebuilt(
    rails: Rails, band: Band, treated: list[Corner], found: list[Corner], how: str
) -> tuple[Rails, list[Corner]]:  # fmt: skip
    """Rails with squared rows beside corners and the rows that were there between them; the corners that could be."""
    if not treated:
        return rails, []
    arcs = _arcs(band, treated, found)
    pieces = [_squared(band, arc, how) for arc in arcs]
    if arcs[0].whole:
        return joined(pieces[0]), treated
    tree = KDTree(np.concatenate([rails.outer, rails.inner], axis=1)[:-1])
    ends = [[_met(tree, band, arc, parts, last) for last in (False, True)]
            for arc, parts in zip(arcs, pieces, strict=True)]  # fmt: skip
    lost = {id(end.corner) for pair in ends for end in pair if end.off > MATCH}
    if lost:
        return _rebuilt(rails, band, [one for one in treated if id(one) not in lost], found, how)
    count = len(rails.advance) - 1
    mixed: list[Rows] = []
    for nth, parts in enumerate(pieces):
        (first, last), then = ends[nth], ends[(nth + 1) % len(pieces)][0]
        mixed += [parts[0].within(first.row, None), *parts[1:-1], parts[-1].within(0, last.row)]
        free = (last.sample + np.arange(1, (then.sample - last.sample) % count)) % count
        gap = (then.corner.along - last.corner.along) % band.samples.length or band.samples.length
        if len(free) * rails.length / count < 1.5 * (gap - last.way - then.way) + band.width:  # else they touch
            mixed.append(kept_rows(rails, free))
    return joined(mixed), treated


@dataclass(frozen=True)
class _End:
    """Where the rows of an arc meet the rails."""

    corner: Corner  # the last one before
    sample: int  # of the rails
    row: int  # of its part
    off: float  # mm by which the two lie apart
    way: float  # mm from the corner


def _met(tree: KDTree, band: Band, arc: _Arc, parts: list[Rows], last: bool) -> _End:
    """Where the rows of an arc's first or last part meet the rails best.

    tree: of both ends (k, 4) of the rails' samples.
    """
    rows, corner = (parts[-1], arc.corners[-1]) if last else (parts[0], arc.corners[0])
    if not len(rows.outer):
        return _End(corner, 0, 0, np.inf, 0.0)
    off, sample = tree.query(np.concatenate([rows.outer, rows.inner], axis=1))
    foot = rows.outer + (rows.inner - rows.outer) * band.outside / max(band.width, 1e-9)
    way = np.linalg.norm(foot - corner.place, axis=1)
    free = way - band.deep(corner)
    cost = off + UNWANTED * np.abs(free - LEAD * band.width) + np.where(free < 0.5 * band.width, band.width, 0.0)
    best = int(np.argmin(cost))
    return _End(corner, int(sample[best]), best, float(off[best]), float(way[best]))


def _squared(band: Band, arc: _Arc, how: str) -> list[Rows]:
    """Rows of an arc: square to its sides, and treated at its corners."""
    length = band.samples.length
    made = []
    for corner in arc.corners:
        lap = how == "lapped" and corner.room >= band.deep(corner) + band.width
        along = corner.along + (length if corner.along < arc.start - 1e-6 else 0.0)
        made.append((corner, along, *(lapped(band, corner) if lap else mitred(band, corner))))
    corners = [one[0] for one in made]
    begins = [along + after for _, along, _, after, _ in made]
    ends = [along - before for _, along, before, _, _ in made]
    if arc.whole:  # from the first corner round to it again
        ends, corners = [*ends, ends[0] + length], [*corners, corners[0]]
        parts = []
    else:
        ends = [*ends, arc.end]
        parts = [side_rows(band, arc.start, ends[0], corners[:1])]
    for nth, (*_, beside) in enumerate(made):
        parts += [*beside, side_rows(band, begins[nth], ends[nth + 1], corners[nth : nth + 2])]
    return parts
