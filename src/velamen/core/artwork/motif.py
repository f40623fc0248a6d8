"""Motifs of the library as figures: one line each, from its entry to its exit on the base line, 1 mm high."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from xml.etree.ElementTree import Element

import numpy as np

from velamen.core.arrays import Array
from velamen.core.artwork.svg_elements import element_subpaths
from velamen.core.artwork.svg_units import Matrix
from velamen.core.errors import BadInput
from velamen.core.materials.records import Motif

OFF_BASE = 0.05  # of its height that entry and exit may lie apart in height
MOST_POINTS = 4000


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
