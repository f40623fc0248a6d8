"""Two rails along an outline, matched point to point for a satin or zigzag.

Away from corners each rail is the true offset of the outline. Where the offset folds
over itself (inside a corner, in a neck or slit) it is replaced: at a blunt corner all
folded samples meet in the corner of the offset; in sharp tips and necks the rail stops
halfway to the opposite stretch. The two rails then advance together, each smoothed along
its own length, so that stitches turn gradually and never leave the rails.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.geometry.outline import OutlineSamples, Surroundings, reach

SHARP = np.radians(115.0)  # opening above which a rail keeps to the middle line
CORE = 0.6  # share of the full depth below which a sharp tip is no longer entered
NECK = np.radians(150.0)  # opening above which two stretches run side by side
NECK_CORE = 0.3  # mm below which a neck's end is no longer entered
LONG_FOLD = 7.0  # times the offset: a longer fold is no corner and is never bridged whole
OVER = 0.1  # mm by which stretches of cover that meet in a neck overlap on either side
MEETING = 0.5  # mm, the farthest that a corner lies from the samples beside it
ADVANCE = 0.05  # mm between the matched samples


@dataclass(frozen=True)
class Rails:
    """Matched rails of one closed outline.

    outer, inner: (k, 2) points, off and on the cloth; outer_way, inner_way: (k,) mm along
    each rail; advance: (k,) mm, growing with whichever rail moves faster; closed: whether the last
    sample closes the loop on the first; cut: (k,) whether a row ends on the diagonal of a mitred corner, None where
    none does.
    """

    outer: Array
    inner: Array
    outer_way: Array
    inner_way: Array
    advance: Array
    closed: bool = True
    cut: NDArray[np.bool_] | None = None

    @property
    def length(self) -> float:
        """Advance in mm of one loop."""
        return float(self.advance[-1])

    def at(self, advance: Array) -> tuple[Array, Array, Array, Array]:
        """Outer and inner points and ways at positions `advance`, wrapping round a loop, within its ends else."""
        if not self.closed:
            advance = np.clip(advance, 0.0, self.length)
            ways = (np.interp(advance, self.advance, way) for way in (self.outer_way, self.inner_way))
            places = (_interp_points(advance, self.advance, points) for points in (self.outer, self.inner))
            return (*places, *ways)  # type: ignore[return-value]
        loops, rest = np.divmod(advance, self.length)
        outer_way = np.interp(rest, self.advance, self.outer_way) + loops * self.outer_way[-1]
        inner_way = np.interp(rest, self.advance, self.inner_way) + loops * self.inner_way[-1]
        outer = _interp_points(rest, self.advance, self.outer)
        inner = _interp_points(rest, self.advance, self.inner)
        return outer, inner, outer_way, inner_way


def rail(samples: OutlineSamples, others: Surroundings, offset: float, outward: bool) -> tuple[Array, Array]:
    """One rail at `offset` mm off (or on) the cloth, one point a sample: (k, 2).

    Also gives how far (k,) in mm an opposite stretch holds each point back from the offset;
    a point moved into a corner has the lesser one of its neighbours.
    """
    if offset <= 0:
        return samples.point.copy(), np.zeros(len(samples.point))
    way = reach(samples, others, offset, outward)
    held = way.depth < offset - 1e-6
    direction = samples.normal if outward else -samples.normal
    point = samples.point + way.depth[:, None] * direction
    sharp = way.opening >= SHARP
    neck = way.opening >= NECK
    good = ~held | (sharp & (way.depth >= CORE * offset)) | (neck & (way.depth >= NECK_CORE))
    good |= sharp & _in_long_run(~good, samples, LONG_FOLD * offset)
    back = offset - way.depth
    if not good.any():
        return point, back
    return _pulled_in(_bridge(point, good, samples), ~good, others, offset), _least_beside(back, good)


def match_rails(
    samples: OutlineSamples, others: Surroundings, outside: float, inside: float, pull: float = 0.0
) -> Rails:
    """Rails `outside` mm off and `inside` mm on the cloth, matched along their lengths.

    pull: mm of both that is there to make up for pull; where two stretches of cover meet
    in a neck they overlap by it too, so that they still meet once drawn in.

    >>> import numpy as np
    >>> from velamen.core.geometry.outline import sample_outline, surroundings
    >>> square = np.array([[0.0, 0], [40, 0], [40, 40], [0, 40]])
    >>> outline = sample_outline(square)
    >>> rails = match_rails(outline, surroundings([outline]), 1.8, 1.2)
    >>> float(rails.outer[:, 0].max().round(2)), float(rails.inner[:, 0].max().round(2))
    (41.8, 38.8)
    """
    outer, outer_back = rail(samples, others, outside, outward=True)
    inner, inner_back = rail(samples, others, inside, outward=False)
    outer_way, inner_way = _way(outer, samples), _way(inner, samples)
    advance = np.concatenate(([0.0], np.cumsum(np.maximum(np.diff(outer_way), np.diff(inner_way)))))
    count = max(int(np.ceil(advance[-1] / ADVANCE)), 8)
    even = np.linspace(0.0, advance[-1], count + 1)
    window = 2.0 * (outside + inside) / (even[1] or 1.0)
    outer_even = smooth_way(np.interp(even, advance, outer_way), window)
    inner_even = smooth_way(np.interp(even, advance, inner_way), window)
    step = np.maximum(np.diff(outer_even), np.diff(inner_even))
    off, off_back = _at_ways(outer_even, outer_way, outer, outer_back)
    on, on_back = _at_ways(inner_even, inner_way, inner, inner_back)
    along = off - on
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    over = pull + OVER
    return Rails(
        outer=off + np.minimum(off_back, over)[:, None] * along,
        inner=on - np.minimum(on_back, over)[:, None] * along,
        outer_way=outer_even - outer_even[0],
        inner_way=inner_even - inner_even[0],
        advance=np.concatenate(([0.0], np.cumsum(step))),
    )


def _in_long_run(bad: NDArray[np.bool_], samples: OutlineSamples, longest: float) -> NDArray[np.bool_]:
    """Which samples lie in a closed run of bad ones longer than `longest` mm of outline."""
    if not bad.any() or bad.all():
        return bad
    first = int(np.flatnonzero(~bad)[0])
    rolled = np.roll(bad, -first)
    step = np.roll(np.diff(samples.along, append=samples.length), -first)
    run = np.cumsum(np.diff(rolled, prepend=False) != 0)
    size = np.bincount(run, weights=step)
    return np.roll(rolled & (size[run] > longest), first)


def _way(points: Array, samples: OutlineSamples) -> Array:
    """Way along a closed rail in mm, (k + 1,), which never runs backwards.

    On the inside of a curve the fanned normals swing back a little at every vertex;
    only progress along the outline's own heading counts.
    """
    heading = np.stack([-samples.normal[:, 1], samples.normal[:, 0]], axis=1)
    step = np.roll(points, -1, axis=0) - points
    ahead = np.einsum("ij,ij->i", step, heading + np.roll(heading, -1, axis=0))
    progress = np.linalg.norm(step, axis=1) * np.sign(ahead)
    return np.asarray(np.maximum.accumulate(np.concatenate(([0.0], np.cumsum(progress)))))


def _bridge(points: Array, good: NDArray[np.bool_], samples: OutlineSamples) -> Array:
    """Points with every bad run replaced by a walk between its good neighbours.

    The walk goes by the corner in which the rail's two stretches meet, where there is one.
    """
    if good.all():
        return points
    count = len(points)
    last = np.flatnonzero(good & ~np.roll(good, -1))
    after = np.flatnonzero(good & ~np.roll(good, 1))
    after = np.roll(after, -1) if after[0] <= last[0] else after
    span = np.mod(after - last, count)
    corner, meets = _meeting(points[last], points[after], samples.normal[last], samples.normal[after])
    index = np.concatenate([np.flatnonzero(good), (last + 0.5 * span)[meets]])
    value = np.concatenate([points[good], corner[meets]])
    order = np.argsort(np.mod(index, count))
    index, value = np.mod(index, count)[order], value[order]
    known = np.concatenate(([index[-1] - count], index, [index[0] + count]))
    value = np.concatenate([value[-1:], value, value[:1]])
    return _interp_points(np.arange(count, dtype=np.float64), known, value)


def _pulled_in(points: Array, bad: NDArray[np.bool_], others: Surroundings, offset: float) -> Array:
    """Points with those bridged that lie farther than the offset from every outline brought back to it.

    A walk straight past a tip would leave it too far behind.
    """
    walked = np.flatnonzero(bad)
    far, index = others.tree.query(points[walked])
    beyond = far > offset
    near = others.tree.data[index[beyond]]
    points[walked[beyond]] = near + (points[walked[beyond]] - near) * (offset / far[beyond])[:, None]
    return points


def _least_beside(back: Array, good: NDArray[np.bool_]) -> Array:
    """Hold-back of every sample; a bad one takes the lesser of its good neighbours'."""
    known = np.flatnonzero(good)
    later = np.searchsorted(known, np.arange(len(back)))
    before = np.where(good, later, later - 1) % len(known)
    return np.asarray(np.minimum(back[known[before]], back[known[later % len(known)]]))


def _meeting(one: Array, two: Array, normal_one: Array, normal_two: Array) -> tuple[Array, NDArray[np.bool_]]:
    """Where the way on from `one` meets the way back from `two`, and whether that is near."""
    ahead = np.stack([-normal_one[:, 1], normal_one[:, 0]], axis=1)
    back = np.stack([normal_two[:, 1], -normal_two[:, 0]], axis=1)
    gap = two - one
    cross = ahead[:, 0] * back[:, 1] - ahead[:, 1] * back[:, 0]
    safe = np.where(np.abs(cross) > 1e-3, cross, 1.0)
    onward = (gap[:, 0] * back[:, 1] - gap[:, 1] * back[:, 0]) / safe
    # with gap = onward * ahead - backward * back, backward is measured against the other heading
    backward = (gap[:, 0] * ahead[:, 1] - gap[:, 1] * ahead[:, 0]) / safe
    near = (np.abs(cross) > 1e-3) & (onward > 0) & (onward < MEETING) & (backward > 0) & (backward < MEETING)
    return one + onward[:, None] * ahead, near


def _interp_points(at: Array, known: Array, points: Array) -> Array:
    return np.stack([np.interp(at, known, points[:, 0]), np.interp(at, known, points[:, 1])], axis=1)


def _at_ways(way: Array, known: Array, points: Array, back: Array) -> tuple[Array, Array]:
    """Points and hold-backs at ways that may run a little past either end of the loop."""
    total = float(known[-1])
    forward = np.concatenate(([True], np.diff(known) > 1e-9))
    known = known[forward]
    wrapped = np.mod(way, total) if total > 0 else way
    points = np.concatenate([points, points[:1]])[forward]
    return _interp_points(wrapped, known, points), np.interp(wrapped, known, np.append(back, back[0])[forward])


def smooth_way(way: Array, window: float) -> Array:
    """Running mean over `window` samples of a closed, growing quantity, its total kept."""
    count = len(way) - 1
    half = min(int(window // 2), (count - 1) // 2)
    if half < 1 or way[-1] <= 0:
        return way
    total = way[-1]
    loop = way[:-1]
    padded = np.concatenate([loop[-half:] - total, loop, loop[: half + 1] + total])
    summed = np.concatenate(([0.0], np.cumsum(padded)))
    width = 2 * half + 1
    mean = (summed[width:] - summed[:-width]) / width
    mean = mean[:count]
    return np.concatenate([mean, [mean[0] + total]])
