"""A made-up construction: a cloth over foam, torn round and slit, with a role, a proof, a fix and a size of its own."""

from __future__ import annotations

from functools import partial

from velamen.core.constructions.base import Construction, Family, Sewn, Work
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Fix, Proof, Proved, Spot
from velamen.core.setting import Setting
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.roles import declare
from velamen.core.timeline.effects import Lays, Slits, TakesAway
from velamen.core.timeline.operation import Cut, Decorated, Does, Guard, Hand, Operation, Share, When
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, number

SEAM = declare("seam", "seam line", dash="1 3")
SETTINGS = (
    Setting("raised_foam", "Foam", "Raised", "What lies under it.", kind="choice", unit="", early=True,
            choices=(("foam_2", "2 mm"), ("foam_3", "3 mm"))),
    Setting("raised_length", "Length", "Raised", "Of a stitch.", low=1.0, high=5.0, role="seam"),
    Setting("raised_inset", "Inset", "Raised", "Of the seam.", low=0.0, high=8.0, grows=True),
)  # fmt: skip
ON_FOAM = "{what} of {of} would be sewn on the foam of {owner}."


def seam(work: Work, values: Values) -> list[Pass]:
    strands = run_borders(work.region, SEAM, number(values, "raised_length"), number(values, "raised_inset"))
    return [Pass(SEAM, "Seam, run", work.thread, work.piece, tuple(strands))]


def operations(work: Work, known):
    foam = work.foams[str(known["raised_foam"])].placed(work.region.buffer(10), work.piece)
    cloth = work.cloth.placed(work.region, work.piece)
    share = Share((work.cloth.key, foam.key))
    step = partial(Operation, work.piece, work.name)
    lay = Does(
        Hand.LAY, f"Lay {foam.name} and {cloth.name}", f"Lay {foam.name}, then {cloth.name}, for {{names}}.", 40.0
    )
    tear = Does(Hand.TEAR_FOAM, f"Tear {foam.name} away", "Tear the foam away round {names}.", 25.0, "tweezers")
    slit = Does(Hand.SLIT, "Slit it", "Slit {names} along the seam.", 15.0, "small scissors")
    closed = Guard(work.region, f"{work.piece}:lay", f"{work.piece}:tear", ON_FOAM, sewn=True)
    return (
        step("lay", work.region, effects=(Lays((foam, cloth, cloth)),), does=lay, share=share, guards=(closed,),
             cut=Cut(work.region, cloth.key)),
        step(SEAM, work.region, ("lay",), role=SEAM, fills=seam, decorated=Decorated.AFTER),
        step("tear", work.region, (SEAM,), (TakesAway("foam", (work.piece,), keeps=work.region),), does=tear, share=share),
        step("slit", work.region, (SEAM,), (Slits(work.piece, "cloth", work.region.buffer(-4)),), does=slit,
             when=When.AFTER),
    )  # fmt: skip


def seam_holds(sewn: Sewn) -> Proved:
    length = number(sewn.values, "raised_length")
    held = length <= 3.0
    found = Finding(
        "seam_open", "warning", sewn.work.piece, f"The seam of {sewn.work.name} is too open.", proof="seam"
    )
    place = sewn.work.region.representative_point()
    return Proved(
        held, "Seam holds" if held else "Seam too open", {"stitch_mm": length}, f"{length:.1f} mm",
        "A seam of up to 3 mm holds.", "" if held else "The foam comes out.", "Sew it closer.",
        () if held else (Spot(place.x, place.y, length, ((place.x, place.y), (place.x + 1, place.y))),),
        () if held else (Fix({"raised_length": 2.5}, "length 2.5", 1.0),), () if held else (found,),
    )  # fmt: skip


def closer(sewn: Sewn):
    yield "Sew the seam closer", {"raised_length": 2.5}


CONSTRUCTION = Construction(
    "raised", "Raised cloth", SETTINGS, operations, Family.CLOTH, materials=frozenset({"cloth"}),
    proofs=(Proof("seam", "Seam", seam_holds, "held: the seam is close", "an open seam"),),
    ways={"seam_open": closer}, rigid=lambda shape: f"{shape.name!r} is raised as large as it is." * shape.name.startswith("fixed"),
)  # fmt: skip
