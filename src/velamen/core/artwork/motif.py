"""Motifs of the library as figures: one line each, from its entry to its exit on the base line, 1 mm high."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from xml.etree.ElementTree import Element

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.artwork.svg_elements import element_subpaths
from velamen.core.artwork.svg_units import Matrix
from velamen.core.errors import BadInput
from velamen.core.materials.records import Motif

OFF_BASE = 0.05  # of its height that entry and exit may lie apart in height
MOST_POINTS, FEW = 4000, 200  # points of a motif, and of one made of a shape
FLAT = 0.05  # of its width that a motif is high at least


@dataclass(frozen=True, eq=False)
class Figure:
    """A motif's line (n, 2), y down, 1 mm high, its entry on the origin. exit: x of where it ends, on the base line;
    low, high: x of its left and right side."""

    line: Array
    exit: float
    low: float
    high: float

    @property
    def width(self) -> float:
        return self.high - self.low

    @property
    def closed(self) -> bool:
        """Whether it ends where it begins."""
        return abs(self.exit) < 1e-6


def path_of(rings: Sequence[Array], closed: bool, name: str) -> str:
    """The path of a shape or line as a motif, 10 high; raises BadInput where it is none.

    rings: its outlines (n, 2), or its one line. A line begins and ends on its base line, so it is turned to lie on
    both its ends; a shape begins and ends at its lowest place.
    """
    if len(rings) != 1:
        raise BadInput(f"{name} has cut-outs: a motif is one line, so break it up first.")
    line = shapely.get_coordinates(shapely.simplify(shapely.linestrings(rings[0]), _detail(rings[0])))
    if closed:
        line = np.roll(line[:-1] if np.allclose(line[0], line[-1]) else line, -int(np.argmax(line[:, 1])), axis=0)
        line = np.concatenate([line, line[:1]])
    elif np.linalg.norm(line[-1] - line[0]) > 0.1 * np.ptp(line, axis=0).max():
        along = (line[-1] - line[0]) / np.linalg.norm(line[-1] - line[0])
        line = (line - line[0]) @ np.array([[along[0], -along[1]], [along[1], along[0]]])
    if float(np.ptp(line[:, 1])) < FLAT * float(np.ptp(line[:, 0])):
        raise BadInput(f"{name} is too flat for a motif: it must rise above the line through its ends.")
    line = (line - line[0]) * 10.0 / float(np.ptp(line[:, 1]))
    return "M" + "L".join(f"{x:.2f},{y:.2f}" for x, y in line.tolist())


def _detail(line: Array) -> float:
    """mm that a motif made of a line may leave it, so that it has few enough points."""
    size = float(np.ptp(line, axis=0).max())
    for share in (0.002, 0.005, 0.01, 0.02):
        if len(shapely.get_coordinates(shapely.simplify(shapely.linestrings(line), share * size))) <= FEW:
            return share * size
    return 0.04 * size


@lru_cache(maxsize=512)
def figure_of(motif: Motif) -> Figure:
    """The figure of a motif. Raises BadInput where its path is no single line between two places of a base line."""
    if not motif.path or set(motif.path) - set("MmLlHhVvCcSsQqTtAaZz0123456789.,+-eE "):
        raise BadInput(f"The path of the motif {motif.name!r} is no SVG path: write it like M0,0L5,-10L10,0.")
    found = element_subpaths(Element("path", d=motif.path), "path", Matrix.identity(), motif.name)
    if len(found) != 1 or len(found[0].points) < 3:
        raise BadInput(f"The motif {motif.name!r} must be one line, drawn without lifting the pen.")
    line = found[0].points
    if found[0].closed and np.linalg.norm(line[0] - line[-1]) > 0:
        line = np.concatenate([line, line[:1]])
    height = float(np.ptp(line[:, 1]))
    if height < 1e-6 or len(line) > MOST_POINTS:
        raise BadInput(f"The motif {motif.name!r} must have a height, and at most {MOST_POINTS} points.")
    line = (line - line[0]) / height
    if abs(line[-1, 1]) > OFF_BASE:
        raise BadInput(f"The motif {motif.name!r} must begin and end at the same height: that is its base line.")
    low, high = float(line[:, 0].min()), float(line[:, 0].max())
    return Figure(line, float(line[-1, 0]) if abs(line[-1, 0]) > OFF_BASE / 5 else 0.0, low, high)
