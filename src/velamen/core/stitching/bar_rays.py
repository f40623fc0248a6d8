"""Rays and distances among bars and edges: what a bar through a place would meet."""

from __future__ import annotations

import numpy as np

from velamen.core.arrays import Array

MANY = 64  # stretches measured at once


def rays(place: Array, ways: Array, sides: Array) -> Array:
    """How far along rays (k, 2) from a place each of some stretches (n, 2, 2) lies: (k, n) mm, inf for never."""
    off, side = sides[:, 0] - place, sides[:, 1] - sides[:, 0]
    cross = ways[:, :1] * side[None, :, 1] - ways[:, 1:] * side[None, :, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        far = (off[:, 0] * side[:, 1] - off[:, 1] * side[:, 0])[None] / cross
        share = (off[None, :, 0] * ways[:, 1:] - off[None, :, 1] * ways[:, :1]) / cross
    met = (np.abs(cross) > 1e-12) & (share >= 0.0) & (share <= 1.0) & (far > 1e-9)
    return np.asarray(np.where(met, far, np.inf))


def parts_of(line: Array) -> Array:
    """The stretches (n - 1, 2, 2) of a line (n, 2)."""
    return np.stack([line[:-1], line[1:]], axis=1)


def distance(places: Array, parts: Array) -> Array:
    """From places (n, 2) to the nearest of stretches (k, 2, 2), mm; inf where there is none."""
    far = np.full(len(places), np.inf)
    for begin in range(0, len(parts), MANY):
        a, side = parts[begin : begin + MANY, 0], np.diff(parts[begin : begin + MANY], axis=1)[:, 0]
        off = places[:, None] - a[None]
        share = np.clip((off * side).sum(axis=2) / np.maximum((side**2).sum(axis=1), 1e-12), 0.0, 1.0)
        far = np.minimum(far, np.linalg.norm(off - share[..., None] * side, axis=2).min(axis=1))
    return far


def beside(line: Array, parts: Array, clear: float) -> int:
    """At how many of its ends and thirds a bar (2, 2) comes close to another that it does not end on."""
    if not len(parts):
        return 0
    near = distance(line[0] + np.array([[0.0], [0.33], [0.67], [1.0]]) * (line[-1] - line[0]), parts)
    return int(np.count_nonzero((near < clear) & (near > 1e-6)))


def crosses(line: Array, parts: Array) -> bool:
    """Whether a bar meets another."""
    way = line[1] - line[0]
    length = float(np.linalg.norm(way))
    return bool((rays(line[0], way[None] / max(length, 1e-9), parts) < length).any())
