"""Crosshatch: two open fills that cross at right angles (handbook, section 6)."""

from __future__ import annotations

import numpy as np

from velamen.core.constructions.base import PATH, Work
from velamen.core.constructions.plain import plain
from velamen.core.matching.value import Values, number
from velamen.core.setting import Setting
from velamen.core.stitching.fill import fill, linked
from velamen.core.stitching.strand import Strand

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
    sewn: list[Strand] = []
    for turn in (angle, (angle + 1.5 * np.pi) % (2 * np.pi) - np.pi):
        sewn += fill(work.region, "decoration", turn, spacing, number(values, "crosshatch_length"), "brick",
                     start=work.start, edge=True)  # fmt: skip
    return f"Crosshatch {spacing:.1f}", linked(sewn, work.region)


CONSTRUCTION = plain("crosshatch", "Crosshatch", "decoration", SETTINGS, sewing, ends=PATH)
