"""Stem: slanted stitches that overlap, a jagged line (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.base import Ends, Sample, Work
from velamen.core.constructions.plain import OUTLINE, plain
from velamen.core.setting import Setting
from velamen.core.stitching.line import sewn_lines
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

SETTINGS = (
    Setting("stem_length", "Length", "Line", "That a stitch takes along the line; each begins beside the middle of "
            "the one before.", low=1.0, high=8.0, measure="run_length"),
    Setting("stem_width", "Width", "Line", "From side to side.", low=0.3, high=3.0),
    Setting("stem_inset", "Inset", "Line", "How far inside the outline it lies, outside where negative, or beside an "
            "open line.", low=-10.0, high=10.0, measure="line_inset"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A stem stitch along every outline."""
    inset, length, width = (number(values, f"stem_{key}") for key in ("inset", "length", "width"))
    return f"Stem {width:.1f}", sewn_lines(
        work.region, work.line, inset, "stem", length, width=width, start=work.start
    )


CONSTRUCTION = plain("stem", "Stem", OUTLINE, SETTINGS, sewing, lines=True, shown_on=Sample.NEAR, ends=Ends.LOOP,
                     inset=lambda values: number(values, "stem_inset"))  # fmt: skip
