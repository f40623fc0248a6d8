"""One repeat of a long lace: what lies between two lines, its threads cut there and tied."""

from __future__ import annotations

import numpy as np

from velamen.core.arrays import Array, Index, Mask
from velamen.core.errors import BadInput
from velamen.core.job.needles import Strands
from velamen.core.recovery.strips import Stitches
from velamen.core.stitching.needle_strands import ROLES, retied
from velamen.core.stitching.strand import DROP

LEAST = 5.0  # mm of a repeat
CRUMB = 2.0  # mm of thread that is not worth its ties
SURE = 1e-9


def one_repeat(found: Stitches, begin: float, end: float, upright: bool = False) -> list[tuple[int, Strands]]:
    """Needle points between two lines, by the number of their thread, in the order they are sewn in.

    begin, end: mm along the strip, the x of two upright lines, or the y of two level ones where the strip runs
    upright. Stitches that cross a line end on it; what is left of a thread in crumbs is left out. Raises BadInput
    where the lines are too near to one another or nothing lies between them.
    """
    if end - begin < LEAST:
        raise BadInput(f"One repeat from {begin:g} to {end:g} mm is too short: let it be {LEAST:g} mm at least.")
    axis = 1 if upright else 0
    low, high = _clipped(found.begin[:, axis], found.end[:, axis], begin, end)
    way = found.end - found.begin
    length = (high - low) * np.linalg.norm(way, axis=1)
    kept = (high > low) & ((length >= DROP) | ((low <= 0.0) & (high >= 1.0)))
    if not kept.any():
        raise BadInput("Nothing is sewn between these lines: set them on the strip.")
    nth = np.flatnonzero(kept)
    first, last = found.begin[nth] + low[nth, None] * way[nth], found.begin[nth] + high[nth, None] * way[nth]
    goes_on = np.concatenate([[False], (np.diff(nth) == 1) & found.joined[nth[:-1]]
                              & (high[nth[:-1]] >= 1.0) & (low[nth[1:]] <= 0.0)])  # fmt: skip
    return _by_thread(found, nth, first, last, goes_on)


def _by_thread(found: Stitches, nth: Index, first: Array, last: Array, goes_on: Mask) -> list[tuple[int, Strands]]:
    """Strands out of the stitches `nth`, whose places are given, those of one thread together."""
    starts = np.flatnonzero(~goes_on)
    strand = np.cumsum(~goes_on) - 1
    sewn = np.bincount(strand, np.linalg.norm(last - first, axis=1))
    upto = np.append(starts[1:], len(nth)) - 1
    # A strand is cut where it neither began nor ended in the file.
    strip = found.strip
    before = np.array([at > 0 and strip[at - 1] == strip[at] for at in nth[starts]]) | ~_near(
        first, found.begin, nth, starts
    )
    after = np.array([at + 1 < len(strip) and strip[at + 1] == strip[at] for at in nth[upto]])
    after |= ~_near(last, found.end, nth, upto)
    out: list[tuple[int, Strands]] = []
    thread = found.thread[nth[starts]]
    groups = np.split(np.arange(len(starts)), np.flatnonzero(np.diff(thread)) + 1)
    for group in groups:
        whole = [one for one in group.tolist() if sewn[one] >= CRUMB]
        if not whole:
            continue
        lines = [np.concatenate([first[starts[one]][None], last[starts[one] : upto[one] + 1]]) for one in whole]
        xy = np.concatenate(lines)
        counts = np.array([len(line) for line in lines], dtype=np.int64)
        plain = Strands(xy, np.zeros(len(xy), dtype=np.uint8), ROLES, counts)
        out.append((int(thread[whole[0]]), retied(plain, before[whole], after[whole])))
    return out


def _near(places: Array, known: Array, nth: Index, which: Index) -> Mask:
    return np.asarray(np.linalg.norm(places[which] - known[nth[which]], axis=1) < SURE)


def _clipped(one: Array, other: Array, low: float, high: float) -> tuple[Array, Array]:
    """The shares of ways from `one` to `other` between which these lie from low to high; nothing where the second is
    not over the first."""
    way = np.where(np.abs(other - one) < SURE, SURE, other - one)
    at_low, at_high = (low - one) / way, (high - one) / way
    return np.clip(np.minimum(at_low, at_high), 0.0, 1.0), np.clip(np.maximum(at_low, at_high), 0.0, 1.0)
