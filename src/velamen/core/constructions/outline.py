"""Outline: one or more rounds at an even distance from a shape, in a line stitch (handbook, section 6)."""

from __future__ import annotations

from velamen.core.constructions.base import Ends, Sample, Work
from velamen.core.constructions.plain import OUTLINE, plain
from velamen.core.setting import Setting
from velamen.core.stitching.line import STITCHES, line_stitch, offset_line, rounds
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SETTINGS = (
    Setting("outline_stitch", "Stitch", "Outline", "What it is sewn in.", kind="choice", unit="", choices=STITCHES),
    Setting("outline_distance", "Distance", "Outline", "Of the first round from the shape, inside where negative.",
            low=-10.0, high=20.0),
    Setting("outline_rounds", "Rounds", "Outline", "How many, one outside the other.", unit="", low=1, high=8,
            step=1),
    Setting("outline_gap", "Gap", "Outline", "Between rounds.", low=0.3, high=10.0),
    Setting("outline_length", "Length", "Outline", "Of a stitch; shorter round tight curves.", low=1.0, high=6.0,
            measure="run_length"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The rounds, the innermost first."""
    first, gap = number(values, "outline_distance"), number(values, "outline_gap")
    stitch, length = choice(values, "outline_stitch"), number(values, "outline_length")
    count, closed = round(number(values, "outline_rounds")), work.line is None
    if work.line is None:
        lines = rounds(work.region, first, gap, count)
    else:
        beside = [offset_line(work.line, -(first + nth * gap)) for nth in range(count)]
        lines = [line for parts in beside for line in parts]
    start, sewn = work.start, list[Strand]()
    for line in lines:
        sewn += line_stitch([line], closed, stitch, OUTLINE, length, start=start)
        if sewn and closed:  # the next round begins beside where this one ends
            start = float(sewn[-1].xy[-1, 0]), float(sewn[-1].xy[-1, 1])
    return f"Outline {dict(STITCHES)[stitch]}", sewn


CONSTRUCTION = plain("outline", "Outline", OUTLINE, SETTINGS, sewing, lines=True, ends=Ends.LOOP,
                     inset=lambda values: -number(values, "outline_distance"),
    shown_on=Sample.OVAL, shown_with={"outline_rounds": 2.0, "outline_distance": -1.2})  # fmt: skip
