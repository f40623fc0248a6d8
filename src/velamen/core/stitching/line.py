"""Line stitches: run, double run, bean, back and stem stitch along open lines and outlines."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.geometry.polyline import arc_lengths, line_length
from velamen.core.geometry.region import boundaries
from velamen.core.stitching.border import OVERLAP, offset_outlines
from velamen.core.stitching.run import FEWEST_ROUND, calm_start, over, run_along, start_ring_at
from velamen.core.stitching.strand import Strand, strand, tied

STITCHES = (("run", "run"), ("double", "double run"), ("bean", "bean"), ("back", "back stitch"), ("stem", "stem"))
SHORTEST = 1.0  # mm of a line that is sewn
LEAST_ROUND = 4.0  # mm of a round
FINE = 12  # segments of a quarter of a round's curves
TOGETHER = 0.35  # of the gap between rounds, on either side of a line that they would share
LEAST, MOST = 0.5, 12.0  # mm of a stitch


def offset_line(line: Array, aside: float) -> list[Array]:
    """An open line (n, 2) moved aside by mm, to the right of its course where positive, corners kept sharp."""
    if aside == 0:
        return [line]
    moved = shapely.offset_curve(shapely.LineString(line), aside, join_style="mitre", mitre_limit=2.0)
    return [shapely.get_coordinates(part) for part in shapely.get_parts(moved) if part.length > 1.0]


def sewn_lines(
    region: Polygon, line: Array | None, inset: float, stitch: str, length: float, *, width: float = 0.8,
    times: int = 3, start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """Every boundary of a region, `inset` mm inside it, or an open line `inset` mm beside it, in a line stitch."""
    lines = offset_outlines(region, inset) if line is None else offset_line(line, inset)
    return line_stitch(lines, line is None, stitch, "outline", length, width=width, times=times, start=start)


def rounds(region: Polygon, first: float, gap: float, count: int) -> list[Array]:
    """Closed lines (n, 2) at even distances from a region's boundaries, one outside the other.

    first: mm of the first one, inside where negative. Where the two sides of a slit or a narrow place come
    together, what would fall on one line is left out.
    """
    found: list[Array] = []
    for nth in range(count):
        off = first + nth * gap
        here = shapely.buffer(region, off, quad_segs=FINE)
        apart = np.copysign(TOGETHER * gap, off)
        calm = shapely.buffer(shapely.buffer(here, apart, quad_segs=FINE), -apart, quad_segs=FINE)
        # Corners are to stay as they are: only what is no corner is closed or dropped.
        parts = shapely.get_parts(shapely.symmetric_difference(here, calm))
        large = shapely.union_all(parts[shapely.area(parts) > apart**2])
        here = shapely.union(here, large) if off > 0 else shapely.difference(here, large)
        polygons = [part for part in shapely.get_parts(here) if part.geom_type == "Polygon" and not part.is_empty]
        polygons.sort(key=lambda one: -float(one.area))
        fresh = [ring for part in polygons for ring in boundaries(part) if line_length(ring) > LEAST_ROUND]
        found += _apart(fresh, found, TOGETHER * gap)
    return found


def _apart(fresh: list[Array], known: list[Array], least: float) -> list[Array]:
    """Those of some rings, the first before the others, that come no nearer than `least` mm to known ones."""
    lines = np.array([shapely.LinearRing(ring) for ring in [*known, *fresh]], dtype=object)
    one, other = shapely.STRtree(lines).query(lines[len(known) :], "dwithin", least)
    near: dict[int, list[int]] = {}
    for a, b in zip((one + len(known)).tolist(), other.tolist(), strict=True):
        if b < a:
            near.setdefault(a, []).append(b)
    kept = set(range(len(known)))
    for nth in range(len(known), len(lines)):
        if kept.isdisjoint(near.get(nth, ())):
            kept.add(nth)
    return [ring for nth, ring in enumerate(fresh, len(known)) if nth in kept]


def line_stitch(
    lines: Sequence[Array], closed: bool, stitch: str, role: str, length: float, *, width: float = 0.8,
    times: int = 3, start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """Lines sewn in a stitch, a strand each, tied at both ends.

    closed: whether they are rings; stitch: key of STITCHES; length: longest stitch in mm; width: of a stem
    stitch in mm; times: of a bean, odd; start: where closed lines begin. Raises BadInput out of bounds.
    """
    if not LEAST <= length <= MOST:
        raise BadInput(f"A stitch of {length:g} mm cannot be sewn: use {LEAST:g} to {MOST:g}.")
    sewn = []
    for line in lines:
        if len(line) < 2:
            continue
        whole = line
        if closed:
            ring = calm_start(line) if start is None else start_ring_at(line, np.array(start))
            whole = np.concatenate([ring, ring[:1]])
        elif start is not None and np.linalg.norm(line[-1] - start) < np.linalg.norm(line[0] - start):
            whole = line[::-1]
        points = _stitched(whole, closed, stitch, length, width, times)
        if line_length(points) >= SHORTEST:
            sewn.append(tied(strand(points, role)))
    return sewn


def _stitched(line: Array, closed: bool, stitch: str, length: float, width: float, times: int) -> Array:
    tail = line[-1:]
    if closed:  # a loop too small for its stitches still comes round
        way = line_length(line)
        length, tail = min(length, way / FEWEST_ROUND), _first_part(line, min(OVERLAP, 0.25 * way))
    if stitch == "stem":
        return stem(np.concatenate([line, tail[1:]]), length, width)
    points = run_along(line, length)
    if stitch == "double":
        again = run_along(line, length) if closed else points[::-1]
        return np.concatenate([points, again[1:]])
    if closed:
        points = np.concatenate([points, run_along(tail, length)[1:]])
    if stitch == "bean":
        return over(points, times)
    return back_stitch(points) if stitch == "back" else points


def back_stitch(points: Array) -> Array:
    """Needle points (n, 2) of a line sewn two stitches on and one back, its first stitch three times.

    >>> import numpy as np
    >>> back_stitch(np.array([[0.0, 0], [1, 0], [2, 0], [3, 0]]))[:, 0].tolist()
    [0.0, 1.0, 0.0, 2.0, 1.0, 3.0, 2.0, 3.0]
    """
    if len(points) < 3:
        return points
    step = np.arange(len(points) - 2)
    order = np.concatenate([[0, 1, 0], np.stack([step + 2, step + 1], axis=1).ravel(), [len(points) - 1]])
    return np.asarray(points[order])


def stem(line: Array, length: float, width: float) -> Array:
    """Slanted stitches (n, 2) along an open line, each beginning beside the middle of the one before.

    length: mm along the line that a stitch takes; width: mm from side to side.
    """
    way = arc_lengths(line)
    total = float(way[-1])
    count = max(round(2.0 * total / length) - 1, 1)
    half = total / (count + 1)
    begin = half * np.arange(count)
    at = np.stack([begin, begin + 2.0 * half], axis=1).ravel()
    place, ahead = (np.stack([np.interp(spot, way, line[:, axis]) for axis in (0, 1)], axis=1)
                    for spot in (at, np.minimum(at + 0.3, total)))  # fmt: skip
    behind = np.stack([np.interp(np.maximum(at - 0.3, 0.0), way, line[:, axis]) for axis in (0, 1)], axis=1)
    course = ahead - behind
    course /= np.maximum(np.linalg.norm(course, axis=1, keepdims=True), 1e-9)
    aside = np.stack([-course[:, 1], course[:, 0]], axis=1) * (width / 2.0)
    side = np.where(np.arange(len(at)) % 2 == 0, -1.0, 1.0)[:, None]
    return np.asarray(place + side * aside)


def _first_part(line: Array, far: float) -> Array:
    """The first `far` mm of a line, no more than a quarter of it."""
    way = arc_lengths(line)
    far = min(far, 0.25 * float(way[-1]))
    end = np.array([[np.interp(far, way, line[:, axis]) for axis in (0, 1)]])
    return np.concatenate([line[: int(np.searchsorted(way, far))], end])
