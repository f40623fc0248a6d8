"""Motifs between the rails of a column: following its width, or in rows of one size."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.artwork.motif import Figure
from velamen.core.errors import BadInput, within
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.stitching.column import lanes_of
from velamen.core.stitching.lanes import Lane, middle
from velamen.core.stitching.motif_pitch import pitch
from velamen.core.stitching.motif_thread import Chain, Sewing, kept_within, round_loops, sewn_on
from velamen.core.stitching.strand import Strand

WIDTH, ROWS = "width", "rows"
FITS = ((WIDTH, "following the width"), (ROWS, "in rows of one size"))
LEAST = 1.0  # mm of a motif; where a column is narrower it has none
FAR = 1.3  # widths from one motif to the next that are gone straight
OUTSIDE = 0.3  # mm of a figure outside its shape, beyond which it is left out
MOST = 5_000


@dataclass(frozen=True)
class ColumnMotifs:
    """Motifs in a column. size: mm high, of those in rows; gap, row_gap: mm along the column, and between rows; fit:
    key of FITS."""

    figures: tuple[Figure, ...]
    size: float
    gap: float
    row_gap: float
    fit: str = WIDTH


def motif_columns(
    region: Polygon, motifs: ColumnMotifs, sewing: Sewing, directions: Sequence[Array] = (),
    start: Place | None = None,
) -> list[Strand]:  # fmt: skip
    """Motifs along every stroke of a shape, in one strand. Raises BadInput."""
    within("size of a motif", motifs.size, 0.5, 100.0)
    chains: list[Chain] = []
    wide = motifs.size
    for lane in lanes_of(region, directions):
        course = _Course(lane)
        found = _following(course, motifs) if motifs.fit == WIDTH else _in_rows(course, motifs)
        chains += kept_within(found, region, OUTSIDE)
        wide = max(wide, float(course.width.max()))
    if motifs.fit == ROWS and all(figure.closed for figure in motifs.figures):
        loops = [line for one in chains for line in one.lines if len(line) > 1]
        reach = max(motifs.gap, motifs.row_gap, 0.0) + motifs.size
        return round_loops(loops, region, sewing, reach, FAR * wide, start)
    return sewn_on(chains, region, sewing, FAR * wide + max(motifs.gap, 0.0), start)


class _Course:
    """A lane by its middle line: mm along it, and what lies across there."""

    def __init__(self, lane: Lane) -> None:
        rails = lane.rails
        self.line = middle(rails)
        self.way = arc_lengths(self.line)
        self.across = rails.outer - rails.inner
        self.width = np.linalg.norm(self.across, axis=1)
        self.closed = rails.closed
        self.length = float(self.way[-1])

    def at(self, along: Array, aside: Array, share: Array | None = None) -> Array:
        """Places so many mm along the middle line and aside of it; share: of the width instead, -0.5 to 0.5."""
        along = np.mod(along, self.length) if self.closed else np.clip(along, 0.0, self.length)
        spot, across = (np.stack([np.interp(along, self.way, points[:, axis]) for axis in (0, 1)], axis=1)
                        for points in (self.line, self.across))  # fmt: skip
        if share is None:
            share = aside / np.maximum(np.linalg.norm(across, axis=1), 1e-9)
        return np.asarray(spot + share[:, None] * across)

    def wide(self, along: Array) -> Array:
        along = np.mod(along, self.length) if self.closed else np.clip(along, 0.0, self.length)
        return np.asarray(np.interp(along, self.way, self.width))


def _following(course: _Course, motifs: ColumnMotifs) -> list[Chain]:
    """Motifs as high as the column is wide, one after another."""
    count = len(motifs.figures)
    mean = float(np.median(course.width))
    gap = round(motifs.gap / max(mean, LEAST), 6)
    step = float(np.mean([pitch(one, motifs.figures[(nth + 1) % count], 1.0, gap)
                          for nth, one in enumerate(motifs.figures)]))  # fmt: skip
    enough = np.maximum(course.width, 1e-3)
    passed = np.concatenate([[0.0], np.cumsum(np.diff(course.way) / (step * (enough[1:] + enough[:-1]) / 2))])
    cells = _cells(float(passed[-1]))
    edges = np.interp(np.linspace(0.0, passed[-1], cells + 1), passed, course.way)
    ends: list[tuple[float, float]] = []  # mm along the column where each begins and ends
    groups: list[list[Array]] = [[]]
    for nth, (begin, end) in enumerate(zip(edges[:-1].tolist(), edges[1:].tolist(), strict=True)):
        figure = motifs.figures[nth % count]
        if float(course.wide(np.linspace(begin, end, 5)).min()) < LEAST:
            groups.append([])
            continue
        across = (figure.line[:, 0] - figure.low) / figure.width
        room = (end - begin) * figure.width / step
        along = (begin + end - room) / 2 + across * room
        depth = -figure.line[:, 1]
        groups[-1].append(course.at(along, depth, depth - depth.min() - 0.5))
        ends.append((float(along[0]), float(along[-1])))
    return _joined(groups, course, ends)


def _cells(fits: float) -> int:
    cells = max(int(fits + 0.25), 1)
    if cells > MOST:
        raise BadInput(f"{cells} motifs are too many for one column: use a larger size.")
    return cells


def _in_rows(course: _Course, motifs: ColumnMotifs) -> list[Chain]:
    """Motifs of one size, in as many rows as have room at each place, to and fro."""
    count, size = len(motifs.figures), motifs.size
    steps = [pitch(one, motifs.figures[(nth + 1) % count], size, motifs.gap)
             for nth, one in enumerate(motifs.figures)]  # fmt: skip
    cells = _cells(course.length / float(np.mean(steps)))
    edges = np.linspace(0.0, course.length, cells + 1)
    looked = edges[:-1, None] + np.linspace(0.0, 1.0, 5) * np.diff(edges)[:, None]
    narrow = course.wide(looked.ravel()).reshape(looked.shape).min(axis=1)
    row = size + motifs.row_gap
    rows = np.floor((narrow + motifs.row_gap) / max(row, LEAST) + 1e-6).astype(np.int64)
    found: list[Chain] = []
    for nth in range(int(rows.max(initial=0))):
        groups: list[list[Array]] = [[]]
        for cell in range(cells):
            if nth >= rows[cell]:
                groups.append([])
                continue
            figure = motifs.figures[cell % count]
            along = (edges[cell] + edges[cell + 1]) / 2 + (figure.line[:, 0] - (figure.low + figure.high) / 2) * size
            base = (nth - (rows[cell] - 1) / 2) * row - size / 2
            depth = -figure.line[:, 1]
            groups[-1].append(course.at(along, base + (depth - depth.min()) * size))
        chains = _joined(groups, course, [])
        found += chains if nth % 2 == 0 else [one.back() for one in chains[::-1]]
    return found


def _joined(groups: list[list[Array]], course: _Course, ends: list[tuple[float, float]]) -> list[Chain]:
    """Groups of motifs that follow one another as chains; one round all of a ring closes.

    ends: mm along the column where each motif begins and ends, where links between them follow its side.
    """
    links: list[list[Array]] = []
    nth = 0
    for group in groups:
        own = ends[nth : nth + len(group)]
        nth += len(group)
        onward = own[1:]
        if course.closed and len(groups) == 1 and group:
            group.append(group[0][:1])
            onward = [*own[1:], *((begin + course.length, 0.0) for begin, _ in own[:1])]
        links.append([_beside(course, one[1], other[0]) for one, other in zip(own, onward, strict=False)])
    return [Chain(tuple(group), tuple(link)) for group, link in zip(groups, links, strict=True) if group]


def _beside(course: _Course, begin: float, end: float) -> Array:
    """Places along the side of a column between two motifs."""
    along = np.linspace(begin, end, max(int(abs(end - begin)) + 2, 2))[1:-1]
    return course.at(along, along, np.full(len(along), -0.5)) if end > begin else np.zeros((0, 2))
