"""Points of matched passes changed by hand: laid over what is sewn as long as a pass has the same points."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from velamen.core.arrays import Index
from velamen.core.building.sewn import Passes
from velamen.core.job.document import ByHand, Piece
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass


def over_passes(piece: Piece, passes: Passes) -> tuple[Passes, tuple[str, ...]]:
    """Passes with what was changed of them by hand, and the operations whose points are others by now."""
    if not piece.by_hand:
        return passes, ()
    found: dict[str, tuple[Pass, ...]] = dict(passes)
    unfit = []
    for one in piece.by_hand:
        key = f"{piece.id}:{one.part}"
        known = passes.get(key, ())
        if points_of(known) != one.points:
            unfit.append(one.part)
        else:
            found[key] = _changed(known, one)
    return found, tuple(unfit)


def points_of(passes: Sequence[Pass]) -> int:
    """How many needle points passes have."""
    return sum(len(strand.xy) for each in passes for strand in each.strands)


def left_of(passes: Sequence[Pass], one: ByHand | None) -> Index:
    """Numbers of the points of passes that are not left out by hand, as they come in what is sewn."""
    every = np.arange(points_of(passes))
    if one is None or one.points != len(every):
        return every
    kept, first = [], 0
    gone = np.isin(every, one.gone)
    for each in passes:
        for strand in each.strands:
            mine = every[first : first + len(strand.xy)]
            left = mine[~gone[mine]]
            kept += [left] if len(left) >= 2 else []
            first += len(mine)
    return np.concatenate(kept) if kept else every[:0]


def _changed(passes: Sequence[Pass], one: ByHand) -> tuple[Pass, ...]:
    moved = np.zeros((one.points, 2))
    for nth, shift in _numbered(one.moved, one.points).items():
        moved[nth] = shift
    kept = np.ones(one.points, dtype=bool)
    kept[[nth for nth in one.gone if 0 <= nth < one.points]] = False
    first, out = 0, []
    for each in passes:
        strands = []
        for strand in each.strands:
            mine = slice(first, first + len(strand.xy))
            first = mine.stop
            left = kept[mine]
            if left.sum() >= 2:
                strands.append(Strand((strand.xy + moved[mine])[left], strand.role[left]))
        out.append(replace(each, strands=tuple(strands)))
    return tuple(out)


def _numbered(moved: Mapping[str, tuple[float, float]], points: int) -> dict[int, tuple[float, float]]:
    return {int(nth): shift for nth, shift in moved.items() if nth.isdecimal() and int(nth) < points}
