"""Channels of chenille: parallel runs through all layers, sewn as one thread that turns at their ends.

Where a part is too narrow for channels across it, they lie along it: its outline is sewn but for a mouth at one end.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import Area, across
from velamen.core.memo import kept
from velamen.core.stitching.channel_bands import band_channels
from velamen.core.stitching.channel_choice import chosen, walks
from velamen.core.stitching.channel_net import LINE, Net, net_of
from velamen.core.stitching.roles import TRAVEL, declare
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import Strand, join, strand, tied

CHANNEL = declare("channel", "channel")
INSET = 2.05  # mm inside the line to which layers are trimmed, so that trimming cuts no thread
OPENED, LEAST = 0.2, 4.0  # mm; mm² of a part that is sewn
BAND = 12.5  # mm across a part, up to which a channel lies along it where none lies across
THREAD, GRID = 0.1, 0.05  # mm of half a thread, and that the scissors' width is taken less


@dataclass(frozen=True)
class Asked:
    """How channels are to be sewn. Lengths in mm, angle in rad."""

    spacing: float
    angle: float
    length: float  # of a stitch
    scissors: float  # how wide a channel they need

    @property
    def reach(self) -> float:
        """mm that the middle of the scissors stays away from the middle of a thread."""
        return self.scissors / 2 - GRID + THREAD


def room_of(region: Area) -> list[Polygon]:
    """The parts of a region in which needle points may lie."""
    inner = shapely.buffer(region, -INSET - OPENED, join_style="mitre")
    parts = shapely.get_parts(shapely.buffer(inner, OPENED, join_style="mitre"))
    return [part for part in parts if part.geom_type == "Polygon" and part.area > LEAST]


@kept(64)
def channels(region: Area, asked: Asked, decorated: Area | None = None) -> tuple[Strand, ...]:
    """Channels of a region, a strand for each part that hangs together.

    decorated: what is sewn over them later; channels end there, and threads may lie under it.
    Turns lie along the edge of the room, 2 mm inside the region.
    """
    return tuple(one for part in room_of(region) for one in _part_channels(part, asked, decorated))


def is_band(room: Polygon) -> bool:
    """Whether a part is too narrow for channels across it, so that one lies along it."""
    return across(room) <= BAND


def trapped(region: Area, asked: Asked, decorated: Area | None = None) -> int:
    """How many channels no choice of turns opens: told without choosing any."""
    rooms = [room for room in room_of(region) if not is_band(room)]
    return sum(not opens for room in rooms for opens in _net(room, asked, decorated)[0].channels)


def _net(room: Polygon, asked: Asked, decorated: Area | None) -> tuple[Net, Array]:
    """The net of a room, and the matrix that turned it level."""
    cos, sin = np.cos(asked.angle), np.sin(asked.angle)
    turn = np.array([[cos, -sin], [sin, cos]])
    flat, over = (_turned(one, turn) for one in (room, decorated))
    assert isinstance(flat, Polygon)
    return net_of(flat, over, asked.spacing, asked.reach), turn


def _part_channels(room: Polygon, asked: Asked, decorated: Area | None) -> list[Strand]:
    if is_band(room):
        along = band_channels(room, asked.scissors, asked.length, CHANNEL)
        if along is not None:
            return [along]
    net, turn = _net(room, asked, decorated)
    if not any(one.kind == LINE for one in net.stretches):
        return []
    return [_sewn(net, walk.stretches, turn, asked.length) for walk in walks(net, chosen(net))]


def _turned(area: Area | None, turn: Array) -> Area | None:
    return None if area is None else shapely.transform(area, lambda xy: xy @ turn)


def _sewn(net: Net, walk: Sequence[tuple[int, bool]], turn: Array, length: float) -> Strand:
    """One thread along stretches; what is sewn a second time has its needle points between those of the first."""
    seen: set[int] = set()
    parts = []
    for nth, back in walk:
        one = net.stretches[nth]
        line = (one.line[::-1] if back else one.line) @ turn.T
        role = CHANNEL if one.kind == LINE else TRAVEL
        points = _between_those(line, length) if nth in seen else run_along(line, length)
        seen.add(nth)
        parts.append(strand(points, role))
    return tied(join(parts))


def _between_those(line: Array, length: float) -> Array:
    """A run whose needle points lie halfway between those of the run sewn there before."""
    points = run_along(line, length)
    if len(points) < 3:
        return points
    along = arc_lengths(points)
    at = np.concatenate([[0.0], (along[:-1] + along[1:])[1:-1] / 2 if len(along) > 3 else along[1:-1], along[-1:]])
    return np.stack([np.interp(at, along, points[:, axis]) for axis in (0, 1)], axis=1)
