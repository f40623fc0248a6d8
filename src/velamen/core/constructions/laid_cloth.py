"""Cloth laid, held, trimmed and tidied: the roles and hand operations of whatever lays some."""

from __future__ import annotations

import shapely
from shapely import Polygon

from velamen.core.constructions.base import Work
from velamen.core.geometry.region import Area
from velamen.core.memo import kept
from velamen.core.stitching.roles import declare
from velamen.core.timeline.effects import CutsBack
from velamen.core.timeline.operation import Does, Guard, Hand, Operation, Share, When

PLACEMENT = declare("placement", "placement line", dash="2 2.4")
TACK = declare("tack", "tack-down", dash="5 2.4")
SECOND_TACK = declare("second_tack", "second tack-down")

LAY_MARGIN = 10.0  # mm of cloth over the placement line before it is trimmed
LAY_SECONDS = 30.0
TRIM_SECONDS = 60.0
TRIM_SECONDS_PER_CM = 1.0
TIDY_SECONDS = 30.0  # ours: a look all round and a few snips
LIES_OVER = "{what} of {of} cannot come after {owner} is laid: its cloth lies over it."


@kept(2048, lasting=True)
def untrimmed(region: Area) -> Polygon:
    """The piece of cloth as it is laid, before it is trimmed."""
    left, top, right, bottom = region.bounds
    return shapely.box(left - LAY_MARGIN, top - LAY_MARGIN, right + LAY_MARGIN, bottom + LAY_MARGIN)


def lies_over(work: Work) -> Guard:
    """What is sewn of pieces beneath comes before the cloth that lies over them."""
    return Guard(work.region, f"{work.piece}:lay", "", LIES_OVER, beneath=True)


def trimming(work: Work, cloth: Area, needs: str, text: str, when: When = When.SEWING) -> Operation:
    """Trimming to the outline of a cloth. text: what to do, without a full stop; cut-outs are added."""
    edge = float(shapely.length(cloth)) / 10.0
    if any(len(one.interiors) for one in shapely.get_parts(cloth)):
        text += ", the cut-outs too"
    does = Does(Hand.TRIM, f"Trim {work.cloth.name}", text + ".", TRIM_SECONDS + TRIM_SECONDS_PER_CM * edge,
                "appliqué scissors")  # fmt: skip
    return Operation(
        work.piece, work.name, "trim", work.region, (needs,), (CutsBack(work.piece, cloth),), does=does, when=when,
        share=Share(work.cloth.key),
    )  # fmt: skip


def tidying(work: Work) -> Operation:
    """A stop after the second tack-down, so that loose threads can be snipped."""
    text = "Tidy {names}: snip frays and thread ends along the edge."
    does = Does(Hand.TIDY, f"Tidy {work.cloth.name}", text, TIDY_SECONDS, "small scissors")
    return Operation(work.piece, work.name, "tidy", work.region, (SECOND_TACK,), does=does,
                     share=Share(work.cloth.key))  # fmt: skip
