"""Motif column: small figures between the two sides of a stroke (handbook, section 9)."""

from __future__ import annotations

from dataclasses import replace
from itertools import chain

import shapely

from velamen.core.constructions.base import Sample, Work
from velamen.core.constructions.motif_settings import MOTIF, ROW_GAP, SEWN, WHICH, figures, sewing, told
from velamen.core.constructions.plain import plain
from velamen.core.setting import Setting
from velamen.core.stitching.motif_column import FITS, ROWS, ColumnMotifs, motif_columns
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

FIRST, SECOND, SIZE, GAP = WHICH
FIT = Setting("motif_fit", "They fit", "Motif", "Whether figures are as high as the column is wide, or of one size "
              "in as many rows as have room.", kind="choice", unit="", choices=FITS)  # fmt: skip

SETTINGS = (
    FIRST,
    SECOND,
    FIT,
    replace(SIZE, needs=("motif_fit", ROWS)),
    GAP,
    replace(ROW_GAP, needs=("motif_fit", ROWS)),
    *SEWN,
)  # fmt: skip


def sewn(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Figures along every stroke."""
    motifs = ColumnMotifs(figures(work, values), number(values, "motif_size"), number(values, "motif_gap"),
                          number(values, "motif_row_gap"), choice(values, "motif_fit"))  # fmt: skip
    strands = [motif_columns(part, motifs, sewing(values), work.directions, work.start)
               for part in shapely.get_parts(work.region) if not part.is_empty]  # fmt: skip
    return f"Motif column, {told(work, values)}", list(chain(*strands))


CONSTRUCTION = plain("motif_column", "Motif column", MOTIF, SETTINGS, sewn, shown_on=Sample.STROKE)
