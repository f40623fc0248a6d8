"""Needle points of parts of a stitch file: as they were sewn, tied where a longer thread was cut."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from velamen.core.arrays import Mask
from velamen.core.job.needles import Strands
from velamen.core.recovery.parts import KINDS, TIE, TRAVEL
from velamen.core.recovery.segments import Segment
from velamen.core.recovery.strips import Stitches
from velamen.core.stitching.needle_strands import ROLES, TIED, TRAVELLED, retied


def kept_points(found: Stitches, segments: Sequence[Segment], first: int, last: int) -> Strands:
    """The needle points of parts `first` to `last`, by number, with the ties beside them.

    found: all stitches of the file.
    """
    first, last = _led(found, segments, first, -1), _led(found, segments, last, 1)
    begin, end = np.searchsorted(found.row, [segments[first].first, segments[last].last + 1])
    chosen = slice(int(begin), int(end))
    role = np.zeros(len(found.row), dtype=np.uint8)
    for one in segments[first : last + 1]:
        if one.kind in (KINDS[TIE], KINDS[TRAVEL]):
            rows = np.searchsorted(found.row, [one.first, one.last + 1])
            role[rows[0] : rows[1]] = TIED if one.kind == KINDS[TIE] else TRAVELLED
    strip = found.strip[chosen]
    starts = np.concatenate([[True], strip[1:] != strip[:-1]])
    lengths = np.diff(np.append(np.flatnonzero(starts), len(strip)))
    # A strand is where its first stitch begins, and then where each of its stitches ends.
    xy = np.insert(found.end[chosen], np.flatnonzero(starts), found.begin[chosen][starts], axis=0)
    roles = np.insert(role[chosen], np.flatnonzero(starts), role[chosen][starts])
    cut_before, cut_after = _cut(found.strip, chosen, starts)
    return retied(Strands(xy, roles, ROLES, lengths + 1), cut_before, cut_after)


def _led(found: Stitches, segments: Sequence[Segment], nth: int, way: int) -> int:
    """The part up to which ties and travel beside a part belong to it: all to the end of its thread, or one tie."""
    at = nth
    while 0 <= at + way < len(segments) and segments[at + way].kind in (KINDS[TIE], KINDS[TRAVEL]):
        if not _joined(found, segments[min(at, at + way)], segments[max(at, at + way)]):
            return at
        at += way
    ended = not 0 <= at + way < len(segments) or not _joined(
        found, segments[min(at, at + way)], segments[max(at, at + way)]
    )
    if ended:
        return at
    beside = nth + way
    return beside if at != nth and segments[beside].kind == KINDS[TIE] else nth


def _joined(found: Stitches, one: Segment, other: Segment) -> bool:
    """Whether one part goes on as the other without a break."""
    rows = np.searchsorted(found.row, [one.last, other.first])
    return bool(found.strip[rows[0]] == found.strip[rows[1]])


def _cut(strip: np.ndarray, chosen: slice, starts: Mask) -> tuple[Mask, Mask]:
    """Which strands were longer in the file, before and after what is kept of them."""
    count = int(starts.sum())
    before, after = np.zeros(count, dtype=bool), np.zeros(count, dtype=bool)
    before[0] = chosen.start > 0 and strip[chosen.start - 1] == strip[chosen.start]
    after[-1] = chosen.stop < len(strip) and strip[chosen.stop] == strip[chosen.stop - 1]
    return before, after
