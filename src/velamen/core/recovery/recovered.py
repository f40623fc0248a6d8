"""A stitch file with its parts and what they may be together."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from velamen.core.arrays import Array
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.recovery.proposals import Proposal, proposals_of
from velamen.core.recovery.read import read_stitches
from velamen.core.recovery.segments import Segment, segments_of
from velamen.core.recovery.stitch_rows import StitchRows


@dataclass(frozen=True)
class Recovered:
    """rows: of the file; segments: its parts in sewing order; proposals: the appliqués among them; shift: mm (2,) by
    which it lies on the field, none where the middle of the field lies within it already."""

    rows: StitchRows
    segments: tuple[Segment, ...]
    proposals: tuple[Proposal, ...]
    shift: Array


def recovered(data: bytes, unit: str = "", columns: str = "") -> Recovered:
    """A stitch file taken apart. Raises BadInput in a sentence."""
    rows = read_stitches(data, unit, columns)
    segments = segments_of(rows)
    sewn = rows.xy[rows.command == STITCH]
    low, high = sewn.min(axis=0), sewn.max(axis=0)
    within = bool((low <= 0.0).all() and (high >= 0.0).all())
    shift = np.zeros(2) if within else -np.round((low + high) / 2, 3)
    return Recovered(rows, tuple(segments), tuple(proposals_of(segments)), shift)
