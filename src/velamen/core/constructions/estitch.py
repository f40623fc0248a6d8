"""E-stitch: an edge run with a bite inward at every step (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.edge import edge
from velamen.core.setting import Setting

CONSTRUCTION = edge(
    "estitch", "E-stitch",
    Setting("estitch_width", "Bite", "Border", "Of a bite.", low=1.0, high=8.0, measure="bite"),
    Setting("estitch_step", "Step", "Border", "Between bites.", low=1.0, high=8.0, measure="bite_step"),
)  # fmt: skip
