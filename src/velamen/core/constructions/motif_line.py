"""Motif line: small figures along an outline or an open line (handbook, section 9)."""

from __future__ import annotations

from velamen.core.constructions.base import Ends, Family, Work
from velamen.core.constructions.motif_settings import GROWN, MOTIF, SEWN, WHICH, figures, sewing, told
from velamen.core.constructions.plain import plain
from velamen.core.setting import Setting
from velamen.core.stitching.border import offset_outlines
from velamen.core.stitching.line import offset_line
from velamen.core.stitching.motif_line import STANDS, LineMotifs, motif_lines
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SETTINGS = (
    *WHICH,
    Setting("motif_stand", "They stand", "Motif", "How a figure lies to the line.", kind="choice", unit="",
            choices=STANDS),
    GROWN,
    Setting("motif_inset", "Inset", "Motif", "How far inside the outline their base line lies, outside where "
            "negative, or beside an open line.", low=-10.0, high=20.0, measure="line_inset"),
    *SEWN,
)  # fmt: skip


def sewn(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Figures along every outline, or the line."""
    inset = number(values, "motif_inset")
    lines = offset_outlines(work.region, inset) if work.line is None else offset_line(work.line, inset)
    motifs = LineMotifs(figures(work, values), number(values, "motif_size"), number(values, "motif_gap"),
                        choice(values, "motif_stand"), number(values, "motif_grown") / 100)  # fmt: skip
    strands = motif_lines(lines, work.line is None, motifs, sewing(values), work.start)
    return f"Motifs, {told(work, values)}", strands


CONSTRUCTION = plain("motif_line", "Motif line", MOTIF, SETTINGS, sewn, lines=True, ends=Ends.LOOP,
                     family=Family.LINES, inset=lambda values: number(values, "motif_inset"),
                     shown_with={"motif_size": 5.0})  # fmt: skip
