"""Ground panel: a shape in a lightened pattern with a border, for lettering on top (handbook, section 6)."""

from __future__ import annotations

from velamen.core.constructions.base import Pass, Step, Work
from velamen.core.constructions.edge import satin_settings, satin_values
from velamen.core.constructions.ground import stitch_settings, stitched
from velamen.core.constructions.plain import plain
from velamen.core.setting import Setting
from velamen.core.stitching.border import satin_borders
from velamen.core.values.value import Values, number

SETTINGS = (
    *stitch_settings("panel", "Ground"),
    Setting("panel_width", "Width", "Border", "Of the satin round it; none under 1 mm.", low=0.0, high=8.0),
    *satin_settings("panel_border", "ground"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> list[Step]:
    """The ground, then its border half on it."""
    label, strands = stitched("panel", "ground", work.region, work, values)
    built: list[Step] = [Pass("ground", label, work.thread, work.piece, tuple(strands))] if strands else []
    width = number(values, "panel_width")
    if strands and width >= 1.0:
        border = satin_borders(
            work.region, "border", width / 2, width / 2, *satin_values(values, "panel_border")
        )  # fmt: skip
        built.append(Pass("border", f"Border, satin {width:.1f}", work.thread, work.piece, tuple(border)))
    return built


CONSTRUCTION = plain("panel", "Ground panel", "ground", SETTINGS, sewing)
