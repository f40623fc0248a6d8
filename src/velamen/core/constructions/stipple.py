"""Stipple: one line over a shape, meandering without crossing itself, or in loose loops (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.base import Ends, Work
from velamen.core.constructions.plain import DECORATION, plain
from velamen.core.setting import Setting
from velamen.core.stitching.scribble import scribble
from velamen.core.stitching.stipple import stipple
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

KINDS = (("meander", "meander"), ("scribble", "scribble"))

SETTINGS = (
    Setting("stipple_kind", "Line", "Meander", "Meanders without crossing itself, or scribbles in round loops that "
            "overlap.", kind="choice", unit="", choices=KINDS),
    Setting("stipple_spacing", "Spacing", "Meander", "Between neighbouring stretches of the line.", low=0.8,
            high=12.0, measure="open_spacing"),
    Setting("stipple_length", "Length", "Meander", "Of a stitch; shorter round its bends.", low=1.0, high=4.0,
            measure="run_length"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The line."""
    spacing = number(values, "stipple_spacing")
    kind = choice(values, "stipple_kind")
    line = scribble if kind == "scribble" else stipple
    sewn = line(work.region, "decoration", spacing, number(values, "stipple_length"), work.start)
    return f"{'Scribble' if kind == 'scribble' else 'Stipple'} {spacing:.1f}", sewn


CONSTRUCTION = plain("stipple", "Stipple", DECORATION, SETTINGS, sewing, ends=Ends.PATH,
    shown_with={"stipple_spacing": 1.4})  # fmt: skip
