"""Bars that hold islands: cloth within an opening that fewer than two bars would reach."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Mask
from velamen.core.geometry.region import Area
from velamen.core.stitching.bar_feet import footed, stands
from velamen.core.stitching.bar_lines import Bar, edges_of
from velamen.core.stitching.bar_rays import beside, crosses, parts_of, rays

HELD_BY, NEAR = 2, 0.3  # bars that hold an island, and mm from its edge within which one ends on it
WAYS, TRIED = 36, 8  # directions, and those of which the feet are tried
SAME_SIDE = 0.8  # cosine between two bars of an island, from which they would lie beside one another
LEAST = 1.0  # mm of a bar; a narrower gap is the edge satin's
CROSSED, CLOSE, ALIKE = 12.0, 30.0, 25.0  # mm that a crossing, a bar close by, and one on the same side cost


def island_bars(opening: Polygon, mine: Area, bars: Sequence[Bar], clear: float) -> list[Bar]:
    """Bars from islands to the next edge, the shortest on different sides, until two hold each of them.

    opening: with a thinned edge; mine: the same as it is, ready to be asked of.
    """
    found: list[Bar] = []
    edges = edges_of(opening)
    for ring in opening.interiors:
        island = Polygon(ring)
        own = edges_of(island)
        others = edges[~_among(edges, own)]
        while (count := len(_ends_on(island, [*bars, *found]))) < HELD_BY:
            taken = _ends_on(island, [*bars, *found])
            lines = [bar.line for bar in (*bars, *found)]
            parts = np.concatenate([parts_of(line) for line in lines]) if lines else np.zeros((0, 2, 2))
            bar = _best_from(island, own, others, parts, taken, clear, mine)
            if bar is None:
                break
            found.append(bar)
            if len(_ends_on(island, [*bars, *found])) <= count:
                break
    return found


def _among(edges: Array, mine: Array) -> Mask:
    """Which sides are those of one ring."""
    keys = {one.tobytes() for one in np.round(mine, 6)}
    keys |= {one[::-1].tobytes() for one in np.round(mine, 6)}
    return np.array([one.tobytes() in keys for one in np.round(edges, 6)], dtype=bool)


def _ends_on(island: Polygon, bars: Sequence[Bar]) -> list[Array]:
    """Ends of bars that stand on an island."""
    ends = [end for bar in bars for end, free in zip((bar.line[0], bar.line[-1]), bar.free, strict=True) if not free]
    if not ends:
        return []
    near = shapely.distance(island, shapely.points(np.array(ends))) < NEAR
    return [end for end, is_near in zip(ends, near.tolist(), strict=True) if is_near]


def _best_from(
    island: Polygon, sides: Array, others: Array, parts: Array, taken: Sequence[Array], clear: float, opening: Area
) -> Bar | None:  # fmt: skip
    """The bar from an island that is short, keeps clear of others and stands across from what holds it already."""
    turns = 2.0 * np.pi * np.arange(WAYS) / WAYS
    ways = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    middle = shapely.get_coordinates(shapely.point_on_surface(island))[0]
    own, far = rays(middle, ways, sides), rays(middle, ways, others)
    stop = far.min(axis=1, initial=np.inf)
    leave = np.where(own < stop[:, None], own, -np.inf).max(axis=1, initial=-np.inf)
    found: list[tuple[float, Bar]] = []
    for way, begin, end in zip(ways, leave.tolist(), stop.tolist(), strict=True):
        alike = max((float(way @ (one - middle)) / max(float(np.linalg.norm(one - middle)), 1e-9) for one in taken),
                    default=-1.0)  # fmt: skip
        if not np.isfinite(begin) or not np.isfinite(end) or end - begin < LEAST or alike > SAME_SIDE:
            continue
        line = np.array([middle + begin * way, middle + end * way])
        over = crosses(line, parts)
        cost = end - begin + CROSSED * over + CLOSE * beside(line, parts, clear) + ALIKE * max(alike, 0.0)
        found.append((cost, Bar(line, over=over)))
    found.sort(key=lambda one: one[0])
    standing = [footed(bar, opening) for _, bar in found[:TRIED]]
    return next((bar for bar in standing if stands(bar, opening)), standing[0] if standing else None)
