"""Knockdown: a light ground round what it serves, that keeps the pile down (handbook, section 6)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import Around, Ends, Sample, Work
from velamen.core.constructions.ground import (
    frozen_values,
    pressing,
    round_ground,
    round_settings,
    stitch_settings,
    stitched,
)
from velamen.core.constructions.plain import plain
from velamen.core.geometry.region import Area, grown
from velamen.core.setting import Plain
from velamen.core.stitching.roles import declare
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values

NOMINAL = 3.0  # mm (handbook, section 6: 2.5 to 4 on towel and fleece)

SETTINGS = (
    *round_settings("knockdown", "Even, beyond the outermost stitches of what it serves.", 12.0),
    *stitch_settings("knockdown", "Ground"),
)


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """An even outline round the pieces it serves."""
    return round_ground("knockdown", work, known)


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The ground, without underlay, travel along its edge."""
    return stitched("knockdown", "knockdown", work.region, work, values)


KNOCKDOWN = declare("knockdown", "knockdown")
CONSTRUCTION = plain(
    "knockdown", "Knockdown", KNOCKDOWN, SETTINGS, sewing, ends=Ends.PATH, effects=pressing,
    around=Around(ground, lambda sources: grown(sources, NOMINAL, 8), first=True, frozen=frozen_values("knockdown")),
    shown_on=Sample.BODY, shown_with={"knockdown_spacing": 1.6, "knockdown_margin": 0.5})  # fmt: skip
