"""Where bars of cutwork lie along guides: square to a guide, calmed where they would meet, more where they spread.

A guide is a line drawn along an opening; a bar stands on each of its stations. Where a guide bends more than the
opening's width lets bars follow, their directions are evened out there and there alone until none meet.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Mask
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import ready

EVEN = 7.0  # mm of a guide over which its direction is averaged
CLEAR = 1.5  # mm free between two bars
CALMS, PATIENT = 60, 15  # times that directions are evened out at most, and on without fewer of them meeting
SHORTEST = 2.0  # mm of an opening that is bridged; the edge satin covers less
STATIONS = 400
Places = tuple[Array, Array]
"""Stations (n, 2), and their directions as angles (n,) in rad."""


@dataclass(frozen=True)
class Bar:
    """One bar. line: (n, 2) mm from end to end; over: lies over others, needled to them; free: by end, whether that
    is a joint on another bar rather than a foot in the cloth."""

    line: Array
    over: bool = False
    free: tuple[bool, bool] = (False, False)


def guided(
    opening: Polygon, guides: Sequence[Array], spacing: float, count: int, width: float, turn: float = 0.0
) -> list[Bar]:
    """Bars along guides, from edge to edge of an opening; those of a later guide end on bars of an earlier one.

    guides: lines (n, 2) mm; count: of bars along each, 0 for what the spacing gives; turn: rad off square to it.
    """
    edges, found, clear = edges_of(opening), list[Bar](), CLEAR + width
    for nth, guide in enumerate(guides):
        place, angle = _stations(opening, guide, spacing, count)
        own = _own(place, nth, guides)
        group = apart(_calm(edges, (place[own], angle[own]), width, turn), clear)
        lines = np.array([bar.line for bar in found]).reshape(-1, 2, 2)
        found += [bar for line in group if (bar := _ended(line, guide, lines, clear))]
    return found


def _ended(line: Array, guide: Array, lines: Array, clear: float) -> Bar | None:
    """A bar as far as it goes on the side of its guide until it meets others (k, 2, 2); None for nowhere."""
    met = _met(line, lines)
    if not len(met):
        near = meeting(np.concatenate([line[None], lines]), clear)
        return None if (near == 0).any() else Bar(line)
    length = float(np.linalg.norm(line[1] - line[0]))
    stops = np.unique(np.concatenate([[0.0], met, [length]]))
    way = (line[1] - line[0]) / length
    middles = line[0] + ((stops[:-1] + stops[1:]) / 2)[:, None] * way
    nearest = int(np.argmin(shapely.distance(shapely.LineString(guide), shapely.points(middles))))
    begin, end = stops[nearest : nearest + 2]
    free = (bool(begin > 0.0), bool(end < length))
    if all(free) or end - begin < 2 * clear:
        return None
    return Bar(line[0] + np.array([[begin], [end]]) * way, over=True, free=free)


def _met(line: Array, lines: Array) -> Array:
    """How far along a bar others (k, 2, 2) cross it, mm."""
    if not len(lines):
        return np.zeros(0)
    points = shapely.intersection(shapely.LineString(line), shapely.linestrings(lines))
    xy = shapely.get_coordinates(points[~shapely.is_empty(points)])
    return np.asarray(np.linalg.norm(xy - line[0], axis=1))


def edges_of(opening: Polygon) -> Array:
    """Sides (n, 2, 2) of all rings."""
    rings = [np.asarray(ring.coords) for ring in (opening.exterior, *opening.interiors)]
    return np.concatenate([np.stack([ring[:-1], ring[1:]], axis=1) for ring in rings])


def _own(place: Array, nth: int, guides: Sequence[Array]) -> Mask:
    """Which stations are nearer to their own guide than to another: others' part of an opening is theirs."""
    points = shapely.points(place.reshape(-1, 2))
    far = np.array([shapely.distance(shapely.LineString(guide), points) for guide in guides])
    return np.asarray(far[nth] <= far.min(axis=0) + 1e-6)


def _stations(opening: Polygon, guide: Array, spacing: float, count: int) -> Places:
    """Where bars stand on a guide led straight on past both ends, as far as the opening reaches."""
    line = _led_on(guide, float(np.hypot(*np.ptp(np.asarray(opening.bounds).reshape(2, 2), axis=0))))
    along = arc_lengths(line)
    at = np.arange(0.0, along[-1], 1.0)
    points = np.stack([np.interp(at, along, line[:, axis]) for axis in (0, 1)], axis=1)
    step = np.gradient(points, axis=0)
    window = max(round(EVEN), 1)
    kernel = np.hanning(window + 2)[1:-1] / np.hanning(window + 2)[1:-1].sum()
    step = np.stack([np.convolve(np.pad(step[:, axis], window // 2, mode="edge"), kernel, "valid")
                     for axis in (0, 1)], axis=1)  # fmt: skip
    side = np.stack([-step[:, 1], step[:, 0]], axis=1)
    first, last = _span(opening, points, side)
    if last <= first:
        return np.zeros((0, 2)), np.zeros(0)
    length = at[last] - at[first]
    number = min(count or max(round(length / spacing), 1), STATIONS)
    wanted = at[first] + (np.arange(number) + 0.5) * length / number
    place = np.stack([np.interp(wanted, at, points[:, axis]) for axis in (0, 1)], axis=1)
    angle = np.unwrap(np.arctan2(side[:, 1], side[:, 0]))
    return place, np.interp(wanted, at, angle)


def _led_on(guide: Array, far: float) -> Array:
    """A guide with its ends led straight on; one that closes on itself stays as it is."""
    keep = np.concatenate([[True], np.linalg.norm(np.diff(guide, axis=0), axis=1) > 1e-6])
    line = np.asarray(guide, dtype=np.float64)[keep]
    if len(line) < 2 or np.linalg.norm(line[0] - line[-1]) < 2.0:
        return np.concatenate([line, line[:1]])
    begin, end = line[0] - line[1], line[-1] - line[-2]
    return np.concatenate([
        [line[0] + far * begin / np.linalg.norm(begin)], line, [line[-1] + far * end / np.linalg.norm(end)],
    ])  # fmt: skip


def _span(opening: Polygon, points: Array, side: Array) -> tuple[int, int]:
    """First and last of some places on a guide whose bars would meet the opening."""
    reach = float(np.hypot(*np.ptp(np.asarray(opening.bounds).reshape(2, 2), axis=0)))
    way = side / np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-9)
    off = points[:, None] - np.stack([-way, way], axis=1) * reach
    mine = ready(opening)
    meets = np.flatnonzero(shapely.intersects(mine, shapely.linestrings(off)))
    inside = np.flatnonzero(shapely.intersects(mine, shapely.points(points)))
    if not len(meets):
        return 0, 0
    if not len(inside):
        return int(meets[0]), int(meets[-1])
    # A guide that leaves the opening is led on until its bars no longer meet it; one stretch round the inside.
    gaps = np.flatnonzero(np.diff(meets) > 1)
    runs = np.split(meets, gaps + 1)
    own = [run for run in runs if run[0] <= inside[-1] and run[-1] >= inside[0]]
    return int(own[0][0]), int(own[-1][-1])


def _calm(edges: Array, group: Places, width: float, turn: float) -> list[Array]:
    """Bars of one guide, their directions evened out where bars would meet."""
    place, angle = group
    angle = angle + turn
    if not len(place):
        return []
    fewest, since, best = np.inf, 0, np.zeros((0, 2, 2))
    for nth in range(CALMS):
        lines, owner = chords(edges, place, angle)
        near = meeting(lines, CLEAR + width)
        if len(near) < fewest:
            fewest, since, best = len(near), nth, lines
        if not len(near) or nth - since > PATIENT:
            break
        angle = _evened(angle, np.unique(owner[near.ravel()]))
    return list(best)


def _evened(angle: Array, touched: Array) -> Array:
    """Directions with those of some stations and of their neighbours drawn together."""
    near = np.unique(np.clip(touched[:, None] + np.arange(-1, 2), 0, len(angle) - 1))
    padded = np.pad(angle, 2, mode="edge")
    mean = np.mean([padded[nth : len(angle) + nth] for nth in range(5)], axis=0)
    calm = angle.copy()
    calm[near] = mean[near]
    return calm


def chords(edges: Array, place: Array, angle: Array) -> tuple[Array, Array]:
    """The bars (k, 2, 2) of stations, and whose each is: those that hold the station or lie next to it."""
    way = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    begin = edges[None, :, 0] - place[:, None]
    side = edges[:, 1] - edges[:, 0]
    cross = way[:, None, 0] * side[None, :, 1] - way[:, None, 1] * side[None, :, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        along = (begin[..., 0] * side[None, :, 1] - begin[..., 1] * side[None, :, 0]) / cross
        share = (begin[..., 0] * way[:, None, 1] - begin[..., 1] * way[:, None, 0]) / cross
    met = np.sort(np.where((share >= 0.0) & (share < 1.0) & (np.abs(cross) > 1e-12), along, np.inf), axis=1)
    met = met[:, : 2 * (met.shape[1] // 2)]
    first, last = met[:, ::2], met[:, 1::2]
    who, which = np.nonzero(np.isfinite(last))
    long = last[who, which] - first[who, which] > SHORTEST
    who, which = who[long], which[long]
    ends = np.stack([first[who, which], last[who, which]], axis=1)
    lines = place[who][:, None] + ends[..., None] * way[who][:, None]
    kept = _nearest(lines, who, place)
    return lines[kept], who[kept]


def _nearest(lines: Array, who: Array, place: Array) -> Mask:
    """Which bars are their station's own: not much nearer to one far along the guide."""
    middle = lines.mean(axis=1)
    if not len(lines):
        return np.zeros(0, dtype=bool)
    far = np.linalg.norm(middle[:, None] - place[None], axis=2)
    apart = np.abs(np.arange(len(place))[None] - who[:, None])
    other = np.where(apart > 3, far, np.inf).min(axis=1, initial=np.inf)
    half = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1) / 2
    mine = far[np.arange(len(who)), who]
    return np.asarray((mine - half <= 1e-6) | (other > mine - 6.0))


def meeting(lines: Array, clear: float) -> Array:
    """Pairs (k, 2) of bars that come nearer to one another than so many mm."""
    if len(lines) < 2:
        return np.zeros((0, 2), dtype=np.int64)
    one, two = np.triu_indices(len(lines), 1)
    a, b = lines[one], lines[two]
    low = np.maximum(a.min(axis=1), b.min(axis=1)) - np.minimum(a.max(axis=1), b.max(axis=1))
    close = np.flatnonzero((low < clear).all(axis=1))
    one, two, a, b = one[close], two[close], a[close], b[close]
    ends = [_to_line(a[:, 0], b), _to_line(a[:, 1], b), _to_line(b[:, 0], a), _to_line(b[:, 1], a)]
    met = (np.min(ends, axis=0) < clear) | _cross(a, b) if len(a) else np.zeros(0, dtype=bool)
    return np.stack([one[met], two[met]], axis=1)


def _to_line(point: Array, line: Array) -> Array:
    side, off = line[:, 1] - line[:, 0], point - line[:, 0]
    share = np.clip((off * side).sum(axis=1) / np.maximum((side**2).sum(axis=1), 1e-12), 0.0, 1.0)
    return np.asarray(np.linalg.norm(off - share[:, None] * side, axis=1))


def _cross(a: Array, b: Array) -> Mask:
    def side(line: Array, point: Array) -> Array:
        way, off = line[:, 1] - line[:, 0], point - line[:, 0]
        return np.asarray(way[:, 0] * off[:, 1] - way[:, 1] * off[:, 0])

    return np.asarray((side(a, b[:, 0]) * side(a, b[:, 1]) < 0) & (side(b, a[:, 0]) * side(b, a[:, 1]) < 0))


def apart(lines: Sequence[Array], clear: float) -> list[Array]:
    """Bars of which none come nearer than so many mm: those in the way of most go, the shortest of them first."""
    left = np.asarray(list(lines)).reshape(-1, 2, 2)
    while len(near := meeting(left, clear)):
        often = np.bincount(near.ravel(), minlength=len(left))
        length = np.linalg.norm(left[:, 1] - left[:, 0], axis=1)
        goes = np.lexsort((length, -often))[0]
        left = np.delete(left, goes, axis=0)
    return list(left)
