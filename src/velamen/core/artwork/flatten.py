"""Curves as straight stretches that stay within a tolerance of them."""

from __future__ import annotations

import numpy as np

from velamen.core.arrays import Array
from velamen.core.artwork.svg_units import Matrix

TOLERANCE = 0.02  # mm; the contract is 0.05, the rest is left to later steps


def flatten_cubic(control: Array) -> Array:
    """Points after the first on a cubic Bezier: (n, 2). control: (4, 2) mm.

    The count comes from the second differences of the control points (Wang's formula).
    """
    bow = float(np.linalg.norm(np.diff(control, n=2, axis=0), axis=1).max())
    t = _steps(np.sqrt(0.75 * bow / TOLERANCE))
    s = 1.0 - t
    basis = np.stack([s**3, 3 * s * s * t, 3 * s * t * t, t**3], axis=1)
    return np.asarray(basis @ control)


def flatten_quadratic(control: Array) -> Array:
    """Points after the first on a quadratic Bezier: (n, 2). control: (3, 2) mm."""
    bow = float(np.linalg.norm(np.diff(control, n=2, axis=0), axis=1).max())
    t = _steps(np.sqrt(0.25 * bow / TOLERANCE))
    s = 1.0 - t
    return np.asarray(np.stack([s * s, 2 * s * t, t * t], axis=1) @ control)


def flatten_arc(
    start: Array, end: Array, rx: float, ry: float, turn: float, large: bool, sweep: bool, matrix: Matrix
) -> Array:
    """Points after the first on an elliptical arc, in mm (SVG 1.1, appendix F.6)."""
    if rx == 0 or ry == 0 or (start == end).all():
        return matrix.apply(end[None])
    phi = np.radians(turn)
    spin = np.array([[np.cos(phi), np.sin(phi)], [-np.sin(phi), np.cos(phi)]])
    x, y = spin @ (0.5 * (start - end))
    scale = max(1.0, float(np.sqrt((x / rx) ** 2 + (y / ry) ** 2)))
    rx, ry = rx * scale, ry * scale
    square = (rx * y) ** 2 + (ry * x) ** 2
    size = np.sqrt(max(0.0, ((rx * ry) ** 2 - square) / square)) * (-1.0 if large == sweep else 1.0)
    centre_here = size * np.array([rx * y / ry, -ry * x / rx])
    centre = spin.T @ centre_here + 0.5 * (start + end)
    first = np.arctan2((y - centre_here[1]) / ry, (x - centre_here[0]) / rx)
    last = np.arctan2((-y - centre_here[1]) / ry, (-x - centre_here[0]) / rx)
    swing = float(last - first)
    if sweep and swing <= 0:
        swing += 2 * np.pi
    if not sweep and swing >= 0:
        swing -= 2 * np.pi
    radius = max(rx, ry) * matrix.stretch
    part = 2.0 * np.arccos(max(1.0 - TOLERANCE / max(radius, TOLERANCE), -1.0))
    angle = first + swing * _steps(abs(swing) / max(part, 1e-3))
    local = np.stack([rx * np.cos(angle), ry * np.sin(angle)], axis=1)
    return matrix.apply(local @ spin + centre)


def _steps(wanted: float) -> Array:
    count = int(min(max(np.ceil(wanted), 1), 2000))
    return np.arange(1, count + 1) / count
