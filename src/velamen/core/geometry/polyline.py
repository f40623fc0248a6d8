"""Polylines: lines of straight stretches, (n, 2) in mm, and how far along them their points lie."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array


def arc_lengths(line: Array) -> Array:
    """How far along a line each of its points lies: (n,) mm, the first 0.

    >>> arc_lengths(np.array([[0.0, 0.0], [3.0, 4.0], [3.0, 5.0]])).tolist()
    [0.0, 5.0, 6.0]
    """
    return np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))))


def ring_arc_lengths(ring: Array) -> Array:
    """The same round a ring whose first point is not repeated: (n + 1,) mm, the last its whole length.

    >>> ring_arc_lengths(np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])).tolist()
    [0.0, 1.0, 2.0, 3.0, 4.0]
    """
    return np.concatenate(([0.0], np.cumsum(np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1))))


def line_length(line: Array) -> float:
    """Length of a line in mm."""
    return float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum())


def drawn(lines: Sequence[Array]) -> NDArray[np.object_]:
    """(k,) lines as geometries, made at once; a single place as a line of no length.

    >>> [one.length for one in drawn([np.array([[0.0, 0.0], [3.0, 4.0]]), np.array([[1.0, 1.0]])])]
    [5.0, 0.0]
    """
    sizes = [max(len(line), 2) for line in lines]
    points = np.concatenate([line if len(line) > 1 else np.repeat(line, 2, axis=0) for line in lines])
    return np.asarray(shapely.linestrings(points, indices=np.repeat(np.arange(len(lines)), sizes)))
