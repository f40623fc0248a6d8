"""Outlines that cross too often, told before any of the work that crossings cause is begun."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from velamen.core.arrays import Array, Mask

SAMPLED = 64  # edges from which the cost of looking at all is told
BESIDE = 20_000_000  # pairs of edges whose boxes meet, at most looked at
AT_ONCE = 500_000  # such pairs in one look


class Entangled(Exception):
    """More crossings, or edges beside one another, than are looked at."""


def check_entangled(rings: Sequence[Array], most: int, all_of_them: bool = True) -> None:
    """Raises Entangled where edges of rings cross one another in more than `most` places.

    rings: each (n, 2) in mm, without a closing point; all_of_them: count; else only whether that could be counted.
    """
    edges = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in rings])
    boxes = shapely.box(*edges.min(axis=1).T, *edges.max(axis=1).T)
    tree = shapely.STRtree(boxes)
    sample = np.unique(np.linspace(0, len(edges) - 1, min(SAMPLED, len(edges))).astype(int))
    beside = tree.query(boxes[sample]).shape[1] / len(sample)
    if beside * len(edges) > BESIDE:
        raise Entangled
    found, step = 0, max(int(AT_ONCE / beside), 1)
    for at in range(0, len(edges), step) if all_of_them else ():
        one, other = tree.query(boxes[at : at + step])
        found += int(np.count_nonzero(_cross(edges[one + at], edges[other])))
        if found > 2 * most:
            raise Entangled


def _cross(one: Array, other: Array) -> Mask:
    """Whether edges (n, 2, 2) cross, each within both; ends that only touch do not."""
    return (_turn(one, other[:, 0]) * _turn(one, other[:, 1]) < 0) & (
        _turn(other, one[:, 0]) * _turn(other, one[:, 1]) < 0
    )


def _turn(edge: Array, place: Array) -> Array:
    """On which side of edges places lie, as a sign: (n,)."""
    way, off = edge[:, 1] - edge[:, 0], place - edge[:, 0]
    return np.asarray(np.sign(way[:, 0] * off[:, 1] - way[:, 1] * off[:, 0]))
