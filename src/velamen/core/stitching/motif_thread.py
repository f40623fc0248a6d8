"""The one thread through motifs: copies in turn, and the ways from row to row inside the area or on its edge."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import Polygon

from velamen.core.arrays import Array, Mask, Place
from velamen.core.geometry.clipped import clipped
from velamen.core.geometry.interior_paths import EdgeWays, Ways
from velamen.core.geometry.polyline import drawn, line_length
from velamen.core.geometry.region import grown, ready
from velamen.core.stitching import travel
from velamen.core.stitching.kept_inside import kept_inside
from velamen.core.stitching.motif_copies import Row
from velamen.core.stitching.motif_tour import tours
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import run_along, runs_along
from velamen.core.stitching.strand import DROP, Strand, join, strand, tied

SAME = 1e-6  # mm within which two places are one
HAIR = 0.01  # mm that a whole motif may lie over an edge
IN_CORNER = 0.45  # mm from a corner of the edge within which a cut motif goes into it
INSET = 0.2  # mm inside the edge that ways along it lie
FOLLOWED = 1.6  # motif sizes of edge that a cut motif follows before its row counts as interrupted
LEAST_PIECE = 1.0  # mm of a cut motif that is worth sewing


@dataclass(frozen=True)
class Sewing:
    """How motifs are sewn. role: of their passes; stitch: longest, mm; times: how often each is gone along."""

    role: str
    stitch: float
    times: int = 1


@dataclass(frozen=True)
class Chain:
    """Copies that lead on to one another. lines: (n, 2) each, mm; links: (m, 2) places between each and the next,
    where these are not joined straight."""

    lines: tuple[Array, ...]
    links: tuple[Array, ...] = ()

    @property
    def ends(self) -> Array:
        """(2, 2) where it begins and ends."""
        return np.stack([self.lines[0][0], self.lines[-1][-1]])

    def back(self) -> Chain:
        return Chain(tuple(line[::-1] for line in self.lines[::-1]), tuple(link[::-1] for link in self.links[::-1]))


def whole_loops(rows: Sequence[Row], region: Polygon) -> list[Array]:
    """The closed copies (n, 2) that lie wholly inside a region."""
    lines = [line for row in rows for line in row.lines]
    kept = _inside(lines, ready(grown(region, HAIR, 2))) if lines else np.zeros(0, bool)
    return [lines[nth] for nth in np.flatnonzero(kept).tolist()]


def cut_loops(rows: Sequence[Row], region: Polygon, size: float) -> list[Array]:
    """Closed copies (n, 2) cut at the edge of a region: closed along it, or gone along there and back."""
    lines = [line for row in rows for line in row.lines]
    if not lines:
        return []
    edge = EdgeWays(region, 0.0, np.inf)
    whole = _inside(lines, ready(grown(region, HAIR, 2)))
    touched = shapely.intersects(ready(region), drawn(lines))
    found = [lines[nth] for nth in np.flatnonzero(whole).tolist()]
    for nth in np.flatnonzero(touched & ~whole).tolist():
        found += _closed(lines[nth], region, edge, FOLLOWED * size)
    return found


def _closed(line: Array, region: Polygon, edge: EdgeWays, longest: float) -> list[Array]:
    """Closed lines out of the pieces of one inside a region."""
    outside = np.flatnonzero(~shapely.contains_xy(region, line[:-1, 0], line[:-1, 1]))
    if len(outside):  # begun outside, so that no piece is parted by where it began
        line = np.concatenate([line[outside[0] : -1], line[: outside[0] + 1]])
    groups: list[list[Array]] = []
    for piece in clipped(line, region):
        way = edge.between(groups[-1][-1][-1], piece[0]) if groups else None
        if way is not None and line_length(way) <= longest:
            _lead_on(groups[-1], way, piece)
        elif line_length(piece) >= LEAST_PIECE:
            groups.append([piece])
    found = []
    for group in groups:
        whole = np.concatenate(group)
        back = edge.between(whole[-1], whole[0])
        short = back is not None and line_length(back) <= longest
        if back is not None and short:
            if len(back) > 2 and np.linalg.norm(back[-2] - whole[0]) < IN_CORNER:
                whole = whole[1:]
            parts = [whole]
            _lead_on(parts, back, whole[:1])
            found.append(np.concatenate(parts))
        else:
            found.append(np.concatenate([whole, whole[-2::-1]]))
    return found


def _lead_on(parts: list[Array], way: Array, piece: Array) -> None:
    """Adds a way along the edge and the piece it leads to; where a corner of the edge lies beside an end, that end
    goes into the corner, since no stitch is so short."""
    inner = way[1:-1]
    if len(inner) and len(parts[-1]) > 1 and np.linalg.norm(inner[0] - parts[-1][-1]) < IN_CORNER:
        parts[-1] = parts[-1][:-1]
    if len(inner) and len(piece) > 1 and np.linalg.norm(inner[-1] - piece[0]) < IN_CORNER:
        piece = piece[1:]
    parts += [inner, piece] if len(inner) else [piece]


def whole_chains(rows: Sequence[Row], region: Polygon) -> list[Chain]:
    """The copies that lie wholly inside a region, as chains with links that lie inside as well."""
    room = ready(grown(region, HAIR, 2))
    found: list[Chain] = []
    for row in rows:
        kept = _inside(row.lines, room)
        number = np.flatnonzero(kept)
        lines = [row.lines[nth] for nth in number.tolist()]
        if not lines:
            continue
        links = np.array([[one[-1], other[0]] for one, other in pairwise(lines)]).reshape(-1, 2, 2)
        on = (np.diff(number) == 1) & shapely.covers(room, shapely.linestrings(links))
        found += _split(lines, on, row.closed and bool(kept.all()))
    return found


def kept_within(chains: Sequence[Chain], region: Polygon, room: float) -> list[Chain]:
    """Chains without the copies that reach over `room` mm outside a region, parted where a link would."""
    area = ready(grown(region, room, 2))
    found: list[Chain] = []
    for one in chains:
        kept = shapely.covers(area, drawn(one.lines)).tolist()
        steps = [np.concatenate([line[-1:], link, onward[:1]]) for (line, onward), link in zip(
            pairwise(one.lines), one.links or [np.zeros((0, 2))] * (len(one.lines) - 1), strict=True)]  # fmt: skip
        led = shapely.covers(area, drawn(steps)).tolist() if steps else []
        bounds = {0, len(kept), *(nth + part for nth, on in enumerate(kept) if not on for part in (0, 1)),
                  *(nth + 1 for nth, on in enumerate(led) if not on)}  # fmt: skip
        found += [Chain(one.lines[low:high], one.links[low : high - 1]) for low, high in pairwise(sorted(bounds))
                  if kept[low]]  # fmt: skip
    return found


def _inside(lines: Sequence[Array], room: Polygon) -> Mask:
    """(k,) which lines lie inside an area."""
    spots = np.concatenate(lines)
    begin = np.cumsum([0, *(len(line) for line in lines)][:-1])
    kept = np.logical_and.reduceat(shapely.contains_xy(room, spots[:, 0], spots[:, 1]), begin)
    near = np.flatnonzero(kept)
    if len(near):
        kept[near] = shapely.covers(room, drawn([lines[nth] for nth in near.tolist()]))
    return np.asarray(kept)


def _split(lines: list[Array], on: Mask, round_: bool) -> list[Chain]:
    """Chains out of lines, parted where one does not lead on to the next. round_: the last leads on to the first."""
    bounds = [0, *(np.flatnonzero(~on) + 1).tolist(), len(lines)]
    groups = [lines[low:high] for low, high in pairwise(bounds)]
    if round_ and len(groups) == 1:
        groups[0] = [*groups[0], lines[0][:1]]
    return [Chain(tuple(group)) for group in groups]


def cut_chains(rows: Sequence[Row], region: Polygon, size: float) -> list[Chain]:
    """Copies cut at the edge of a region: where one leaves it, the thread follows the edge to where it comes back."""
    room = ready(region)
    edge = EdgeWays(region, 0.0, np.inf)
    found: list[Chain] = []
    for row in rows:
        touched = shapely.intersects(room, drawn(row.lines))
        number = np.flatnonzero(touched)
        if not len(number):
            continue
        lines = [row.lines[nth] for nth in range(int(number[0]), int(number[-1]) + 1)]
        if row.closed and touched.all():
            lines.append(row.lines[0][:1])
        found += _cut(np.concatenate(lines), region, edge, FOLLOWED * size)
    return found


def _cut(line: Array, region: Polygon, edge: EdgeWays, longest: float) -> list[Chain]:
    """Chains of the pieces of a line inside a region."""
    pieces = clipped(line, region)
    found: list[list[Array]] = []
    for piece in pieces:
        way = edge.between(found[-1][-1][-1], piece[0]) if found else None
        if way is not None and line_length(way) <= longest:
            _lead_on(found[-1], way, piece)
        elif line_length(piece) >= LEAST_PIECE:
            found.append([piece])
    return [Chain((np.concatenate(each),)) for each in found]


def sewn_on(
    chains: Sequence[Chain], region: Polygon, sewing: Sewing, near: float, start: Place | None
) -> list[Strand]:
    """All chains in one strand, ways between them straight where they are short, along the edge otherwise.

    near: mm up to which a straight way inside the region is taken.
    """
    if not chains:
        return []
    order = _order(chains, start)
    needled = iter(runs_along([line for one in order for line in one.lines if len(line) > 1], sewing.stitch))
    return _led_on([_chain(chain, needled, sewing) for chain in order], region, near)


def round_loops(
    loops: Sequence[Array], region: Polygon, sewing: Sewing, reach: float, near: float, start: Place | None
) -> list[Strand]:  # fmt: skip
    """Closed lines in one strand, those up to `reach` mm apart by hops, the others as `sewn_on` has it."""
    if not loops:
        return []
    here = min((line[0] for line in loops), key=lambda spot: -float(spot[1])) if start is None else np.array(start)
    parts = tours(loops, region, reach, sewing.role, sewing.stitch, sewing.times, here)
    order: list[Strand] = []
    while parts:
        nth = int(np.argmin([np.linalg.norm(one.xy[0] - here) for one in parts]))
        order.append(parts.pop(nth))
        here = order[-1].xy[-1]
    return _led_on(order, region, near)


def _led_on(order: Sequence[Strand], region: Polygon, near: float) -> list[Strand]:
    """Strands one after another as one, with the ways between them."""
    ways = _Between(region, near)
    parts: list[Strand] = [order[0]]
    for sewn in order[1:]:
        parts += [*ways.run(parts[-1].xy[-1], sewn.xy[0]), sewn]
    return [tied(kept_inside(join(parts), region, 0.0))]


def chained(chain: Chain, sewing: Sewing) -> Strand:
    """A chain as sewn, not tied: each copy as often as asked, with a link to the next one."""
    return _chain(chain, iter(runs_along([line for line in chain.lines if len(line) > 1], sewing.stitch)), sewing)


def _chain(chain: Chain, needled: Iterator[Array], sewing: Sewing) -> Strand:
    """A chain as sewn. needled: needle points of its copies."""
    points: list[Array] = []
    for nth, line in enumerate(chain.lines):
        run = next(needled) if len(line) > 1 else line
        if points:
            link = chain.links[nth - 1] if chain.links else line[:0]
            way = np.concatenate([points[-1][-1:], link, run[:1]])
            points.append(run_along(way, sewing.stitch)[1:-1] if line_length(way) > DROP else way[:0])
            run = run[1:] if np.linalg.norm(way[0] - run[0]) < SAME else run
        for again in range(sewing.times if len(run) else 0):
            points.append(run if again % 2 == 0 or _returns(run) else run[::-1])
        points = [each for each in points if len(each)]
    return strand(np.concatenate(points), sewing.role)


def _returns(run: Array) -> bool:
    """Whether a line ends where it begins."""
    return float(np.linalg.norm(run[0] - run[-1])) < SAME


def _order(chains: Sequence[Chain], start: Place | None) -> list[Chain]:
    """Chains one after another, each the nearest to where the one before ends, turned to begin there."""
    ends = np.array([one.ends for one in chains])
    left = np.ones(len(chains), bool)
    here = _outermost(ends) if start is None else np.array(start)
    found: list[Chain] = []
    for _ in range(len(chains)):
        off = np.linalg.norm(ends - here, axis=2)
        off[~left] = np.inf
        nth, end = divmod(int(np.argmin(off)), 2)
        left[nth] = False
        found.append(chains[nth] if end == 0 else chains[nth].back())
        here = found[-1].ends[1]
    return found


def _outermost(ends: Array) -> Array:
    """Of ends (k, 2, 2) of chains the one farthest from all others."""
    spots = ends.reshape(-1, 2)
    off, near = cKDTree(spots).query(spots, k=min(3, len(spots)))
    mine = near // 2 == (np.arange(len(spots)) // 2)[:, None]
    return np.asarray(spots[np.argmax(np.where(mine, np.inf, off).min(axis=1))])


class _Between:
    """Ways between chains: straight, along the edge, or anyhow inside."""

    def __init__(self, region: Polygon, near: float) -> None:
        self.region, self.near = region, near
        self.room = ready(grown(region, HAIR, 2))
        self.edge = EdgeWays(region, INSET, np.inf)
        if len(self.edge.rings) != 1 + len(region.interiors):
            self.edge = EdgeWays(region, 0.0, np.inf)
        self.inside = Ways(region)

    def run(self, one: Array, other: Array) -> list[Strand]:
        """Travel from one place to another, both left out."""
        points = run_along(self._way(one, other), travel.STITCH, travel.CHORD, DROP)[1:-1]
        return [Strand(points, np.full(len(points), CODE["travel"], dtype=np.uint8))] if len(points) else []

    def _way(self, one: Array, other: Array) -> Array:
        straight = np.stack([one, other])
        if np.linalg.norm(other - one) <= self.near and shapely.covers(self.room, shapely.linestrings(straight)):
            return straight
        along = self.edge.between(one, other)
        if along is not None and shapely.covers(self.room, shapely.linestrings(along)):
            return along
        inside = self.inside.between(one, other)
        return straight if inside is None else inside
