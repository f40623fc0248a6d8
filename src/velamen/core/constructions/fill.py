"""Fill: rows of staggered stitches over a shape, on an underlay (handbook, sections 2 and 13)."""

from __future__ import annotations

import numpy as np

from velamen.core.constructions.base import Work
from velamen.core.constructions.plain import plain
from velamen.core.matching.value import Values, choice, number
from velamen.core.setting import Setting
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.fill import fill, linked
from velamen.core.stitching.stagger import staggers
from velamen.core.stitching.strand import Strand

UNDERLAYS = (("none", "none"), ("edge", "edge run"), ("rows", "open rows"), ("edge_rows", "edge run + open rows"))
EDGE_INSET, EDGE_LENGTH = 0.6, 2.5  # mm of the edge run
OPEN_SPACING, OPEN_LENGTH, OPEN_INSET = 2.5, 4.0, 0.8  # mm of the open rows, sewn across the fill

SETTINGS = (
    Setting("fill_angle", "Angle", "Rows", "Of the rows, clockwise from the horizontal.", unit="°",
            low=-180, high=180, step=1),
    Setting("fill_spacing", "Spacing", "Rows", "Between neighbouring rows.", low=0.2, high=6.0, step=0.01,
            role="decoration", measure="fill_spacing"),
    Setting("fill_length", "Length", "Rows", "Of a stitch.", low=1.5, high=10.0),
    Setting("fill_stagger", "Stagger", "Rows", "How penetrations of neighbouring rows lie beside one another.",
            kind="choice", unit="", choices=tuple((one.key, one.title.lower()) for one in staggers().values())),
    Setting("fill_pull", "Pull, per side", "Rows", "Added at either end of a row, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="decoration", measure="pull"),
    Setting("fill_underlay", "Underlay", "Rows", "Sewn first, under the rows.", kind="choice", unit="",
            choices=UNDERLAYS),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Underlay, then the rows."""
    angle = np.radians(number(values, "fill_angle"))
    spacing, length = number(values, "fill_spacing"), number(values, "fill_length")
    kind = choice(values, "fill_underlay")
    sewn: list[Strand] = []
    if kind in ("edge", "edge_rows"):
        sewn += run_borders(work.region, "underlay", EDGE_LENGTH, EDGE_INSET)
    if kind in ("rows", "edge_rows"):
        across = (angle + np.pi / 2 + np.pi) % (2 * np.pi) - np.pi
        sewn += fill(work.region, "underlay", across, OPEN_SPACING, OPEN_LENGTH, "brick", -OPEN_INSET)
    sewn += fill(work.region, "decoration", angle, spacing, length, choice(values, "fill_stagger"),
                 number(values, "fill_pull"))  # fmt: skip
    return f"Fill {spacing:.2f}", linked(sewn, work.region)


CONSTRUCTION = plain("fill", "Fill", "decoration", SETTINGS, sewing)
