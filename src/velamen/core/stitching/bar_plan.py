"""The bars of an opening: those along guides or at an angle, more where they leave it free, and cross bars over long
ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area, ready
from velamen.core.stitching.bar_feet import FOOT, footed, stands
from velamen.core.stitching.bar_islands import island_bars
from velamen.core.stitching.bar_lines import CLEAR, SHORTEST, STATIONS, Bar, apart, edges_of, guided
from velamen.core.stitching.bar_rays import beside, crosses, distance, parts_of, rays

LEAST = 0.5  # mm of a bar over the opening
THINNED, COARSE = 0.1, 0.5  # mm that an edge may move for the sake of speed, and where free places are looked for
HELD, WIDER = 10.4, 1.3  # mm across the widest place without a bar, or that share of the spacing
GRID = 1.5  # mm between places that are looked at for it
ADDED, DIRECTIONS, TRIED = 40, 12, 6  # bars added at most, directions for each, and those whose feet are tried
LOST, LONG_GRAZE = 1.6, 6.0  # mm from the edge within which a bar is lost, and of one from which it can be
SAGS = 25.0  # mm of a bar, from which one across it is asked for
Line = Array  # (n, 2) mm


@dataclass(frozen=True)
class Wanted:
    """How bars are to lie. Lengths in mm, angle in rad."""

    spacing: float
    count: int  # beside one another, 0 for what the spacing gives
    angle: float  # of bars without a guide; off square to the guide with one
    width: float
    crossed: bool = False  # whether cross bars hold those that would sag


def plan_bars(opening: Polygon, guides: Sequence[Array], wanted: Wanted) -> list[Bar]:
    """Bars of one opening, feet past its edge; those that lie over others come last."""
    thin, mine = _thinned(opening, THINNED), ready(opening)
    reaching = [one for one in guides if shapely.intersects(mine, shapely.LineString(one))]
    if reaching:
        bars = guided(thin, reaching, wanted.spacing, wanted.count, wanted.width, wanted.angle)
    else:
        bars = [Bar(line) for line in apart(_level(thin, wanted), CLEAR + wanted.width)]
    edge = thin.boundary
    bars = [footed(bar, mine) for bar in bars if not _grazes(bar.line, edge)]
    bars = [bar for bar in bars if wanted.count or stands(bar, mine)]  # others take the place of those without cloth
    if wanted.crossed:
        long = [bar.line for bar in bars]
        bars += [footed(Bar(line, over=True), mine) for line in _crossing(thin, long, wanted.spacing)]
    bars += island_bars(thin, mine, bars, 2 * CLEAR)
    if not wanted.count:
        bars += _added(thin, mine, bars, max(HELD, WIDER * wanted.spacing) / 2.0, wanted.width)
    spans = shapely.length(shapely.intersection([shapely.LineString(bar.line) for bar in bars], mine))
    return [bar for bar, span in zip(bars, spans, strict=True) if span > LEAST]


def _grazes(line: Line, edge: Area) -> bool:
    """Whether a bar lies along the edge, under whose satin it would be lost."""
    if float(np.linalg.norm(line[-1] - line[0])) < LONG_GRAZE:
        return False
    spots = line[0] + np.linspace(0.2, 0.8, 7)[:, None] * (line[-1] - line[0])
    return float(shapely.distance(edge, shapely.points(spots)).max()) < LOST


def _thinned(opening: Polygon, by: float) -> Polygon:
    thin = shapely.simplify(opening, by)
    return thin if isinstance(thin, Polygon) and thin.is_valid and not thin.is_empty else opening


def _level(opening: Polygon, wanted: Wanted) -> list[Line]:
    """Parallel bars at an angle."""
    cos, sin = np.cos(wanted.angle), np.sin(wanted.angle)
    turn = np.array([[cos, -sin], [sin, cos]])  # bars level
    flat = shapely.transform(opening, lambda xy: xy @ turn)
    left, low, right, high = flat.bounds
    number = min(wanted.count or max(round((high - low) / wanted.spacing), 1), STATIONS)
    level = low + (np.arange(number) + 0.5) * (high - low) / number
    ends = np.stack([np.full(number, left - 1), level, np.full(number, right + 1), level], axis=1)
    parts = shapely.get_parts(shapely.intersection(shapely.linestrings(ends.reshape(-1, 2, 2)), flat))
    return [shapely.get_coordinates(one)[[0, -1]] @ turn.T for one in parts if one.length > SHORTEST]


def _crossing(opening: Polygon, lines: Sequence[Line], spacing: float) -> list[Line]:
    """Cross bars through those that would sag, at even shares of them, run on to the edge on both sides."""
    edges, found = edges_of(opening), []
    for chain in _chains(opening, lines, spacing):
        longest = max(float(np.linalg.norm(line[1] - line[0])) for line in chain) - 2 * FOOT
        number = int(np.ceil(longest / SAGS)) - 1
        for share in (np.arange(number) + 1) / (number + 1):
            middle = np.array([line[0] + share * (line[1] - line[0]) for line in chain])
            side = np.array([[-1.0, 1.0] @ line for line in (chain[0], chain[-1])])
            ways = np.stack([side[:, 1], -side[:, 0]], axis=1)
            if len(middle) > 1:
                steps = middle[[1, -1]] - middle[[0, -2]]
                ways = steps
            begin, end = _to_edge(middle[0], -ways[0], edges), _to_edge(middle[-1], ways[1], edges)
            if begin is not None and end is not None:
                found.append(np.concatenate([[begin], middle, [end]]))
    return found


def _chains(opening: Polygon, lines: Sequence[Line], spacing: float) -> list[list[Line]]:
    """Bars over SAGS long beside one another, feet left out, all led the same way."""
    long = [line for line in lines if np.linalg.norm(line[1] - line[0]) > SAGS + 2 * FOOT]
    chains: list[list[Line]] = []
    for line in long:
        last = chains[-1][-1] if chains else None
        if last is not None and (line[1] - line[0]) @ (last[1] - last[0]) < 0:
            line = line[::-1]
        step = None if last is None else np.array([last.mean(axis=0), line.mean(axis=0)])
        near = step is not None and np.linalg.norm(step[1] - step[0]) < 3.0 * spacing
        if near and shapely.covers(opening, shapely.LineString(step)):
            chains[-1].append(line)
        else:
            chains.append([line])
    return chains


def _to_edge(place: Array, way: Array, edges: Array) -> Array | None:
    """Where a ray from a place meets the edge."""
    far = rays(place, way[None] / max(float(np.linalg.norm(way)), 1e-9), edges)[0].min(initial=np.inf)
    return place + far * way / np.linalg.norm(way) if np.isfinite(far) else None


def _added(opening: Polygon, mine: Area, bars: Sequence[Bar], radius: float, width: float) -> list[Bar]:
    """Bars through the widest places that are free, one after another, from the edge to the next bar or across it."""
    coarse = _thinned(opening, COARSE)
    edges, places = edges_of(coarse), _places(coarse, radius)
    if not len(places):
        return []
    parts = np.concatenate([parts_of(bar.line) for bar in bars]) if bars else np.zeros((0, 2, 2))
    free = np.minimum(distance(places, edges), distance(places, parts) - width / 2)
    edges, found = edges_of(opening), list[Bar]()
    for _ in range(ADDED):
        widest = int(np.argmax(free))
        if free[widest] <= radius:
            break
        bar = _best_through(places[widest], edges, parts, mine)
        if bar is None:
            free[widest] = 0.0
            continue
        found.append(bar)
        parts = np.concatenate([parts, parts_of(bar.line)])
        free = np.minimum(free, distance(places, parts_of(bar.line)) - width / 2)
    return found


def _places(opening: Polygon, radius: float) -> Array:
    left, top, right, bottom = opening.bounds
    grid = max(GRID, float(np.sqrt((right - left) * (bottom - top) / 4000.0)))
    x, y = np.meshgrid(np.arange(left, right, grid), np.arange(top, bottom, grid))
    inner = shapely.buffer(opening, -radius, quad_segs=4)
    kept = shapely.contains_xy(inner, x.ravel(), y.ravel()) if not inner.is_empty else np.zeros(x.size, dtype=bool)
    return np.stack([x.ravel()[kept], y.ravel()[kept]], axis=1)


def _best_through(place: Array, edges: Array, parts: Array, opening: Area) -> Bar | None:
    """The bar through a place that is shortest and meets others squarely, one foot in the cloth at least."""
    turns = np.pi * np.arange(DIRECTIONS) / DIRECTIONS
    ways = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    ahead, behind = ((rays(place, side, edges), rays(place, side, parts)) for side in (ways, -ways))
    found: list[tuple[float, Bar]] = []
    for nth, way in enumerate(ways):
        for on, back in ((False, False), (True, False), (False, True)):  # a joint ahead, one behind
            ends, cost = [], 0.0
            for (edge, bar), joint, sign in ((ahead, on, 1.0), (behind, back, -1.0)):
                stop, crossed = float(edge[nth].min(initial=np.inf)), bar[nth]
                crossed = crossed[crossed < stop]
                if joint and len(crossed):
                    stop = float(crossed.min())
                    which = int(np.argmin(bar[nth]))
                    cost += 6.0 + _glancing(way, parts[which]) + _at_foot(place + sign * stop * way, parts[which])
                elif joint:
                    cost = np.inf
                else:
                    cost += 9.0 * len(crossed)
                ends.append(place + sign * stop * way)
            line = np.array(ends[::-1])
            length = float(np.linalg.norm(line[1] - line[0]))
            cost += length + (40.0 if length > SAGS else 0.0)
            if np.isfinite(cost):
                cost += 30.0 * beside(line, parts, 2 * CLEAR)
                over = bool(on or back or crosses(line, parts))
                found.append((cost, Bar(line, over=over, free=(back, on))))
    found.sort(key=lambda one: one[0])
    standing = [footed(bar, opening) for _, bar in found[:TRIED]]
    return next((bar for bar in standing if stands(bar, opening)), standing[0] if standing else None)


def _glancing(way: Array, part: Array) -> float:
    """Cost of a joint that is not square."""
    side = part[1] - part[0]
    return 12.0 * abs(float(way @ side)) / max(float(np.linalg.norm(side)), 1e-9)


def _at_foot(place: Array, part: Array) -> float:
    """Cost of a joint close to a foot."""
    return 20.0 if float(np.linalg.norm(part - place, axis=1).min()) < 2 * CLEAR else 0.0
