"""Channels along a narrow band: its outline is sewn but for a mouth, through which scissors come in."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.polyline import arc_lengths, line_length
from velamen.core.geometry.region import boundaries, ready
from velamen.core.geometry.strokes.axis import Axis, axis_of
from velamen.core.memo import kept
from velamen.core.stitching.roles import TRAVEL
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import Strand, join, strand, tied

MOUTH = 1.0  # mm that a mouth is wider than the scissors
ALLOWED = 1e-3  # mm that a way may leave the room
BEYOND = 0.3  # half widths off the end of the middle, from which an outline bends round it


@kept(64)
def middle_of(room: Polygon) -> Axis | None:
    """The middle line of a band, None where it has none."""
    return axis_of(room, [])


def band_channels(room: Polygon, scissors: float, length: float, role: str) -> Strand | None:
    """One channel along a band as one thread; None for what is none. Lengths in mm; role: of its sides."""
    middle = middle_of(room)
    if middle is None:
        return None
    if middle.closed:
        return _round(room, scissors + MOUTH, length, role) if len(room.interiors) == 1 else None
    if room.interiors:
        return None
    return _straight(room, middle, length, role)


def _straight(room: Polygon, middle: Axis, length: float, role: str) -> Strand | None:
    """The outline but for the wider one of its ends."""
    (first, last), at = middle.body, middle.place
    ends = [(at[first], at[first] - at[min(first + 4, last)], middle.half[first]),
            (at[last], at[last] - at[max(last - 4, first)], middle.half[last])]  # fmt: skip
    place, outward, half = max(ends, key=lambda one: float(one[2]))
    outward = outward / max(float(np.linalg.norm(outward)), 1e-9)
    ring = _even(boundaries(room)[0])
    off = ring - place
    mouth = ((off @ outward) > -BEYOND * half) & (np.linalg.norm(off, axis=1) < 4.0 * max(float(half), 2.5))
    if mouth.all() or not mouth.any():
        return None
    begin = _longest_run_end(mouth)
    rolled, open_ = np.roll(ring, -begin, axis=0), np.roll(mouth, -begin)
    side = rolled[: int(np.argmax(open_)) if open_.any() else len(rolled)]
    return tied(strand(run_along(side, length), role)) if line_length(side) > 2 * length else None


def _round(room: Polygon, mouth: float, length: float, role: str) -> Strand | None:
    """Both outlines of a band that closes on itself, a mouth in the outer one; they hang together beside it."""
    outer, inner = (_even(ring) for ring in boundaries(room))
    if line_length(outer) < 4 * mouth:
        return None
    begin = int(np.argmax(outer[:, 1]))  # at the bottom
    rolled = np.roll(outer, -begin, axis=0)
    side = rolled[arc_lengths(rolled) < line_length(np.concatenate([rolled, rolled[:1]])) - mouth]
    far = np.linalg.norm(inner - side[-1], axis=1)
    ways = shapely.linestrings(np.stack([np.broadcast_to(side[-1], inner.shape), inner], axis=1))
    far[~shapely.covers(ready(shapely.buffer(room, ALLOWED)), ways)] = np.inf
    nearest = int(np.argmin(far))
    if not np.isfinite(far[nearest]):
        return None
    inside = np.roll(inner, -nearest, axis=0)
    whole = np.concatenate([inside, inside[:1]])
    way = np.array([side[-1], inside[0]])
    lines = ((side, role), (way, TRAVEL), (whole, role))
    parts = [strand(run_along(line, length), its) for line, its in lines]
    return tied(join(parts))


def _even(ring: Array) -> Array:
    """A ring in steps of half a millimetre, its last point not the first again."""
    line = shapely.LinearRing(ring)
    count = max(int(line.length / 0.5), 8)
    places = shapely.line_interpolate_point(line, np.arange(count) * line.length / count)
    return np.asarray(shapely.get_coordinates(places))


def _longest_run_end(mouth: Array) -> int:
    """The first place after the longest run of a mask that closes on itself."""
    twice = np.concatenate([mouth, mouth])
    best, run, end = 0, 0, 0
    for nth, one in enumerate(twice.tolist()):
        run = run + 1 if one else 0
        if run > best:
            best, end = run, nth + 1
    return end % len(mouth)
