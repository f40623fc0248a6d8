"""Lines of a curved net: rings that follow the outline, and bars between them, mended until all cells are alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Index, Mask
from velamen.core.geometry.clipped import clipped
from velamen.core.geometry.polyline import arc_lengths, line_length
from velamen.core.geometry.region import Area, boundaries, grown, ready, signed_area

NARROW, WIDE = 0.7, 1.4  # cells across, below and above which a cell is mended
LONG = 2.2  # cells along, above which a cell is divided
REACH = 1.5  # cells to the next ring, farther than which a bar goes across instead
ACROSS = 3.4  # cells that a bar goes across at most
APART = 0.55  # cells along a ring within which no second bar begins
CORNER = np.radians(35.0)
FINE = 0.02  # mm within which lines meet
SHORT = 0.3  # of a cell; a shorter bar is left out
FRINGE, MANY = 0.12, 200  # of a cell, and points of an outline from which that is smoothed away
MENDED = 4  # rounds of mending
TURNS = 12  # directions in which a cell is divided
MOST_RINGS = 400


@dataclass(frozen=True)
class Courses:
    """rings: (n, 2) closed lines inside the outline, first point again at the end; bars: (m, 2, 2) between lines."""

    rings: list[Array]
    bars: Array


def courses(region: Polygon, cell: float, guides: Sequence[Array] = ()) -> Courses:
    """Rings and bars of a net whose cells are `cell` mm wide, as nearly as the region allows.

    They follow the outline without its fringes, and bars end beside it there. guides: lines (n, 2) that the rings
    follow as well, led on to the outline and sewn themselves.
    """
    led = [line for guide in guides for line in _led_through(region, guide)]
    region = _calm(region, cell)
    if led:
        slit = shapely.difference(region, shapely.buffer(shapely.multilinestrings(led), FINE / 4, cap_style="flat"))
        sides = [courses(part, cell) for part in shapely.get_parts(slit) if part.area > cell**2 / 4]
        return Courses([*(ring for one in sides for ring in one.rings), *led],
                       np.concatenate([np.zeros((0, 2, 2)), *(one.bars for one in sides)]))  # fmt: skip
    levels = [_lines(region)]
    for nth in range(1, MOST_RINGS):
        inner = shapely.buffer(region, -nth * cell, join_style="mitre", mitre_limit=2.0)
        opened = shapely.buffer(shapely.buffer(inner, -NARROW / 2 * cell), NARROW / 2 * cell)
        opened = shapely.intersection(opened, inner)  # where it is narrow the ring is left out
        found = [line for part in shapely.get_parts(opened) if part.geom_type == "Polygon" and part.area > cell**2 / 4
                 for line in _lines(shapely.simplify(part, FINE))]  # fmt: skip
        if not found:
            break
        levels.append(found)
    bars: list[Array] = []
    arrived: list[Array] = [np.zeros((0, 2)) for _ in levels[0]]
    for nth, lines in enumerate(levels):
        onward = levels[nth + 1] if nth + 1 < len(levels) else []
        more, arrived = _bars(region, lines, onward, arrived, cell)
        bars += more
    rings = [line for lines in levels[1:] for line in lines]
    return _mended(region, rings, np.array(bars).reshape(-1, 2, 2), cell)


def _led_through(region: Polygon, guide: Array) -> list[Array]:
    """A guide led on straight to the outline at both ends; its parts where it leaves the region between."""
    far = float(np.hypot(region.bounds[2] - region.bounds[0], region.bounds[3] - region.bounds[1]))
    ends = [guide[0] - guide[1], guide[-1] - guide[-2]]
    before, after = (way / max(float(np.linalg.norm(way)), 1e-9) * far for way in ends)
    line = np.concatenate([(guide[0] + before)[None], guide, (guide[-1] + after)[None]])
    return [part for part in clipped(line, region) if line_length(part) > FINE * 10]


def _calm(region: Polygon, cell: float) -> Polygon:
    """A region without notches and fringes that are small beside a cell; itself where it would fall apart."""
    calm = shapely.buffer(shapely.buffer(region, FRINGE * cell), -2 * FRINGE * cell)
    calm = shapely.simplify(shapely.buffer(calm, FRINGE * cell), FINE * 2)
    same = isinstance(calm, Polygon) and not calm.is_empty and len(calm.interiors) == len(region.interiors)
    return calm if same and len(region.exterior.coords) > MANY else region


def _lines(part: Polygon) -> list[Array]:
    """Outlines of an area, closed, each with the area on its left as seen with y down."""
    found = []
    for nth, ring in enumerate(boundaries(part)):
        right = (signed_area(ring) > 0) == (nth == 0)
        ring = ring if right else ring[::-1]
        found.append(np.concatenate([ring, ring[:1]]))
    return found


def _bars(
    region: Polygon, lines: list[Array], onward: list[Array], arrived: list[Array], cell: float
) -> tuple[list[Array], list[Array]]:
    """Bars (2, 2) from rings to the next ones inside, or across; and where they arrive on each of those."""
    walls = shapely.union_all([shapely.linestrings(line) for line in lines])
    inner = np.array([shapely.linestrings(line) for line in onward], dtype=object)
    ends: list[list[Array]] = [[] for _ in onward]
    crossed, across = np.zeros((0, 2)), list[shapely.Geometry]()
    room = ready(grown(region, FINE, 2))
    found: list[Array] = []
    for line, known in zip(lines, arrived, strict=True):
        spots, inwards = _spots(line, known, cell)
        drawn_to, rings = _to_next(spots, inwards, walls, inner, room, cell)
        long = np.linalg.norm(drawn_to[:, 1] - drawn_to[:, 0], axis=1) >= SHORT * cell  # none where there is no bar
        for spot, bar, nth in zip(spots[long], drawn_to[long], rings[long].tolist(), strict=True):
            if nth < 0:
                near = np.linalg.norm(crossed - spot, axis=1) if len(crossed) else np.full(1, np.inf)
                drawn = shapely.linestrings(bar)
                if near.min() < APART * cell or any(drawn.crosses(other) for other in across):
                    continue
                crossed = np.concatenate([crossed, bar[1:]])
                across.append(drawn)
            else:
                ends[nth].append(bar[1])
            found.append(bar)
    return found, [np.array(each).reshape(-1, 2) for each in ends]


def _to_next(
    spots: Array, inwards: Array, walls: shapely.Geometry, inner: Array, room: Area, cell: float
) -> tuple[Array, Index]:
    """Bars (k, 2, 2) from places to the next ring inside, with its number, or across to the same rings, with -1.

    Not a number where neither leads on inside the room.
    """
    found, rings = np.full((len(spots), 2, 2), np.nan), np.full(len(spots), -1)
    points = shapely.points(spots)
    if len(inner):
        off = shapely.distance(inner[:, None], points[None])
        nearest = np.argmin(off, axis=0)
        near = np.flatnonzero(off.min(axis=0) <= REACH * cell)
        lines = shapely.shortest_line(points[near], inner[nearest[near]])
        kept = shapely.covers(room, lines)
        found[near[kept]] = shapely.get_coordinates(lines[kept]).reshape(-1, 2, 2)
        rings[near[kept]] = nearest[near[kept]]
    left = np.flatnonzero(rings < 0)
    rays = np.stack([spots[left] + far * cell * inwards[left] for far in (SHORT, ACROSS)], axis=1)
    hits, owner = shapely.get_coordinates(shapely.intersection(shapely.linestrings(rays), walls), return_index=True)
    order = np.lexsort((np.linalg.norm(hits - spots[left[owner]], axis=1), owner))
    owner, first = np.unique(owner[order], return_index=True)
    across = np.stack([spots[left[owner]], hits[order][first]], axis=1)
    kept = shapely.covers(room, shapely.linestrings(across))
    found[left[owner[kept]]] = across[kept]
    return found, rings


def _spots(line: Array, known: Array, cell: float) -> tuple[Array, Array]:
    """Places on a ring from which bars go inwards, a cell apart, and their course: those where bars arrive kept."""
    way = arc_lengths(line)
    total = float(way[-1])
    side = np.diff(line, axis=0)
    heading = np.arctan2(side[:, 1], side[:, 0])
    turn = np.angle(np.exp(1j * (heading - np.roll(heading, 1))))
    if len(known):
        drawn = shapely.linestrings(line)
        at = np.sort(shapely.line_locate_point(drawn, shapely.points(known)))
        at = _spread(at, total, cell)
    else:
        corners = way[:-1][np.abs(turn) > CORNER]
        reflex = way[:-1][turn < -CORNER]
        bounds = corners if len(corners) else np.zeros(1)
        parts = [reflex]
        for begin, end in zip(bounds, [*bounds[1:], bounds[0] + total], strict=True):
            count = max(round((end - begin) / cell), 1)
            steps = np.arange(0 if not len(corners) else 1, count)
            parts.append(begin + steps / count * (end - begin))
        at = np.mod(np.concatenate(parts), total)
    spots = np.stack([np.interp(at, way, line[:, axis]) for axis in (0, 1)], axis=1)
    nth = np.clip(np.searchsorted(way, at, side="right") - 1, 0, len(side) - 1)
    course = side[nth] / np.linalg.norm(side[nth], axis=1)[:, None]
    at_corner = np.isclose(at, way[nth])
    bisector = course + side[nth - 1] / np.linalg.norm(side[nth - 1], axis=1)[:, None]
    course = np.where(at_corner[:, None], bisector, course)
    course /= np.maximum(np.linalg.norm(course, axis=1), 1e-9)[:, None]
    return np.asarray(spots), np.stack([-course[:, 1], course[:, 0]], axis=1)


def _spread(at: Array, total: float, cell: float) -> Array:
    """Sorted places along a ring thinned where they crowd, and more put in where they are far apart."""
    kept = [at[0]]
    for one in at[1:].tolist():
        if one - kept[-1] >= NARROW * cell:
            kept.append(one)
    if len(kept) > 1 and kept[0] + total - kept[-1] < NARROW * cell:
        kept.pop()
    found = []
    for one, other in zip(kept, [*kept[1:], kept[0] + total], strict=True):
        count = max(round((other - one) / cell), 1) if other - one > WIDE * cell else 1
        found += [one + nth / count * (other - one) for nth in range(count)]
    return np.asarray(np.mod(np.array(found), total))


def _mended(region: Polygon, rings: list[Array], bars: Array, cell: float) -> Courses:
    """The net with bars put across cells that are too wide, and taken out beside cells that are too small."""
    fixed = [shapely.boundary(region), *(shapely.linestrings(ring) for ring in rings)]
    for _ in range(MENDED):
        faces, wide, middle = cells(region, fixed, bars)
        long, course = _long_sides(faces)
        more = [bar for nth in np.flatnonzero((wide > WIDE * cell) | (long > LONG * cell)).tolist()
                if (bar := _across(faces[nth], middle[nth] if wide[nth] > WIDE * cell else None, course[nth]))
                is not None]  # fmt: skip
        gone = _superfluous(faces, wide, bars, cell)
        if not more and not gone.any():
            break
        bars = np.concatenate([bars[~gone], np.array(more).reshape(-1, 2, 2)])
    return Courses(rings, bars)


def cells(region: Polygon, fixed: list[shapely.Geometry], bars: Array) -> tuple[Array, Array, Array]:
    """The cells between lines of a region, how wide each is, mm, and the middle of its widest disc."""
    noded = shapely.union_all([*fixed, *shapely.linestrings(longer(bars, FINE / 4))], grid_size=1e-4)
    faces = shapely.get_parts(shapely.polygonize([noded]))
    faces = faces[shapely.contains(ready(region), shapely.point_on_surface(faces))]
    if not len(faces):
        return faces, np.zeros(0), np.zeros((0, 2))
    disc = shapely.maximum_inscribed_circle(faces, tolerance=FINE)
    ends = shapely.get_coordinates(disc).reshape(-1, 2, 2)
    return faces, 2 * np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1), ends[:, 0]


def longer(bars: Array, hair: float) -> Array:
    """Bars `hair` mm longer at both ends, so that they meet the lines they end on."""
    course = bars[:, 1] - bars[:, 0]
    course = hair * course / np.maximum(np.linalg.norm(course, axis=1), 1e-9)[:, None]
    return np.stack([bars[:, 0] - course, bars[:, 1] + course], axis=1)


def _long_sides(faces: Array) -> tuple[Array, Array]:
    """How long cells are, mm, and the course (n, 2) of that side."""
    corners = shapely.get_coordinates(shapely.oriented_envelope(faces)).reshape(-1, 5, 2)
    sides = corners[:, 1:3] - corners[:, :2]
    size = np.linalg.norm(sides, axis=2)
    nth = np.argmax(size, axis=1)
    rows = np.arange(len(faces))
    return size[rows, nth], sides[rows, nth] / np.maximum(size[rows, nth], 1e-9)[:, None]


def _across(face: Polygon, middle: Array | None, long: Array) -> Array | None:
    """The shortest bar through the middle of a wide cell, or one halfway across the long side of a long one."""
    angle = np.arange(TURNS) * np.pi / TURNS
    if middle is None:
        middle = shapely.get_coordinates(face.centroid)[0]
        angle = np.arctan2(long[1], long[0]) + np.array([np.pi / 2])
    far = float(np.hypot(face.bounds[2] - face.bounds[0], face.bounds[3] - face.bounds[1]))
    course = np.stack([np.cos(angle), np.sin(angle)], axis=1) * far
    lines = shapely.intersection(shapely.linestrings(np.stack([middle - course, middle + course], axis=1)), face)
    parts = shapely.get_parts(lines)
    parts = parts[(shapely.get_type_id(parts) == 1) & (shapely.distance(parts, shapely.Point(middle)) < FINE)]
    if not len(parts):
        return None
    return np.asarray(shapely.get_coordinates(parts[np.argmin(shapely.length(parts))])[[0, -1]])


def _superfluous(faces: Array, wide: Array, bars: Array, cell: float) -> Mask:
    """(m,) bars between a cell that is too small and another, where both together are not too wide."""
    gone = np.zeros(len(bars), bool)
    if not len(bars) or not len(faces):
        return gone
    ends = shapely.STRtree(shapely.points(bars.reshape(-1, 2)))
    drawn = shapely.linestrings(bars)
    one, end = ends.query(drawn, "dwithin", FINE)
    spots = bars.reshape(-1, 2)[end]
    inside = np.minimum(*(np.linalg.norm(spots - bars[one, each], axis=1) for each in (0, 1))) > 3 * FINE
    leans = np.bincount(one[inside], minlength=len(bars)) > 0  # others end on them
    middle = shapely.points(bars.mean(axis=1))
    bar, face = shapely.STRtree(faces).query(middle, "dwithin", FINE)
    beside: dict[int, list[int]] = {}
    for one, other in zip(bar.tolist(), face.tolist(), strict=True):
        beside.setdefault(one, []).append(other)
    touched: set[int] = set()
    order: Index = np.argsort(
        [min((wide[each] for each in beside.get(nth, [])), default=np.inf) for nth in range(len(bars))]
    )
    for nth in order.tolist():
        two = beside.get(nth, [])
        if leans[nth] or len(two) != 2 or touched & set(two) or wide[two].min() >= NARROW * cell:
            continue
        merged = shapely.union_all([shapely.buffer(faces[each], FINE / 2) for each in two])
        disc = shapely.length(shapely.maximum_inscribed_circle(merged, tolerance=FINE))
        if 2 * disc <= WIDE * cell:
            gone[nth] = True
            touched |= set(two)
    return gone
