"""Contrast border: an even column round a whole design, sewn first, that lifts it off its ground (section 6)."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from velamen.core.constructions.base import Work
from velamen.core.constructions.plain import plain
from velamen.core.following import even_ground
from velamen.core.layering import Area
from velamen.core.matching.value import Values, choice, number
from velamen.core.materials.records import UNDERLAYS
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import satin_borders
from velamen.core.stitching.strand import Strand

SETTINGS = (
    Setting("contrast_width", "Width", "Border", "Of the column.", low=1.0, high=7.0),
    Setting("contrast_margin", "Set out", "Border", "How far it lies off the outermost stitches.", low=0.0, high=6.0),
    Setting("contrast_gap", "Gaps closed", "Border", "Gaps and holes up to this width are closed.", low=0.0,
            high=30.0, measure="ground_gap"),
    Setting("contrast_calm", "Calmness", "Border", "Bumps and notches up to this size are smoothed away.", low=0.0,
            high=20.0, measure="ground_calm"),
    Setting("contrast_spacing", "Spacing", "Border", "Between neighbouring penetrations on one rail.", low=0.15,
            high=3.0, step=0.01, role="border", measure="satin_spacing"),
    Setting("contrast_pull", "Pull, per side", "Border", "Added on either side, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="border", measure="pull"),
    Setting("contrast_underlay", "Underlay", "Border", "Sewn first, under the column.", kind="choice", unit="",
            choices=UNDERLAYS, role="border", measure="underlay"),
)  # fmt: skip


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """What the border runs round."""
    margin, gap, calm = (float(known[f"contrast_{key}"]) for key in ("margin", "gap", "calm"))
    return even_ground(work.sources, margin, gap, calm)


def reach(known: Mapping[str, Plain]) -> float:
    """The column lies outside its region."""
    return float(known["contrast_width"])


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A column along every outline."""
    width = number(values, "contrast_width")
    strands = [
        one for part in shapely.get_parts(work.region)
        for one in satin_borders(part, "border", width, 0.0, number(values, "contrast_spacing"),
                                 number(values, "contrast_pull"), choice(values, "contrast_underlay"))
    ]  # fmt: skip
    return f"Contrast border {width:.1f}", strands


CONSTRUCTION = plain("contrast", "Contrast border", "border", SETTINGS, sewing, ground=ground, reach=reach)
