"""Fills: rows of staggered penetrations, sewn section by section, travel kept inside the region."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Index, Place
from velamen.core.errors import within
from velamen.core.geometry.interior_paths import EdgeWays, Inside, Ways
from velamen.core.geometry.polyline import line_length
from velamen.core.geometry.region import grown, ready
from velamen.core.stitching import travel
from velamen.core.stitching.frame import Straight, guided, straight
from velamen.core.stitching.open_rows import sewn_openly
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.row_joins import Join, joins
from velamen.core.stitching.row_thread import RowThread, row_thread
from velamen.core.stitching.row_travel import INSET
from velamen.core.stitching.rows import (
    WHOLE,
    Rows,
    Sections,
    cut,
    flat_rings,
    levels_over,
    overlaps,
    sections_of,
)
from velamen.core.stitching.run import run_along
from velamen.core.stitching.section_order import Leg, divided_at, routes
from velamen.core.stitching.section_thread import Passage
from velamen.core.stitching.section_tree import end_near, hidden_routes, joined_at_ends
from velamen.core.stitching.stagger import shares_of
from velamen.core.stitching.strand import DROP, Strand, join, tied

COVERS = 0.8  # mm between rows, up to which they hide what lies under them
SHOWN = 9  # places of a row that is drawn as a line
SCRAP = 3.0  # mm of thread, ties included: less is no fill
SHALLOW = 0.45  # of a spacing by which a row bends along an edge that it meets at a small angle
ASIDE = 0.18  # mm that a bent end may leave the region
BENT = 1.2  # spacings, the least by which that takes it farther


@dataclass(frozen=True)
class FillSewing:
    """How rows are sewn."""

    angle: float  # of the rows, rad
    spacing: float  # mm between them
    length: float  # mm of a stitch
    stagger: str = "plain"  # its key
    pull: float = 0.0  # mm by which each row is lengthened at both ends, shortened where negative
    last: float | None = None  # mm between rows at the far side, where it grows or shrinks evenly
    ramp: tuple[float, float] = WHOLE  # shares of the way across between which it does
    guide: Array | None = None  # (n, 2) line that rows follow instead of the angle
    edge: bool = False  # rows hide nothing: all travel goes along the region's edge
    covers: bool = False  # rows hide what lies under them: sewn in such an order that all travel does


def fill(
    region: Polygon, role: str, sewing: FillSewing, start: Place | None = None, end: Place | None = None
) -> list[Strand]:
    """A region filled with rows, as one strand, or several where travel inside it is not possible.

    start: where sewing begins, as near as may be; end: where it ends, at the row that ends nearest to it, of a fill
    that covers. Raises BadInput where a figure is out of bounds.
    """
    check_rows(sewing.angle, sewing.spacing, sewing.length, sewing.pull, sewing.last)
    if sewing.edge:
        return open_fill(region, role, [sewing], start)
    rows, rings = _rows(region, sewing)
    return sewn_rows(region, role, rows, rings, sewing, start, end)


def open_fill(region: Polygon, role: str, sewings: Sequence[FillSewing], start: Place | None = None) -> list[Strand]:
    """Rows in one direction or several that hide nothing, with all travel along the edge; see `fill`."""
    threads = []
    for one in sewings:
        check_rows(one.angle, one.spacing, one.length, one.pull, one.last)
        rows, rings = _rows(region, one)
        threads.append(threaded(region, rows, rings, one, bend=False))
    sewn = sewn_openly(region, role, threads, sewings[0].pull, start)
    return [one for one in sewn if line_length(one.xy) > SCRAP]


def rows_of(region: Polygon, sewing: FillSewing) -> list[Array]:
    """Where the rows of a fill lie, as lines (n, 2) mm without what is sewn between them."""
    return lines_of(_rows(region, sewing)[0])


def lines_of(rows: Rows) -> list[Array]:
    """Stretches of rows as lines (SHOWN, 2) mm."""
    share = np.linspace(0.0, 1.0, SHOWN)
    along = rows.left[:, None] + (rows.right - rows.left)[:, None] * share
    flat = np.stack([along, np.repeat(rows.across[:, None], SHOWN, axis=1)], axis=2)
    return list(rows.frame.places(flat.reshape(-1, 2)).reshape(flat.shape))


def _rows(region: Polygon, sewing: FillSewing) -> tuple[Rows, list[Array]]:
    """The rows of a region, and its rings in their frame."""
    frame = straight(sewing.angle) if sewing.guide is None else guided(sewing.guide)
    rings = flat_rings(region, frame)
    rows = cut(rings, frame, levels_over(rings, sewing.spacing, sewing.last, sewing.ramp))
    return _kept(rows, 2.0 * max(-sewing.pull, 0.0)), rings


def sewn_rows(
    region: Polygon, role: str, rows: Rows, rings: list[Array], sewing: FillSewing, start: Place | None = None,
    end: Place | None = None, numbers: Index | None = None,
) -> list[Strand]:  # fmt: skip
    """Rows sewn to and fro in sections, as one strand wherever travel inside the region allows.

    rings: of the region in the rows' frame; numbers: of the levels among all rows of a fill, where these are only
    some of them.
    """
    if len(rows.row) == 0:
        return []
    sections = sections_of(rows, region)
    between = joins(rows, rings, region, sections)
    begin, last = (None if place is None else rows.frame.flat(np.array([place] * 3))[0] for place in (start, end))
    if sewing.covers:
        sections, parts = _hidden(rows, sections, between, begin, last)
    else:
        parts = routes(rows, sections, between, begin)
    thread = threaded(region, rows, rings, sewing, numbers, sewing.pull >= 0 and numbers is None)
    corners = EdgeWays(region, INSET, 3.0 * rows.spacing) if sewing.covers else None
    pull = max(sewing.pull, 0.0)
    inside = Inside(region, pull + travel.CHORD, corners)
    passage = Passage(thread, sections, between, role, inside, sewing.covers)
    sewn = [passage.sewn(legs, begin if nth == 0 else None, last) for nth, legs in enumerate(parts)]
    sewn = [one for one in sewn if line_length(one.xy) > SCRAP]
    if not isinstance(rows.frame, Straight):
        sewn = [_brought_in(one, region, pull) for one in sewn]
    return linked(sewn, region)


def threaded(
    region: Polygon, rows: Rows, rings: list[Array], sewing: FillSewing, numbers: Index | None = None,
    bend: bool = False,
) -> RowThread:  # fmt: skip
    """How rows are stitched; numbers: as `sewn_rows` takes them; bend: whether they go on along edges."""
    shares, length = shares_of(sewing.stagger), sewing.length
    bent = _bent(rows, rings, region, bend)
    widen = sewing.pull / rows.frame.stretch(bent[0]), sewing.pull / rows.frame.stretch(bent[1])
    phase = shares[(np.arange(len(rows.levels)) if numbers is None else numbers) % len(shares)] * length
    return row_thread(rows, length, phase, widen, bent)


def _brought_in(part: Strand, region: Polygon, pull: float) -> Strand:
    """A strand with needle points thrown out of a region at sharp bends of a guide brought back to it."""
    points = shapely.points(part.xy)
    far = np.flatnonzero(shapely.distance(points, region) > pull + travel.CHORD)
    if len(far) == 0:
        return part
    xy = part.xy.copy()
    xy[far] = shapely.get_coordinates(shapely.shortest_line(region, points[far]))[::2]
    return join([Strand(xy, part.role)])


def _kept(rows: Rows, least: float) -> Rows:
    """Rows without the stretches that are not longer than `least` mm."""
    wide = rows.right - rows.left > least
    return rows if wide.all() else replace(rows, row=rows.row[wide], left=rows.left[wide], right=rows.right[wide])


def _bent(rows: Rows, rings: list[Array], region: Polygon, wanted: bool) -> tuple[Array, Array]:
    """Where rows go on along an edge that they meet at a small angle: (m, 2) along and across, left and right.

    The end of the row itself where they do not.
    """
    left, right = (np.stack([ends, rows.across], axis=1) for ends in (rows.left, rows.right))
    if not wanted or len(rows.levels) < 2:
        return left, right
    room = ready(grown(region, ASIDE, 2))
    gap = np.diff(rows.levels)
    alone = np.diff(rows.row) > 0
    after = np.append(np.where(alone, np.inf, rows.left[1:]), np.inf)  # the next stretch of the same row
    before = np.append(-np.inf, np.where(alone, -np.inf, rows.right[:-1]))
    for sign, step in ((-1.0, np.concatenate((gap[:1], gap))), (1.0, np.concatenate((gap, gap[-1:])))):
        beside = cut(rings, rows.frame, rows.levels + sign * SHALLOW * step)
        one, other = overlaps(rows, beside, 0)
        for ends, least, far, bound in ((left, -1.0, beside.left, before), (right, 1.0, beside.right, after)):
            beyond = np.full(len(left), -np.inf)
            np.maximum.at(beyond, one, least * far[other])
            if least < 0:  # what lies between two stretches is the left one's
                beyond[-beyond < bound] = -np.inf
            beyond = np.minimum(beyond, least * bound)
            more = beyond > least * ends[:, 0] + BENT * step[rows.row]
            more = np.flatnonzero(more)
            goal = np.stack([least * beyond, beside.levels[rows.row]], axis=1)[more]
            lines = np.stack([rows.frame.places(ends[more]), rows.frame.places(goal)], axis=1)
            clear = shapely.covers(room, shapely.linestrings(lines))
            ends[more[clear]] = goal[clear]
    return left, right


def _hidden(
    rows: Rows, sections: Sections, between: list[Join], begin: Array | None, last: Array | None
) -> tuple[Sections, list[list[Leg]]]:
    """Sections, divided where they must be, and their order in which all travel lies under rows sewn later."""
    sections = joined_at_ends(rows, sections, between)
    if last is not None:
        sections = divided_at(sections, rows, last)
    enters = None if begin is None else end_near(rows, sections, begin)
    ends = None if last is None else end_near(rows, sections, last)
    return sections, hidden_routes(rows, sections, between, enters, ends)


def check_rows(angle: float, spacing: float, length: float, pull: float, last: float | None = None) -> None:
    """Raises BadInput, with the value and its bounds, for rows that cannot be sewn."""
    bounds = (("angle", angle, -10.0, 10.0), ("spacing", spacing, 0.1, 10.0), ("length", length, 1.0, 12.0),
              ("pull", pull, -2.0, 2.0), ("last spacing", spacing if last is None else last, 0.1, 10.0))  # fmt: skip
    for name, value, low, high in bounds:
        within(f"{name} of a fill", value, low, high)


def linked(strands: Sequence[Strand], region: Polygon, longest: float = np.inf) -> list[Strand]:
    """Strands sewn on without a trim wherever a way inside the region, not over `longest` mm, leads to the next."""
    if len(strands) < 2:
        return list(strands)
    inside = Ways(region)
    parts = [bare(strands[0])]
    found: list[Strand] = []
    for part in strands[1:]:
        after = bare(part)
        way = inside.between(parts[-1].xy[-1], after.xy[0])
        if way is None or line_length(way) > longest:
            found.append(tied(join(parts)))
            parts = [after]
            continue
        run = run_along(way, travel.STITCH, travel.CHORD, DROP)[1:-1]
        parts += [Strand(run, np.full(len(run), CODE["travel"], dtype=np.uint8)), after]
    return [*found, tied(join(parts))]


def bare(part: Strand) -> Strand:
    """A strand without the ties at its ends; a tie begins on the first needle point."""
    sewn = np.flatnonzero(part.role != CODE["tie"])
    if len(sewn) == 0:
        return part
    nth = np.arange(sewn[0], sewn[-1] + 1)
    return Strand(np.concatenate([part.xy[:1], part.xy[nth]]), np.concatenate([part.role[sewn[:1]], part.role[nth]]))
