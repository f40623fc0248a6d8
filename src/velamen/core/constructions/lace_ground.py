"""Lace ground: a net with two border rounds under a whole design, so that it holds without cloth (section 9)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from velamen.core.artwork.framed import FORMS, framed
from velamen.core.constructions.base import Around, Ends, PlainParts, Sample, Thread, Work
from velamen.core.constructions.net import NET, NET_BORDER
from velamen.core.constructions.plain import plain
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area, grown
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.net import INSIDE, net
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

NOMINAL = 4.0  # mm that it is taken to reach before it has values
BORDER_ROUNDS = 2
OWN = "own"
OUTLINES = ((OWN, "as it is drawn"), *FORMS)

SETTINGS = (
    Setting("lace_outline", "Outline", "Outline", "Its shape as it is drawn, a calm line round the design, or the "
            "smallest of these that holds it.", kind="choice", unit="", choices=OUTLINES),
    Setting("lace_margin", "Margin", "Outline", "From the outermost stitches of the design.", low=0.0, high=40.0,
            needs=("lace_outline", "|".join(key for key, _ in FORMS))),
    Setting("lace_gap", "Gaps closed", "Outline", "Gaps up to this width are closed; as wide as it takes for one "
            "outline.", low=0.0, high=60.0, needs=("lace_outline", "calm")),
    Setting("lace_calm", "Calmness", "Outline", "Bumps and notches up to this size are smoothed away.", low=0.0,
            high=20.0, needs=("lace_outline", "calm")),
    Setting("lace_cell", "Cell", "Net", "Between neighbouring lines, in both directions.", low=1.5, high=12.0),
    Setting("lace_angle", "Angle", "Net", "Of the lines one way, clockwise from the horizontal.", unit="°", low=-90,
            high=90, step=1),
    Setting("lace_length", "Length", "Net", "Of a stitch, at most.", low=1.0, high=4.0),
)  # fmt: skip


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """Its shape as it is drawn, or an outline round the design."""
    form = str(known["lace_outline"])
    if form == OWN:
        return work.sources[0] if len(work.sources) == 1 else joined(work.sources)
    return framed(work.sources, form, *(float(known[f"lace_{key}"]) for key in ("margin", "gap", "calm")))


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The net and its border rounds, in one thread."""
    cell, angle = number(values, "lace_cell"), float(np.radians(number(values, "lace_angle")))
    length = number(values, "lace_length")
    sewn = [one for part in shapely.get_parts(work.region) if not part.is_empty
            for one in net(part, (NET, NET_BORDER), cell, angle, length, BORDER_ROUNDS, work.start)]  # fmt: skip
    return f"Lace ground {cell:.1f}", sewn


def apart(known: Mapping[str, Plain]) -> tuple[PlainParts, PlainParts]:
    """The net, and its two border rounds."""
    bare: dict[str, Plain] = {f"net_{key}": known[f"lace_{key}"] for key in ("cell", "angle", "length")}
    return (("net", {**bare, "net_border": 0.0}), ("run", {"run_inset": INSIDE}), ("run", {"run_inset": 0.0})), ()


CONSTRUCTION = plain(
    "lace_ground", "Lace ground", NET, SETTINGS, sewing, ends=Ends.BACK, apart=apart,
    around=Around(ground, lambda sources: grown(sources, NOMINAL, 8), first=True, thread=Thread.FIRST,
                  frozen={"lace_outline": OWN},
                  told="A net with two border rounds, sewn first, that holds the design together without cloth"),
    shown_on=Sample.BODY, shown_with={"lace_outline": OWN, "lace_cell": 2.0})  # fmt: skip
