"""Ground panel: a shape in a lightened pattern with a border, for lettering on top (handbook, section 6)."""

from __future__ import annotations

from velamen.core.constructions.base import Work
from velamen.core.constructions.edge import satin_settings, satin_values
from velamen.core.constructions.ground import pressing, stitch_settings, stitched
from velamen.core.constructions.plain import BORDER, GROUND, plain
from velamen.core.setting import Setting
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

LEAST_BORDER = 1.0  # mm; a narrower satin is none

SETTINGS = (
    *stitch_settings("panel", "Ground"),
    Setting("panel_width", "Width", "Border", "Of the satin round it; none under 1 mm.", low=0.0, high=8.0),
    *satin_settings("panel_border", "ground"),
)  # fmt: skip


def flattened(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The ground."""
    return stitched("panel", GROUND, work.region, work, values)


def bordered(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Its border, half on it."""
    width = number(values, "panel_width")
    if width < LEAST_BORDER or work.region.is_empty:
        return "", []
    sewing = SatinSewing(width / 2, width / 2, *satin_values(values, "panel_border"), "auto")
    strands = satin_borders(work.region, BORDER, sewing)
    return f"Border, satin {width:.1f}", strands


CONSTRUCTION = plain(
    "panel", "Ground panel", GROUND, SETTINGS, flattened, then={BORDER: bordered}, effects=pressing,
    over_cloth={"panel_width": 0.0},
    shown_with={"panel_width": 1.6})  # fmt: skip
