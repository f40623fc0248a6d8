"""The free ends of columns: run to a point, or with a short satin across under them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from velamen.core.arrays import Array
from velamen.core.geometry.rails import Rails
from velamen.core.stitching.lanes import middle

CAP_DEPTH, CAP_BEYOND, CAP_NARROWER = 2.0, 0.5, 0.8  # mm in, mm past the end, of the width at its inner side


def pointed(rails: Rails, tips: tuple[bool, bool]) -> Rails:
    """Rails that run together at their free ends over a length of the column's own width."""
    width = np.linalg.norm(rails.outer - rails.inner, axis=1)
    off = np.full(len(width), np.inf)
    for at, free in ((0.0, tips[0]), (rails.length, tips[1])):
        if free:
            off = np.minimum(off, np.abs(rails.advance - at))
    share = np.clip(off / np.maximum(width, 0.5), 0.0, 1.0)[:, None]
    line = middle(rails)
    return replace(rails, outer=line + share * (rails.outer - line), inner=line + share * (rails.inner - line))


def cap(rails: Rails, at: float, sign: float, spacing: float) -> Array:
    """A short satin across an end, at right angles to the column, a little past it and narrower inwards.

    It begins and ends inside, where the column covers its way in and out.
    """
    outer, inner, _, _ = rails.at(np.array([at, at - sign * CAP_DEPTH]))
    outward = (outer[0] + inner[0] - outer[1] - inner[1]) / 2
    outward /= max(float(np.linalg.norm(outward)), 1e-9)
    beyond = [outer[0] + CAP_BEYOND * outward, inner[0] + CAP_BEYOND * outward]
    centre = (outer[0] + inner[0]) / 2
    within = [centre + CAP_NARROWER * (side - centre) - CAP_DEPTH * outward for side in (outer[0], inner[0])]
    steps = max(int(np.linalg.norm(outer[0] - inner[0]) / spacing), 2)
    share = np.linspace(0.0, 1.0, 2 * steps + 1)[:, None]
    far = (1.0 - share) * beyond[0] + share * beyond[1]
    near = (1.0 - share) * within[0] + share * within[1]
    return np.asarray(np.where(np.arange(2 * steps + 1)[:, None] % 2 == 0, near, far))
