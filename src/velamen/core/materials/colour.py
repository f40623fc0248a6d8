"""Nearest thread to a colour."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from velamen.core.materials.library import Thread, threads


def nearest_thread(colour: str) -> Thread:
    """The thread nearest to a "#rrggbb" colour, by distance in CIE L*a*b* (1976)."""
    rows = list(threads().values())
    lab = _lab([row.colour for row in rows])
    return rows[int(np.argmin(((lab - _lab([colour])) ** 2).sum(axis=1)))]


def _lab(colours: list[str]) -> NDArray[np.float64]:
    rgb = np.array([[int(text[i : i + 2], 16) for i in (1, 3, 5)] for text in colours]) / 255.0
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    to_xyz = np.array(
        [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
    )  # sRGB, IEC 61966-2-1
    xyz = linear @ to_xyz.T / np.array([0.9505, 1.0, 1.089])
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[:, 1] - 16, 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])], axis=1)
