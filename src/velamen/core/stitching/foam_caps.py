"""Caps for puff: a short satin across a stretch of foam edge that nothing else cuts, sewn before all columns."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import Area
from velamen.core.memo import worked_out
from velamen.core.stitching.roles import CODE, declare
from velamen.core.stitching.strand import Strand, long_enough, strand

CAP = declare("cap", "cap")
PERFORATION = declare("perforation", "perforation", dash="1 2")
FULL, TAPERED, CORNERS = "full", "tapered", "corners"
FORMS = ((FULL, "full"), (TAPERED, "narrower inwards"), (CORNERS, "two at the corners"))
BEYOND, MOST_BEYOND = 0.5, 0.5  # mm past the shape, and how much more past an edge that lies inside it
DEPTHS = (2.0, 1.7, 1.4, 1.1, 0.8, 0.5)  # mm inside it, the first that stays under the columns
UNDER = 0.25  # mm that a cap keeps inside what covers it
PITCH = 0.28  # mm between needle points past the edge
LEAST = 1.0  # mm wide
TAPER = 0.6  # share of the width that is left at the inner side of a tapered cap
CORNER_SHARE, CORNER_LEAST, CORNER_MOST, CORNERS_FROM = 0.3, 1.2, 2.0, 2.6  # of the width, mm, mm, mm wide
CLOSE, APART = 0.12, 0.8  # mm to either side of an edge at which it is told where the satin lies
STEP, INSET = 0.7, 0.15  # mm between needle points of a perforation, and inside the edge
PLACES = 7  # along a stretch


@dataclass(frozen=True)
class Cut:
    """How a stretch of foam edge is cut. beyond: mm past it; width, shift: mm of the cap, 0 for all of the stretch,
    and by which it is moved along the edge."""

    form: str = FULL
    beyond: float = BEYOND
    width: float = 0.0
    shift: float = 0.0


@dataclass(frozen=True)
class Room:
    """Where caps may lie. covered: by the columns over them; inside: well inside that; whole: that and the shape,
    which caps pass."""

    covered: Area
    inside: Area
    whole: Area

    @worked_out
    def usual(self) -> Area:
        """Up to where caps go that nobody has changed."""
        return shapely.buffer(self.whole, BEYOND, quad_segs=8)

    def limit(self, beyond: float, near: Array) -> Area:
        """Up to where caps go that pass the shape by `beyond` mm, about some places (n, 2)."""
        whole = self.usual if beyond == BEYOND else shapely.buffer(self.whole, beyond, quad_segs=8)
        far = beyond + MOST_BEYOND
        return shapely.clip_by_rect(whole, *(near.min(axis=0) - far), *(near.max(axis=0) + far))


def room_of(covered: Area, region: Area) -> Room:
    """Where caps of a region may lie, some of which columns cover."""
    inside = shapely.buffer(covered, -UNDER, quad_segs=4)
    shapely.prepare([covered, inside])
    return Room(covered, inside, shapely.union(shapely.make_valid(covered), region))


def foam_cap(line: Array, room: Room, cut: Cut) -> Strand:
    """A cap across a stretch of edge (k, 2), begun and ended inside."""
    wide = float(arc_lengths(line)[-1])
    if cut.form != CORNERS or wide < CORNERS_FROM:
        return strand(_zigzag(line, room, cut), CAP)
    corner = float(np.clip(CORNER_SHARE * wide, CORNER_LEAST, CORNER_MOST))
    first, between, last = (part_of(line, low, high) for low, high in
                            ((0.0, corner), (corner, wide - corner), (wide - corner, wide)))  # fmt: skip
    parts = [strand(_zigzag(first, room, cut), CAP), perforation(between, room),
             strand(_zigzag(last, room, cut), CAP)]  # fmt: skip
    xy, role = np.concatenate([one.xy for one in parts]), np.concatenate([one.role for one in parts])
    kept = long_enough(xy)
    return Strand(xy[kept], role[kept])


def perforation(line: Array, room: Room) -> Strand:
    """A run just inside a stretch of edge (k, 2)."""
    way = arc_lengths(line)
    steps = max(int(np.ceil(way[-1] / STEP)), 1)
    spots = part_of(line, 0.0, float(way[-1]), steps + 1) - INSET * _outward(line, room)
    return Strand(spots, np.full(len(spots), CODE[PERFORATION], dtype=np.uint8))


def part_of(line: Array, low: float, high: float, count: int = PLACES) -> Array:
    """Places (count, 2) along a line from a distance along it to another, mm."""
    way, at = arc_lengths(line), np.linspace(low, high, count)
    return np.stack([np.interp(at, way, line[:, axis]) for axis in (0, 1)], axis=1)


def moved(covered: Area, line: Array, cut: Cut) -> Array:
    """A stretch of the edge of what is covered, as wide as a cap is wanted and moved along that edge."""
    if not cut.width and not cut.shift:
        return line
    rings = shapely.get_rings(shapely.get_parts(covered))
    middle = shapely.Point(line[len(line) // 2])
    ring = rings[int(np.argmin(shapely.distance(rings, middle)))]
    ends = shapely.line_locate_point(ring, shapely.points(line[[0, -1]]))
    along = float(shapely.line_locate_point(ring, middle)) + cut.shift
    half = (cut.width or float(np.mod(ends[1] - ends[0], ring.length))) / 2
    places = np.mod(along + np.linspace(-half, half, PLACES), float(ring.length))
    return np.asarray(shapely.get_coordinates(shapely.line_interpolate_point(ring, places)))


def _outward(line: Array, room: Room) -> Array:
    """The direction out of what covers a stretch of its edge."""
    course = line[-1] - line[0]
    size = float(np.linalg.norm(course))
    course = course / size if size > 1e-6 else np.array([1.0, 0.0])
    outward = np.array([course[1], -course[0]])
    sides = [_within(room, line[1:-1], side * outward) for side in (1.0, -1.0)]
    return outward if sides[0] < sides[1] else -outward


def _within(room: Room, places: Array, way: Array) -> tuple[int, int]:
    """How many places are covered close beside where they are, and well inside farther off."""
    close, apart = places + CLOSE * way, places + APART * way
    return (int(shapely.intersects_xy(room.covered, close[:, 0], close[:, 1]).sum()),
            int(shapely.intersects_xy(room.inside, apart[:, 0], apart[:, 1]).sum()))  # fmt: skip


def _zigzag(line: Array, room: Room, cut: Cut) -> Array:
    """Needle points (n, 2) in and out across a stretch of edge (k, 2), the first and the last inside."""
    outward = _outward(line, room)
    course = np.array([-outward[1], outward[0]])
    course = course if (line[-1] - line[0]) @ course > 0 else -course
    wide = float(np.linalg.norm(line[-1] - line[0]))
    if wide < LEAST:
        more = (LEAST - wide) / 2 * course
        line = np.concatenate([(line[0] - more)[None], line, (line[-1] + more)[None]])
    count = max(int(np.ceil(max(wide, LEAST) / PITCH)), 3)
    share = np.linspace(0.0, 1.0, 2 * count + 1)
    spots = part_of(line, 0.0, float(arc_lengths(line)[-1]), len(share))
    middle = spots[len(spots) // 2]
    off = (spots - middle) @ course
    inward = spots - (1.0 - TAPER) * off[:, None] * course if cut.form == TAPERED else spots
    within = _under(inward, outward, room)
    past = _past(spots, outward, room.limit(cut.beyond, spots), cut.beyond)
    return np.asarray(np.where(np.arange(len(share))[:, None] % 2 == 0, within, spots + past[:, None] * outward))


def _under(spots: Array, outward: Array, room: Room) -> Array:
    """Places (n, 2) in from the edge that stay under the columns; where none does, that of the nearest one."""
    within, known = spots - DEPTHS[-1] * outward, np.zeros(len(spots), dtype=bool)
    for depth in DEPTHS[::-1]:
        tried = spots - depth * outward
        kept = shapely.covers(room.inside, shapely.points(tried))
        within[kept] = tried[kept]
        known |= kept
    if not known.any():
        return np.asarray(within)
    nth = np.arange(len(spots))
    nearest = np.flatnonzero(known)[np.abs(nth[:, None] - np.flatnonzero(known)).argmin(axis=1)]
    return np.asarray(within[nearest])


def _past(spots: Array, outward: Array, limit: Area, beyond: float) -> Array:
    """How far out of places (n, 2) on the edge of what is covered a cap goes, so that it passes the shape too: mm."""
    far = shapely.linestrings(np.stack([spots, spots + (beyond + MOST_BEYOND) * outward], axis=1))
    left = shapely.get_parts(shapely.intersection(far, limit), return_index=True)
    reach = np.full(len(spots), beyond)
    starts = shapely.dwithin(left[0], shapely.points(spots)[left[1]], 1e-6)
    np.maximum.at(reach, left[1][starts], shapely.length(left[0][starts]))
    return np.asarray(np.minimum(reach, beyond + MOST_BEYOND - 1e-6))
