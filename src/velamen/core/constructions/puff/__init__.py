"""Puff: raised satin over foam that its needle points cut at every edge, so that the rest tears away (section 10)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from velamen.core.constructions.base import Construction, Family, Locals, Sample, Work
from velamen.core.constructions.column import COLUMN
from velamen.core.constructions.foam_steps import foam_of, laying, tearing
from velamen.core.constructions.puff.proof import FOAM_TEAR
from velamen.core.constructions.puff.satin import satin, spots
from velamen.core.constructions.puff.settings import LOCAL_SETTINGS, SETTINGS
from velamen.core.constructions.puff.strokes import findings
from velamen.core.constructions.puff.typefaces import judgement
from velamen.core.setting import Plain
from velamen.core.timeline.operation import Operation


def operations(work: Work, known: Mapping[str, Plain]) -> Sequence[Operation]:
    """Foam laid, satin, foam torn away round it."""
    foam = foam_of(work, known, "puff")
    needs = ("lay",) if foam else ()
    sewing = Operation(work.piece, work.name, COLUMN, work.region, needs, role=COLUMN, fills=satin)
    if foam is None:
        return (sewing,)
    return laying(work, foam, tears="tear"), sewing, tearing(work, foam, work.region, (COLUMN,))


CONSTRUCTION = Construction(
    "puff", "Puff", SETTINGS, operations, Family.AREAS, shown_on=Sample.STROKE, findings=findings,
    hides=lambda work, values: work.region,
    stands_on=lambda work, role, known: work.region if role == COLUMN else None,
    proofs=(FOAM_TEAR,), judges=judgement, local=Locals("Caps", LOCAL_SETTINGS, spots, "cap_shift", "cap_width"),
)  # fmt: skip
