"""Border on foam: a raised satin along the edge of a shape, the foam torn away inside and outside (section 10)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from velamen.core.constructions.base import Construction, Ends, Family, Sample, Sewn, Work
from velamen.core.constructions.edge import (
    band_of,
    outside,
    reaching,
    round_corners,
    satin_settings,
    satin_values,
    sides,
)
from velamen.core.constructions.foam_proof import foam_proof
from velamen.core.constructions.foam_steps import FOAM_TACK, foam_of, foam_settings, laying, tearing
from velamen.core.constructions.plain import BORDER, entered
from velamen.core.constructions.under_satin import under_satin
from velamen.core.geometry.corners import CORNERS
from velamen.core.geometry.region import band
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.foam_tear import FoamTear, prove_foam_tear
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import SatinSewing, run_borders, satin_borders
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

HOLD = 4.0  # mm of a stitch of the loose hold (handbook, section 10)

SETTINGS = (
    *foam_settings("foam_border", "Foam"),
    Setting("foam_border_width", "Width", "Border", "Of the finished satin.", low=3.0, high=10.0, early=True),
    Setting("foam_border_share", "Share outside", "Border", "How much of the width lies off the shape.", unit="%",
            low=0, high=90, step=1, measure="border_share", early=True),
    *satin_settings("foam_border", "border"),
    Setting("foam_border_corner", "Corners", "Border", "Turned round, mitred on the diagonal, or one side lapped "
            "over the other.", kind="choice", unit="", choices=CORNERS, measure="corner"),
)  # fmt: skip


def operations(work: Work, known: Mapping[str, Plain]) -> Sequence[Operation]:
    """Foam laid, loosely held, satin, foam torn away on both sides of it."""
    foam = foam_of(work, known, "foam_border")
    if work.region.is_empty:
        return ()
    sewing = Operation(work.piece, work.name, BORDER, work.region, (FOAM_TACK,) if foam else (), role=BORDER,
                       fills=_border)  # fmt: skip
    if foam is None:
        return (sewing,)
    off = outside(known, "foam_border")
    edge = band(work.region, off, float(known["foam_border_width"]) - off)
    hold = Operation(work.piece, work.name, FOAM_TACK, work.region, ("lay",), role=FOAM_TACK, fills=_hold)
    return (
        laying(work, foam, "tear", over=" over what lies there"),
        hold,
        sewing,
        tearing(work, foam, edge, (BORDER,), also=", inside and outside", counters=False),
    )


def _hold(work: Work, values: Values) -> list[Pass]:
    """A run in the middle of what the border will cover."""
    off, on = sides(values, "foam_border")
    sewn = run_borders(work.region, FOAM_TACK, HOLD, (on - off) / 2)
    return [Pass(FOAM_TACK, "Loose hold, run", work.thread, work.piece, tuple(sewn))] if sewn else []


def _border(work: Work, values: Values) -> Sequence[Pass]:
    off, on = sides(values, "foam_border")
    sewing = SatinSewing(off, on, *satin_values(values, "foam_border"), choice(values, "foam_border_corner"))

    def sew(asked: Work) -> list[Pass]:
        sewn = under_satin(satin_borders(asked.region, BORDER, sewing, asked.start), (BORDER,))
        return [Pass(BORDER, f"Satin on foam {off + on:.1f}", work.thread, work.piece, tuple(sewn))] if sewn else []

    return entered(work, Ends.LOOP, 0.0, sew)


def _proves(found: Sewn, strands: list[Strand]) -> FoamTear:
    return prove_foam_tear(strands, (BORDER,))


def findings(found: Sewn) -> list[Finding]:
    """That some of its corners stay round."""
    work, values = found.work, found.values
    pull, corner = number(values, "foam_border_pull"), choice(values, "foam_border_corner")
    return round_corners(work, work.region, sides(values, "foam_border"), pull, corner)


CONSTRUCTION = Construction(
    "foam_border", "Border on foam", SETTINGS, operations, Family.EDGES, hides=band_of("foam_border"),
    ends=Ends.LOOP, **reaching("foam_border"), shown_on=Sample.BODY, shown_with={"foam_border_width": 3.0},
    proofs=(foam_proof(_proves, hopeless=lambda found: "Make it wider, or round its corners."),), findings=findings,
)  # fmt: skip
