"""Borders round a region: every boundary sewn as a run, a zigzag or a satin with underlay."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.geometry.corner_rows import Corner, tip_area
from velamen.core.geometry.corners import corners_of, pointed, with_corners
from velamen.core.geometry.outline import OutlineSamples, Surroundings, sample_outline, surroundings
from velamen.core.geometry.rails import Rails, match_rails, rail
from velamen.core.geometry.region import Area, boundaries, clean_ring, ready
from velamen.core.memo import FORGET, kept
from velamen.core.stitching.edging import bitten, overedge
from velamen.core.stitching.run import calm_start, over, run_along, run_round, start_ring_at
from velamen.core.stitching.satin import satin, straightest
from velamen.core.stitching.split import split
from velamen.core.stitching.strand import Strand, join, strand, tied
from velamen.core.stitching.stretch import LONGEST, SHORTEST, satin_stretch, shown

EDGE_INSET = 0.4  # mm of an edge run from its rail
LINE_STEP = 0.3  # mm between the points of a line drawn between rails
UNDERLAY_RUN = 2.5  # mm
UNDERLAY_ZIGZAG = 2.0  # mm between penetrations on one rail
CROWDED = 1.0  # mm below which penetrations of an underlay zigzag are pulled back
UNDERLAY = {  # runs and zigzags of each recipe
    "none": (0, 0), "centre_run": (1, 0), "edge_run": (2, 0), "centre_edge": (3, 0), "zigzag": (0, 1),
    "edge_run_zigzag": (2, 1), "double_zigzag": (0, 2),
}  # fmt: skip
NEAR = 0.05  # mm off the region that still counts as inside
OVERLAP = 1.5  # mm sewn past the start; the trade takes 1 to 2


@dataclass(frozen=True)
class Boundaries:
    """A region's boundaries, outer first, sampled, with what surrounds each."""

    rings: tuple[Array, ...]
    outlines: tuple[OutlineSamples, ...]
    around: Surroundings

    @cached_property
    def corners(self) -> list[list[Corner]]:
        """The corners of each."""
        return [corners_of(outline, ring) for outline, ring in zip(self.outlines, self.rings, strict=True)]


@lru_cache(maxsize=256)
def sampled(region: Polygon) -> Boundaries:
    """Boundaries of a region, sampled; kept, since several passes ask for the same."""
    rings = boundaries(region)
    outlines = [sample_outline(ring) for ring in rings]
    return Boundaries(tuple(rings), tuple(outlines), surroundings(outlines))


FORGET.append(sampled.cache_clear)


@kept(256)
def run_borders(
    region: Polygon, role: str, length: float, inset: float = 0.0, times: int = 1, hidden: Area | None = None,
    start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """A run on (or `inset` mm inside, outside where negative) every boundary, one strand each.

    times: how often each stitch is sewn, an odd number; hidden: where none is sewn, so that it has ends;
    start: where closed ones begin, nearest to it.
    """
    sewn = []
    for line in offset_outlines(region, inset):
        parts = seen_parts(line, hidden)
        if parts is None:
            ring = calm_start(line) if start is None else start_ring_at(line, np.array(start))
            sewn.append(strand(run_round(ring, length, OVERLAP), role))
        else:
            sewn += [strand(run_along(part, length), role) for part in parts]
    return [tied(replace(one, xy=over(one.xy, times), role=over(one.role, times))) for one in sewn]


def seen_parts(ring: Array, hidden: Area | None) -> list[Array] | None:
    """The stretches of a closed ring (n, 2) that are not hidden; None for all of it, closed."""
    if hidden is None or not shapely.intersects(hidden, shapely.LinearRing(ring)):
        return None
    left = shapely.line_merge(shapely.difference(shapely.LinearRing(ring), hidden))
    return [shapely.get_coordinates(part) for part in shapely.get_parts(left) if part.length > SHORTEST]


def offset_outlines(region: Polygon, inset: float) -> list[Array]:
    """Every boundary of a region (n, 2), or lines `inset` mm inside it, outside where negative."""
    edge = sampled(region)
    if inset == 0:
        return [ring for ring in edge.rings if len(ring) >= 3]
    lines = []
    for outline in edge.outlines:
        line = clean_ring(rail(outline, edge.around, abs(inset), outward=inset < 0)[0])
        if inset > 0:  # past a tip thinner than a needle the rail may lie on its far side
            line = line[shapely.contains_xy(ready(shapely.buffer(region, NEAR)), line[:, 0], line[:, 1])]
        if len(line) >= 3:
            lines.append(line)
    return lines


@kept(256)
def zigzag_borders(
    region: Polygon, role: str, outside: float, inside: float, spacing: float, corner: str = "rounded",
    start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """A zigzag along every boundary, its rails `outside` mm off and `inside` mm on the cloth."""
    strands = []
    for rails in border_rails(region, outside, inside, 0.0, corner):
        points = satin(rails, spacing, OVERLAP, _start(rails, start))
        strands.append(tied(strand(points, role)))
    return strands


@dataclass(frozen=True)
class SatinSewing:
    """How a satin border is sewn. Lengths in mm."""

    outside: float  # finished, off the region
    inside: float  # finished, on it
    spacing: float  # between neighbouring penetrations on one rail
    pull: float = 0.0  # added on either side
    underlay: str = "none"  # as in materials.records.UNDERLAYS
    corner: str = "rounded"  # key of geometry.corners.CORNERS


@kept(256)
def satin_borders(
    region: Polygon, role: str, sewing: SatinSewing, start: Place | None = None, hidden: Area | None = None
) -> list[Strand]:
    """A satin with its underlay along every boundary, tied on its middle line.

    start: near which it begins; hidden: where the edge needs no cover.
    """
    strands = []
    outside, inside = sewing.outside + sewing.pull, sewing.inside + sewing.pull
    every = border_rails(region, outside, inside, sewing.pull, sewing.corner)
    for rails in [part for one in every for part in shown(one, hidden, outside, inside)]:
        if not rails.closed:
            runs, zigzags, inset = _recipe(sewing.underlay, outside + inside)
            strands.append(satin_stretch(rails, role, sewing.spacing, runs, [(inset, UNDERLAY_ZIGZAG)] * zigzags))
            continue
        begin = _start(rails, start)
        points = split(satin(rails, sewing.spacing, OVERLAP, begin), "limit", LONGEST)
        under = _underlay(rails, begin, sewing.underlay, outside + inside)
        middle = _line(rails, 0.5, begin, 0.0, 2.0)
        back = _line(rails, 0.5, begin + OVERLAP, 0.0, -2.0)
        sewn = join([*under, strand(points, role)])
        strands.append(tied(sewn, first=middle, last=back))
    return strands


@kept(256)
def edge_borders(
    region: Polygon, role: str, stitch: str, outside: float, inside: float, step: float, corner: str = "rounded",
    start: tuple[float, float] | None = None, hidden: Area | None = None,
) -> list[Strand]:  # fmt: skip
    """An E-stitch, blanket or overedge along every boundary, bites from the outer rail to the inner one.

    stitch: "estitch", "blanket" or "overedge"; step: mm between bites; hidden: where none is sewn.
    """
    strands = []
    bites = stitch != "overedge"
    how = ("mitred" if bites else "rounded") if corner == "auto" else corner
    every = border_rails(region, outside, inside, 0.0, how, bites)
    for rails in [part for one in every for part in shown(one, hidden, outside, inside)]:
        begin = _start(rails, start) if rails.closed else 0.0
        if stitch == "overedge":
            points = overedge(rails, step, begin)
        else:
            points = bitten(rails, step, outside + inside, begin)
        strands.append(tied(strand(points, role)))
    return strands


def _start(rails: Rails, start: tuple[float, float] | None) -> float:
    """The advance at which a border begins: nearest to a place, or on its calmest stretch."""
    if start is None:
        return straightest(rails)
    middle = (rails.outer + rails.inner) / 2
    return float(rails.advance[int(np.argmin(np.linalg.norm(middle - start, axis=1)))])


def border_rails(
    region: Polygon, outside: float, inside: float, pull: float = 0.0, corner: str = "rounded", at_edge: bool = False
) -> list[Rails]:
    """Matched rails along every boundary of a region, its corners treated.

    at_edge: for an edge run, which turns round inner corners on the spot.
    """
    return [rails for rails, _ in _cornered(region, outside, inside, pull, corner, at_edge)]


def corners_left(region: Polygon, outside: float, inside: float, pull: float, corner: str) -> list[Place]:
    """Places of the corners of a border that are left round although others of its are not; arguments as above."""
    left = [one for _, some in _cornered(region, outside, inside, pull, corner, False) for one in some]
    every = sum(map(len, sampled(region).corners))
    return [(float(one.place[0]), float(one.place[1])) for one in left] if 0 < len(left) < every else []


@kept(64)
def tips_beyond(region: Area, outside: float) -> list[Area]:
    """The points to which the corners of a border come that lies `outside` mm off a region."""
    parts = [one for one in shapely.get_parts(region) if one.geom_type == "Polygon"]
    corners = [one for part in parts for some in sampled(part).corners for one in some]
    return [tip_area(one, outside) for one in corners if one.turn > 0 and pointed(one, outside)]


@kept(64)
def _cornered(
    region: Polygon, outside: float, inside: float, pull: float, corner: str, at_edge: bool
) -> list[tuple[Rails, list[Corner]]]:
    edge, sides = sampled(region), (outside, inside)
    every: list[tuple[Rails, list[Corner]]] = []
    for outline, corners in zip(edge.outlines, edge.corners, strict=True):
        rails = match_rails(outline, edge.around, *sides, pull)
        found = [one for one in corners if one.turn > 0 or not at_edge]
        every.append(with_corners(rails, outline, edge.around, found, sides, pull, corner))
    return every


def _recipe(kind: str, width: float) -> tuple[list[float], int, float]:
    """Shares at which runs of an underlay lie, the number of its zigzags, and their inset as a share."""
    inset = min(EDGE_INSET / width, 0.4)
    runs, zigzags = UNDERLAY[kind]
    return {0: [], 1: [0.5], 2: [1.0 - inset, inset], 3: [1.0 - inset, 0.5, inset]}[runs], zigzags, inset


def _underlay(rails: Rails, start: float, kind: str, width: float) -> list[Strand]:
    shares, zigzags, inset = _recipe(kind, width)
    lines = [_line(rails, share, start, 0.0, rails.length) for share in shares]
    sewn = [run_round(clean_ring(line), UNDERLAY_RUN, 0.0) for line in lines]
    sewn += [_open_zigzag(rails, start + 0.5 * nth * UNDERLAY_ZIGZAG, inset) for nth in range(zigzags)]
    return [strand(points, "underlay") for points in sewn]


def _open_zigzag(rails: Rails, start: float, inset: float) -> Array:
    """A zigzag once round between lines set in by a share of the width, thinned where it would crowd."""
    narrow = replace(
        rails,
        outer=(1.0 - inset) * rails.outer + inset * rails.inner,
        inner=inset * rails.outer + (1.0 - inset) * rails.inner,
    )
    return satin(narrow, UNDERLAY_ZIGZAG, 0.0, start, CROWDED)


def _line(rails: Rails, share: float, start: float, begin: float, end: float) -> Array:
    """Points between the rails at a share of the way in, from one advance to another."""
    count = max(int(abs(end - begin) / LINE_STEP), 2)
    outer, inner, _, _ = rails.at(start + np.linspace(begin, end, count + 1))
    return (1.0 - share) * outer + share * inner
