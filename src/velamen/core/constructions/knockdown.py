"""Knockdown: a light ground round what it serves, that keeps the pile down (handbook, section 6)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import PATH, Work
from velamen.core.constructions.ground import round_ground, round_settings, stitch_settings, stitched
from velamen.core.constructions.plain import plain
from velamen.core.setting import Plain
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.layers import Area
from velamen.core.values.value import Values

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


CONSTRUCTION = plain("knockdown", "Knockdown", "knockdown", SETTINGS, sewing, ground=ground, under=True, ends=PATH)
