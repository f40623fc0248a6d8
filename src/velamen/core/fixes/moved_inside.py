"""A design brought into the sewing field: moved as little as may be, or made smaller until it fits."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.edits.shapes.arranging import moved
from velamen.core.job.document import Job
from velamen.core.materials.hoops import hull_points, overshoot
from velamen.core.materials.records import Hoop
from velamen.core.proofs.finding import Finding

TRIED = 41  # places across and down
BIN = 1.0  # mm across in which the lowest needle point stands for all
CLEAR = 0.2  # mm that a moved design keeps from the field's limit
SMALLER, LEAST = 0.01, 0.5  # of its size: step, and what is no longer the same design
WORDS = (("left", "right"), ("up", "down"))


def moved_inside(build: Build, finding: Finding) -> Iterator[tuple[str, Job]]:
    """The whole design moved into the field, where it fits there; else as large as fits."""
    hoop = build.library.hoops[build.job.brief.hoop]
    points = _limits(build.plan.xy[build.plan.sewn])
    shapes = [one.id for one in build.job.shapes]
    shift = _least_move(points, hoop)
    if shift is not None:
        yield f"Move the design {_told(shift)}", moved(build.job, shapes, np.eye(2), shift)
        return
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    for size in np.arange(1.0 - SMALLER, LEAST, -SMALLER):
        shift = _least_move(middle + size * (points - middle), hoop)
        if shift is not None:
            label = f"Make the design {100 * (1.0 - size):.0f} % smaller"
            yield label, moved(build.job, shapes, size * np.eye(2), middle - size * middle + shift)
            return


def _limits(points: Array) -> Array:
    """The needle points (n, 2) that decide: the corners of their hull, and the lowest ones all along."""
    order = np.lexsort((-points[:, 1], np.floor(points[:, 0] / BIN)))
    _, first = np.unique(np.floor(points[order, 0] / BIN), return_index=True)
    return np.concatenate([hull_points(points), points[order[first]]])


def _least_move(points: Array, hoop: Hoop) -> Array | None:
    """The shortest of the moves tried that brings points (n, 2) into a field; None where none does."""
    low = np.array([-hoop.width, -hoop.height]) / 2 + CLEAR - points.min(axis=0)
    high = np.array([hoop.width, hoop.height]) / 2 - CLEAR - points.max(axis=0)
    if (low > high).any():
        return None
    sides = [np.union1d(np.linspace(a, b, TRIED), np.clip(0.0, a, b)) for a, b in zip(low, high, strict=True)]
    moves = np.stack(np.meshgrid(*sides), axis=-1).reshape(-1, 2)
    moves = moves[np.argsort(np.linalg.norm(moves, axis=1), kind="stable")]
    moves = moves if hoop.shape != "rect" else moves[:1]
    placed = (moves[:, None, :] + points[None, :, :]).reshape(-1, 2)
    inside = overshoot(hoop, placed).reshape(len(moves), -1).max(axis=1) <= 0.0
    return np.asarray(np.round(moves[np.argmax(inside)], 2)) if inside.any() else None


def _told(shift: Array) -> str:
    """A move in words."""
    parts = [
        f"{abs(by):.1f} mm {words[int(by > 0)]}" for by, words in zip(shift, WORDS, strict=True) if abs(by) > 0.05
    ]
    return " and ".join(parts) or "a little"
