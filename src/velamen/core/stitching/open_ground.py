"""Open grounds that flatten pile: light stitching over an area, travel along its edge, nothing under it."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.geometry.region import Area
from velamen.core.stitching.contour import contour
from velamen.core.stitching.cross import cross_stitch
from velamen.core.stitching.fill import FillSewing, open_fill
from velamen.core.stitching.scribble import scribble
from velamen.core.stitching.stipple import stipple
from velamen.core.stitching.strand import Strand

STITCHES = (
    ("crosshatch", "crosshatch"), ("rows", "light rows"), ("pattern", "lightened pattern"), ("crosses", "crosses"),
    ("stipple", "stipple"), ("scribble", "scribble"), ("rings", "rings"),
)  # fmt: skip
PATTERN_LENGTH = 2.0  # times a stitch's usual length in a lightened pattern (handbook, section 13)


def open_ground(
    area: Area, role: str, stitch: str, spacing: float, length: float, angle: float = 0.0, stagger: str = "brick",
    start: tuple[float, float] | None = None,
) -> list[Strand]:  # fmt: skip
    """An area stitched openly, one strand for each connected part of it wherever the stitch allows.

    stitch: key of STITCHES; spacing, length in mm; angle of the rows in rad; stagger: of a lightened
    pattern. No underlay; rows travel along the edge, so that no thread crosses the ground aslant.
    """
    sewn: list[Strand] = []
    for part in shapely.get_parts(area):
        sewn += _part(part, role, stitch, spacing, length, angle, stagger, start)
    return sewn


def _part(
    part: Area, role: str, stitch: str, spacing: float, length: float, angle: float, stagger: str,
    start: tuple[float, float] | None,
) -> list[Strand]:  # fmt: skip
    if stitch == "crosses":
        return cross_stitch(part, role, spacing, start)
    if stitch == "stipple":
        return stipple(part, role, max(spacing, 0.8), length, start)
    if stitch == "scribble":
        return scribble(part, role, max(spacing, 0.8), length, start)
    if stitch == "rings":
        return contour(part, role, spacing, length, start=start)
    turns = (angle, (angle + 1.5 * np.pi) % (2 * np.pi) - np.pi) if stitch == "crosshatch" else (angle,)
    pattern = stagger if stitch == "pattern" else "brick"
    longer = min(length * PATTERN_LENGTH, 8.0) if stitch == "pattern" else length
    return open_fill(part, role, [FillSewing(turn, spacing, longer, pattern) for turn in turns], start)
