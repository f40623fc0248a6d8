"""Segments of a stitch file: its parts with the shapes they cover, rails and figures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from velamen.core.arrays import Array, Mask
from velamen.core.geometry.region import Area
from velamen.core.recovery.fill_areas import fill_of
from velamen.core.recovery.lines_found import bean_line, bites_line, closed_line
from velamen.core.recovery.parts import BEAN, ESTITCH, FILL, KINDS, RUN, SATIN, TRAVEL, ZIGZAG, Part, parts_of
from velamen.core.recovery.satin_areas import satin_of
from velamen.core.recovery.stitch_rows import StitchRows
from velamen.core.recovery.strips import Stitches, angle_of, stitches_of, turns_of

FINE = 0.03  # mm that an outline may move when it is thinned
ALIKE_ANGLE = np.radians(3.4)  # between sections of one fill
LEAST = 0.3  # mm² of an area


@dataclass(frozen=True)
class Segment:
    """One part. first, last: rows of the file; area: what it covers; rails: its two sides (n, 2); line: its way."""

    kind: str
    first: int
    last: int
    thread: int
    closed: bool = False
    spacing: float | None = None
    width: float | None = None
    angle: float | None = None  # degrees
    length: float | None = None  # mm of a stitch of a fill
    area: Area | None = None
    line: Array | None = None
    rails: tuple[Array, Array] | None = None


def segments_of(rows: StitchRows) -> list[Segment]:
    """All segments of a file in sewing order; sections of one fill are one."""
    found = stitches_of(rows)
    turns = turns_of(found)
    parts = parts_of(found, turns)
    return [_segment(found, turns.straight, one) for one in _joined(found, parts)]


def _joined(found: Stitches, parts: Sequence[Part]) -> list[list[Part]]:
    """Parts in groups: sections of one fill with what is sewn between them, all others alone."""
    groups: list[list[Part]] = []
    nth = 0
    while nth < len(parts):
        last = upto = nth
        if parts[nth].kind == FILL:
            while upto + 1 < len(parts) and found.strip[parts[upto + 1].first] == found.strip[parts[nth].first]:
                upto += 1
                if parts[upto].kind == FILL and _same_fill(found, parts[last], parts[upto]):
                    last = upto
        groups.append(list(parts[nth : last + 1]))
        nth = last + 1
    return groups


def _same_fill(found: Stitches, one: Part, other: Part) -> bool:
    """Whether rows of two parts lie at one angle."""
    angles = [
        angle_of(found.end[part.first : part.last + 1] - found.begin[part.first : part.last + 1])[0]
        for part in (one, other)
    ]
    off = abs((angles[0] - angles[1] + np.pi / 2) % np.pi - np.pi / 2)
    return bool(off < ALIKE_ANGLE)


def _segment(found: Stitches, straight: Mask, group: Sequence[Part]) -> Segment:
    first, last = group[0].first, group[-1].last
    kind = group[0].kind
    plain = Segment(KINDS[kind], int(found.row[first]), int(found.row[last]), int(found.thread[first]))
    xy = np.concatenate([found.begin[first : first + 1], found.end[first : last + 1]])
    if kind == FILL:
        fill = fill_of(found, [one for one in group if one.kind == FILL])
        return plain if fill is None else replace(plain, area=_thinned(fill.area), closed=True, spacing=fill.spacing,
                                                  angle=float(np.degrees(fill.angle)),
                                                  length=fill.length)  # fmt: skip
    if kind in (SATIN, ZIGZAG):
        xy = xy[np.concatenate([[True], ~straight[first:last], [True]])]  # a divided stitch has two ends as any other
    if kind in (SATIN, ZIGZAG) and len(xy) > 4:
        satin = satin_of(xy)
        return replace(plain, area=_thinned(satin.area), rails=satin.rails, line=satin.middle, closed=satin.closed,
                       spacing=satin.spacing, width=satin.width)  # fmt: skip
    line = {BEAN: bean_line, ESTITCH: bites_line}.get(kind, lambda points: points)(xy)
    if kind not in (RUN, BEAN, ESTITCH) or len(line) < 3:
        return replace(plain, line=line if kind != TRAVEL else xy)
    ring = closed_line(line)
    if ring is None:
        return replace(plain, line=line)
    area = shapely.buffer(shapely.Polygon(ring), 0)
    return replace(plain, line=line, closed=True, area=_thinned(area) if area.area > LEAST else None)


def _thinned(area: Area) -> Area:
    thin = shapely.simplify(area, FINE)
    return thin if thin.is_valid and not thin.is_empty else area
