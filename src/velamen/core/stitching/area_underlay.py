"""Underlay of areas, by recipe: an edge run, open rows across the cover, or a net."""

from __future__ import annotations

import numpy as np
from shapely import Polygon

from velamen.core.stitching.border import run_borders
from velamen.core.stitching.fill import FillSewing, fill
from velamen.core.stitching.roles import UNDERLAY
from velamen.core.stitching.strand import Strand

UNDERLAYS = (("none", "none"), ("edge", "edge run"), ("rows", "open rows"), ("edge_rows", "edge run + open rows"),
             ("net", "net"), ("edge_net", "edge run + net"))  # fmt: skip
EDGE_INSET, EDGE_LENGTH = 0.6, 2.5  # mm of the edge run
OPEN_SPACING, OPEN_LENGTH, OPEN_INSET = 2.5, 4.0, 0.8  # mm of the open rows
TURNS = {"rows": (np.pi / 2,), "net": (np.pi / 4, 3 * np.pi / 4)}


def area_underlay(region: Polygon, recipe: str, angle: float) -> list[Strand]:
    """Strands of a recipe under a cover whose rows lie at an angle in rad."""
    sewn: list[Strand] = []
    for part in recipe.split("_"):
        if part == "edge":
            sewn += run_borders(region, UNDERLAY, EDGE_LENGTH, EDGE_INSET)
        for turn in TURNS.get(part, ()):
            across = (angle + turn + np.pi) % (2 * np.pi) - np.pi
            sewn += fill(region, UNDERLAY, FillSewing(across, OPEN_SPACING, OPEN_LENGTH, "brick", -OPEN_INSET))
    return sewn
