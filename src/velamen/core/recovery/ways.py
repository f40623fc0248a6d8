"""What can be made of a part of a stitch file: left out, kept as needle points, or a shape of one of its lines."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.region import largest, polygons_of
from velamen.core.recovery.parts import BEAN, ESTITCH, FILL, KINDS, RUN, SATIN, TIE, TRAVEL, ZIGZAG
from velamen.core.recovery.segments import Segment

DROP, KEEP, OUTLINE, OUTER, MIDDLE, INNER = "drop", "keep", "outline", "outer", "middle", "inner"
WAYS: Mapping[str, str] = {
    DROP: "Drop", KEEP: "Needle points", OUTLINE: "Outline", OUTER: "Outer rail", MIDDLE: "Middle line",
    INNER: "Inner rail",
}  # fmt: skip
BANDS, LINES = (KINDS[SATIN], KINDS[ZIGZAG]), (KINDS[RUN], KINDS[BEAN], KINDS[ESTITCH])
LEADING = KINDS[TIE], KINDS[TRAVEL]
LEAST = 1.0  # mm² of a shape, and mm of a line


def ways_of(one: Segment) -> tuple[str, ...]:
    """What can be made of a part, keys of WAYS; nothing of a tie or travel, which go with their neighbours."""
    if one.kind in LEADING:
        return ()
    found = [DROP, KEEP]
    if one.area is not None and one.area.area > LEAST and one.kind in (*BANDS, KINDS[FILL]):
        found.append(OUTLINE)
    if one.kind in BANDS and one.closed and _ring(one) is not None:
        found += [OUTER, MIDDLE, INNER]
    elif one.kind in BANDS and _long(one.line):
        found.append(MIDDLE)
    if one.kind in LINES and (one.area is not None if one.closed else _long(one.line)):
        found.append(OUTLINE)
    return tuple(found)


def shapes_of(one: Segment, way: str) -> tuple[Sequence[shapely.Polygon], Array | None]:
    """The areas, or the open line (n, 2), that a part becomes in one of its ways."""
    ring = _ring(one)
    if one.kind in BANDS and one.closed and ring is not None and way != OUTLINE:
        return [_side(one, ring, way)], None
    if way == MIDDLE or (one.kind in LINES and not one.closed):
        return [], one.line
    return [part for part in polygons_of(one.area) if part.area > LEAST], None


def _side(one: Segment, ring: shapely.Polygon, way: str) -> shapely.Polygon:
    """One of the lines of a closed band, as the area within it."""
    if way == OUTER:
        return shapely.Polygon(ring.exterior)
    if way == INNER:
        return max((shapely.Polygon(hole) for hole in ring.interiors), key=lambda hole: float(hole.area))
    # Middles of rows wander where a corner is mitred; half the width inside the outer rail does not.
    outer = shapely.Polygon(ring.exterior)
    middle = shapely.buffer(outer, -(one.width or 0.0) / 2, join_style="mitre")
    return middle if middle.geom_type == "Polygon" and not middle.is_empty else outer


def _ring(one: Segment) -> shapely.Polygon | None:
    """The area of a closed band where it goes round something."""
    if one.area is None or one.area.is_empty:
        return None
    part = largest(one.area)
    return part if part.interiors and one.line is not None and len(one.line) > 3 else None


def _long(line: Array | None) -> bool:
    return line is not None and len(line) > 1 and float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()) > LEAST
