"""Channels of chenille: parallel runs through all layers, sewn as one thread that turns at their ends."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.arrays import Place
from velamen.core.geometry.region import Area
from velamen.core.stitching.fill import FillSewing, open_fill
from velamen.core.stitching.roles import CODE, TRAVEL, declare
from velamen.core.stitching.strand import Strand

CHANNEL = declare("channel", "channel")
INSET = 2.05  # mm inside the line to which layers are trimmed, so that trimming cuts no thread
OPENED, LEAST = 0.2, 4.0  # mm; mm2 of a part that is sewn
ASIDE = 0.1  # mm that a stitch of a line may lead aside


def room_of(region: Area) -> list[shapely.Polygon]:
    """The parts of a region in which needle points may lie."""
    inner = shapely.buffer(region, -INSET - OPENED, join_style="mitre")
    parts = shapely.get_parts(shapely.buffer(inner, OPENED, join_style="mitre"))
    return [part for part in parts if part.geom_type == "Polygon" and part.area > LEAST]


def channels(
    region: Area, spacing: float, angle: float, length: float, start: Place | None = None
) -> list[Strand]:  # fmt: skip
    """Channels of a region, `spacing` mm apart at an angle in rad, a strand for each part that hangs together.

    length: mm of a stitch; start: near which sewing begins. Turns lie along the edge of the room, 2 mm inside the
    region.
    """
    rows, sewn = FillSewing(angle, spacing, length), list[Strand]()
    for part in room_of(region):
        sewn += [_turns_told(one, angle) for one in open_fill(part, CHANNEL, [rows], start)]
    return sewn


def _turns_told(sewn: Strand, angle: float) -> Strand:
    """A strand in which the stitches from line to line are travel, not channel."""
    across = np.diff(sewn.xy, axis=0) @ np.array([-np.sin(angle), np.cos(angle)])
    turns = (np.abs(across) > ASIDE) & (sewn.role[1:] == CODE[CHANNEL])
    return Strand(sewn.xy, np.where(np.append(False, turns), CODE[TRAVEL], sewn.role).astype(np.uint8))
