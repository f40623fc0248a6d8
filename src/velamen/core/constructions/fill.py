"""Fill: rows of staggered stitches over a shape, on an underlay (handbook, sections 2 and 13)."""

from __future__ import annotations

import numpy as np

from velamen.core.constructions.base import Ends, Work
from velamen.core.constructions.plain import DECORATION, all_hidden, plain
from velamen.core.setting import Setting
from velamen.core.stitching.area_underlay import UNDERLAYS, area_underlay
from velamen.core.stitching.fill import COVERS, FillSewing, fill, linked
from velamen.core.stitching.stagger import staggers
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number, switch

SETTINGS = (
    Setting("fill_angle", "Angle", "Rows", "Of the rows, clockwise from the horizontal; a guide line drawn on the "
            "shape outranks it.", unit="°", low=-180, high=180, step=1, measure="row_angle"),
    Setting("fill_spacing", "Spacing", "Rows", "Between neighbouring rows.", low=0.2, high=6.0, step=0.01,
            role="decoration", measure="fill_spacing"),
    Setting("fill_spacing_end", "Spacing at the far side", "Rows", "Where it differs, rows grow or close up evenly "
            "from one side to the other.", low=0.2, high=6.0, step=0.01),
    Setting("fill_length", "Length", "Rows", "Of a stitch.", low=1.5, high=10.0, measure="row_length"),
    Setting("fill_stagger", "Stagger", "Rows", "How penetrations of neighbouring rows lie beside one another.",
            kind="choice", unit="", choices=tuple((one.key, one.title.lower()) for one in staggers().values()),
            measure="stagger"),
    Setting("fill_pull", "Pull, per side", "Rows", "Added at either end of a row, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="decoration", measure="pull"),
    Setting("fill_edge_travel", "Travel along the edge", "Rows", "Between parts of the fill, rather than under its "
            "rows.", kind="switch", unit=""),
    Setting("fill_underlay", "Underlay", "Rows", "Sewn first, under the rows.", kind="choice", unit="",
            choices=UNDERLAYS, measure="area_underlay"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Underlay, then the rows."""
    angle = float(np.radians(number(values, "fill_angle")))
    spacing, last = number(values, "fill_spacing"), number(values, "fill_spacing_end")
    sewn = area_underlay(work.region, choice(values, "fill_underlay"), angle)
    along = switch(values, "fill_edge_travel")
    rows = FillSewing(
        angle, spacing, number(values, "fill_length"), choice(values, "fill_stagger"), number(values, "fill_pull"),
        last, work.guides[-1] if work.guides else None, along, covers=not along and max(spacing, last) <= COVERS,
    )  # fmt: skip
    if rows.covers or work.end is None:
        sewn += fill(work.region, DECORATION, rows, work.start, work.end)
    else:
        back = fill(work.region, DECORATION, rows, work.end)
        sewn += [one.back() for one in back[::-1]]
    shown = f"{spacing:.2f}" if last == spacing else f"{spacing:.2f} to {last:.2f}"
    return f"Fill {shown}", linked(sewn, work.region)


CONSTRUCTION = plain("fill", "Fill", DECORATION, SETTINGS, sewing, hides=all_hidden, ends=Ends.OWN,
    shown_with={"fill_underlay": "none"})  # fmt: skip
