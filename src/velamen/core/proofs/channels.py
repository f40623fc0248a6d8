"""Channel proof: can scissors be moved along every channel from an end that is open?

One operation on the threads as they lie, whatever planned them: where the middle of the scissors may go is what lies
half their width from every thread; what of that hangs together with the outside is where they come to.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area
from velamen.core.proofs.proved import Spot
from velamen.core.stitching.channel_bands import middle_of
from velamen.core.stitching.channels import CHANNEL, INSET, Asked, is_band, room_of
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand

AROUND = 12.0  # mm beyond the region that scissors come from
HOLE = 8.0  # mm across a hole through which they come
WORTH, SHORT = 8.0, 5.0  # mm of a channel worth cutting, and that may stay uncut at its closed end
SAME = 0.3  # mm between levels that are one line
LEVEL = 0.8  # of a part's channel stitches that lie level where its channels lie across it
SECONDS_PER_CM = 2.0  # ours


@dataclass(frozen=True)
class Channel:
    """A channel as it can be cut. line: its middle, mm; reached: mm of it; length: mm of it."""

    line: tuple[tuple[float, float], ...]
    length: float
    reached: float

    @property
    def spot(self) -> Spot:
        middle = shapely.line_interpolate_point(shapely.LineString(self.line), 0.5, normalized=True)
        return Spot(round(middle.x, 2), round(middle.y, 2), self.length, self.line)

    @property
    def open(self) -> bool:
        return self.reached >= self.length - SHORT

    @property
    def closed(self) -> bool:
        return self.reached < 1.0


@dataclass(frozen=True)
class Channels:
    """What the proof found, channels in no order."""

    every: tuple[Channel, ...]

    @property
    def held(self) -> bool:
        return bool(self.every) and all(one.open for one in self.every)

    @property
    def closed(self) -> tuple[Channel, ...]:
        return tuple(one for one in self.every if one.closed)

    @property
    def narrow(self) -> tuple[Channel, ...]:
        """Those in which scissors come to a stop."""
        return tuple(one for one in self.every if not one.open and not one.closed)

    @property
    def cut(self) -> float:
        """mm that can be cut."""
        return sum(one.reached for one in self.every)


def prove_channels(region: Area, strands: Sequence[Strand], asked: Asked, decorated: Area | None = None) -> Channels:
    """The proof of one piece. region: to which layers are trimmed; decorated: what is sewn over the channels."""
    lines = _stitches(strands)
    if not len(lines):
        return Channels(())
    walls = list(shapely.buffer(shapely.linestrings(lines), asked.reach, quad_segs=4))
    walls += [shapely.buffer(decorated, asked.reach)] if decorated is not None else []
    blocked = shapely.union_all(walls)
    outside = shapely.box(*(np.array(region.bounds) + AROUND * np.array([-1, -1, 1, 1])))
    free = shapely.get_parts(shapely.difference(outside, blocked))
    doors = [outside.exterior, *_holes(region)]
    came = free[shapely.intersects(free, shapely.union_all(doors))]
    reached = shapely.union_all(came)
    found = [_channel(line, reached) for line in _middles(region, strands, blocked, asked.angle)]
    return Channels(tuple(one for one in found if one.length + SHORT >= WORTH))


def _stitches(strands: Sequence[Strand]) -> Array:
    """Every stitch (n, 2, 2)."""
    pairs = [np.stack([one.xy[:-1], one.xy[1:]], axis=1) for one in strands]
    return np.concatenate(pairs) if pairs else np.zeros((0, 2, 2))


def _holes(region: Area) -> list[Area]:
    """Holes of a region that scissors come through, as far as their middle does."""
    holes = [shapely.Polygon(ring) for part in shapely.get_parts(region) for ring in part.interiors]
    return [inner for hole in holes if not (inner := shapely.buffer(hole, -HOLE / 2)).is_empty]


def _middles(region: Area, strands: Sequence[Strand], blocked: Area, angle: float) -> list[Array]:
    """The middle (n, 2) of each channel: midway between the lines beside it, or along a band."""
    found = []
    for part in room_of(region):
        mine = [one for one in strands if shapely.dwithin(part, shapely.Point(one.xy[len(one.xy) // 2]), INSET)]
        if mine and is_band(part) and not _level(mine, angle):
            found += _middle_of_band(part, blocked)
        elif mine:
            found += _middles_of(part, mine, blocked, angle)
    return found


def _level(strands: Sequence[Strand], angle: float) -> bool:
    """Whether most channel stitches lie at the angle."""
    steps = np.concatenate([np.diff(one.xy, axis=0)[one.role[1:] == CODE[CHANNEL]] for one in strands])
    size = np.maximum(np.linalg.norm(steps, axis=1), 1e-9)
    off = np.abs(steps @ np.array([-np.sin(angle), np.cos(angle)])) / size
    return bool(len(steps)) and float(size[off < 0.1].sum()) > LEVEL * float(size.sum())


def _middle_of_band(part: shapely.Polygon, blocked: Area) -> list[Array]:
    middle = middle_of(part)
    if middle is None:
        return []
    whole = shapely.intersection(shapely.LineString(middle.place), shapely.difference(part, blocked))
    return [shapely.get_coordinates(one) for one in shapely.get_parts(shapely.line_merge(whole)) if one.length > 0.1]


def _middles_of(part: Area, strands: Sequence[Strand], blocked: Area, angle: float) -> list[Array]:
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])  # lines level
    level = _levels(strands, turn)
    if len(level) < 2:
        return []
    middle = (level[1:] + level[:-1]) / 2
    free = shapely.transform(shapely.difference(part, blocked), lambda xy: xy @ turn)
    left, _, right, _ = shapely.transform(part, lambda xy: xy @ turn).bounds
    ends = np.stack([np.full(len(middle), left - 1), middle, np.full(len(middle), right + 1), middle], axis=1)
    parts = shapely.get_parts(shapely.intersection(shapely.linestrings(ends.reshape(-1, 2, 2)), free))
    return [shapely.get_coordinates(one)[[0, -1]] @ turn.T for one in parts if one.length > 1e-6]


def _levels(strands: Sequence[Strand], turn: Array) -> Array:
    """Where lines lie across their direction, each once."""
    heights = np.concatenate([(one.xy @ turn)[one.role == CODE[CHANNEL], 1] for one in strands])
    heights = np.sort(heights)
    apart = np.flatnonzero(np.diff(heights) > SAME) + 1
    return np.array([float(np.median(one)) for one in np.split(heights, apart) if len(one)])


def _channel(line: Array, reached: Area) -> Channel:
    whole = shapely.LineString(line)
    got = float(shapely.length(shapely.intersection(whole, reached)))
    places = tuple((float(x), float(y)) for x, y in line.round(2))
    return Channel(places, round(float(whole.length), 2), round(got, 2))
