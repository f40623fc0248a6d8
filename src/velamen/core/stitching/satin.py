"""Satin and zigzag along a closed outline, between matched rails.

Spacing holds on whichever rail moves faster (the outside of every turn). On the slower
one penetrations that would crowd are pulled back along their own stitch, in levels that
double, so that every depth keeps its distance: the "short stitches" of the trade.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from velamen.core.arrays import Array
from velamen.core.geometry.rails import Rails

LEVELS = 5  # at most every 32nd stitch runs the whole width
KNOT = 0.25  # mm across, in which at most four needle points may fall
KNOT_POINTS = 4
KNOT_ROUNDS = 4
CALM, PLACE = 5.0, 0.25  # mm of a calm stretch, and between the places where turns are told
WHOLE = 0.85  # of the longest row, from which one in a mitre is as good as whole
NEAR, TIP, STEP = 0.28, 1.0, 0.02  # mm between needle points in a mitre, of a row at its tip, and farther if need be
DEEPEST = 0.8  # a short stitch keeps at least a fifth of its length


def satin(
    rails: Rails, spacing: float, overlap: float = 1.5, start: float = 0.0, crowd: float = 0.25,
    end: float | None = None,
) -> Array:  # fmt: skip
    """Penetrations of a satin round a closed outline, or from start to end, outer and inner by turns: (n, 2).

    spacing: mm between neighbouring penetrations on the faster rail; overlap: mm sewn
    past the start, between the first penetrations; start: advance in mm of the first; end: of the
    last one, where it does not go once round; crowd: mm below which neighbours on the slower rail are
    pulled back. The value of crowd is the handbook's limit for the inner rail of a tight curve.
    """
    if end is None:
        count = max(round(rails.length / spacing), 3)
        pitch = rails.length / (count + 0.5)
        more = max(round(overlap / pitch), 1)
        position: Array = start + 0.5 * pitch * np.arange(2 * (count + more) + 1, dtype=np.float64)
    else:
        count = max(round(abs(end - start) / spacing), 1)
        pitch = abs(end - start) / count
        position = np.linspace(start, end, 2 * count + 1)
    # half a pitch from one to the next: the gap of each is from the one before to the one after
    beyond = 0.5 * pitch * np.sign(position[-1] - position[0])
    outer, inner, outer_way, inner_way = rails.at(
        np.concatenate([position[:1] - beyond, position, position[-1:] + beyond])
    )
    outer, inner = outer[1:-1], inner[1:-1]
    # less than 0 where a rail runs back, as rows would cross there
    outer_gap, inner_gap = ((way[2:] - way[:-2]) * np.sign(beyond) for way in (outer_way, inner_way))
    limit = min(crowd, 0.625 * pitch)

    nth = np.arange(len(position)) // 2
    out = np.arange(len(position)) % 2 == 0
    own_gap = np.where(out, outer_gap, inner_gap)
    far_gap = np.where(out, inner_gap, outer_gap)
    back = pulled_back(own_gap, far_gap, nth, limit)[:, None]
    own = np.where(out[:, None], outer, inner)
    far = np.where(out[:, None], inner, outer)
    points = spread_knots((1.0 - back) * own + back * far)
    if rails.cut is None or not rails.cut.any():
        return points
    where = np.interp(np.mod(position, rails.length) if rails.closed else position, rails.advance, rails.cut) > 0
    size = np.linalg.norm(outer - inner, axis=1)
    where &= size < WHOLE * size.max()  # where both sides begin, whole rows meet in the inner corner
    return thinned(points, size, where, len(points) if end is not None else 2 * count)


def straightest(rails: Rails) -> float:
    """Advance in mm at which a border turns least over CALM mm, and over twice that: where it begins unseen."""
    count = max(int(np.ceil(rails.length / PLACE)), 8)
    at = rails.length * np.arange(count) / count
    outer, inner, _, _ = rails.at(at)
    step = np.roll(outer + inner, -1, axis=0) - (outer + inner)
    heading, size = np.arctan2(step[:, 1], step[:, 0]), np.linalg.norm(outer - inner, axis=1)
    turn = np.abs(np.angle(np.exp(1j * (heading - np.roll(heading, 1)))))
    turn += np.abs(size - np.roll(size, 1)) / max(float(size.max()), 1e-9)  # as rows end on the diagonal of a mitre

    def within(length: float) -> Array:
        half = min(max(round(0.5 * length / PLACE), 1), (count - 1) // 2)
        summed = np.cumsum(np.concatenate([[0.0], turn[-half:], turn, turn[:half]]))
        return np.asarray(summed[2 * half + 1 :] - summed[: -2 * half - 1])

    return float(at[int(np.argmin(np.round(within(CALM) + 0.1 * within(2.0 * CALM), 2)))])


def spread_knots(points: Array, rounds: int = KNOT_ROUNDS, reach: float = KNOT / 2, most: int = KNOT_POINTS) -> Array:
    """Needle points where no more than so many fall within `reach` mm of one of them.

    Where the two sides of a sharp corner interlock, every second crowded point goes back
    along its stitches.
    """
    for _ in range(rounds):
        crowd = KDTree(points).query_ball_point(points, reach, return_length=True)
        tight = np.flatnonzero(crowd > most)
        tight = tight[(tight > 0) & (tight < len(points) - 1)][::2]
        if len(tight) == 0:
            break
        points = _drawn_back(points, tight, np.full(len(tight), 1.5 * KNOT))
    return points


def _drawn_back(points: Array, which: NDArray[np.int64], far: Array) -> Array:
    """Needle points of which some go back along their stitches by so many mm, half a stitch at most."""
    way = 0.5 * (points[which - 1] + points[which + 1]) - points[which]
    length = np.maximum(np.linalg.norm(way, axis=1), 1e-9)
    moved = points.copy()
    moved[which] += way * (np.minimum(far, 0.5 * length) / length)[:, None]
    return moved


def thinned(points: Array, size: Array, where: NDArray[np.bool_], last: int) -> Array:
    """Needle points of which none comes too near another in mitres.

    size: (n,) mm of the whole row of each; where: (n,) in a mitre; last: from which on they lie on those before.
    Of two that are near the later one is left out at a tip, where rows are short, and else drawn back along its
    stitch no more than it must.
    """
    for _ in range(KNOT_ROUNDS):
        among = np.flatnonzero(where)
        near = among[KDTree(points[among]).query_pairs(NEAR, output_type="ndarray")]
        near = near[near[:, 1] < last]
        near = near[~np.isin(near[:, 1], near[:, 0]) & (near[:, 1] > 0) & (near[:, 1] < len(points) - 1)]
        later, first = np.unique(near[:, 1], return_index=True)
        if not len(later):
            break
        off = np.linalg.norm(points[later] - points[near[first, 0]], axis=1)
        short = size[later] < TIP
        points = _drawn_back(points, later[~short], NEAR + STEP - off[~short])
        gone = later[short]
        points, size, where = np.delete(points, gone, axis=0), np.delete(size, gone), np.delete(where, gone)
        last -= len(gone)
    return points


def pulled_back(own_gap: Array, far_gap: Array, nth: NDArray[np.int64], limit: float) -> Array:
    """Share of its stitch by which each penetration is pulled back from its rail."""
    gap = np.maximum(own_gap, 1e-6)
    needed = np.clip(np.ceil(np.log2(np.maximum(limit, 1e-6) / gap)), 0, LEVELS)
    level = np.zeros(len(nth))
    for power in range(1, LEVELS + 1):
        level[nth % (1 << power) == 0] = power
    widening = np.maximum(far_gap - own_gap, 1e-6)
    share = (limit / 2.0**level - own_gap) / widening
    return np.where(level >= needed, 0.0, np.clip(share, 0.0, DEEPEST))
