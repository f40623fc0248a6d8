"""Foam-tear proof: which stretches of the edge of puff satin stay uncut, and what thread lies over foam torn away?

The edge is that of what the satin covers, not of the shape: what rows leave bare inside becomes an edge of its own.
Tried and measured on letters before it was built; whether foam tears is judged by needle geometry alone.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.arrays import Array, stretches
from velamen.core.geometry.region import Area
from velamen.core.memo import kept
from velamen.core.proofs.proved import Spot
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand

CHUNK, SHARED = 60, 2  # needle points of a zigzag taken as one area, and shared with the next
TOGETHER = 8  # chunks that are kept as one area
FINE = 0.01  # mm that outlines are simplified by
THREAD = 0.05  # mm either side of a row that is covered where it is divided and so spans no triangle
SPECK = 0.05  # mm2 of what is no part of its own
MANY, PIECE = 1000, 16  # places of an outline that is widened in pieces, and sides of each
CLOSED = 0.3  # mm of notches between short stitches that are none
NEAR = 0.3  # mm from the edge within which a needle point cuts it
CUT, GRID = 1.0, 0.1  # mm between needle points that tear, and what a machine's grid may add
CORNER, CORNER_MORE = 1.5, 0.3  # chords and mm up to which foam tears straight from hole to hole round a corner
JOINED = 1.5  # mm of edge between two stretches that are one end
PINHOLE = 3.0  # mm round a hole that is not judged
RIM, SEEN = 0.1, 0.05  # mm past the edge that a run may lie, and of thread that counts


@dataclass(frozen=True)
class FoamTear:
    """What the proof found. over: thread across foam that is torn away; edge: mm of foam edge."""

    uncut: tuple[Spot, ...]
    over: tuple[Spot, ...]
    edge: float

    @property
    def held(self) -> bool:
        return not self.uncut and not self.over


@dataclass(frozen=True)
class FoamEdge:
    """The edge of foam under satin. uncut: the longest first; ends: the same, those near one another as one;

    length: mm of edge; covered: by the satin.
    """

    uncut: tuple[Spot, ...]
    ends: tuple[Spot, ...]
    length: float
    covered: Area


def prove_foam_tear(strands: Sequence[Strand], roles: Sequence[str], runs: Sequence[str] = ()) -> FoamTear:
    """The proof of one piece. roles: of the zigzags that cut the foam; runs: of runs that perforate it."""
    edge = foam_edge(strands, roles, runs)
    return FoamTear(edge.uncut, _over(strands, roles, edge.covered), edge.length)


def prove_perforated(area: Area, strands: Sequence[Strand], runs: Sequence[str]) -> FoamTear:
    """The proof of foam that stays in an area and is torn away round it. runs: roles that perforate its edge."""
    points = _points(strands, runs)
    edge = _edge(area, np.concatenate(points) if points else np.zeros((0, 2)))
    return FoamTear(edge.uncut, _over(strands, [], area), edge.length)


def foam_edge(strands: Sequence[Strand], roles: Sequence[str], runs: Sequence[str] = ()) -> FoamEdge:
    """Which stretches of foam edge zigzags of some roles, and runs of others, leave uncut."""
    zigzags = _zigzags(strands, roles)
    area = _covered(zigzags)
    return _edge(area, np.concatenate([*zigzags, *_points(strands, runs)]) if zigzags else np.zeros((0, 2)))


def _edge(area: Area, points: Array) -> FoamEdge:
    """Which stretches of an area's edge needle points (n, 2) leave uncut."""
    rings = [ring for ring in shapely.get_rings(shapely.get_parts(area)) if ring.length >= PINHOLE]
    gaps = [(ring, _gaps(ring, points)) for ring in rings]
    found = [_uncut(ring, *gap) for ring, every in gaps for gap in every]
    ends = [_uncut(ring, begin, arc, arc) for ring, every in gaps for begin, arc in _together(every, ring.length)]
    return FoamEdge(_longest_first(found), _longest_first(ends), float(sum(ring.length for ring in rings)), area)


def _longest_first(stretches: Sequence[Spot]) -> tuple[Spot, ...]:
    return tuple(sorted(stretches, key=lambda one: -one.length))


def _zigzags(strands: Sequence[Strand], roles: Sequence[str]) -> list[Array]:
    """Needle points (n, 2) of the stretches of strands sewn in some roles; what leads into one is no row of it."""
    codes = [CODE[role] for role in roles]
    return [
        one.xy[low:high] for one in strands for low, high in stretches(np.isin(one.role, codes)) if high - low > 2
    ]


def _points(strands: Sequence[Strand], runs: Sequence[str]) -> list[Array]:
    """Needle points (n, 2) of runs that perforate."""
    codes = [CODE[role] for role in runs]
    return [one.xy[np.isin(one.role, codes)] for one in strands] if codes else []


def _covered(zigzags: Sequence[Array]) -> Area:
    """What zigzags cover; stretches of them that have been looked at before are known."""
    step = TOGETHER * (CHUNK - SHARED)
    found = [_stretch(np.ascontiguousarray(points[low : low + step + SHARED]).tobytes())
             for points in zigzags for low in range(0, max(len(points) - SHARED, 1), step)]  # fmt: skip
    if not found:
        return shapely.MultiPolygon()
    area = shapely.simplify(shapely.union_all(found), FINE)
    closed = shapely.get_parts(shapely.buffer(_widened(area, CLOSED), -CLOSED, quad_segs=4))
    return shapely.simplify(shapely.multipolygons(closed[shapely.area(closed) > SPECK]), FINE)


def _widened(area: Area, by: float) -> Area:
    """An area and all within some mm of it, exact where its outline has thousands of teeth.

    A buffer of the whole takes ten times as long on these, and fills bays and holes of 20 mm2 that are none.
    """
    if shapely.get_num_coordinates(area) < MANY:
        return shapely.buffer(area, by, quad_segs=4)
    rings = [shapely.get_coordinates(ring) for ring in shapely.get_rings(shapely.get_parts(area))]
    lines = [
        shapely.LineString(ring[low : low + PIECE + 1]) for ring in rings for low in range(0, len(ring) - 1, PIECE)
    ]
    return shapely.union_all([area, *shapely.buffer(lines, by, quad_segs=4)])


@kept(4096)
def _stretch(data: bytes) -> Area:
    """What a stretch of a zigzag covers: chunks of it, one rail forwards and the other one back. data: of (n, 2)."""
    points = np.frombuffer(data).reshape(-1, 2)
    pieces: list[Array] = []
    for low in range(0, max(len(points) - SHARED, 1), CHUNK - SHARED):
        part = points[low : low + CHUNK]
        whole = shapely.polygons(np.concatenate([part[::2], part[1::2][::-1]])) if len(part) > 3 else None
        if whole is not None and whole.is_valid:
            pieces.append(np.array([whole], dtype=object))
        elif len(part) > 2:
            pieces.append(shapely.polygons(np.stack([part[:-2], part[1:-1], part[2:]], axis=1)))
            pieces.append(np.array([shapely.buffer(shapely.LineString(part), THREAD, quad_segs=1)], dtype=object))
    return shapely.union_all(shapely.make_valid(np.concatenate(pieces))) if pieces else shapely.MultiPolygon()


def _over(strands: Sequence[Strand], roles: Sequence[str], covered: Area) -> tuple[Spot, ...]:
    """Thread between and beside the zigzags that lies over foam, joined where it goes on."""
    codes = [CODE[role] for role in roles]
    runs = [
        np.stack([one.xy[:-1], one.xy[1:]], axis=1)[~(np.isin(one.role[1:], codes) & np.isin(one.role[:-1], codes))]
        for one in strands
    ]
    lines = shapely.linestrings(np.concatenate(runs)) if runs else []
    bare = shapely.difference(lines, shapely.buffer(covered, RIM))
    if len(bare := bare[~shapely.is_empty(bare)]):
        bare = _beside_rows(bare, _zigzags(strands, roles))
    parts = shapely.get_parts(shapely.line_merge(shapely.union_all(bare)))
    found = []
    for part in parts[shapely.length(parts) > SEEN]:
        line = [(round(x, 2), round(y, 2)) for x, y in part.coords]
        middle = part.interpolate(0.5, normalized=True)
        found.append(Spot(round(middle.x, 2), round(middle.y, 2), round(part.length, 2), tuple(line)))
    return _longest_first(found)


def _beside_rows(lines: Array, zigzags: Sequence[Array]) -> Array:
    """What of lines lies along no row: at the tip of a needle rows cover no area, but hide what lies along them."""
    if not zigzags:
        return lines
    rows = shapely.linestrings(np.concatenate([np.stack([one[:-1], one[1:]], axis=1) for one in zigzags]))
    near = rows[np.unique(shapely.STRtree(rows).query(lines, "dwithin", RIM)[1])]
    return np.asarray(shapely.difference(lines, shapely.union_all(shapely.buffer(near, RIM, quad_segs=2))))


Gap = tuple[float, float, float]
"""How far along an outline a stretch begins, its way along that, and how far apart needle points lie there, mm."""


def _together(gaps: Sequence[Gap], total: float) -> list[tuple[float, float]]:
    """Where stretches of an outline begin and how long they are, those near one another taken as one."""
    found: list[tuple[float, float]] = []
    for begin, arc, _ in sorted(gaps):
        if found and begin - sum(found[-1]) < JOINED:
            found[-1] = found[-1][0], begin + arc - found[-1][0]
        else:
            found.append((begin, arc))
    if len(found) > 1 and found[0][0] + total - sum(found[-1]) < JOINED:
        (first, arc), (last, _) = found[0], found[-1]
        found = [*found[1:-1], (last, first + total + arc - last)]
    return found


def _gaps(ring: shapely.LinearRing, points: Array) -> list[Gap]:
    """Stretches of an outline along which needle points lie too far apart."""
    spots = shapely.points(points)
    near = points[shapely.dwithin(spots, ring, NEAR)] if len(points) else points
    total = float(ring.length)
    if not len(near):
        return [(0.0, total, total)]
    along = shapely.line_locate_point(ring, shapely.points(near))
    order = np.argsort(along)
    along, near = along[order], near[order]
    arc = np.diff(np.append(along, along[0] + total))
    chord = np.linalg.norm(np.roll(near, -1, axis=0) - near, axis=1)
    gap = np.where(arc <= CORNER * chord + CORNER_MORE, np.minimum(arc, chord), arc)
    return [(float(along[nth]), float(arc[nth]), float(gap[nth])) for nth in np.flatnonzero(gap > CUT + GRID)]


def _uncut(ring: shapely.LinearRing, begin: float, arc: float, length: float) -> Spot:
    along = np.mod(begin + np.linspace(0.0, arc, 7), float(ring.length))
    line = [(round(one.x, 2), round(one.y, 2)) for one in shapely.line_interpolate_point(ring, along)]
    return Spot(*line[3], round(length, 2), tuple(line))
