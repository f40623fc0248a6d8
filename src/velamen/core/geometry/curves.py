"""Curve nodes: outlines as a few cubic Bezier curves, flattened to points and fitted to them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index, numbered
from velamen.core.geometry.polyline import arc_lengths

FLAT = 0.02  # mm a flattened curve may leave the curve
ROUNDS = 60  # at most; each divides every stretch that does not fit yet
TURN = 0.35  # of the tolerance, within which a stretch of a curve counts as straight
SIDE = 1.5  # of the tolerance, within which a side between two corners does


@dataclass(frozen=True)
class Samples:
    """Points along several lines, end to end, ready for fitting.

    points: (n, 2) mm; first, last: index of each line's first and last point; before, after:
    (n, 2) unit directions in which a line arrives at a point and leaves it, different at corners;
    fixed: points that stay nodes.
    """

    points: Array
    first: Index
    last: Index
    before: Array
    after: Array
    fixed: NDArray[np.bool_]


def flatten_nodes(nodes: Array, tolerance: float = FLAT, closed: bool = True) -> Array:
    """Points (m, 2) along curves through nodes, within a tolerance in mm of them.

    nodes: (n, 6), a row each with its place, the handle before it and the handle after it,
    all as points in mm; a handle on its place means a straight end. A closed outline comes
    without its first point repeated. Steps after Wang's bound on second differences.

    >>> import numpy as np
    >>> flatten_nodes(np.array([[0.0, 0, 0, 0, 0, 0], [9, 0, 9, 0, 9, 0], [9, 9, 9, 9, 9, 9]])).tolist()
    [[0.0, 0.0], [9.0, 0.0], [9.0, 9.0]]
    """
    nodes = np.asarray(nodes, dtype=np.float64).reshape(-1, 6)
    ahead = np.roll(nodes, -1, axis=0)
    control = np.stack([nodes[:, :2], nodes[:, 4:], ahead[:, 2:4], ahead[:, :2]], axis=1)
    if not closed:
        control = control[:-1]
    bow = np.linalg.norm(np.diff(control, n=2, axis=1), axis=2).max(axis=1)
    straight = (np.linalg.norm(control[:, 1] - control[:, 0], axis=1) < 1e-9) & (
        np.linalg.norm(control[:, 2] - control[:, 3], axis=1) < 1e-9
    )
    steps = np.clip(np.ceil(np.sqrt(0.75 * bow / tolerance)), 1, 2000).astype(np.int64)
    steps[straight] = 1
    curve = np.repeat(np.arange(len(control)), steps)
    t = numbered(steps) / np.repeat(steps, steps)
    points = np.einsum("nk,nkd->nd", _basis(t), control[curve])
    return points if closed else np.concatenate([points, control[-1:, 3]])


def fitted(samples: Samples, tolerance: float) -> list[Array]:
    """For every line its nodes (k, 6): as few curves as stay within a tolerance in mm of its points.

    Least squares with given end directions, split where they leave the points (Schneider, Graphics
    Gems I), all stretches of all lines at once. A stretch that is straight gets no handles.
    """
    way = arc_lengths(samples.points)
    node = samples.fixed.copy()
    node[samples.first] = node[samples.last] = True
    curves: list[tuple[Index, Array, Array]] = []
    begin, end = _stretches(samples, node)
    for round_ in range(ROUNDS):
        one, other, error, worst = _fit(samples, way, begin, end, tolerance)
        good = (error <= tolerance) | (end - begin <= 1) | (round_ == ROUNDS - 1)
        curves.append((begin[good], one[good], other[good]))
        if good.all():
            break
        split = worst[~good]
        node[split] = True
        begin, end = np.concatenate([begin[~good], split]), np.concatenate([split, end[~good]])
        order = np.argsort(begin, kind="stable")
        begin, end = begin[order], end[order]
    return _lines_of(samples, node, curves)


def _stretches(samples: Samples, node: NDArray[np.bool_]) -> tuple[Index, Index]:
    """Begin and end of each stretch between neighbouring nodes of one line."""
    at = np.flatnonzero(node)
    inside = ~np.isin(at[:-1], samples.last)
    return at[:-1][inside], at[1:][inside]


def _lines_of(samples: Samples, node: NDArray[np.bool_], curves: list[tuple[Index, Array, Array]]) -> list[Array]:
    """The nodes of each line, out of the curves found in any order."""
    start = np.concatenate([begin for begin, _, _ in curves])
    order = np.argsort(start, kind="stable")
    start = start[order]
    one = np.concatenate([first for _, first, _ in curves])[order]
    other = np.concatenate([last for _, _, last in curves])[order]
    at = np.flatnonzero(node)
    rows = np.repeat(samples.points[at], 3, axis=0).reshape(-1, 6)
    nth = np.searchsorted(at, start)
    rows[nth, 4:] = one
    rows[nth + 1, 2:4] = other
    bounds = np.searchsorted(at, samples.first), np.searchsorted(at, samples.last) + 1
    return [rows[low:high] for low, high in zip(*bounds, strict=True)]


def _fit(
    samples: Samples, way: Array, begin: Index, end: Index, tolerance: float
) -> tuple[Array, Array, Array, Index]:
    """One curve for each stretch: its two handles, how far it leaves the points, and where most."""
    count = end - begin + 1
    start = np.cumsum(count) - count
    owner = np.repeat(np.arange(len(begin)), count)
    index = np.arange(len(owner)) - np.repeat(start - begin, count)
    points = samples.points[index]
    near, far = samples.points[begin], samples.points[end]
    go, come = samples.after[begin], -samples.before[end]
    length = np.maximum(way[end] - way[begin], 1e-9)
    u = (way[index] - way[begin][owner]) / length[owner]
    chord = np.linalg.norm(far - near, axis=1)
    for _ in range(3):
        one, other = _handles(points, u, start, owner, near, far, go, come, chord, length)
        control = np.stack([near, near + go * one[:, None], far + come * other[:, None], far], axis=1)
        u = _nearer(points, u, control[owner])
        u[start], u[start + count - 1] = 0.0, 1.0
    off = np.linalg.norm(np.einsum("nk,nkd->nd", _basis(u), control[owner]) - points, axis=1)
    error, worst = _worst(off, start, index)
    along = (far - near) / np.maximum(chord, 1e-9)[:, None]
    rest = points - near[owner]
    aside = np.abs(rest[:, 0] * along[owner, 1] - rest[:, 1] * along[owner, 0])
    bend, _ = _worst(aside, start, index)
    cornered = samples.fixed[begin] & samples.fixed[end]
    flat = (bend <= np.where(cornered, SIDE, TURN) * tolerance) & (chord > 0.8 * length)
    control[flat, 1], control[flat, 2] = near[flat], far[flat]
    error = np.where(flat, 0.0, error)
    worst = np.clip(worst, begin + 1, np.maximum(end - 1, begin + 1))
    return control[:, 1], control[:, 2], error, worst


def _handles(
    points: Array, u: Array, start: Index, owner: Index, near: Array, far: Array, go: Array, come: Array,
    chord: Array, length: Array,
) -> tuple[Array, Array]:  # fmt: skip
    """Lengths of both handles of each stretch by least squares; a third of the chord where that fails."""
    basis = _basis(u)
    rest = (
        points
        - near[owner] * (basis[:, 0] + basis[:, 1])[:, None]
        - far[owner] * (basis[:, 2] + basis[:, 3])[:, None]
    )
    b1, b2 = basis[:, 1], basis[:, 2]
    c11, c22 = np.add.reduceat(b1 * b1, start), np.add.reduceat(b2 * b2, start)
    c12 = np.add.reduceat(b1 * b2, start) * np.einsum("nd,nd->n", go, come)
    x1 = np.add.reduceat(b1 * np.einsum("nd,nd->n", rest, go[owner]), start)
    x2 = np.add.reduceat(b2 * np.einsum("nd,nd->n", rest, come[owner]), start)
    det = c11 * c22 - c12 * c12
    safe = np.where(np.abs(det) < 1e-12, 1.0, det)
    one, other = (x1 * c22 - x2 * c12) / safe, (x2 * c11 - x1 * c12) / safe
    least = 0.02 * chord
    poor = (np.abs(det) < 1e-12) | (one < least) | (other < least) | (one > length) | (other > length)
    return np.where(poor, chord / 3.0, one), np.where(poor, chord / 3.0, other)


def _nearer(points: Array, u: Array, control: Array) -> Array:
    """One Newton step of every point's parameter towards its nearest place on the curve."""
    first, second = 3.0 * np.diff(control, axis=1), 6.0 * np.diff(control, n=2, axis=1)
    s = 1.0 - u
    d0 = np.einsum("nk,nkd->nd", _basis(u), control) - points
    d1 = np.einsum("nk,nkd->nd", np.stack([s * s, 2 * s * u, u * u], axis=1), first)
    d2 = np.einsum("nk,nkd->nd", np.stack([s, u], axis=1), second)
    slope = np.einsum("nd,nd->n", d1, d1) + np.einsum("nd,nd->n", d0, d2)
    step = np.einsum("nd,nd->n", d0, d1) / np.where(np.abs(slope) < 1e-12, np.inf, slope)
    return np.asarray(np.clip(u - np.clip(step, -0.1, 0.1), 0.0, 1.0))


def _worst(off: Array, start: Index, index: Index) -> tuple[Array, Index]:
    """The largest of each stretch's distances and the point it lies at."""
    most = np.maximum.reduceat(off, start)
    owner = np.repeat(np.arange(len(start)), np.diff(np.append(start, len(off))))
    at = np.flatnonzero(off >= most[owner])
    _, once = np.unique(owner[at], return_index=True)
    return most, index[at[once]]


def _basis(t: Array) -> Array:
    s = 1.0 - t
    return np.stack([s**3, 3 * s * s * t, 3 * s * t * t, t**3], axis=1)
