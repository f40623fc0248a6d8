"""Types of the arrays that the core hands about."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]  # mm, mostly places (n, 2)
Index = NDArray[np.int64]  # places of things in other arrays
Mask = NDArray[np.bool_]
Place = tuple[float, float]  # mm, x to the right, y down, from the middle of the sewing field


def numbered(counts: Index) -> Index:
    """Numbers from 0 within each of several groups one after another, by the size of each.

    >>> numbered(np.array([3, 1, 2])).tolist()
    [0, 1, 2, 0, 0, 1]
    """
    total = int(counts.sum())
    return np.arange(total) - np.repeat(np.cumsum(counts) - counts, counts)


def stretches(mask: Mask) -> Index:
    """Where a mask (n,) holds without a break: (k, 2), the first place of each stretch and the one past its last.

    >>> stretches(np.array([True, False, True, True])).tolist()
    [[0, 1], [2, 4]]
    """
    return np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8))).reshape(-1, 2)
