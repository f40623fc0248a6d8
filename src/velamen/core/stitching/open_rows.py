"""Open rows, in one direction or several, as one thread that goes from row to row along the edge alone."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.geometry.interior_paths import EdgeWays, Inside
from velamen.core.geometry.polyline import line_length
from velamen.core.stitching import travel
from velamen.core.stitching.edge_trail import Ends, Step, trails
from velamen.core.stitching.row_thread import RowThread
from velamen.core.stitching.row_travel import INSET
from velamen.core.stitching.run import runs_along
from velamen.core.stitching.strand import DROP, Strand, by_turns, tied

TRIM = 25.0  # mm along the edge, from which a trim is better
BESIDE = 1.6  # spacings, up to which a row's end and the next one are joined straight


def sewn_openly(
    region: Polygon, role: str, threads: Sequence[RowThread], pull: float, start: Place | None
) -> list[Strand]:
    """Rows of several directions as one strand, or several where the way along the edge were longer than a trim."""
    rows = [points for thread in threads for points in _rows_of(thread)]
    if not rows:
        return []
    edge = EdgeWays(region, INSET, np.inf)
    if len(edge.rings) != 1 + len(region.interiors):  # narrow places: the outline itself
        edge = EdgeWays(region, 0.0, np.inf)
    near = max(thread.rows.spacing for thread in threads) * BESIDE
    ends = _ends(rows, edge)
    begin = None if start is None else int(np.argmin(np.hypot(*(_ends_of(rows) - start).T)))
    inside = Inside(region, max(pull, 0.0) + travel.CHORD)
    return [_thread(trail, rows, ends, edge, inside, role, near) for trail in trails(ends, begin, TRIM)]


def _rows_of(thread: RowThread) -> list[Array]:
    """The penetrations (n, 2) of every row, from its left end to its right."""
    count = len(thread.rows.row)
    flat = thread.stitched([np.array([nth]) for nth in range(count)], [True] * count) if count else []
    sizes = np.cumsum([len(one) for one in flat])[:-1]
    return np.split(thread.rows.frame.places(np.concatenate(flat)), sizes) if count else []


def _ends_of(rows: list[Array]) -> Array:
    return np.stack([row[[0, -1]] for row in rows]).reshape(-1, 2)


def _ends(rows: list[Array], edge: EdgeWays) -> Ends:
    """Where the rows end on the outlines."""
    places = shapely.points(_ends_of(rows))
    ring = shapely.STRtree(edge.rings).query_nearest(places, all_matches=False)[1]
    along = shapely.line_locate_point(edge.rings[ring], places)
    length = np.array([line_length(row) for row in rows])
    return Ends(length, ring, along, shapely.length(edge.rings))


def _thread(
    trail: list[Step], rows: list[Array], ends: Ends, edge: EdgeWays, inside: Inside, role: str, near: float
) -> Strand:
    """A trail as one strand."""
    sewn: list[Array] = []
    ways: list[list[Array]] = []  # before each row
    for is_row, steps in groupby(trail, key=lambda step: step.row >= 0):
        found = list(steps)
        if is_row:
            sewn += [rows[step.row] if step.one % 2 == 0 else rows[step.row][::-1] for step in found]
            ways += [[] for _ in range(len(sewn) - len(ways))]
        else:
            ways.append([edge.stretch(int(ends.ring[step.one]), *_between(ends, step), step.up) for step in found])
    ways = ways[: len(sewn)]
    paths = [np.concatenate([one[-1:], *way, other[:1]])
             for one, way, other in zip(sewn, ways[1:], sewn[1:], strict=False)]  # fmt: skip
    return tied(by_turns(sewn, _travel(paths, inside, near), role))


def _between(ends: Ends, step: Step) -> tuple[float, float]:
    one, other = (step.one, step.other) if step.up else (step.other, step.one)
    return float(ends.place[one]), float(ends.place[other])


def _travel(paths: list[Array], inside: Inside, near: float) -> list[Array]:
    """Needle points along each path, its ends left out; none where those lie side by side with nothing between."""
    if not paths:
        return []
    straight = np.stack([path[[0, -1]] for path in paths])
    beside = np.hypot(*(straight[:, 1] - straight[:, 0]).T) <= near
    beside[beside] = inside.holds(straight[beside])
    far = [not close and line_length(path) > DROP for path, close in zip(paths, beside.tolist(), strict=True)]
    runs = iter(
        runs_along([path for path, on in zip(paths, far, strict=True) if on], travel.STITCH, travel.CHORD, DROP)
    )
    return [next(runs)[1:-1] if on else path[:0] for path, on in zip(paths, far, strict=True)]
