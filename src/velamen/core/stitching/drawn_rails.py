"""A column between two drawn rails: rows from one to the other, matched by their share of the way."""

from __future__ import annotations

import numpy as np

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths, line_length
from velamen.core.geometry.rails import Rails
from velamen.core.stitching.border import EDGE_INSET, UNDERLAY, UNDERLAY_RUN, UNDERLAY_ZIGZAG
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.lanes import middle
from velamen.core.stitching.run import run_along
from velamen.core.stitching.satin import satin
from velamen.core.stitching.split import split
from velamen.core.stitching.strand import Strand, join, strand, tied

STATION = 0.1  # mm between matched places of the longer rail
SHORT = 0.6  # mm that underlay keeps from the ends
LEAST = 1.0  # mm of a rail


def between(rails: tuple[Array, Array], pull: float) -> Rails | None:
    """Two lines (n, 2) as matched rails, `pull` mm apart more on either side; None where one is too short.

    The second runs the way that keeps rows from crossing.
    """
    one, other = rails
    if min(line_length(one), line_length(other)) < LEAST:
        return None
    straight = np.linalg.norm(one[0] - other[0]) + np.linalg.norm(one[-1] - other[-1])
    crossed = np.linalg.norm(one[0] - other[-1]) + np.linalg.norm(one[-1] - other[0])
    other = other[::-1] if crossed < straight else other
    count = max(int(max(line_length(one), line_length(other)) / STATION), 2)
    outer, inner = (_shared_out(line, count) for line in (one, other))
    along = outer - inner
    wide = np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    outer, inner = outer + pull * along / wide, inner - pull * along / wide
    ways = arc_lengths(outer), arc_lengths(inner)
    advance = np.concatenate([[0.0], np.cumsum(np.maximum(np.diff(ways[0]), np.diff(ways[1])))])
    return Rails(outer, inner, *ways, advance, closed=False)


def _shared_out(line: Array, count: int) -> Array:
    """Places (count, 2) evenly along a line."""
    way = arc_lengths(line)
    at = np.linspace(0.0, way[-1], count)
    return np.stack([np.interp(at, way, line[:, axis]) for axis in (0, 1)], axis=1)


def drawn_column(rails: tuple[Array, Array], sewing: Sewing) -> list[Strand]:
    """A column between two rails as one strand: underlay out along it and back, then satin out."""
    lane = between(rails, sewing.pull)
    if lane is None:
        return []
    runs, zigzags = UNDERLAY[sewing.underlay]
    parts = [strand(run_along(line, UNDERLAY_RUN), "underlay") for line in _runs(lane, runs)]
    if zigzags and lane.length > UNDERLAY_ZIGZAG:
        for back in range(zigzags):
            points = satin(lane, UNDERLAY_ZIGZAG, start=SHORT, end=lane.length - SHORT)
            parts.append(strand(points[::-1] if (back + len(parts)) % 2 else points, "underlay"))
    points = satin(lane, sewing.spacing, start=0.0, end=lane.length)
    points = points[::-1] if len(parts) % 2 else points
    parts.append(strand(split(points, sewing.split, sewing.longest, sewing.lines), sewing.role))
    return [tied(join(parts))]


def _runs(lane: Rails, count: int) -> list[Array]:
    """Lines of underlay, each begun where the one before ends: the middle for one or three, the edges for two."""
    short = min(SHORT, 0.25 * lane.length)
    kept = (lane.advance >= short) & (lane.advance <= lane.length - short)
    outer, inner = lane.outer[kept], lane.inner[kept]
    if len(outer) < 2:
        return []
    wide = np.maximum(np.linalg.norm(outer - inner, axis=1), 1e-9)
    share = np.minimum(EDGE_INSET / wide, 0.4)[:, None]
    edges = [(1 - share) * outer + share * inner, share * outer + (1 - share) * inner]
    centre = middle(lane)[kept]
    lines = {0: [], 1: [centre], 2: edges, 3: [centre, *edges]}[min(count, 3)]
    return [line if nth % 2 == 0 else line[::-1] for nth, line in enumerate(lines)]
