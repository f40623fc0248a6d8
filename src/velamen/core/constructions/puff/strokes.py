"""How wide strokes may be on foam, and what is told of those that are not."""

from __future__ import annotations

import numpy as np

from velamen.core.constructions.base import Sewn, Work
from velamen.core.geometry.region import Area, polygons_of, spot_in
from velamen.core.proofs.finding import Finding
from velamen.core.stitching.column import widths
from velamen.core.stitching.drawn_rails import between

NARROW, WIDE = 3.0, 10.0  # mm across a stroke: thread sinks in, satin flattens (handbook, section 10)


def span(region: Area) -> tuple[float, float] | None:
    """The narrowest and the widest stroke, mm; None where there is none."""
    across = [each for part in polygons_of(region) for each in widths(part)]
    return (min(across), max(across)) if across else None


def between_span(work: Work) -> tuple[float, float] | None:
    """The same of a column between drawn rails, its middle part."""
    lane = between((work.rails[0], work.rails[1]), 0.0)
    if lane is None:
        return None
    wide = np.linalg.norm(lane.outer - lane.inner, axis=1)
    return float(np.quantile(wide, 0.1)), float(np.quantile(wide, 0.9))


def findings(found: Sewn) -> list[Finding]:
    """Strokes too narrow or too wide for foam."""
    work, told = found.work, []
    at = spot_in(work.region)
    low, high = (between_span(work) if work.rails else span(work.region)) or (NARROW, WIDE)
    if low < NARROW:
        told.append(Finding("puff_narrow", "warning", work.piece, f"{work.name} has strokes of {low:.1f} mm: "
                            f"under {NARROW:g} mm the thread sinks into the foam.", at))  # fmt: skip
    if high > WIDE:
        told.append(Finding("puff_wide", "warning", work.piece, f"{work.name} has strokes of {high:.1f} mm: "
                            f"over {WIDE:g} mm satin on foam flattens and snags.", at))  # fmt: skip
    return told
