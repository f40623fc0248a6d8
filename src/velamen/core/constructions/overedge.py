"""Overedge: slanted bites that overlap over a ridge, like an overlocked edge (handbook, section 8)."""

from __future__ import annotations

from velamen.core.constructions.edge import band_of, edge
from velamen.core.setting import Setting

CONSTRUCTION = edge(
    "overedge", "Overedge",
    Setting("overedge_width", "Width", "Border", "Of the edge.", low=2.0, high=6.0, measure="overedge_width"),
    Setting("overedge_spacing", "Spacing", "Border", "Between bites.", low=0.3, high=2.0, step=0.05,
            measure="overedge_spacing"),
    band_of("overedge"), "overedge_corner", shown_with={"overedge_width": 3.0},
)  # fmt: skip
