"""Crosshatch: two open fills that cross at right angles (handbook, section 6)."""

from __future__ import annotations

import numpy as np

from velamen.core.constructions.base import Ends, Work
from velamen.core.constructions.plain import DECORATION, plain
from velamen.core.setting import Setting
from velamen.core.stitching.open_ground import open_ground
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

SETTINGS = (
    Setting("crosshatch_angle", "Angle", "Rows", "Of the first rows, clockwise from the horizontal.", unit="°",
            low=-180, high=180, step=1, measure="row_angle"),
    Setting("crosshatch_spacing", "Spacing", "Rows", "Between neighbouring rows of one direction.", low=0.5,
            high=10.0, step=0.05, measure="open_spacing"),
    Setting("crosshatch_length", "Length", "Rows", "Of a stitch.", low=1.5, high=10.0, measure="row_length"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Both fills, without underlay, travel along the edge."""
    angle, spacing = float(np.radians(number(values, "crosshatch_angle"))), number(values, "crosshatch_spacing")
    length = number(values, "crosshatch_length")
    sewn = open_ground(work.region, "decoration", "crosshatch", spacing, length, angle, start=work.start)
    return f"Crosshatch {spacing:.1f}", sewn


CONSTRUCTION = plain("crosshatch", "Crosshatch", DECORATION, SETTINGS, sewing, ends=Ends.PATH,
    shown_with={"crosshatch_spacing": 1.6})  # fmt: skip
