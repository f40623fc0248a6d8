"""Light: heights on a grid as the shade and the shine that a lamp at the upper left gives them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array

LAMP = np.array([-0.38, -0.48, 0.79])  # towards it: x right, y down, z up
ACROSS = 0.3 * np.pi  # direction of threads that catch least of it, rad
DEEP, FAR = 0.35, 4  # darkening by mm that a place lies under its surroundings, and cells of those either way
DARKEST, BRIGHTEST = -0.60, 0.26  # of the light that falls on what lies flat
SHADE, SHINE = 0.62, 0.42  # opacity of black and of white at full difference
STEEPEST = 0.9  # mm a mm that slopes come near to, however steep they are


def lit(height: Array, step: float) -> Array:
    """How much more or less light falls on each cell than on what lies flat: (h, w), 0 for as much.

    height: (h, w) mm in cells of `step` mm.
    """
    down, right = (np.gradient(height, step, axis=axis) for axis in (0, 1))
    flat = 1.0 / np.sqrt(1.0 + (right**2 + down**2) / STEEPEST**2)
    right, down = right * flat, down * flat
    falls = (-right * LAMP[0] - down * LAMP[1] + LAMP[2]) / np.sqrt(right**2 + down**2 + 1.0)
    hollow = np.maximum(calmed(height, FAR) - height, 0.0)
    light: Array = np.clip(falls / LAMP[2] - 1.0 - DEEP * np.minimum(hollow, 1.0), DARKEST, BRIGHTEST)
    return light


def sheen(step: Array) -> Array:
    """How much threads shine by the way (n, 2) they lie: (n,) from 0 along the light to 1 across it."""
    return np.asarray(np.abs(np.sin(np.arctan2(step[:, 1], step[:, 0]) - ACROSS)))


def calmed(height: Array, reach: int) -> Array:
    """Heights averaged twice over `reach` cells either way, along rows and columns."""
    for axis in (0, 1):
        for _ in range(2):
            height = _averaged(height, reach, axis)
    return height


def _averaged(height: Array, reach: int, axis: int) -> Array:
    wide = 2 * reach + 1
    padding = [(reach + 1, reach) if one == axis else (0, 0) for one in (0, 1)]
    total = np.cumsum(np.pad(height, padding, mode="edge"), axis=axis)
    size = height.shape[axis]
    low, high = np.arange(size), np.arange(size) + wide
    return np.asarray((np.take(total, high, axis) - np.take(total, low, axis)) / wide)


def veil(light: Array) -> NDArray[np.uint8]:
    """What is laid over a picture for light to fall on it: (h, w, 4), black and white, by how strong they are."""
    out = np.zeros((*light.shape, 4), dtype=np.uint8)
    bright = light > 0
    out[bright, :3] = 255
    out[..., 3] = np.round(255 * np.where(bright, SHINE * light / BRIGHTEST, SHADE * light / DARKEST))
    return out
