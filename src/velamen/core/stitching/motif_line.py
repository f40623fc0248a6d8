"""Motifs along lines: constant or growing, turned with the line or upright, closing a ring exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from velamen.core.arrays import Array
from velamen.core.artwork.motif import Figure
from velamen.core.errors import BadInput, within
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.stitching.motif_pitch import pitch
from velamen.core.stitching.motif_thread import Chain, Sewing, chained
from velamen.core.stitching.run import calm_start, start_ring_at
from velamen.core.stitching.strand import Strand, tied

TURNED, UPRIGHT, BY_TURNS, INWARD = "turned", "upright", "by_turns", "inward"
STANDS = (
    (TURNED, "turned with the line"), (UPRIGHT, "upright"), (BY_TURNS, "mirrored by turns"),
    (INWARD, "on its other side"),
)  # fmt: skip
MOST = 5_000  # motifs on one line
LINK_OFF = 0.3  # mm that the line is left out beside a motif
SHORT = 1.0  # mm of a line that takes motifs


@dataclass(frozen=True)
class LineMotifs:
    """Motifs along a line. size: mm high; gap: mm between them; stand: key of STANDS; grown: size and gap at the end
    of the line, of those at its beginning."""

    figures: tuple[Figure, ...]
    size: float
    gap: float
    stand: str = TURNED
    grown: float = 1.0


def motif_lines(
    lines: Sequence[Array], closed: bool, motifs: LineMotifs, sewing: Sewing, start: tuple[float, float] | None = None
) -> list[Strand]:  # fmt: skip
    """A strand of motifs along each line (n, 2), tied; lines too short for one are left out.

    closed: whether they are rings, on which a whole number of motifs comes out even. Raises BadInput.
    """
    within("size of a motif", motifs.size, 0.5, 100.0)
    found: list[Strand] = []
    for line in lines:
        if closed:
            line = calm_start(line) if start is None else start_ring_at(line, np.array(start))
            line = np.concatenate([line, line[:1]])
        elif start is not None and np.linalg.norm(line[-1] - start) < np.linalg.norm(line[0] - start):
            line = line[::-1]
        copies, links = placed(line, closed, motifs)
        if copies:
            last = [copies[0][:1]] if closed else []
            found.append(tied(chained(Chain((*copies, *last), tuple(links)), sewing)))
    return found


def placed(line: Array, closed: bool, motifs: LineMotifs) -> tuple[list[Array], list[Array]]:
    """The outline (n, 2) of every motif on a line, from its entry to its exit, and the line from each to the next."""
    way = arc_lengths(line)
    total = float(way[-1])
    if total < SHORT:
        return [], []
    middles, sizes = _spread(total, closed, motifs)
    spots, course = _courses(line, way, middles, closed, sizes / 4)
    found: list[Array] = []
    ends: list[tuple[float, float]] = []  # mm along the line where each begins and ends
    for nth, (spot, along, size) in enumerate(zip(spots, course, sizes.tolist(), strict=True)):
        figure = motifs.figures[nth % len(motifs.figures)]
        centre = (figure.low + figure.high) / 2
        ends.append((middles[nth] - centre * size, middles[nth] + (figure.exit - centre) * size))
        outline = (figure.line - np.array([centre, 0.0])) * size
        if motifs.stand == INWARD or (motifs.stand == BY_TURNS and nth % 2):
            outline = outline * np.array([1.0, -1.0])
        if motifs.stand == UPRIGHT:
            outline = outline if along[0] >= -1e-9 else outline * np.array([-1.0, 1.0])  # entry before exit
            found.append(outline + spot)
        else:
            found.append(outline @ np.array([along, [-along[1], along[0]]]) + spot)
    onward = [*ends[1:], (ends[0][0] + total, 0.0)] if closed and ends else ends[1:]
    links = [_stretch(line, way, one[1], other[0]) for one, other in zip(ends, onward, strict=False)]
    return found, links


def _stretch(line: Array, way: Array, begin: float, end: float) -> Array:
    """The places of a line between two of its lengths, past its end from its beginning on."""
    total = float(way[-1])
    twice, points = np.concatenate([way[:-1], way + total]), np.concatenate([line[:-1], line])
    between = (twice > begin + LINK_OFF) & (twice < end - LINK_OFF)
    return np.asarray(points[between])


def _spread(total: float, closed: bool, motifs: LineMotifs) -> tuple[Array, Array]:
    """mm along a line of the middle of each motif, and its size: as many as fit, the rest shared out evenly."""
    count = len(motifs.figures)
    widths = np.array([one.width for one in motifs.figures])
    unit = [pitch(one, motifs.figures[(nth + 1) % count], 1.0, round(motifs.gap / motifs.size, 6))
            for nth, one in enumerate(motifs.figures)]  # fmt: skip
    mean = float(np.mean(unit)) * motifs.size * (1.0 + motifs.grown) / 2
    room = total if closed else total + mean - float(widths.mean()) * motifs.size * (1.0 + motifs.grown) / 2
    fits = int(room / mean + 1e-6)
    if closed:
        fits = fits // count * count
    if fits > MOST:
        raise BadInput(f"Motifs of {motifs.size:.1f} mm are too small for a line of {total:.0f} mm: use larger ones.")
    if fits < 1:
        if total < float(widths[0]) * motifs.size * 0.5:
            return np.zeros(0), np.zeros(0)
        fits = 1
    share = (np.arange(fits) + 0.5) / fits
    sizes = motifs.size * (1.0 + (motifs.grown - 1.0) * share)
    steps = sizes * np.resize(np.array(unit), fits)
    ends = widths[np.arange(fits) % count] * sizes / 2
    if closed:
        edge = np.concatenate([[0.0], np.cumsum(steps)])
        return (edge[:-1] + edge[1:]) / 2 * total / edge[-1], sizes
    middles = np.concatenate([[0.0], np.cumsum((steps[:-1] + steps[1:]) / 2)])
    if fits == 1:
        return np.array([total / 2]), sizes
    spare = total - ends[0] - ends[-1]
    return ends[0] + middles * spare / middles[-1], sizes


def _courses(line: Array, way: Array, at: Array, closed: bool, half: Array) -> tuple[Array, Array]:
    """Places of a line and its course there, over `half` mm to either side."""
    total = float(way[-1])

    def spots(along: Array) -> Array:
        along = np.mod(along, total) if closed else np.clip(along, 0.0, total)
        return np.stack([np.interp(along, way, line[:, axis]) for axis in (0, 1)], axis=1)

    course = spots(at + half) - spots(at - half)
    long = np.linalg.norm(course, axis=1, keepdims=True)
    return spots(at), np.where(long > 1e-9, course / np.maximum(long, 1e-9), np.array([[1.0, 0.0]]))
