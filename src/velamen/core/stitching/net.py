"""A net: lines in two directions over a region, joined at its border, in one thread.

Lines cross between needle points, so that each crossing is a lock; their ends are needle points of the outline, and
one round of it runs a little inside, across all of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.errors import BadInput, within
from velamen.core.geometry.region import boundaries
from velamen.core.stitching.net_courses import courses
from velamen.core.stitching.net_frame import Frame
from velamen.core.stitching.net_graph import Graph, graph_of
from velamen.core.stitching.one_thread import NOWHERE, Step, rounds
from velamen.core.stitching.run import run_along, runs_along
from velamen.core.stitching.strand import Strand, join, strand, tied

SHORTEST_LINE = 1.6  # mm; a shorter line is left out
INSIDE, REACH = 0.45, 1.2  # mm that the inner border round lies inside the outline, and that lies off at most
DETAIL = 0.05  # mm of an outline that it does not follow
BORDER = 2.2  # mm of its stitch
OFF_CROSSING, DROPPED = 0.35, 0.4  # mm a needle point keeps from a crossing, and from another
ROOM, NO_ROOM = 1.0, 2.0  # mm of a first stitch in which a tie lies well, and mm that one is worth going for it
SAME = 1e-6  # mm within which two places are one
MOST_LINES = 4000


def net(
    region: Polygon, roles: tuple[str, str], cell: float, angle: float, stitch: float, border: int,
    start: Place | None = None, curved: bool = False, guides: Sequence[Array] = (),
) -> list[Strand]:  # fmt: skip
    """A net over a region, straight or along its outline, one strand for each part that hangs together.

    roles: of the net's lines and of its border; cell: mm between lines; angle: of one direction, rad; stitch: longest
    of a line, mm; border: rounds of the outline beside the stretches between line ends, 0 to 2. Raises BadInput.
    """
    within("cell of a net", cell, 1.0, 30.0)
    within("stitch of a net", stitch, 0.8, 6.0)
    if region.area / cell**2 > MOST_LINES**2 / 16:
        raise BadInput(
            f"A net with cells of {cell:g} mm is too fine for {region.area / 100:.0f} cm²: use larger ones."
        )
    rings = boundaries(region)
    frame = Frame(rings)
    laid = _curved(region, frame, cell, stitch, guides) if curved else _straight(region, frame, cell, angle, stitch)
    inner = _inner_rounds(region, frame) if border > 1 else [None] * len(rings)
    arcs = _arcs(frame, laid.following)
    onward = [*laid.following, *[NOWHERE] * laid.inside]
    return [_sewn(way, frame, laid.following, arcs, laid.lines, inner, roles, border, start)
            for way in rounds(onward, laid.joined)]  # fmt: skip


@dataclass(frozen=True)
class _Laid:
    """Lines of a net. lines: needle points of each; joined: the places it joins, first those of outlines, then
    `inside` others; following: for each place of an outline the next one on it."""

    lines: list[Array]
    joined: list[tuple[int, int]]
    following: list[int]
    inside: int = 0


def _straight(region: Polygon, frame: Frame, cell: float, angle: float, stitch: float) -> _Laid:
    """Lines in two directions."""
    lines = _lines(region, cell, angle)
    lines += _connectors(frame, np.array(lines).reshape(-1, 2, 2))
    ends = frame.ask(np.array([(line[0], line[-1]) for line in lines]).reshape(-1, 2)).reshape(-1, 2)
    following = frame.settle()
    joined = [(frame.known[one], frame.known[other]) for one, other in ends]
    lines = [np.stack([frame.places[one], frame.places[other]]) for one, other in joined]
    kept = [nth for nth, (one, other) in enumerate(joined) if one != other and _needed(frame, lines[nth], one, other)]
    lines, joined = [lines[nth] for nth in kept], [joined[nth] for nth in kept]
    return _Laid(_needle_points(lines, stitch), joined, following)


def _curved(region: Polygon, frame: Frame, cell: float, stitch: float, guides: Sequence[Array]) -> _Laid:
    """Rings that follow the outline, and bars between them."""
    graph = graph_of(courses(region, cell, guides))
    on_edge = np.flatnonzero(graph.edge)
    more = _joining(frame, _hanging_together(graph, frame))
    asked = frame.ask(np.concatenate([graph.places[on_edge], more.reshape(-1, 2)]))
    following = frame.settle()
    known = np.full(len(graph.places), -1)
    known[on_edge] = [frame.known[one] for one in asked[: len(on_edge)].tolist()]
    inside = np.flatnonzero(~graph.edge)
    known[inside] = len(frame.places) + np.arange(len(inside))
    places = np.concatenate([np.array(frame.places).reshape(-1, 2), graph.places[inside]])
    drawn = [(line, *known[ends].tolist()) for line, ends in zip(graph.lines, graph.ends, strict=True)]
    extra = [frame.known[one] for one in asked[len(on_edge) :].tolist()]
    drawn += [(places[[one, other]], one, other) for one, other in zip(extra[::2], extra[1::2], strict=True)]
    drawn = [one for one in drawn if one[1] != one[2] or one[1] >= len(frame.places)]
    ways = [_between(line[1:-1], places[one], places[other]) for line, one, other in drawn]
    return _Laid(runs_along(ways, stitch), [(one, other) for _, one, other in drawn], following, len(inside))


def _between(inner: Array, begin: Array, end: Array) -> Array:
    """A line between two places, without what lies so near to them that no stitch is so short."""
    near = np.minimum(*(np.linalg.norm(inner - spot, axis=1) for spot in (begin, end)))
    return np.concatenate([begin[None], inner[near > DROPPED], end[None]])


def _hanging_together(graph: Graph, frame: Frame) -> NDArray[np.int64]:
    """What each outline hangs together with, by number."""
    rings = len(frame.rings)
    on_edge = np.flatnonzero(graph.edge)
    nearest = shapely.STRtree(frame.lines).nearest(shapely.points(graph.places[on_edge]))
    pairs = np.concatenate([graph.ends + rings, np.stack([nearest, on_edge + rings], axis=1)])
    total = rings + len(graph.places)
    _, group = connected_components(coo_array((np.ones(len(pairs)), pairs.T), (total, total)), directed=False)
    return np.asarray(group[:rings], np.int64)


def _joining(frame: Frame, group: NDArray[np.int64]) -> Array:
    """The shortest lines (k, 2, 2) between outlines of which nothing joins the groups."""
    found: list[Array] = []
    between = shapely.distance(frame.lines[:, None], frame.lines[None])
    group = group.copy()
    while len(set(group.tolist())) > 1:
        apart = np.where(group[:, None] == group[None], np.inf, between)
        one, other = np.unravel_index(int(np.argmin(apart)), apart.shape)
        found.append(shapely.get_coordinates(shapely.shortest_line(frame.lines[one], frame.lines[other])))
        group[group == group[other]] = group[one]
    return np.array(found).reshape(-1, 2, 2)


def _arcs(frame: Frame, following: Sequence[int]) -> list[Array]:
    """Needle points of the outline from each place to the next, both of them among these."""
    runs = runs_along([frame.stretch(place, onward) for place, onward in enumerate(following)], BORDER)
    found = []
    for place, run in enumerate(runs):
        ends = frame.places[place], frame.places[following[place]]
        inner = run[np.minimum(*(np.linalg.norm(run - end, axis=1) for end in ends)) > DROPPED]
        found.append(np.concatenate([ends[0][None], inner, ends[1][None]]))
    return found


def _needed(frame: Frame, line: Array, one: int, other: int) -> bool:
    """Whether a line is long enough, or joins two outlines."""
    return float(np.linalg.norm(line[1] - line[0])) >= SHORTEST_LINE or frame.at[one][0] != frame.at[other][0]


def _connectors(frame: Frame, lines: Array) -> list[Array]:
    """The shortest lines between outlines that no line of the net joins, by way of any others."""
    rings = len(frame.rings)
    group = np.arange(rings)
    if rings > 1 and len(lines):
        nearest = shapely.STRtree(frame.lines).nearest(shapely.points(lines.reshape(-1, 2))).reshape(-1, 2)
        _, group = connected_components(coo_array((np.ones(len(nearest)), nearest.T), (rings, rings)), directed=False)
    return list(_joining(frame, np.asarray(group, np.int64)))


def _lines(region: Polygon, cell: float, angle: float) -> list[Array]:
    """Lines in both directions, clipped to a region, those too short left out."""
    left, top, right, bottom = region.bounds
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    reach = float(np.hypot(right - left, bottom - top)) / 2 + cell
    count = int(np.ceil(reach / cell)) + 1
    found = []
    for turn in (angle, angle + np.pi / 2):
        along = np.array([np.cos(turn), np.sin(turn)])
        off = (np.arange(-count, count) + 0.5) * cell
        foot = middle + off[:, None] * np.array([-along[1], along[0]])
        cuts = shapely.linestrings(np.stack([foot - reach * along, foot + reach * along], axis=1))
        for part in shapely.get_parts(shapely.intersection(cuts, region)):
            for line in shapely.get_parts(part):
                if line.geom_type == "LineString" and line.length >= SHORTEST_LINE:
                    found.append(shapely.get_coordinates(line)[[0, -1]])
    return found


def _needle_points(lines: Sequence[Array], stitch: float) -> list[Array]:
    """Needle points of each line, kept off crossings with the others and with the inner border round."""
    if not lines:
        return []
    ends = np.stack(lines)
    shapes = shapely.linestrings(ends)
    one, other = shapely.STRtree(shapes).query(shapes, predicate="crosses")
    meet = shapely.get_coordinates(shapely.intersection(shapes[one], shapes[other]))
    long = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    along = np.linalg.norm(meet - ends[one, 0], axis=1) if len(one) else np.zeros(0)
    order = np.lexsort((along, one))
    begins = np.searchsorted(one[order], np.arange(len(lines) + 1))
    found = []
    for nth, (begin, end) in enumerate(ends):
        crossed = along[order[begins[nth] : begins[nth + 1]]]
        crossed = np.concatenate([[INSIDE], crossed, [long[nth] - INSIDE]])
        count = max(int(np.ceil(long[nth] / stitch)), 1)
        at = np.linspace(0.0, long[nth], count + 1)[1:-1]
        near = crossed[np.argmin(np.abs(at[:, None] - crossed[None]), axis=1)] if len(at) else at
        shift = np.where(at >= near, near + OFF_CROSSING, near - OFF_CROSSING)
        at = np.where(np.abs(at - near) < OFF_CROSSING, shift, at)
        at = np.concatenate([[0.0], np.sort(at), [long[nth]]])
        keep = np.concatenate([[True], np.diff(at[:-1]) >= DROPPED, [True]]) if len(at) > 2 else np.ones(2, bool)
        keep[1:-1] &= (at[1:-1] >= DROPPED) & (at[1:-1] <= long[nth] - DROPPED)
        found.append(begin + (at[keep] / long[nth])[:, None] * (end - begin))
    return found


def _sewn(
    way: Sequence[Step], frame: Frame, following: Sequence[int], arcs: Sequence[Array], lines: Sequence[Array],
    inner: Sequence[Array | None], roles: tuple[str, str], border: int, start: Place | None,
) -> Strand:  # fmt: skip
    """A round as one strand, from an outline on, border rounds put in where each outline is left for good."""
    way = _turned(way, frame, arcs, start)
    last = {frame.at[step.arc][0]: nth for nth, step in enumerate(way) if step.arc >= 0}
    parts: list[Strand] = []
    for nth, step in enumerate(way):
        if step.arc < 0:
            line = lines[step.line] if step.ahead else lines[step.line][::-1]
            parts.append(strand(line, roles[0]))
            continue
        onward = following[step.arc]
        points = arcs[step.arc]
        place = onward if step.ahead else step.arc
        parts.append(strand(points if step.ahead else points[::-1], roles[1]))
        if last[frame.at[step.arc][0]] == nth and border:
            ring = frame.at[step.arc][0]
            parts.append(_bordered(frame, place, roles[1], border, inner[ring]))
    return tied(_one(parts))


def _turned(way: Sequence[Step], frame: Frame, arcs: Sequence[Array], start: Place | None) -> list[Step]:
    """A round begun with a stretch of the outer outline that has room for a tie, at the one nearest to a place."""
    every = [nth for nth, step in enumerate(way) if step.arc >= 0]
    outer = [nth for nth in every if frame.at[way[nth].arc][0] == 0] or every

    def far(nth: int) -> float:
        arc = arcs[way[nth].arc]
        begin, onward = (arc[0], arc[1]) if way[nth].ahead else (arc[-1], arc[-2])
        cramped = NO_ROOM if np.linalg.norm(onward - begin) < ROOM else 0.0
        return cramped + (0.0 if start is None else float(np.linalg.norm(begin - np.array(start))))

    first = min(outer, key=far)
    return [*way[first:], *way[:first]]


def _bordered(frame: Frame, place: int, role: str, border: int, within: Array | None) -> Strand:
    """Rounds of an outline from one of its places and back: one on it, and before that one a little inside.

    within: the ring inside it, None where there is none: the outline is sewn once more instead.
    """
    spot = frame.places[place]
    inner = _inner(within, spot) if within is not None else np.zeros((0, 2))
    parts = [run_along(inner, BORDER)] if len(inner) else []
    whole = run_along(frame.stretch(place, place), BORDER)
    parts += [whole] * (border - len(parts))
    return _one([strand(one, role) for one in parts])


def _inner_rounds(region: Polygon, frame: Frame) -> list[Array | None]:
    """For each outline the ring a little inside it, None where there is no room for one all round."""
    calm = shapely.simplify(region, DETAIL)  # shrinking takes long by what is far finer than it
    shrunk = shapely.buffer(calm, -INSIDE, quad_segs=4)
    if not isinstance(shrunk, Polygon) or shrunk.is_empty or len(shrunk.interiors) != len(region.interiors):
        return [None] * len(frame.rings)
    rings = [np.asarray(one.coords) for one in (shrunk.exterior, *shrunk.interiors)]
    lines = np.array([shapely.linearrings(one) for one in rings], dtype=object)
    nearest = [int(np.argmin(shapely.hausdorff_distance(lines, outline))) for outline in frame.lines]
    return [rings[one] for one in nearest] if len(set(nearest)) == len(nearest) else [None] * len(nearest)


def _inner(ring: Array, spot: Array) -> Array:
    """From a place of an outline a little inside, once round and back; nothing where that is too far."""
    ring = ring[:-1]
    off = np.linalg.norm(ring - spot, axis=1)
    if off.min() > REACH:
        return np.zeros((0, 2))
    ring = np.roll(ring, -int(np.argmin(off)), axis=0)
    return np.concatenate([spot[None], ring, ring[:1], spot[None]])


def _one(parts: Sequence[Strand]) -> Strand:
    """Parts that follow one another, places they share sewn once."""
    found = [parts[0]]
    for part in parts[1:]:
        same = np.linalg.norm(part.xy[0] - found[-1].xy[-1]) < SAME
        rest = Strand(part.xy[1:], part.role[1:]) if same else part
        found += [rest] if len(rest.xy) else []
    return join(found)
