"""Fluff of chenille once it is slit, washed and brushed: ridges along the lines of stitching, as tufts to draw and as
heights.

A strip of layers is held by the stitches in its middle and free at both slits; washed, its edges stand up beside the
stitches, the lowest layer outermost. Tufts come from place and number alone, so that every picture has the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from velamen.core.arrays import Array, Index

PITCH = 0.34  # mm along a line between tufts of one layer and side
LONG = 0.5  # of its reach that a tuft is long
INNER, OUTER = 0.3, 0.95  # of the reach: where tufts of the uppermost and of the lowest layer end
STRAY, LEAN, SHADES = 0.28, 0.6, 6  # of the reach that ends stray, rad that tufts lean, and tones of a layer
TUFT = 0.24  # mm that a tuft is drawn wide
TALL = 1.6  # times the thickness of all layers that a ridge stands above them


@dataclass(frozen=True)
class Tufts:
    """Tufts in the order they are drawn. ends: (n, 4) mm, x and y of root and tip; layer: (n,) from the lowest, 0 on;
    shade: (n,) tone from 0, dark, to SHADES - 1."""

    ends: Array
    layer: Index
    shade: Index


def tufts(lines: Sequence[Array], reaches: Sequence[float], layers: int) -> Tufts:
    """Tufts along lines (n, 2); reaches: mm that those of each line go to either side; layers: of cloth."""
    spots, ways, reach = _spots(lines, reaches)
    found: list[Array] = []
    kinds: list[Index] = []
    shades: list[Index] = []
    for layer in range(layers):
        out = OUTER + (INNER - OUTER) * layer / max(layers - 1, 1)
        for side in (-1.0, 1.0):
            seed = 1000.0 * layer + 500.0 * (side > 0)
            drawn = [chance(np.arange(len(spots), dtype=np.float64) + seed, nth) for nth in range(4)]
            tip = reach * (out + STRAY * (drawn[0] - 0.5) * 2.0)
            root = np.maximum(tip - LONG * reach, 0.0)
            lean = LEAN * (drawn[1] - 0.5) * 2.0
            cos, sin = np.cos(lean), np.sin(lean)
            across = side * np.stack([-ways[:, 1], ways[:, 0]], axis=1)
            across = np.stack([cos * across[:, 0] - sin * across[:, 1], sin * across[:, 0] + cos * across[:, 1]], 1)
            base = spots + ways * (PITCH * (drawn[2] - 0.5))[:, None]
            found.append(np.concatenate([base + root[:, None] * across, base + tip[:, None] * across], axis=1))
            kinds.append(np.full(len(spots), layer))
            shades.append((SHADES * drawn[3]).astype(np.int64))
    if not found:
        return Tufts(np.zeros((0, 4)), np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64))
    return Tufts(np.concatenate(found), np.concatenate(kinds), np.concatenate(shades))


def _spots(lines: Sequence[Array], reaches: Sequence[float]) -> tuple[Array, Array, Array]:
    """Places along lines, the direction and the reach at each."""
    spots, ways, reach = [np.zeros((0, 2))], [np.zeros((0, 2))], [np.zeros(0)]
    for line, far in zip(lines, reaches, strict=True):
        along = shapely.LineString(line)
        count = max(int(along.length / PITCH), 2)
        at = (np.arange(count) + 0.5) * along.length / count
        stops = [np.clip(at + by, 0.0, along.length) for by in (0.0, 0.2, -0.2)]
        here, on, back = (shapely.get_coordinates(shapely.line_interpolate_point(along, one)) for one in stops)
        step = on - back
        spots.append(here)
        ways.append(step / np.maximum(np.linalg.norm(step, axis=1, keepdims=True), 1e-9))
        reach.append(np.full(count, far))
    return np.concatenate(spots), np.concatenate(ways), np.concatenate(reach)


def chance(number: Array, nth: int = 0) -> Array:
    """Numbers from 0 to 1 that look like chance, the same for the same number everywhere."""
    found = np.sin(number * 12.9898 + nth * 78.233) * 43758.5453
    return np.asarray(found - np.floor(found))
