"""Ground panel: a shape in a lightened pattern with a border, for lettering on top (handbook, section 6)."""

from __future__ import annotations

from velamen.core.constructions.base import Pass, Step, Work
from velamen.core.constructions.ground import stitch_settings, stitched
from velamen.core.constructions.plain import plain
from velamen.core.matching.value import Values, choice, number
from velamen.core.materials.records import UNDERLAYS
from velamen.core.setting import Setting
from velamen.core.stitching.border import satin_borders

SETTINGS = (
    *stitch_settings("panel", "Ground"),
    Setting("panel_width", "Width", "Border", "Of the satin round it; 0 for none.", low=0.0, high=8.0),
    Setting("panel_border_spacing", "Spacing", "Border", "Between neighbouring penetrations on one rail.", low=0.15,
            high=3.0, step=0.01, role="ground", measure="satin_spacing"),
    Setting("panel_pull", "Pull, per side", "Border", "Added on either side, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="ground", measure="pull"),
    Setting("panel_underlay", "Underlay", "Border", "Sewn first, under the satin.", kind="choice", unit="",
            choices=UNDERLAYS, role="ground", measure="underlay"),
)  # fmt: skip


def sewing(work: Work, values: Values) -> list[Step]:
    """The ground, then its border half on it."""
    label, strands = stitched("panel", "ground", work.region, work, values)
    built: list[Step] = [Pass("ground", label, work.thread, work.piece, tuple(strands))] if strands else []
    width = number(values, "panel_width")
    if strands and width >= 1.0:
        border = satin_borders(
            work.region, "border", width / 2, width / 2, number(values, "panel_border_spacing"),
            number(values, "panel_pull"), choice(values, "panel_underlay"),
        )  # fmt: skip
        built.append(Pass("border", f"Border, satin {width:.1f}", work.thread, work.piece, tuple(border)))
    return built


CONSTRUCTION = plain("panel", "Ground panel", "ground", SETTINGS, sewing)
