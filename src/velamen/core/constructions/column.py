"""Column: satin along the strokes of a shape, split, capped and underlaid (handbook, section 13)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import (
    MOST_GUIDES,
    THIN,
    WIDE_STROKE,
    Ends,
    FoundPart,
    Sample,
    Sewn,
    SortedAs,
    Work,
)
from velamen.core.constructions.plain import all_hidden, plain
from velamen.core.geometry.region import spot_in
from velamen.core.materials.records import UNDERLAYS
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Setting
from velamen.core.stitching.column import WIDE, columns, for_a_fill
from velamen.core.stitching.column_thread import ENDS, Sewing
from velamen.core.stitching.drawn_rails import drawn_column
from velamen.core.stitching.roles import declare
from velamen.core.stitching.split import SPLITS
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

COLUMN = declare("column", "column")

SETTINGS = (
    Setting("column_spacing", "Spacing", "Column", "Between neighbouring penetrations on one rail.", low=0.15,
            high=4.0, step=0.01, role="column", measure="satin_spacing"),
    Setting("column_pull", "Pull, per side", "Column", "Added on either side, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="column", measure="pull"),
    Setting("column_push", "Push, per end", "Column", "Left off at a free end, as rows spread the column longer.",
            low=0.0, high=1.0, step=0.01),
    Setting("column_ends", "Ends", "Column", "Of free ends: as the shape ends, run to a point, or with a short satin "
            "across under it.", kind="choice", unit="", choices=ENDS),
    Setting("column_split", "Split", "Column", "Where long stitches are divided; drawn lines are the shape's guide "
            "lines.", kind="choice", unit="", choices=SPLITS),
    Setting("column_longest", "Longest stitch", "Column", "A longer one is divided.", low=3.0, high=12.0,
            needs=("column_split", "limit")),
    Setting("column_underlay", "Underlay", "Column", "Sewn first, under the satin.", kind="choice", unit="",
            choices=UNDERLAYS, role="column", measure="underlay"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """All strokes of the shape; stitches lie along its direction lines."""
    asked = Sewing(
        "column", number(values, "column_spacing"), number(values, "column_pull"), number(values, "column_push"),
        choice(values, "column_ends"), choice(values, "column_underlay"), choice(values, "column_split"),
        number(values, "column_longest"), work.guides,
    )  # fmt: skip
    if work.rails:
        return f"Column {asked.spacing:.2f}", drawn_column((work.rails[0], work.rails[1]), asked)
    return f"Column {asked.spacing:.2f}", columns(work.region, asked, work.directions, work.start)


def findings(sewn: Sewn) -> list[Finding]:
    """That most of a shape is wider than a column should be."""
    work = sewn.work
    if work.rails or not for_a_fill(work.region):
        return []
    return [Finding(
        "column_wide", "info", work.piece,
        f"Most of {work.name} is over {2 * WIDE:g} mm wide: columns are for strokes. Sew it as a fill.",
        spot_in(work.region), instead="fill",
    )]  # fmt: skip


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A satin found, over all it covers."""
    if part.kind not in ("satin", "zigzag") or part.way != "outline":
        return None
    return {"column_spacing": part.spacing, "column_pull": 0.0, "column_push": 0.0}


CONSTRUCTION = plain(
    "column",
    "Column",
    COLUMN,
    SETTINGS,
    sewing,
    hides=all_hidden,
    ends=Ends.BACK,
    shown_on=Sample.STROKE,
    findings=findings,
    guides=MOST_GUIDES,
    reads=reads,
    sorted_as=SortedAs("Column", lambda stroke, short: THIN <= stroke < WIDE_STROKE),
)
