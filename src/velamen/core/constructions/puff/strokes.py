"""How wide strokes may be on foam, and what is told of those that are not."""

from __future__ import annotations

from velamen.core.constructions.base import Sewn
from velamen.core.geometry.region import Area, polygons_of
from velamen.core.proofs.finding import Finding
from velamen.core.stitching.column import widths

NARROW, WIDE = 3.0, 10.0  # mm across a stroke: thread sinks in, satin flattens (handbook, section 10)


def span(region: Area) -> tuple[float, float] | None:
    """The narrowest and the widest stroke, mm; None where there is none."""
    across = [each for part in polygons_of(region) for each in widths(part)]
    return (min(across), max(across)) if across else None


def findings(found: Sewn) -> list[Finding]:
    """Strokes too narrow or too wide for foam."""
    work, told = found.work, []
    place = work.region.representative_point()
    at = ((round(place.x, 2), round(place.y, 2)),)
    low, high = span(work.region) or (NARROW, WIDE)
    if low < NARROW:
        told.append(Finding("puff_narrow", "warning", work.piece, f"{work.name} has strokes of {low:.1f} mm: "
                            f"under {NARROW:g} mm the thread sinks into the foam.", at))  # fmt: skip
    if high > WIDE:
        told.append(Finding("puff_wide", "warning", work.piece, f"{work.name} has strokes of {high:.1f} mm: "
                            f"over {WIDE:g} mm satin on foam flattens and snags.", at))  # fmt: skip
    return told
