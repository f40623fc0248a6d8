"""Sharp bends of a stroke: where it is cut into legs, one ending at the other or both at a mitre."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import LineString

from velamen.core.arrays import Array, Index, Mask
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import Area
from velamen.core.geometry.strokes.branches import heading, over_corner, sharpest
from velamen.core.geometry.strokes.junctions import Course, Cut, inward_of
from velamen.core.geometry.strokes.mesh import CONCAVE, Mesh

NEAR, FAR = 0.6, 1.7  # half widths before and after a place, between which the directions of its legs are taken
SHARP = 50.0  # degrees of turn from which a bend is looked at
SAME = 0.15  # of its length, within which a cut falls together with another
CORNER, WEDGE = 0.05, np.cos(np.radians(35.0))  # of its length: one corner with another's; so close are their ways
CROTCH_TURN, BESIDE = np.radians(-60.0), 1.5  # rad of such a corner; half widths from the course that it lies at most
CROTCH = 2.3  # half widths from the inner wall, within which a corner of the outer one is a crotch
SIDE = 0.6  # of the bend beside it, below which one at a crotch is but its beginning
INNER, INNER_LEAST = 0.7, 30.0  # share of the bend that its inner wall turns at once, and degrees, for a cut
EVEN = 1.2  # widths or lengths that differ less are alike
FOLDED = 105.0  # degrees from which legs of one width are mitred whatever their lengths
INTO_OTHER = 1.3  # times as long as across a leg turned so, beyond which a cut runs on into what lies beside it
LONGER = 1.5  # times the mitre, beyond which the cut along a leg's side is none
SERIF = 0.95  # widths that a free leg must reach past the cut


@dataclass(frozen=True)
class Walls:
    """What bends are judged by: the mesh of the whole shape, what its cuts leave of it, and those cuts."""

    mesh: Mesh
    region: Area
    cuts: Sequence[Cut]

    def at_cut(self, samples: Index, within: float) -> Mask:
        """Which samples lie at the end of a cut: (n,). A corner there is no bend's."""
        if not self.cuts:
            return np.zeros(len(samples), dtype=bool)
        ends = np.concatenate([cut.line for cut in self.cuts])
        off = np.linalg.norm(self.mesh.wall[samples][:, None] - ends[None], axis=2)
        return np.asarray(off.min(axis=1) < within)


@dataclass(frozen=True)
class _Bend:
    """The node at which a course bends, how much (degrees, over 0 to the left), its directions before and after."""

    at: int
    turn: float
    before: Array
    after: Array


def bend_cuts(walls: Walls, course: Course) -> tuple[list[Cut], list[Array | None]]:
    """The cuts at a course's sharp bends, all judged before any is made; and where its first and last end are, (2,).

    What a free leg reaches past a bend is part of the other leg's end if it is short: that ends at the bend then.
    None for ends that are no tips.
    """
    tips: list[Array | None] = [walls.mesh.middle[course.nodes[at]] if free else None
                                for at, free in zip((0, -1), course.free, strict=True)]  # fmt: skip
    if course.straight:
        return [], tips
    mesh = walls.mesh
    places, radius = mesh.centre[course.nodes], mesh.radius[course.nodes]
    way = arc_lengths(places)
    bends = _bends(places, radius, way, course.closed, _crotches(walls, float(np.median(radius))))
    inner = [_inner(mesh, course, bend) for bend in bends]
    cuts = []
    for nth, bend in enumerate(bends):
        here = way[bend.at]
        before = here - way[bends[nth - 1].at] if nth else here
        after = way[bends[nth + 1].at] - here if nth + 1 < len(bends) else way[-1] - here
        if course.closed and len(bends) == 1:
            before = after = way[-1]
        elif course.closed and nth == 0:
            before = here + way[-1] - way[bends[-1].at]
        elif course.closed and nth + 1 == len(bends):
            after = way[-1] - here + way[bends[0].at]
        loose = (course.free[0] and nth == 0, course.free[1] and nth + 1 == len(bends))
        cut = _cut(walls, course, bend, (before, after), [one[0] for one in inner if one is not inner[nth]])
        short = [leg for leg in (0, 1) if cut is not None and loose[leg] and
                 _reach(mesh, course, cut, bend, leg) < SERIF * _widths(mesh, course, bend)[leg]]  # fmt: skip
        for leg in short:
            tips[leg] = mesh.middle[course.nodes[bend.at]]
        if cut is not None and not short:
            cuts.append(replace(cut, bend=mesh.middle[course.nodes[bend.at]]))
    return _nearest_only(cuts), tips


def _nearest_only(cuts: list[Cut]) -> list[Cut]:
    """Of cuts that fall together or leave a wedge, as two bends found the same corner, that whose bend is nearest."""

    def off(cut: Cut) -> float:
        return float(np.linalg.norm(cut.middle - cut.bend)) if cut.bend is not None else 0.0

    left: list[Cut] = []
    for cut in sorted(cuts, key=off):
        if not any(_together(cut, one) or _wedge(cut, one) for one in left):
            left.append(cut)
    return left


def _together(one: Cut, other: Cut) -> bool:
    return bool(np.linalg.norm(one.middle - other.middle) <= SAME * max(one.length, other.length))


def _wedge(one: Cut, other: Cut) -> bool:
    """Whether two cuts leave the same corner side by side: what lies between them is no stroke."""
    ways = [[cut.line[1 - at] - cut.line[at] for at in (0, 1)] for cut in (one, other)]
    return any(
        np.linalg.norm(one.line[at] - other.line[to]) <= CORNER * min(one.length, other.length)
        and ways[0][at] @ ways[1][to] >= WEDGE * one.length * other.length
        for at in (0, 1) for to in (0, 1)
    )  # fmt: skip


def _crotches(walls: Walls, radius: float) -> Array:
    """Corners (n, 2) of the walls that look sharply inside, each at its point, but those at cuts."""
    mesh = walls.mesh
    turns = mesh.turns(np.arange(len(mesh.wall)), over_corner(radius))
    sharp = np.flatnonzero(turns <= CROTCH_TURN)
    sharp = sharp[~walls.at_cut(sharp, 0.3 * radius)]
    left = sharp[np.argsort(np.round(turns[sharp], 2), kind="stable")]
    found: list[int] = []
    while len(left):
        found.append(int(left[0]))
        left = left[np.linalg.norm(mesh.wall[left] - mesh.wall[left[0]], axis=1) > 0.5 * radius]
    return np.asarray(mesh.wall[found])


def _bends(places: Array, radius: Array, way: Array, closed: bool, crotches: Array) -> list[_Bend]:
    """The sharp bends of a course, each where it turns most; first of all those beside a corner of its outer wall."""
    total = way[-1]
    if total < 1e-6:
        return []

    def at(where: Array) -> Array:
        where = np.mod(where, total) if closed else np.clip(where, 0.0, total)
        return np.stack([np.interp(where, way, places[:, axis]) for axis in (0, 1)], axis=1)

    before = at(way - NEAR * radius) - at(way - FAR * radius)
    after = at(way + FAR * radius) - at(way + NEAR * radius)
    sizes = np.linalg.norm(before, axis=1), np.linalg.norm(after, axis=1)
    known = np.minimum(*sizes) > 0.3 * radius
    turn = np.degrees(
        np.arctan2(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0], (before * after).sum(axis=1))
    )
    turn = np.where(known, turn, 0.0)
    found: list[_Bend] = []
    left = np.abs(turn) >= SHARP

    def taken(nth: int) -> None:
        found.append(_Bend(nth, float(turn[nth]), before[nth] / sizes[0][nth], after[nth] / sizes[1][nth]))
        off = np.abs(way - way[nth])
        if closed:
            off = np.minimum(off, total - off)
        np.logical_and(left, off > FAR * radius[nth], out=left)

    for crotch in crotches:
        off = np.linalg.norm(places - crotch, axis=1)
        outer = ((crotch - places) * (after - before)).sum(axis=1) < 0.0
        near = np.where(left & outer & (off < BESIDE * radius), np.abs(turn), 0.0)
        if near.any():
            nth = int(np.argmax(np.round(near)))
            about = left & (np.abs(way - way[nth]) <= FAR * radius[nth])
            if near[nth] >= SIDE * np.abs(turn[about]).max():
                taken(nth)
    while left.any():
        peak = np.abs(turn) * left
        best = peak.max()
        tied = np.flatnonzero(peak > best - 1.0)
        # The middle of the stretch that turns alike, around the first of them.
        run = tied[: int(np.argmax(np.append(np.diff(tied) > 1, True))) + 1]
        nth = int(run[np.argmin(np.abs(way[run] - (way[run[0]] + way[run[-1]]) / 2))])
        taken(nth)
    return sorted(found, key=lambda one: one.at)


def _inner(mesh: Mesh, course: Course, bend: _Bend) -> tuple[int, float]:
    """The corner of the wall inside a bend, and how it turns there."""
    node = course.nodes[bend.at]
    aside = bend.after - bend.before
    touching = mesh.corner[node]
    inner = int(touching[int(np.argmax((mesh.wall[touching] - mesh.centre[node]) @ aside))])
    return sharpest(mesh, inner, float(mesh.radius[node]))


def _cut(walls: Walls, course: Course, bend: _Bend, lengths: tuple[float, float], others: list[int]) -> Cut | None:
    """The cut at a bend, None where it is sewn round. others: corners inside the course's other bends."""
    mesh, radius = walls.mesh, float(walls.mesh.radius[course.nodes[bend.at]])
    corner, turn = _inner(mesh, course, bend)
    widths = _widths(mesh, course, bend)
    made = _at_crotch(walls, bend, corner, radius, others)
    if made is None:
        sharp = np.degrees(-turn) >= max(INNER * abs(bend.turn), INNER_LEAST)
        if not sharp or walls.at_cut(np.array([corner]), 0.3 * radius)[0]:
            return None
        made = _at_corner(mesh.wall[corner], walls.region, bend, widths, lengths)
    return made


def _widths(mesh: Mesh, course: Course, bend: _Bend) -> tuple[float, float]:
    """Widths of the legs before and after a bend."""
    places = mesh.centre[course.nodes]
    way = arc_lengths(places) - arc_lengths(places)[bend.at]
    radius = mesh.radius[course.nodes]
    own = radius[bend.at]
    found = []
    for sign in (-1.0, 1.0):
        leg = (sign * way > NEAR * own) & (sign * way < 2.0 * FAR * own)
        found.append(2.0 * float(np.median(radius[leg])) if leg.any() else 2.0 * float(own))
    return found[0], found[1]


def _at_crotch(walls: Walls, bend: _Bend, inner: int, radius: float, others: list[int]) -> Cut | None:
    """From a corner of the outer wall that looks inside, to the inner wall, along the leg more parallel to that."""
    mesh = walls.mesh
    place = mesh.wall[inner]
    off = np.linalg.norm(mesh.wall - place, axis=1)
    outer = (mesh.wall - place) @ (bend.after - bend.before) < 0.0
    near = np.flatnonzero((off < CROTCH * radius) & (off > 0.5 * radius) & outer)
    if len(near) == 0:
        return None
    turns = mesh.turns(near, over_corner(radius))
    fit = (turns <= CONCAVE) & ~walls.at_cut(near, 0.3 * radius)
    if others:
        fit &= np.linalg.norm(mesh.wall[near][:, None] - mesh.wall[others][None], axis=2).min(axis=1) > 0.5 * radius
    near, turns = near[fit], turns[fit]
    if len(near) == 0:
        return None
    # Among samples of one corner the one in its point, among corners the nearest.
    best = int(np.argmin(np.round(off[near] / radius / 0.4) + np.round(turns, 2)))
    crotch = mesh.wall[near[best]]
    beside = mesh.near(inner, 1.5 * radius)
    foot = mesh.wall[beside[int(np.argmin(np.linalg.norm(mesh.wall[beside] - crotch, axis=1)))]]
    line = np.stack([crotch, foot])
    if np.linalg.norm(foot - crotch) < 0.3 * radius or not _inside(line, walls.region):
        return None
    along = heading(line)
    first = abs(float(along @ bend.before)) >= abs(float(along @ bend.after))
    ends = line.mean(axis=0) + (bend.after if first else -bend.before) * radius
    return Cut(line, inward_of(line, ends))


def _at_corner(
    corner: Array, region: Area, bend: _Bend, widths: tuple[float, float], lengths: tuple[float, float]
) -> Cut | None:  # fmt: skip
    """From the inner corner across: along the bisector of legs alike, else along the side of the one that goes on."""
    wide, long = (max(pair) / max(min(pair), 1e-9) for pair in (widths, lengths))
    mitred = _across(corner, bend.before - bend.after, region)
    if wide < EVEN and mitred is not None and (abs(bend.turn) > FOLDED or long < EVEN):
        return Cut(mitred, inward_of(mitred, mitred.mean(axis=0) + bend.after), mitre=True)
    by = widths if wide >= EVEN else lengths
    first = by[0] >= by[1]
    line = _across(corner, bend.before if first else -bend.after, region)
    if line is None or _size(line) * np.sin(np.radians(abs(bend.turn))) > INTO_OTHER * max(widths):
        return None
    if wide < EVEN and mitred is not None and _size(line) > LONGER * _size(mitred):
        return Cut(mitred, inward_of(mitred, mitred.mean(axis=0) + bend.after), mitre=True)
    return Cut(line, inward_of(line, line.mean(axis=0) + (bend.after if first else -bend.before)))


def _size(line: Array) -> float:
    return float(np.linalg.norm(line[1] - line[0]))


def _across(corner: Array, ahead: Array, region: Area) -> Array | None:
    """The stretch of a region from a corner of its wall on, in a direction."""
    ahead = ahead / max(float(np.linalg.norm(ahead)), 1e-9)
    left, top, right, bottom = region.bounds
    far = float(np.hypot(right - left, bottom - top)) + 1.0
    ray = LineString([corner + 1e-4 * ahead, corner + far * ahead])
    parts = [part for part in shapely.get_parts(shapely.intersection(ray, region)) if part.length > 1e-3]
    if not parts:
        return None
    first = min(parts, key=lambda part: float(np.linalg.norm(shapely.get_coordinates(part) - corner, axis=1).min()))
    ends = shapely.get_coordinates(first)
    off = np.linalg.norm(ends - corner, axis=1)
    if off.min() > 0.05:
        return None
    return np.stack([corner, ends[int(np.argmax(off))]])


def _inside(line: Array, region: Area) -> bool:
    return bool(shapely.buffer(region, 0.001).covers(LineString(line)))


def _reach(mesh: Mesh, course: Course, cut: Cut, bend: _Bend, leg: int) -> float:
    """How far a leg reaches past a cut, mm."""
    nodes = course.nodes[: bend.at] if leg == 0 else course.nodes[bend.at :]
    if not nodes:
        return 0.0
    ahead = -bend.before if leg == 0 else bend.after
    off = (mesh.wall[mesh.corner[nodes].ravel()] - cut.middle) @ ahead
    return float(off.max())
