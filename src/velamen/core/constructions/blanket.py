"""Blanket: an edge run with equal bites, one on every corner (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.edge import edge
from velamen.core.setting import Setting

CONSTRUCTION = edge(
    "blanket", "Blanket",
    Setting("blanket_width", "Bite", "Border", "Of every bite.", low=1.0, high=8.0, measure="bite"),
    Setting("blanket_step", "Step", "Border", "Between bites, as evenly as corners allow.", low=1.0, high=8.0,
            measure="bite_step"),
)  # fmt: skip
