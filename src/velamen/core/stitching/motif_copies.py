"""Copies of motifs in rows over an area: where each lies, before anything is sewn."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array, Index
from velamen.core.artwork.motif import Figure
from velamen.core.errors import BadInput
from velamen.core.geometry.region import ready
from velamen.core.stitching.motif_pitch import pitch, row_pitch, turned_over

MOST = 20_000  # copies
PHASES, MANY = 5, 1_200  # positions tried either way, and copies from which fewer are
EVEN, ACROSS, OUT = "even", "across", "out"
GROWING = ((EVEN, "all alike"), (ACROSS, "across the rows"), (OUT, "out from the middle"))
UPRIGHT, MIRRORED, PAIRED = "upright", "mirrored", "paired"
TURNS = ((UPRIGHT, "all upright"), (MIRRORED, "every second row mirrored"), (PAIRED, "every second row upside down"))
WIDEST_STEP = 0.35  # of a ring's radius that a motif is wide at most


@dataclass(frozen=True)
class Pattern:
    """Copies over an area.

    figures: sewn in turn; size: mm high; gap, row_gap: mm between copies, and rows; shift: of a pitch that every
    second row lies farther on; angle: rad of the rows; turn: key of TURNS; growing: key of GROWING; grown: size at
    the far side, of that at the near one.
    """

    figures: tuple[Figure, ...]
    size: float
    gap: float
    row_gap: float
    shift: float = 0.5
    angle: float = 0.0
    turn: str = UPRIGHT
    growing: str = EVEN
    grown: float = 1.0


@dataclass(frozen=True)
class Row:
    """Copies one after another. lines: (n, 2) each from entry to exit, mm; closed: whether the last leads on to the
    first."""

    lines: tuple[Array, ...]
    closed: bool = False


def rows_over(region: Polygon, pattern: Pattern, whole: bool) -> list[Row]:
    """Rows of copies that reach over all of a region. whole: whether as many whole ones as may be are wanted."""
    if pattern.growing == OUT and pattern.grown != 1.0:
        return _rings(region, pattern)
    turn = _turning(pattern.angle)
    middle = np.array([(region.bounds[0] + region.bounds[2]) / 2, (region.bounds[1] + region.bounds[3]) / 2])
    flat = shapely.transform(region, lambda xy: (xy - middle) @ turn.T)
    rows = _placed(flat, pattern)
    if whole:
        rows = _settled(flat, rows)
    return [Row(tuple(line @ turn + middle for line in row)) for row in rows]


def _turning(angle: float) -> Array:
    """(2, 2) that turns places by -angle when multiplied from the right after transposing."""
    return np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])


def _placed(region: Polygon, pattern: Pattern) -> list[list[Array]]:
    """Rows of copies over a region whose rows lie flat, from below."""
    left, top, right, bottom = region.bounds
    rows: list[list[Array]] = []
    base, count = bottom, 0
    for nth, size in _sizes(pattern, bottom - top):
        pitches = _pitches(pattern, size)
        period = sum(pitches)
        mirrored = nth % 2 == 1
        first = -np.ceil((right - left) / 2 / period + 1.5) * period + (
            pattern.shift * pitches[0] if mirrored else 0.0
        )
        copies = int(np.ceil((right - left) / period) + 4) * len(pitches)
        count += copies
        if count > MOST:
            raise BadInput(f"Motifs of {pattern.size:.1f} mm are too small for this area: use larger ones.")
        at = first + np.concatenate([[0.0], np.cumsum(np.tile(pitches, copies // len(pitches)))[:-1]])
        outlines = [_line(figure, pattern, mirrored) * size for figure in pattern.figures]
        rows.append([outlines[k % len(outlines)] + np.array([x, base]) for k, x in enumerate(at.tolist())])
        base -= _up(pattern, nth, size)
        if base + size < top:
            break
    return rows


def _sizes(pattern: Pattern, height: float) -> Iterator[tuple[int, float]]:
    """Numbers of rows and the size in each, from below."""
    done, nth = 0.0, 0
    while True:
        share = min(done / max(height, 1e-6), 1.0)
        grown = pattern.grown if pattern.growing == ACROSS else 1.0
        size = pattern.size * (1.0 + (grown - 1.0) * share)
        yield nth, size
        done += _up(pattern, nth, size)
        nth += 1


def _pitches(pattern: Pattern, size: float) -> tuple[float, ...]:
    figures = pattern.figures
    return tuple(pitch(one, figures[(nth + 1) % len(figures)], size, pattern.gap) for nth, one in enumerate(figures))


def _up(pattern: Pattern, nth: int, size: float) -> float:
    """mm from a row to the next one above it."""
    if pattern.growing == ACROSS and pattern.grown != 1.0:
        return max(size + pattern.row_gap, 0.2 * size)  # rows of other sizes do not fit into one another
    pitches = _pitches(pattern, size)
    shift = pattern.shift * pitches[0] * (1 if nth % 2 == 0 else -1)
    over = (pattern.turn == PAIRED and nth % 2 == 1, pattern.turn == PAIRED and nth % 2 == 0)
    return row_pitch(pattern.figures, pattern.figures, size, pitches, round(shift, 6), over, pattern.row_gap)


def _line(figure: Figure, pattern: Pattern, second: bool) -> Array:
    """A figure's line in an even or odd row."""
    if second and pattern.turn == MIRRORED:
        middle = (figure.low + figure.high) / 2
        return np.asarray(figure.line * np.array([-1.0, 1.0]) + np.array([2 * middle, 0.0]))
    return turned_over(figure.line, second and pattern.turn == PAIRED)


def _settled(region: Polygon, rows: list[list[Array]]) -> list[list[Array]]:
    """Rows moved together to where most copies lie wholly inside a region."""
    lines = [line for row in rows for line in row]
    if len(lines) < 2:
        return rows
    tries = PHASES if len(lines) <= MANY else 3
    steps = _steps(rows)
    spots = np.concatenate(lines)
    begin = np.cumsum([0, *(len(line) for line in lines)][:-1])
    inside = ready(region)
    best, moved = -1, np.zeros(2)
    for across in range(tries):
        for up in range(tries):
            move = np.array([across, up]) / tries * steps
            held = np.logical_and.reduceat(shapely.contains_xy(inside, *(spots + move).T), begin)
            if held.sum() > best:
                best, moved = int(held.sum()), move
    return [[line + moved for line in row] for row in rows]


def _steps(rows: list[list[Array]]) -> Array:
    """From a copy to the next one, and from a row to the one above: (2,) mm."""
    across = rows[0][1][0, 0] - rows[0][0][0, 0] if len(rows[0]) > 1 else 0.0
    up = rows[1][0][0, 1] - rows[0][0][0, 1] if len(rows) > 1 else 0.0
    return np.array([across, up])


def _rings(region: Polygon, pattern: Pattern) -> list[Row]:
    """Copies in rings round the middle of a region, growing outwards."""
    middle = shapely.get_coordinates(region.centroid)[0]
    far = float(np.linalg.norm(shapely.get_coordinates(region) - middle, axis=1).max())
    rows: list[Row] = []
    radius, count = pattern.size * 0.25, 0
    while radius < far:
        size = pattern.size * (1.0 + (pattern.grown - 1.0) * min(radius / far, 1.0))
        step = max(_pitches(pattern, size))
        copies = int(np.pi / np.arcsin(min(step / (2 * radius), 1.0)))  # as chords of its circle
        copies = copies // len(pattern.figures) * len(pattern.figures)
        if copies >= 3:
            count += copies
            if count > MOST:
                raise BadInput(f"Motifs of {pattern.size:.1f} mm are too small for this area: use larger ones.")
            rows.append(Row(tuple(_around(pattern, middle, radius, size, copies, len(rows) % 2 == 1)), closed=True))
            radius += size + max(pattern.row_gap, -0.5 * size)
        else:
            radius += 0.15 * size
    return rows


def _around(
    pattern: Pattern, middle: Array, radius: float, size: float, copies: int, second: bool
) -> Iterator[Array]:
    """Copies round a circle, their base lines on it."""
    angles: Index | Array = (np.arange(copies) + (pattern.shift if second else 0.0)) * 2 * np.pi / copies
    for nth, angle in enumerate(angles.tolist()):
        line = _line(pattern.figures[nth % len(pattern.figures)], pattern, second) * size
        line = line - np.array([(line[:, 0].min() + line[:, 0].max()) / 2, 0.0])
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        yield (line + np.array([0.0, -radius])) @ turn + middle
