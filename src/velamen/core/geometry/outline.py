"""Dense samples along an outline with normals, and how far one may go along them.

An outline is sampled at a small step; at every vertex the normals fan from one side's
to the next, so that the samples moved along their normals trace the round offset of
the outline. How far a sample may be moved before another stretch of outline is nearer
is found with the shrinking ball of Ma, Bae and Choi, "3D medial axis point
approximation using nearest neighbors and the normal field" (2012), in the plane.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from velamen.core.arrays import Array, numbered

STEP = 0.15  # mm between samples
FAN = np.radians(10.0)  # between fanned normals: within 0.01 mm of the arc at 2.5 mm
BALL_ROUNDS = 24
BALL_TOLERANCE = 0.02  # mm a nearer stretch may intrude before the ball gives way
USUAL = 2.4  # mm, as far as the covers of most bases go
PINCH = 0.25  # mm, radius of the ball that looks for walls nearer than that tolerance
PINCH_TOLERANCE = 0.004  # mm


@dataclass(frozen=True)
class OutlineSamples:
    """Samples of one closed outline, in order.

    point: (k, 2) on the outline; normal: (k, 2) unit, off the cloth;
    along: (k,) arc length in mm; length: of the whole outline in mm.
    """

    point: Array
    normal: Array
    along: Array
    length: float


def sample_outline(ring: Array, step: float = STEP, fan: float = FAN) -> OutlineSamples:
    """Samples of a ring at most `step` mm apart, at its vertices one every `fan` rad.

    Vertices between sides shorter than two steps, mostly noise, are fanned half as finely.

    ring: (n, 2) closed, without a repeated end, as `boundaries` gives it.
    """
    side = np.roll(ring, -1, axis=0) - ring
    length = np.linalg.norm(side, axis=1)
    heading = np.arctan2(side[:, 1], side[:, 0])
    turn = np.angle(np.exp(1j * (heading - np.roll(heading, 1))))
    start = np.concatenate(([0.0], np.cumsum(length)[:-1]))

    crumb = np.maximum(length, np.roll(length, 1)) < 2.0 * step
    fans = np.ceil(np.abs(turn) / np.where(crumb, 2.0 * fan, fan)).astype(np.int64) + 1
    inner = np.maximum(np.ceil(length / step).astype(np.int64) - 1, 0)
    count = fans + inner
    owner = np.repeat(np.arange(len(ring)), count)
    nth = numbered(count)
    at_vertex = nth < fans[owner]

    share = np.where(at_vertex, 0.0, (nth - fans[owner] + 1) / (inner[owner] + 1))
    swept = np.where(at_vertex, (nth + 0.5) / fans[owner], 1.0)
    angle = heading[owner] - (1.0 - swept) * turn[owner]
    point = ring[owner] + share[:, None] * side[owner]
    normal = np.stack([np.sin(angle), -np.cos(angle)], axis=1)
    return OutlineSamples(
        point=point,
        normal=normal,
        along=start[owner] + share * length[owner],
        length=float(length.sum()),
    )


@dataclass(frozen=True)
class Reach:
    """How far samples may go along a direction.

    depth: (k,) mm, at most the limit asked for; opening: (k,) rad, the angle at which the
    ball that stopped a sample touches the outline (pi in a neck, small at a blunt corner,
    0 where nothing stopped it).
    """

    depth: Array
    opening: Array


class Surroundings:
    """All outlines that a sample may meet, and the reaches already worked out among them."""

    def __init__(self, outlines: list[OutlineSamples]) -> None:
        points = np.concatenate([outline.point for outline in outlines])
        repeated = np.concatenate(([False], (np.diff(points, axis=0) == 0).all(axis=1)))
        self.tree = KDTree(points[~repeated], balanced_tree=False)
        self.known: dict[tuple[int, bool, float], tuple[OutlineSamples, Reach | None]] = {}


def reach(samples: OutlineSamples, others: Surroundings, limit: float, outward: bool) -> Reach:
    """Free way of every sample along its normal (or against it), up to `limit` mm.

    The largest empty ball does not depend on the limit, so that it is worked out once for all usual limits and cut
    down; a wider one has a ball of its own. What is asked first never changes what is answered later.
    """
    widest = max(limit, USUAL)
    key = (id(samples), outward, widest)
    _, found = others.known.get(key, (samples, None))
    if found is None:
        found = _reach(samples, others.tree, widest, outward)
        others.known[key] = (samples, found)
    free = found.depth >= limit
    return Reach(depth=np.minimum(found.depth, limit), opening=np.where(free, 0.0, found.opening))


def _reach(samples: OutlineSamples, tree: KDTree, limit: float, outward: bool) -> Reach:
    direction = samples.normal if outward else -samples.normal
    depth = np.full(len(direction), limit)
    opening = np.zeros(len(direction))
    everyone = np.arange(len(direction))
    small = np.full(len(direction), min(PINCH, limit))
    angle = np.zeros(len(direction))
    _shrink(samples.point, direction, tree, everyone, small, angle, PINCH_TOLERANCE)
    pinched = (small < 2.0 * BALL_TOLERANCE) & (angle > np.pi / 2)
    depth[pinched], opening[pinched] = small[pinched], angle[pinched]
    _shrink(samples.point, direction, tree, everyone[~pinched], depth, opening, BALL_TOLERANCE)
    return Reach(depth=depth, opening=opening)


def _shrink(
    point: Array,
    direction: Array,
    others: KDTree,
    live: NDArray[np.int64],
    depth: Array,
    opening: Array,
    tolerance: float,
) -> None:
    """Shrinks the balls `live` in place until nothing intrudes by more than the tolerance."""
    for _ in range(BALL_ROUNDS):
        if len(live) == 0:
            break
        centre = point[live] + depth[live, None] * direction[live]
        bound = float(depth[live].max()) - tolerance
        distance, index = others.query(centre, distance_upper_bound=max(bound, 0.0))
        pressed = distance < depth[live] - tolerance
        live = live[pressed]
        chord = others.data[index[pressed]] - point[live]
        squared = np.einsum("ij,ij->i", chord, chord)
        ahead = np.einsum("ij,ij->i", chord, direction[live])
        ball = np.where(ahead > 1e-9, squared / np.maximum(2.0 * ahead, 1e-12), depth[live])
        ball = np.minimum(ball, depth[live])
        half = np.sqrt(squared) / np.maximum(2.0 * ball, 1e-12)
        opening[live] = 2.0 * np.arcsin(np.clip(half, 0.0, 1.0))
        moved = ball < depth[live] - 1e-6
        depth[live] = ball
        live = live[moved]


def surroundings(outlines: list[OutlineSamples]) -> Surroundings:
    """Surroundings made of several outlines."""
    return Surroundings(outlines)
