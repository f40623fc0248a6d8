"""Polylines: lines of straight stretches, (n, 2) in mm, and how far along them their points lie."""

from __future__ import annotations

import numpy as np

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
