"""Lanes of columns: two rails with matched places, out of a shape's strokes or of rails drawn by hand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.medial import Medial, medial_axis
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.rails import ADVANCE, Rails, smooth_way
from velamen.core.geometry.region import boundaries
from velamen.core.geometry.skeleton import Stroke, strokes
from velamen.core.stitching.rows import hatch

CALM = 1.2  # mm over which the turning of stitches is smoothed
PASSES = 3  # of smoothing: walls are told sample by sample, one side after the other
ROOM = 0.1  # mm a stitch may leave the shape for a calmer turn
OVER = 1.0  # mm by which a stroke runs on into the one it ends at
NARROWER = 0.85  # of its width, as it does so
SHY = 0.05  # mm by which the last stitch stops short of an end that is level with it
TIP = 0.15  # mm; a shorter end needs no stitches of its own
SWEEP = 0.15  # mm between the rows by which a lump is swept
REACH = 1.0  # mm by which a direction line may miss a rail
LEAST = 0.3  # mm; a lane that is shorter is none


@dataclass(frozen=True)
class Lane:
    """A column to be sewn. rails: matched; tips: whether its first and last end is free;

    joints: for its first and last end, the lane it ends at and the advance there, None at a tip.
    """

    rails: Rails
    joints: tuple[tuple[int, float] | None, tuple[int, float] | None]

    @property
    def tips(self) -> tuple[bool, bool]:
        """Whether the first and the last end are free."""
        return (
            not self.rails.closed and self.joints[0] is None,
            not self.rails.closed and self.joints[1] is None,
        )


def lanes_of(region: Polygon, directions: Sequence[Array] = ()) -> list[Lane]:
    """The lanes of a closed shape: a lane for every stroke, or one over all of a lump.

    directions: lines (n, 2) along which stitches lie where they cross both walls.
    """
    axis = medial_axis(region)
    found = strokes(axis)
    if not found:
        left, right = _swept(region, directions)
        return [Lane(rails_between(left, right, directions, region), (None, None))] if len(left) > 1 else []
    walls = [_kept_in(*_with_ends(axis, stroke, region), region) for stroke in found]
    rails, marks = [], []
    for stroke, (left, right, _) in zip(found, walls, strict=True):
        rails.append(rails_between(left, right, directions, region, stroke.closed))
        marks.append(_marks(left, right, rails[-1]))
    lanes = []
    for stroke, one in zip(found, rails, strict=True):
        joints: list[tuple[int, float] | None] = []
        for end in (None, None) if stroke.closed else stroke.ends:
            if end is None:
                joints.append(None)
                continue
            known = marks[end.stroke]
            joints.append((end.stroke, float(known[min(end.at + walls[end.stroke][2], len(known) - 1)])))
        lanes.append(Lane(one, (joints[0], joints[1])))
    return lanes


def rails_between(
    left: Array, right: Array, directions: Sequence[Array] = (), region: Polygon | None = None, closed: bool = False
) -> Rails:
    """Rails out of pairs of places (k, 2) on two walls, turning calmly from pair to pair.

    directions: lines (n, 2); stitches lie along those that cross both rails, and turn evenly from one
    to the next. region: that stitches should not leave where they turn.

    >>> import numpy as np
    >>> rails = rails_between(np.array([[0.0, 0], [10, 0]]), np.array([[0.0, 2], [10, 2]]))
    >>> rails.length, rails.closed
    (10.0, False)
    """
    if closed:
        left, right = np.concatenate([left, left[:1]]), np.concatenate([right, right[:1]])
    ways = _way(left), _way(right)
    knots = _knots(left, right, ways, directions)
    if knots is None:
        advance = _advance(*ways)
        count = max(int(np.ceil(advance[-1] / ADVANCE)), 4)
        even = np.linspace(0.0, advance[-1], count + 1)
        raw = [np.interp(even, advance, way) for way in ways]
    else:
        steps = np.maximum(np.ceil(np.abs(np.diff(knots, axis=0)).max(axis=1) / ADVANCE), 1).astype(np.int64)
        even = np.concatenate(([0.0], np.cumsum(steps).astype(np.float64)))
        raw = [np.interp(np.arange(even[-1] + 1), even, knots[:, axis]) for axis in (0, 1)]
    window = CALM / max(float(_advance(*raw)[-1]) / max(len(raw[0]) - 1, 1), 1e-9)
    calm = raw
    for _ in range(PASSES):
        calm = [smooth_way(way, window) if closed else _smooth_open(way, window) for way in calm]
    chosen = _inside(left, right, ways, raw, calm, region)
    places = [np.stack([np.interp(way, known, wall[:, axis]) for axis in (0, 1)], axis=1)
              for way, known, wall in zip(chosen, ways, (left, right), strict=True)]  # fmt: skip
    if region is not None:
        _clip(places[0], places[1], region)
    return Rails(places[0], places[1], chosen[0] - chosen[0][0], chosen[1] - chosen[1][0], _advance(*chosen), closed)


def _inside(
    left: Array, right: Array, ways: tuple[Array, Array], raw: list[Array], calm: list[Array], region: Polygon | None
) -> list[Array]:
    """Ways smoothed wherever the stitches there stay in the region, as they were elsewhere."""
    if region is None:
        return calm
    room = shapely.buffer(region, ROOM, quad_segs=2)
    shapely.prepare(room)
    weight = np.ones(len(raw[0]))
    for _ in range(3):
        chosen = [weight * soft + (1.0 - weight) * hard for soft, hard in zip(calm, raw, strict=True)]
        ends = [np.stack([np.interp(way, known, wall[:, axis]) for axis in (0, 1)], axis=1)
                for way, known, wall in zip(chosen, ways, (left, right), strict=True)]  # fmt: skip
        bad = ~shapely.covers(room, shapely.linestrings(np.stack(ends, axis=1))) & (weight > 0)
        if not bad.any():
            break
        spread = np.convolve(bad, np.ones(int(2 * CALM / ADVANCE) | 1), mode="same") > 0
        kernel = np.ones(int(CALM / ADVANCE) | 1)
        fade = 1.0 - np.convolve(spread, kernel / len(kernel), mode="same")
        weight = np.minimum(weight, np.where(bad, 0.0, np.clip(fade, 0.0, 1.0)))
    return [
        np.maximum.accumulate(weight * soft + (1.0 - weight) * hard) for soft, hard in zip(calm, raw, strict=True)
    ]


def _clip(one: Array, other: Array, region: Polygon) -> None:
    """Shortens stitches between two rails, in place, to their longest stretch inside a region."""
    room = shapely.buffer(region, ROOM, quad_segs=2)
    shapely.prepare(room)
    chords = shapely.linestrings(np.stack([one, other], axis=1))
    bad = np.flatnonzero(~shapely.covers(room, chords))
    parts, owner = shapely.get_parts(shapely.intersection(chords[bad], room), return_index=True)
    order = np.lexsort((shapely.length(parts), owner))
    last = order[np.append(np.diff(owner[order]) > 0, True)] if len(order) else order
    last = last[shapely.length(parts[last]) > 0]
    ends = shapely.get_coordinates(parts[last]).reshape(-1, 2, 2)
    one[bad[owner[last]]], other[bad[owner[last]]] = ends[:, 0], ends[:, 1]


def _smooth_open(way: Array, window: float) -> Array:
    """Running mean of a growing quantity over a window that shrinks towards both ends."""
    half = min(int(window // 2), (len(way) - 1) // 2)
    if half < 1:
        return way
    padded = np.concatenate([2 * way[0] - way[half:0:-1], way, 2 * way[-1] - way[-2 : -half - 2 : -1]])
    summed = np.concatenate(([0.0], np.cumsum(padded)))
    size = 2 * half + 1
    return np.asarray((summed[size:] - summed[:-size]) / size)


def _knots(left: Array, right: Array, ways: tuple[Array, Array], directions: Sequence[Array]) -> Array | None:
    """Ways (m, 2) along both rails that direction lines pair, with the ends; None without any."""
    found = []
    for line in directions:
        first, last = line[0], line[-1]
        ahead = (last - first) / max(float(np.linalg.norm(last - first)), 1e-9)
        cut = shapely.LineString(np.concatenate([[first - REACH * ahead], line, [last + REACH * ahead]]))
        hits = []
        for wall in (left, right):
            rail = shapely.LineString(wall)
            spots = shapely.get_coordinates(shapely.intersection(rail, cut))
            if len(spots) == 0:
                break
            hits.append(float(shapely.line_locate_point(rail, shapely.Point(spots[0]))))
        if len(hits) == 2:
            found.append(hits)
    if not found:
        return None
    knots = [[0.0, 0.0]]
    for one in [*sorted(found), [float(ways[0][-1]), float(ways[1][-1])]]:
        if one[0] > knots[-1][0] and one[1] > knots[-1][1]:
            knots.append(one)
    return np.array(knots)


def _way(points: Array) -> Array:
    return arc_lengths(points)


def _advance(one: Array, other: Array) -> Array:
    return np.concatenate(([0.0], np.cumsum(np.maximum(np.diff(one), np.diff(other)))))


def _marks(left: Array, right: Array, rails: Rails) -> Array:
    """The advance of the rails at every pair they came from."""
    middle = (rails.outer + rails.inner) / 2
    known = _way(middle)
    mine = _way((left + right) / 2)
    return np.interp(mine / max(float(mine[-1]), 1e-9), known / max(float(known[-1]), 1e-9), rails.advance)


def _with_ends(axis: Medial, stroke: Stroke, region: Polygon) -> tuple[Array, Array, int]:
    """Pairs of a stroke with those of its ends, and how many were put before it."""
    left, right = axis.wall[stroke.left], axis.wall[stroke.right]
    if stroke.closed:
        return left, right, 0
    parts = []
    for which, end in enumerate(stroke.ends):
        nth = 0 if which == 0 else -1
        outward = _outward(left, right, which)
        if end is None:
            parts.append(_tip(axis, int(stroke.left[nth]), int(stroke.right[nth]), outward))
        else:
            parts.append(_into(left[nth], right[nth], outward, region))
    (ll, lr), (rl, rr) = parts
    return np.concatenate([ll[::-1], left, rl]), np.concatenate([lr[::-1], right, rr]), len(ll)


def _kept_in(left: Array, right: Array, before: int, region: Polygon) -> tuple[Array, Array, int]:
    """Pairs with those whose stitch would leave the region put where the last good one before them is."""
    room = shapely.buffer(region, ROOM, quad_segs=2)
    shapely.prepare(room)
    good = shapely.covers(room, shapely.linestrings(np.stack([left, right], axis=1)))
    if good.all() or not good.any():
        return left, right, before
    nth = np.maximum.accumulate(np.where(good, np.arange(len(good)), int(np.argmax(good))))
    return left[nth], right[nth], before


def _outward(left: Array, right: Array, which: int) -> Array:
    """The direction in which a stroke leaves through one of its ends, across its last stitches."""
    middle = (left + right) / 2
    if which == 0:
        middle, left, right = middle[::-1], left[::-1], right[::-1]
    wide = float(np.linalg.norm(left[-1] - right[-1]))
    far = np.linalg.norm(middle - middle[-1], axis=1) > max(0.8 * wide, 0.6)
    back = middle[np.flatnonzero(far)[-1]] if far.any() else middle[0]
    way = middle[-1] - back
    size = float(np.linalg.norm(way))
    if size < 1e-6:
        across = left[-1] - right[-1]
        return np.array([-across[1], across[0]]) / max(float(np.linalg.norm(across)), 1e-9)
    return np.asarray(way / size)


def _tip(axis: Medial, one: int, other: int, outward: Array) -> tuple[Array, Array]:
    """Pairs from the last stitch of a stroke out to its free end, level with it."""
    none = np.zeros((0, 2)), np.zeros((0, 2))
    if axis.ring[one] != axis.ring[other] or one == other:
        return none
    ring = int(axis.ring[one])
    first, last = np.searchsorted(axis.ring, [ring, ring + 1])
    size = int(last - first)
    ahead = (other - one) % size
    sign, count = (1, ahead) if ahead <= size - ahead else (-1, size - ahead)
    walk = axis.wall[first + (one - first + sign * np.arange(count + 1)) % size]
    off = (walk - (walk[0] + walk[-1]) / 2) @ outward
    apex = int(np.argmax(off))
    if off[apex] < TIP:
        return none
    near = np.maximum.accumulate(off[: apex + 1])
    far = np.maximum.accumulate(off[apex:][::-1])
    steps = np.linspace(min(near[0], far[0]), off[apex] - SHY, max(int(off[apex] / ADVANCE / 2), 3))[1:]
    steps = steps[steps > 0]
    sides = [np.stack([np.interp(steps, known, wall[:, axis_]) for axis_ in (0, 1)], axis=1)
             for known, wall in ((near, walk[: apex + 1]), (far, walk[apex:][::-1]))]  # fmt: skip
    return sides[0], sides[1]


def _into(left: Array, right: Array, outward: Array, region: Polygon) -> tuple[Array, Array]:
    """Pairs from the end of a stroke on into the one it ends at, a little narrower, inside the shape."""
    middle = (left + right) / 2
    steps = np.arange(1, 5)[:, None] / 4 * OVER
    ends = [
        middle + (1.0 - (1.0 - NARROWER) * steps / OVER) * (side - middle) + steps * outward for side in (left, right)
    ]
    inside = shapely.covers(shapely.buffer(region, ROOM), shapely.linestrings(np.stack(ends, axis=1)))
    count = len(inside) if inside.all() else int(np.argmin(inside))
    return ends[0][:count], ends[1][:count]


def _swept(region: Polygon, directions: Sequence[Array]) -> tuple[Array, Array]:
    """Pairs of places across a lump, level with its longer side or along a direction line."""
    if directions:
        way = directions[0][-1] - directions[0][0]
        angle = float(np.arctan2(way[1], way[0]))
    else:
        corners = boundaries(shapely.minimum_rotated_rectangle(region))[0]
        sides = np.diff(np.concatenate([corners, corners[:1]]), axis=0)
        short = sides[int(np.argmin(np.linalg.norm(sides, axis=1)))]
        angle = float(np.arctan2(short[1], short[0]))
    rows = hatch(region, angle, SWEEP)
    wide = rows.right - rows.left
    order = np.lexsort((-wide, rows.row))
    first = order[np.concatenate(([True], np.diff(rows.row[order]) > 0))]
    left, right = (rows.frame.places(np.stack([ends[first], rows.across[first]], axis=1))
                   for ends in (rows.left, rows.right))  # fmt: skip
    return left, right
