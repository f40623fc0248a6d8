"""Underlay among the parts of a stitch file: what is sewn, in the same thread, under the part that follows it."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import shapely

from velamen.core.geometry.region import Area
from velamen.core.recovery.parts import FILL, KINDS, RUN, SATIN, TIE, TRAVEL, ZIGZAG
from velamen.core.recovery.segments import Segment

COVERS, UNDER = (KINDS[SATIN], KINDS[FILL]), (KINDS[RUN], KINDS[ZIGZAG], KINDS[FILL])
LEADING = KINDS[TIE], KINDS[TRAVEL]
BESIDE, WITHIN = 0.3, 0.9  # mm round a cover within which so large a share of its underlay lies
OPENER = 1.6  # times as far apart as its cover's, from which rows or bites may be underlay
MOST = 40  # parts of the underlay of one cover


def underlays_of(segments: Sequence[Segment], others: Collection[int]) -> dict[int, int]:
    """The number of its cover by the number of each part that is underlay. others: parts that are none."""
    found: dict[int, int] = {}
    for nth, cover in enumerate(segments):
        if cover.kind not in COVERS or cover.area is None or nth in found:
            continue
        near: Area | None = None
        for before in range(nth - 1, max(nth - MOST, -1), -1):
            one = segments[before]
            if one.kind in LEADING and one.thread == cover.thread:
                continue
            if before in others or not _may_lie_under(one, cover):
                break
            near = shapely.buffer(cover.area, BESIDE, quad_segs=2) if near is None else near
            if not _within(one, near):
                break
            found[before] = nth
    for under, over in found.items():  # what lies under underlay belongs to the cover of that
        while over in found:
            over = found[over]
        found[under] = over
    return found


def _may_lie_under(one: Segment, cover: Segment) -> bool:
    if one.kind not in UNDER or one.thread != cover.thread:
        return False
    return one.kind == KINDS[RUN] or (one.spacing or 0.0) > OPENER * (cover.spacing or 0.4)


def _within(one: Segment, near: Area) -> bool:
    if one.area is not None and one.kind != KINDS[RUN]:
        return bool(one.area.intersection(near).area > WITHIN * one.area.area)
    if one.line is None or len(one.line) < 2:
        return False
    line = shapely.LineString(one.line)
    return bool(line.intersection(near).length > WITHIN * line.length)
