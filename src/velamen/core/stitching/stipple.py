"""Stipple: one line that meanders over a region and never crosses itself.

The line is the outline of a random tree grown over the region: round a tree one always comes
back to where one set out without crossing one's own path.
"""

from __future__ import annotations

import numpy as np
import shapely
from scipy import sparse
from shapely import Geometry, Polygon

from velamen.core.arrays import Array
from velamen.core.errors import BadInput, within
from velamen.core.geometry.interior_paths import Ways
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import clean_ring
from velamen.core.stitching.run import run_along, start_ring_at
from velamen.core.stitching.strand import Strand, strand, tied

SEED = 7
JITTER = 0.14  # of the pitch, to either side
ROUND = 0.3  # of the spacing, by which inner corners are rounded
THIN = 0.2  # mm to either side of a way through a narrow place
APART = 0.75  # spacings that an arm keeps from the rest of the tree
ARMS = 8  # rounds in which the tree is drawn out into what it left
CHORD = 0.04  # mm
ROUGH = 0.015  # mm that its curves are off
LOCAL = 8.0  # spacings round a place in which the tree is looked for
BARE = 1.2  # spacings from the line, beyond which a place calls for another arm
END = 0.8  # mm the line stops short of its beginning
MOST_SPOTS = 60_000  # places a tree may grow over


def stipple(
    region: Polygon, role: str, spacing: float, length: float, start: tuple[float, float] | None = None
) -> list[Strand]:
    """A region stippled by lines about `spacing` mm apart, usually one strand.

    length: longest stitch in mm; start: where sewing begins. Raises BadInput out of bounds.
    """
    within("spacing of a stipple", spacing, 0.6, 20.0)
    within("length of a stipple", length, 0.5, 6.0)
    if region.area > MOST_SPOTS * (2.0 * spacing) ** 2:
        raise BadInput(
            f"A stipple at spacing {spacing:g} is too fine for {region.area / 100:.0f} cm²: use a wider one."
        )
    grown = _grown(region, spacing)
    sewn = []
    for part in map(_opened, shapely.get_parts(grown)):
        ring = clean_ring(shapely.get_coordinates(part.exterior))
        if len(ring) < 3 or part.exterior.length < 2.0:
            continue
        ring = start_ring_at(ring, ring[0] if start is None else np.array(start))
        line = _cut_short(np.concatenate([ring, ring[:1]]))
        sewn.append(tied(strand(run_along(line, length, CHORD), role)))
    return sewn


def _grown(region: Polygon, spacing: float) -> Geometry:
    """The tree over a region, thick enough that its outline stands a spacing apart from itself."""
    half = spacing / 2.0
    fine = _segments(half)
    inner = shapely.buffer(region, -half)
    lines, parts = _tree(inner, 2.0 * spacing)
    branches = shapely.line_merge(shapely.multilinestrings(lines))
    thick = [shapely.buffer(branches, half * 0.999, quad_segs=fine)] if len(lines) else []
    if not thick:
        depth = float(shapely.length(shapely.maximum_inscribed_circle(region)))
        thick = [shapely.buffer(shapely.Point(_deepest(region)), min(half, 0.8 * depth))]
    ties = [shapely.buffer(way, THIN, quad_segs=3) for way in _bridges(region, parts)]
    whole = shapely.union_all([*thick, *ties])
    inside = Ways(region)
    bare, fresh = shapely.buffer(region, -THIN), [whole]
    for _ in range(ARMS):
        reached = shapely.buffer(shapely.union_all(fresh), BARE * spacing, quad_segs=fine)
        bare, fresh = shapely.difference(bare, reached), []
        shapely.prepare(whole)
        for far in _farthest(bare, whole, spacing):
            fresh += _arm(inside, whole, fresh, far, spacing)
        if not fresh:
            break
        whole = shapely.union_all([whole, *fresh])
    rounded = shapely.simplify(shapely.buffer(whole, ROUND * spacing, quad_segs=fine), ROUGH / 2.0)
    return shapely.intersection(shapely.buffer(rounded, -ROUND * spacing, quad_segs=fine), region)


def _segments(radius: float) -> int:
    """Segments of a quarter circle that leaves its curve by so little that the run does not show it."""
    return int(np.ceil(np.pi / 4.0 / np.arccos(max(1.0 - ROUGH / radius, 0.0))))


def _tree(inner: Geometry, pitch: float) -> tuple[Array, list[Array]]:
    """Edges (e, 2, 2) of random trees over jittered places inside a region, and the places of each tree."""
    if inner.is_empty:
        return np.zeros((0, 2, 2)), []
    left, top, right, bottom = inner.bounds
    across, down = (max(int((high - low) / pitch) + 2, 2) for low, high in ((left, right), (top, bottom)))
    x, y = np.meshgrid(left + pitch * (np.arange(across) - 0.25), top + pitch * (np.arange(down) - 0.25))
    chance = np.random.default_rng(SEED)
    places = np.stack([x, y], axis=-1).reshape(-1, 2) + chance.uniform(-JITTER, JITTER, (x.size, 2)) * pitch
    shapely.prepare(inner)
    known = shapely.contains_xy(inner, places[:, 0], places[:, 1])
    number = np.arange(x.size).reshape(x.shape)
    pairs = np.concatenate([
        np.stack([number[:, :-1].ravel(), number[:, 1:].ravel()], axis=1),
        np.stack([number[:-1].ravel(), number[1:].ravel()], axis=1),
    ])  # fmt: skip
    pairs = pairs[known[pairs].all(axis=1)]
    pairs = pairs[shapely.covers(inner, shapely.linestrings(places[pairs]))]
    weight = chance.uniform(0.5, 1.0, len(pairs))
    graph = sparse.coo_matrix((weight, (pairs[:, 0], pairs[:, 1])), shape=(x.size, x.size)).tocsr()
    tree = sparse.csgraph.minimum_spanning_tree(graph).tocoo()
    _, part = sparse.csgraph.connected_components(tree, directed=False)
    alone = np.flatnonzero(known)
    groups = [places[alone[part[alone] == nth]] for nth in np.unique(part[alone]).tolist()]
    edges = places[np.stack([tree.row, tree.col], axis=1)]
    lone = [np.stack([group[0], group[0] + [pitch / 50, 0.0]])[None] for group in groups if len(group) == 1]
    return np.concatenate([edges, *lone]), groups


def _bridges(region: Polygon, parts: list[Array]) -> list[Geometry]:
    """Ways inside the region that tie the trees together, each to the nearest of those tied already."""
    if len(parts) < 2:
        return []
    inside = Ways(region)
    parts = sorted(parts, key=len, reverse=True)
    tied_, left, found = parts[0], parts[1:], []
    while left:
        gaps = [shapely.distance(shapely.multipoints(tied_), shapely.multipoints(part)) for part in left]
        part = left.pop(int(np.argmin(gaps)))
        ends = shapely.get_coordinates(shapely.shortest_line(shapely.multipoints(tied_), shapely.multipoints(part)))
        way = inside.between(ends[0], ends[1])
        if way is not None:
            found.append(shapely.LineString(way))
        tied_ = np.concatenate([tied_, part])
    return found


def _opened(part: Polygon) -> Polygon:
    """A tree that has grown round on itself, slit so that its outline is one line again."""
    while part.geom_type == "Polygon" and len(part.interiors):
        link = shapely.get_coordinates(_shortest(part.interiors[0], part.exterior))
        ahead = (link[1] - link[0]) / max(float(np.linalg.norm(link[1] - link[0])), 1e-9)
        slit = shapely.LineString([link[0] - THIN * ahead, link[1] + THIN * ahead])
        cut = shapely.difference(part, shapely.buffer(slit, 0.75 * THIN, cap_style="flat"))
        part = max(shapely.get_parts(cut), key=shapely.area)
    return part


def _shortest(ring: Geometry, around: Geometry) -> Geometry:
    """The shortest line from a ring to a long one about it, looked for beside it alone."""
    left, top, right, bottom = ring.bounds
    room = max(right - left, bottom - top)
    near = shapely.clip_by_rect(around, left - room, top - room, right + room, bottom + room)
    line = shapely.shortest_line(ring, near) if not near.is_empty else None
    return line if line is not None and line.length <= room else shapely.shortest_line(ring, around)


def _farthest(bare: Geometry, tree: Geometry, spacing: float) -> list[Array]:
    """The farthest place of every part that the tree has not come near."""
    found = []
    for part in shapely.get_parts(bare):
        if part.geom_type == "Polygon" and not part.is_empty:
            corners = shapely.get_coordinates(shapely.simplify(part.exterior, 0.4 * spacing))
            found.append(corners[int(np.argmax(shapely.distance(tree, shapely.points(corners))))])
    return found


def _arm(inside: Ways, tree: Geometry, fresh: list[Geometry], far: Array, spacing: float) -> list[Geometry]:
    """An arm of the tree out to a place, kept off all of it and of fresh arms but where it sets out; its parts."""
    point = shapely.Point(far)
    local = shapely.clip_by_rect(tree, *(far - LOCAL * spacing), *(far + LOCAL * spacing))
    local = tree if local.is_empty else local
    near = shapely.get_coordinates(shapely.shortest_line(local, point))[0]
    way = inside.between(near, far)
    if way is None or np.linalg.norm(far - near) < spacing:
        return []
    arm = shapely.intersection(shapely.buffer(shapely.LineString(way), spacing / 2.0, quad_segs=4), inside.region)
    low, high = np.array(arm.bounds[:2]) - spacing, np.array(arm.bounds[2:]) + spacing
    around = shapely.box(*low, *high)
    beside = [shapely.clip_by_rect(tree, *low, *high), *(one for one in fresh if shapely.intersects(around, one))]
    arm = shapely.difference(arm, shapely.union_all(shapely.buffer(beside, APART * spacing, quad_segs=4)))
    parts = [part for part in shapely.get_parts(arm) if part.geom_type == "Polygon" and part.area > THIN**2]
    if not parts:
        return []
    arm = min(parts, key=lambda part: part.distance(point))
    # It hangs on the tree by the way itself, which stays inside, not straight across a gap.
    pieces = shapely.get_parts(shapely.difference(shapely.LineString(way), shapely.union_all(beside)))
    link = pieces[int(np.argmin(shapely.distance(pieces, arm)))] if len(pieces) else shapely.LineString(way)
    return [arm, shapely.buffer(link, THIN, quad_segs=3)]


def _deepest(region: Polygon) -> Array:
    return np.asarray(shapely.get_coordinates(shapely.maximum_inscribed_circle(region))[0])


def _cut_short(line: Array) -> Array:
    """A closed line without its last stretch, so that it ends beside its beginning."""
    way = arc_lengths(line)
    upto = max(way[-1] - END, 0.6 * way[-1])
    kept = way < upto
    return np.concatenate([line[kept], [[np.interp(upto, way, line[:, 0]), np.interp(upto, way, line[:, 1])]]])
