"""Puff: raised satin over foam that its needle points cut at every edge, so that the rest tears away (section 10)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import shapely

from velamen.core.constructions.base import Construction, Family, Locals, Sample, Sewn, Work
from velamen.core.constructions.column import COLUMN
from velamen.core.constructions.foam_steps import foam_of, laying, tearing
from velamen.core.constructions.puff.proof import FOAM_TEAR
from velamen.core.constructions.puff.satin import satin, spots
from velamen.core.constructions.puff.settings import LOCAL_SETTINGS, SETTINGS
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain
from velamen.core.stitching.column import widths
from velamen.core.timeline.operation import Operation

NARROW, WIDE = 3.0, 10.0  # mm across a stroke: thread sinks, flattens (handbook, section 10)


def operations(work: Work, known: Mapping[str, Plain]) -> Sequence[Operation]:
    """Foam laid, satin, foam torn away round it."""
    foam = foam_of(work, known, "puff")
    needs = ("lay",) if foam else ()
    sewing = Operation(work.piece, work.name, COLUMN, work.region, needs, role=COLUMN, fills=satin)
    if foam is None:
        return (sewing,)
    return laying(work, foam, tears="tear"), sewing, tearing(work, foam, work.region, (COLUMN,))


def findings(found: Sewn) -> list[Finding]:
    """Strokes too narrow or too wide for foam."""
    work, told = found.work, []
    place = work.region.representative_point()
    at = ((round(place.x, 2), round(place.y, 2)),)
    across = [each for part in shapely.get_parts(work.region) for each in widths(part)]
    if across and min(across) < NARROW:
        told.append(Finding("puff_narrow", "warning", work.piece, f"{work.name} has strokes of {min(across):.1f} mm: "
                            f"under {NARROW:g} mm the thread sinks into the foam.", at))  # fmt: skip
    if across and max(across) > WIDE:
        told.append(Finding("puff_wide", "warning", work.piece, f"{work.name} has strokes of {max(across):.1f} mm: "
                            f"over {WIDE:g} mm satin on foam flattens and snags.", at))  # fmt: skip
    return told


CONSTRUCTION = Construction(
    "puff", "Puff", SETTINGS, operations, Family.AREAS, shown_on=Sample.STROKE, findings=findings,
    hides=lambda work, values: work.region,
    stands_on=lambda work, role, known: work.region if role == COLUMN else None,
    proofs=(FOAM_TEAR,), local=Locals("Caps", LOCAL_SETTINGS, spots, "cap_shift", "cap_width"),
)  # fmt: skip
