"""Appliqués among the parts of a stitch file: placement, tack-down and cover on one outline."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from velamen.core.geometry.region import Area, largest
from velamen.core.recovery.parts import BEAN, ESTITCH, KINDS, RUN, SATIN, TIE, TRAVEL, ZIGZAG
from velamen.core.recovery.segments import Segment

LINES = KINDS[RUN], KINDS[BEAN]
TACKS = KINDS[ZIGZAG], KINDS[RUN], KINDS[ESTITCH]
COVERS = KINDS[SATIN], KINDS[ZIGZAG], KINDS[ESTITCH]
LEADING = KINDS[TIE], KINDS[TRAVEL]
NEAR_TACK, HELD_TACK = 0.6, 0.93  # mm, and share of a placement line that a tack-down holds with that much round it
NEAR_COVER, HELD_COVER = 0.1, 0.95  # the same of a cover
STRAYS, STRAYS_BY = 0.1, 1.1  # share of a part that may lie farther from the line than so many of its own widths
NARROWEST = 1.5  # mm of a cover: what is narrower tacks down
ON_TOP = 0.9  # share of a part that lies within the cloth


@dataclass(frozen=True)
class Proposal:
    """An appliqué. cloth: its area; placement, drops, on_top: numbers of segments from 0.

    drops: what a new appliqué sews anew (tack-downs and covers); on_top: what was sewn inside after its first cover.
    """

    cloth: Area
    placement: tuple[int, ...]
    drops: tuple[int, ...]
    on_top: tuple[int, ...]


@dataclass(frozen=True)
class _Loop:
    ring: Area  # filled
    placement: int
    tacks: tuple[int, ...]
    cover: int


def proposals_of(segments: Sequence[Segment]) -> list[Proposal]:
    """Appliqués in the order of their placement; loops round holes of one cloth belong to it."""
    loops: list[_Loop] = []
    taken: set[int] = set()
    for nth, one in enumerate(segments):
        if nth in taken or one.kind not in LINES or not one.closed or one.area is None:
            continue
        loop = _loop(segments, nth, taken)
        if loop is not None:
            loops.append(loop)
            taken |= {loop.placement, *loop.tacks, loop.cover}
    return [_proposal(segments, group) for group in _clothed(loops)]


def _loop(segments: Sequence[Segment], placement: int, taken: set[int]) -> _Loop | None:
    """The loop that begins with a placement line, if what tacks down and covers its cloth follows."""
    area = segments[placement].area
    assert area is not None
    line = shapely.LinearRing(largest(area).exterior.coords)
    tacks: list[int] = []
    for nth in range(placement + 1, len(segments)):
        one = segments[nth]
        if nth in taken or one.kind not in (*TACKS, *COVERS):
            continue
        covers = bool(tacks) and one.kind in COVERS and (one.width or 0.0) > NARROWEST
        if covers and _lies_on(one, line, NEAR_COVER, HELD_COVER):
            return _Loop(shapely.Polygon(line), placement, tuple(tacks), nth)
        if one.kind in TACKS and _lies_on(one, line, NEAR_TACK, HELD_TACK):
            tacks.append(nth)
    return None


def _lies_on(one: Segment, line: shapely.LinearRing, near: float, held: float) -> bool:
    """Whether a part runs along a line all the way and hardly anywhere else."""
    if one.kind in (KINDS[RUN], KINDS[ESTITCH]):
        sewn = None if one.line is None or len(one.line) < 2 else shapely.LineString(one.line)
    else:
        sewn = one.area
    if sewn is None or not shapely.box(*sewn.bounds).intersects(shapely.box(*line.bounds)):
        return False
    if shapely.length(line.intersection(shapely.buffer(sewn, near))) < held * line.length:
        return False
    stray = sewn.difference(shapely.buffer(line, STRAYS_BY * (one.width or 0.0) + near))
    whole = sewn.length if sewn.area == 0 else sewn.area
    return bool((stray.length if sewn.area == 0 else stray.area) < STRAYS * whole)


def _clothed(loops: Sequence[_Loop]) -> list[list[_Loop]]:
    """Loops by cloth, in the order of their placement: a hole's line is sewn before its cloth is tacked down.

    A loop inside another that comes later is a cloth laid on top.
    """
    groups: dict[int, list[_Loop]] = {}
    for nth, loop in sorted(enumerate(loops), key=lambda each: -float(each[1].ring.area)):
        around = [one for one, group in groups.items() if loop.placement < group[0].tacks[0] and _holds(group, loop)]
        if around:
            groups[max(around)].append(loop)
        else:
            groups[nth] = [loop]
    return [groups[nth] for nth in sorted(groups)]


def _holds(group: Sequence[_Loop], loop: _Loop) -> bool:
    """Whether a loop lies inside the first of a cloth and inside none of its holes."""
    return group[0].ring.contains(loop.ring) and not any(hole.ring.contains(loop.ring) for hole in group[1:])


def _proposal(segments: Sequence[Segment], group: Sequence[_Loop]) -> Proposal:
    """One cloth out of its loops, the outer one first."""
    cloth = group[0].ring.difference(shapely.union_all([loop.ring for loop in group[1:]]))
    drops = tuple(sorted({nth for loop in group for nth in (*loop.tacks, loop.cover)}))
    first, known = min(loop.cover for loop in group), {loop.placement for loop in group} | set(drops)
    inside = tuple(nth for nth in range(first + 1, len(segments)) if nth not in known
                   and segments[nth].kind not in LEADING and _inside(segments[nth], cloth))  # fmt: skip
    return Proposal(cloth, tuple(loop.placement for loop in group), drops, inside)


def _inside(one: Segment, cloth: Area) -> bool:
    if one.area is not None and one.area.area > 0:
        return bool(one.area.intersection(cloth).area > ON_TOP * one.area.area)
    if one.line is None or len(one.line) < 2:
        return False
    line = shapely.LineString(one.line)
    return bool(line.intersection(cloth).length > ON_TOP * line.length)
