"""Foam as it is laid and torn away by hand, for whatever is sewn on it (handbook, section 10)."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from velamen.core.constructions.base import Work
from velamen.core.geometry.region import Area
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.roles import declare
from velamen.core.timeline.effects import Lays, TakesAway
from velamen.core.timeline.layers import FOAM, Layer
from velamen.core.timeline.operation import Does, Guard, Hand, Operation, Share

FOAM_TACK = declare("foam_tack", "loose hold", dash="5 2.4")
AROUND, ROUGH = 8.0, 0.2  # mm that a sheet of foam reaches past what is sewn on it, and how nearly it follows that
LAY_SECONDS, TEAR_SECONDS = 20.0, 45.0  # ours
NUMBERS = {1: "", 2: "two sheets of "}  # of sheets, in words
ON_FOAM = "{what} of {of} would be sewn on the foam of {owner}: sew it before the foam is laid, or after it is torn."


def foam_settings(name: str, group: str) -> tuple[Setting, Setting]:
    """Which foam, and how many sheets of it, under the keys of a construction."""
    return (
        Setting(f"{name}_foam", "Sheet", group, "Laid before it is sewn, torn away after.", kind="foam", unit="",
                early=True),
        Setting(f"{name}_sheets", "Sheets", group, "How many lie on one another.", unit="", low=1,
                high=max(NUMBERS), step=1, early=True),
    )  # fmt: skip


def foam_of(work: Work, known: Mapping[str, Plain], name: str) -> tuple[Layer, int] | None:
    """The foam that a piece lays and the number of sheets; None where it is sewn without."""
    foam = work.foams.get(str(known[f"{name}_foam"]))
    return (foam, round(float(known[f"{name}_sheets"]))) if foam is not None and foam.thickness else None


def laying(
    work: Work,
    foam: tuple[Layer, int],
    tears: str,
    needs: tuple[str, ...] = (),
    part: str = "lay",
    hold: str = "",
    over: str = "",
) -> Operation:
    """Foam laid over a piece. tears: the part that takes it away again; hold: what keeps it there, over: over what
    the foot is raised, in words."""
    layer, sheets = foam
    sheet = shapely.buffer(shapely.simplify(work.region, ROUGH), AROUND, quad_segs=4)
    laid = layer.placed(sheet, work.piece)
    closed = Guard(laid.region or work.region, f"{work.piece}:{part}", f"{work.piece}:{tears}", ON_FOAM, sewn=True)
    what, high = f"{NUMBERS[sheets]}{layer.name}", sheets * layer.thickness
    text = f"Raise the presser foot by {high:.1f} mm{over}. Lay {what} over {{names}} and {hold or 'hold it flat'}."
    does = Does(Hand.LAY, f"Lay {what}", text, LAY_SECONDS)
    share = Share((FOAM, layer.key, sheets), sheet=True, neighbours=True)
    return Operation(work.piece, work.name, part, work.region, needs, (Lays((laid,) * sheets),), does=does,
                     share=share, guards=(closed,))  # fmt: skip


def tearing(
    work: Work,
    foam: tuple[Layer, int],
    keeps: Area,
    needs: tuple[str, ...],
    part: str = "tear",
    also: str = "",
    counters: bool = True,
    stays: bool = False,
) -> Operation:
    """Foam torn away but where stitches hold it. also: what else is torn out, in words;
    counters: whether holes of its shape are counters; stays: whether foam is left that more is sewn on."""
    layer, sheets = foam
    back = "" if stays else " Set the presser foot back."
    text = (f"Tear the {layer.name} away round {{names}}{also}{{holed}}; a hot-air tool shrinks what whiskers stay."
            f"{back}")  # fmt: skip
    does = Does(Hand.TEAR_FOAM, f"Tear the {layer.name} away", text, TEAR_SECONDS, "tweezers",
                holed=" and out of the counters of {holed}" if counters else "")  # fmt: skip
    return Operation(work.piece, work.name, part, work.region, needs,
                     (TakesAway(FOAM, (work.piece,), keeps=keeps),), does=does,
                     share=Share((FOAM, layer.key, sheets), sheet=True))  # fmt: skip
