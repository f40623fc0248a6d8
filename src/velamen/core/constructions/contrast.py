"""Contrast border: an even column round a whole design, sewn first, that lifts it off its ground (section 6)."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from velamen.core.constructions.base import Around, Ends, Sample, Thread, Work
from velamen.core.constructions.edge import satin_settings, satin_values
from velamen.core.constructions.ground import frozen_values, round_ground, round_settings
from velamen.core.constructions.plain import BORDER, plain
from velamen.core.geometry.region import Area
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

SETTINGS = (
    Setting("contrast_width", "Width", "Border", "Of the column.", low=1.0, high=7.0),
    *round_settings("contrast", "How far it is set out from the outermost stitches.", 6.0),
    *satin_settings("contrast", "border"),
)  # fmt: skip


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """What the border runs round."""
    return round_ground("contrast", work, known)


def beyond(known: Mapping[str, Plain]) -> float:
    """The column lies outside its region."""
    return float(known["contrast_width"])


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A column along every outline."""
    width = number(values, "contrast_width")
    strands = [
        one for part in shapely.get_parts(work.region)
        for one in satin_borders(part, BORDER, SatinSewing(width, 0.0, *satin_values(values, "contrast")), work.start)
    ]  # fmt: skip
    return f"Contrast border {width:.1f}", strands


CONSTRUCTION = plain(
    "contrast", "Contrast border", BORDER, SETTINGS, sewing, ends=Ends.LOOP, beyond=beyond,
    around=Around(ground, first=True, thread=Thread.FIRST, frozen=frozen_values("contrast")),
    shown_on=Sample.BODY, shown_with={"contrast_width": 2.0})  # fmt: skip
