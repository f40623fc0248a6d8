"""Run: a single line along every outline of a shape, or an open line (handbook, section 1)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import THIN, Ends, FoundPart, Sample, SortedAs, Work
from velamen.core.constructions.plain import OUTLINE, plain
from velamen.core.setting import Setting
from velamen.core.stitching.line import sewn_lines
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

SETTINGS = (
    Setting("run_length", "Length", "Line", "Of a stitch; shorter round tight curves.", low=1.0, high=6.0,
            measure="run_length"),
    Setting("run_inset", "Inset", "Line", "How far inside the outline it lies, outside where negative, or beside an "
            "open line.", low=-10.0, high=10.0, measure="line_inset"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A run along every outline."""
    inset, length = number(values, "run_inset"), number(values, "run_length")
    return "Run", sewn_lines(work.region, work.line, inset, "run", length, start=work.start)


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A run found."""
    return {} if part.kind == "run" else None


CONSTRUCTION = plain("run", "Run", OUTLINE, SETTINGS, sewing, lines=True, default_for="line", reads=reads,
                     shown_on=Sample.NEAR,
                     sorted_as=SortedAs("Run along its outline", lambda stroke, short: stroke < THIN),
                     ends=Ends.LOOP, inset=lambda values: number(values, "run_inset"))  # fmt: skip
