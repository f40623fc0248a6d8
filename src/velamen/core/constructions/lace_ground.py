"""Lace ground: a net with two border rounds under a whole design, so that it holds without cloth (section 9)."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import chain

import shapely

from velamen.core.constructions.base import Around, Ends, PlainParts, Sample, Thread, Work
from velamen.core.constructions.framing import OUTLINES, OWN, ROUND, ground_of
from velamen.core.constructions.net import NET, NET_BORDER, net_settings, nets
from velamen.core.constructions.plain import plain
from velamen.core.geometry.region import Area, grown
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.line import sewn_lines
from velamen.core.stitching.net import INSIDE
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

NOMINAL = 4.0  # mm that it is taken to reach before it has values
BORDER_ROUNDS = 2
ONE, EACH = "one", "each"
PARTS = ((ONE, "in one thread"), (EACH, "net, then border rounds"))

SETTINGS = (
    Setting("lace_outline", "Outline", "Outline", "Its shape as it is drawn, a calm line round the design, or the "
            "smallest of these that holds it.", kind="choice", unit="", choices=OUTLINES),
    Setting("lace_margin", "Margin", "Outline", "From the outermost stitches of the design.", low=0.0, high=40.0,
            needs=("lace_outline", ROUND)),
    Setting("lace_gap", "Gaps closed", "Outline", "Gaps up to this width are closed; as wide as it takes for one "
            "outline.", low=0.0, high=60.0, needs=("lace_outline", "calm")),
    Setting("lace_calm", "Calmness", "Outline", "Bumps and notches up to this size are smoothed away.", low=0.0,
            high=20.0, needs=("lace_outline", "calm")),
    *net_settings("lace"),
    Setting("lace_parts", "Sewn", "Net", "Net and border rounds in one thread, or the rounds after the net, in a "
            "thread of their own where wanted.", kind="choice", unit="", choices=PARTS),
)  # fmt: skip


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """Its shape as it is drawn, or an outline round the design."""
    return ground_of(work, known, "lace")


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The net and its border rounds, in one thread."""
    border = BORDER_ROUNDS if choice(values, "lace_parts") == ONE else 0
    return f"Lace ground {number(values, 'lace_cell'):.1f}", nets(work, values, "lace", border)


def rounds(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The border rounds, where they are sewn after the net."""
    if choice(values, "lace_parts") == ONE:
        return "", []
    length, parts = number(values, "lace_length"), shapely.get_parts(work.region)
    found = [sewn_lines(part, None, inset, "run", length, start=work.start)
             for part in parts for inset in (INSIDE, 0.0)]  # fmt: skip
    return "Border rounds", list(chain(*found))


def apart(known: Mapping[str, Plain]) -> tuple[PlainParts, PlainParts]:
    """The net, and its two border rounds."""
    bare: dict[str, Plain] = {f"net_{key}": known[f"lace_{key}"] for key in ("cell", "course", "angle", "length")}
    return (("net", {**bare, "net_border": 0.0}), ("run", {"run_inset": INSIDE}), ("run", {"run_inset": 0.0})), ()


CONSTRUCTION = plain(
    "lace_ground", "Lace ground", NET, SETTINGS, sewing, ends=Ends.BACK, apart=apart, then={NET_BORDER: rounds},
    around=Around(ground, lambda sources: grown(sources, NOMINAL, 8), first=True, thread=Thread.FIRST,
                  frozen={"lace_outline": OWN},
                  told="A net with two border rounds, sewn first, that holds the design together without cloth"),
    holds_lace=True, shown_on=Sample.BODY, shown_with={"lace_outline": OWN, "lace_cell": 2.0})  # fmt: skip
