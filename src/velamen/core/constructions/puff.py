"""Puff: raised satin over foam that its needle points cut at every edge, so that the rest tears away (section 10)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from itertools import chain

import numpy as np
import shapely
from msgspec.structs import replace
from shapely import Polygon

from velamen.core.constructions.base import Construction, Family, Sample, Sewn, Work
from velamen.core.constructions.column import COLUMN
from velamen.core.materials.records import UNDERLAYS
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.foam_tear import FoamTear, foam_edge, prove_foam_tear
from velamen.core.proofs.proved import Fix, Proof, Proved, Spot
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.column import columns, widths
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.fill import linked
from velamen.core.stitching.foam_caps import foam_cap, room_of
from velamen.core.stitching.roles import declare
from velamen.core.stitching.strand import Strand, strand
from velamen.core.timeline.effects import Lays, TakesAway
from velamen.core.timeline.layers import FOAM
from velamen.core.timeline.operation import Does, Guard, Hand, Operation, Share
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

CAP = declare("cap", "cap")
CUTTING = COLUMN, CAP  # roles of the zigzags that cut foam
AROUND = 8.0  # mm that a sheet of foam reaches past the shape
ROUNDS = 2  # in which caps are put where foam stays uncut
LAY_SECONDS, TEAR_SECONDS = 20.0, 45.0  # ours
NARROW, WIDE, WIDEST = 3.0, 10.0, 12.0  # mm across a stroke: thread sinks, flattens, cannot be sewn (handbook, 10)
CAPPED = "capped"
ENDS = ((CAPPED, "with caps"), ("flat", "without caps"))
ON_FOAM = "{what} of {of} would be sewn on the foam of {owner}: sew it before the foam is laid, or after it is torn."

SETTINGS = (
    Setting("puff_foam", "Sheet", "Foam", "Laid before it is sewn, torn away after.", kind="foam", unit="",
            early=True),
    Setting("puff_spacing", "Spacing", "Puff", "Between neighbouring penetrations on one rail.", low=0.12, high=1.0,
            step=0.01, role="column", measure="satin_spacing"),
    Setting("puff_pull", "Pull, per side", "Puff", "Added on either side, as stitches draw the fabric in.", low=0.0,
            high=1.0, step=0.01, role="column", measure="pull"),
    Setting("puff_ends", "Open ends", "Puff", "A short satin across each open end, sewn first, cuts the foam there.",
            kind="choice", unit="", choices=ENDS),
    Setting("puff_underlay", "Underlay", "Puff", "Sewn first, under the satin.", kind="choice", unit="",
            choices=UNDERLAYS, role="column", measure="underlay"),
)  # fmt: skip


def satin(work: Work, values: Values) -> list[Pass]:
    """Every stroke in undivided satin, caps before the columns that cover them."""
    asked = Sewing(
        COLUMN, number(values, "puff_spacing"), number(values, "puff_pull"), 0.0, choice(values, "puff_ends"),
        choice(values, "puff_underlay"), "none", WIDEST,
    )  # fmt: skip
    parts = [part for part in shapely.get_parts(work.region) if not part.is_empty]
    strands = list(chain(*(_capped_columns(part, asked, work) for part in parts)))
    return [Pass(COLUMN, f"Puff {asked.spacing:.2f}", work.thread, work.piece, tuple(strands))] if strands else []


def _capped_columns(region: Polygon, asked: Sewing, work: Work) -> list[Strand]:
    """Columns, and before them caps at what they still leave uncut, in one thread inside the shape."""
    sewn = columns(region, asked, work.directions, work.start)
    caps: list[Strand] = []
    for _ in range(ROUNDS if asked.ends == CAPPED and sewn else 0):
        edge = foam_edge([*caps, *sewn], CUTTING)
        if not edge.uncut:
            break
        room = room_of(edge.covered)
        caps += [strand(foam_cap(np.array(one.line), room), CAP) for one in edge.uncut]
    return linked([*caps, *sewn], region) if caps else sewn


def operations(work: Work, known: Mapping[str, Plain]) -> Sequence[Operation]:
    """Foam laid, satin, foam torn away round it."""
    step = partial(Operation, work.piece, work.name)
    foam = work.foams.get(str(known["puff_foam"]))
    sewing = step(COLUMN, work.region, role=COLUMN, fills=satin)
    if foam is None or not foam.thickness:
        return (sewing,)
    laid = foam.placed(shapely.buffer(work.region, AROUND), work.piece)
    lay = Does(Hand.LAY, f"Lay {foam.name}", f"Lay {foam.name} over {{names}} and hold it flat.", LAY_SECONDS)
    tear = Does(Hand.TEAR_FOAM, f"Tear the {foam.name} away", f"Tear the {foam.name} away round {{names}} and "
                "out of counters; a hot-air tool shrinks what whiskers stay.", TEAR_SECONDS, "tweezers")  # fmt: skip
    closed = Guard(laid.region or work.region, f"{work.piece}:lay", f"{work.piece}:tear", ON_FOAM, sewn=True)
    share = Share((FOAM, foam.key), sheet=True)
    return (
        step("lay", work.region, effects=(Lays((laid,)),), does=lay, share=share, guards=(closed,)),
        step(COLUMN, work.region, ("lay",), role=COLUMN, fills=satin),
        step("tear", work.region, (COLUMN,), (TakesAway(FOAM, (work.piece,), keeps=work.region),), does=tear,
             share=Share((FOAM, foam.key))),
    )  # fmt: skip


def tears(found: Sewn) -> Proved | None:
    """Whether the foam tears clean all round."""
    strands = [strand for one in found.passes for strand in one.strands]
    if not any(one.part == "lay" for one in found.operations):
        return None
    proof = prove_foam_tear(strands, CUTTING)
    if proof.held:
        return Proved(
            True, "Foam tears clean", _row(proof), about=f"{proof.edge:.0f} mm of edge, needle-cut all along"
        )
    told = " ".join(_told(proof))
    every = (*proof.uncut, *proof.over)
    name, place = found.work.name, tuple(one.at for one in every)
    code = "foam_uncut" if proof.uncut else "foam_crossed"
    finding = Finding(code, "warning", found.work.piece, f"{name}: {told}", place, proof="foam_tear")
    spots = tuple(Spot(*one.at, one.length, one.line) for one in every)
    return Proved(False, "Foam does not tear clean", _row(proof), fails=told, spots=spots,
                  fixes=_capped(found, proof), hopeless="Make its ends bolder, or sew it larger.",
                  findings=(finding,))  # fmt: skip


def _told(proof: FoamTear) -> list[str]:
    told = []
    if proof.uncut:
        many = (
            f"{len(proof.uncut)} stretches of foam edge are" if len(proof.uncut) > 1 else "A stretch of foam edge is"
        )
        told.append(f"{many} not cut, up to {proof.uncut[0].length:.1f} mm: the foam tears ragged there.")
    if proof.over:
        told.append(f"{sum(one.length for one in proof.over):.1f} mm of thread lie across foam that is torn away.")
    return told


def _capped(found: Sewn, proof: FoamTear) -> tuple[Fix, ...]:
    """Caps at open ends where there are none, built and proved."""
    ends = found.values["puff_ends"]
    if ends.value == CAPPED:
        return ()
    after = satin(found.work, {**found.values, "puff_ends": replace(ends, value=CAPPED)})
    proved = prove_foam_tear([strand for one in after for strand in one.strands], CUTTING)
    if len(proved.uncut) >= len(proof.uncut) or len(proved.over) > len(proof.over):
        return ()
    left = sum(one.length for one in proved.uncut)
    return (Fix({"puff_ends": CAPPED}, "caps at open ends", 1.0 - left / max(proved.edge, 1e-9)),)


def _row(proof: FoamTear) -> dict[str, object]:
    found = {"uncut": proof.uncut, "over_foam": proof.over}
    return {key: [{"at": list(one.at), "length_mm": one.length} for one in every] for key, every in found.items()}


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
    proofs=(Proof("foam_tear", "Foam tear", tears, "foam edge that the needle cuts", "foam edge that stays uncut",
                  joined=True),),
)  # fmt: skip
