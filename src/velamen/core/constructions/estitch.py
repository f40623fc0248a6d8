"""E-stitch: an edge run with a bite inward at every step (handbook, section 1)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.base import FoundPart
from velamen.core.constructions.edge import edge
from velamen.core.setting import Setting


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """Bites found, on the line that they stand on."""
    return {"estitch_width": part.width, "estitch_step": part.spacing} if part.kind == "estitch" else None


CONSTRUCTION = edge(
    "estitch", "E-stitch",
    Setting("estitch_width", "Bite", "Border", "Of a bite.", low=1.0, high=8.0, measure="bite"),
    Setting("estitch_step", "Step", "Border", "Between bites.", low=1.0, high=8.0, measure="bite_step"),
    reads=reads,
)  # fmt: skip
