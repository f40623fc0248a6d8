"""Bean: a bold line, every stitch sewn three, five or seven times (handbook, section 1)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import Ends, FoundPart, Sample, Work
from velamen.core.constructions.plain import OUTLINE, plain
from velamen.core.setting import Setting
from velamen.core.stitching.line import sewn_lines
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SETTINGS = (
    Setting("bean_length", "Length", "Line", "Of a stitch; shorter round tight curves.", low=1.0, high=6.0,
            measure="run_length"),
    Setting("bean_repeats", "Times", "Line", "How often each stitch is sewn.", kind="choice", unit="",
            choices=(("3", "3"), ("5", "5"), ("7", "7"))),
    Setting("bean_inset", "Inset", "Line", "How far inside the outline it lies, outside where negative, or beside an "
            "open line.", low=-10.0, high=10.0, measure="line_inset"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A bean line along every outline."""
    inset, length, times = (
        number(values, "bean_inset"),
        number(values, "bean_length"),
        int(choice(values, "bean_repeats")),
    )
    return f"Bean {times}", sewn_lines(work.region, work.line, inset, "bean", length, times=times, start=work.start)


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A bean found."""
    return {} if part.kind == "bean" else None


CONSTRUCTION = plain("bean", "Bean", OUTLINE, SETTINGS, sewing, lines=True, reads=reads, ends=Ends.LOOP,
                     shown_on=Sample.NEAR, inset=lambda values: number(values, "bean_inset"))  # fmt: skip
