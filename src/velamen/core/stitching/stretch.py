"""Covers along those stretches of an edge that nothing hides: rails cut to them, and satins between two ends."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.geometry.rails import Rails
from velamen.core.geometry.region import Area, clean_ring
from velamen.core.stitching.run import run_along
from velamen.core.stitching.satin import satin
from velamen.core.stitching.split import split
from velamen.core.stitching.strand import Strand, join, strand, tied

LONGEST = 7.6  # mm of a stitch, with the pull of a cover 7 wide; a longer one is divided as a column's are
SHORTEST = 1.0  # mm of edge; a shorter stretch is left out
STEP = 0.3  # mm between the points of a line drawn between rails


def shown(rails: Rails, hidden: Area | None, outside: float, inside: float) -> list[Rails]:
    """The stretches of closed rails whose edge, between them, is not hidden: all of them as they are, or open parts.

    outside, inside: mm of the rails off and on the edge.
    """
    if hidden is None:
        return [rails]
    share = outside / max(outside + inside, 1e-9)
    edge = rails.outer + share * (rails.inner - rails.outer)
    seen = ~shapely.contains_xy(hidden, edge[:, 0], edge[:, 1])
    if seen.all():
        return [rails]
    if not seen.any():
        return []
    return [part for part in _runs(rails, seen) if part.length >= SHORTEST]


def _runs(rails: Rails, seen: NDArray[np.bool_]) -> list[Rails]:
    """Runs of seen samples as open rails; the last sample of closed rails repeats the first."""
    count = len(seen) - 1
    first = int(np.flatnonzero(~seen[:count])[0])
    turned = (np.arange(count + 1) + first) % count
    step = np.diff(rails.advance)[turned[:-1]]
    off, on = (np.diff(way)[turned[:-1]] for way in (rails.outer_way, rails.inner_way))
    flags = seen[turned]
    edges = np.flatnonzero(np.diff(flags.astype(np.int8), prepend=0, append=0))
    found = []
    for begin, end in edges.reshape(-1, 2).tolist():
        rows, gaps = turned[begin:end], slice(begin, end - 1)
        if len(rows) < 2:
            continue
        far, near, along = (np.concatenate(([0.0], np.cumsum(each[gaps]))) for each in (off, on, step))
        found.append(Rails(rails.outer[rows], rails.inner[rows], far, near, along, closed=False))
    return found


def satin_stretch(
    rails: Rails, role: str, spacing: float, runs: list[float], zigzags: list[tuple[float, float]]
) -> Strand:
    """A satin along open rails with its underlay, tied on its middle line.

    runs: shares of the way in at which runs lie; zigzags: for each its inset as a share, and its spacing.
    """
    lines = [run_along(clean_ring(_line(rails, share)), 2.5) for share in runs]
    lines += [_zigzag(rails, inset, apart) for inset, apart in zigzags]
    begins_far = len(lines) % 2 == 1
    under = [line[::-1] if (nth % 2 == 0) == begins_far else line for nth, line in enumerate(lines)]
    points = split(satin(rails, spacing, 0.0, 0.0, end=rails.length), "limit", LONGEST)
    middle = _line(rails, 0.5)
    first = middle[::-1] if begins_far else middle
    sewn = join([*(strand(line, "underlay") for line in under if len(line) > 1), strand(points, role)])
    return tied(sewn, first=first, last=middle[::-1])


def _zigzag(rails: Rails, inset: float, spacing: float) -> Array:
    narrow = replace(
        rails,
        outer=(1.0 - inset) * rails.outer + inset * rails.inner,
        inner=inset * rails.outer + (1.0 - inset) * rails.inner,
    )
    return satin(narrow, spacing, 0.0, 0.0, 1.0, end=rails.length)


def _line(rails: Rails, share: float) -> Array:
    outer, inner, _, _ = rails.at(np.linspace(0.0, rails.length, max(int(rails.length / STEP), 4)))
    return np.asarray((1.0 - share) * outer + share * inner)
