"""A stitch file with its parts and what they may be together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from velamen.core.arrays import Array
from velamen.core.memo import worked_out
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.recovery.proposals import Proposal, proposals_of
from velamen.core.recovery.read import read_stitches
from velamen.core.recovery.segments import Segment, segments_of
from velamen.core.recovery.stitch_rows import StitchRows
from velamen.core.recovery.underlays import underlays_of
from velamen.core.recovery.ways import ways_of


@dataclass(frozen=True)
class Recovered:
    """rows: of the file; segments: its parts in sewing order; proposals: the appliqués among them; under: the cover
    of each part that is underlay, by number; shift: mm (2,) by which it lies on the field, none where the middle of
    the field lies within it already."""

    rows: StitchRows
    segments: tuple[Segment, ...]
    proposals: tuple[Proposal, ...]
    under: Mapping[int, int]
    shift: Array

    @worked_out
    def numbers(self) -> dict[int, int]:
        """Of each part that is one by itself its number among them, from 1: ties and travel go with their neighbours,
        underlay with its cover."""
        own = [nth for nth, one in enumerate(self.segments) if nth not in self.under and ways_of(one)]
        return {nth: number for number, nth in enumerate(own, 1)}

    def listed(self, nth: int) -> bool:
        """Whether a part is one by itself."""
        return nth in self.numbers

    @worked_out
    def owners(self) -> list[int]:
        """Of every part the one that it goes with: underlay with its cover, ties and travel with what follows them in
        their thread, or with what came before."""
        found = [self.under.get(nth, nth) for nth in range(len(self.segments))]
        for nth in reversed(range(len(found))):
            follows = nth + 1 < len(found) and self.segments[nth + 1].thread == self.segments[nth].thread
            if found[nth] not in self.numbers and follows:
                found[nth] = found[nth + 1]
        for nth, owner in enumerate(found):
            if owner not in self.numbers and nth:
                found[nth] = found[nth - 1]
        return found

    @worked_out
    def begins(self) -> dict[int, int]:
        """Of each cover the first part of its underlay."""
        found: dict[int, int] = {}
        for under, cover in self.under.items():
            found[cover] = min(under, found.get(cover, under))
        return found

    def first_of(self, nth: int) -> int:
        """The first part that is sewn for one: that of its underlay, or itself."""
        return self.begins.get(nth, nth)


def recovered(data: bytes, unit: str = "", columns: str = "") -> Recovered:
    """A stitch file taken apart. Raises BadInput in a sentence."""
    rows = read_stitches(data, unit, columns)
    segments = segments_of(rows)
    sewn = rows.xy[rows.command == STITCH]
    low, high = sewn.min(axis=0), sewn.max(axis=0)
    within = bool((low <= 0.0).all() and (high >= 0.0).all())
    shift = np.zeros(2) if within else -np.round((low + high) / 2, 3)
    proposals = tuple(proposals_of(segments))
    taken = {nth for one in proposals for nth in (*one.placement, *one.drops)}
    return Recovered(rows, tuple(segments), proposals, underlays_of(segments, taken), shift)
