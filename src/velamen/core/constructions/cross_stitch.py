"""Cross-stitch: a grid of crosses over a shape (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.base import Ends, Work
from velamen.core.constructions.plain import DECORATION, plain
from velamen.core.setting import Setting
from velamen.core.stitching.cross import cross_stitch
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

SETTINGS = (
    Setting("cross_size", "Size", "Grid", "Of one cross, from side to side.", low=1.0, high=8.0),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Crosses wholly within the shape, half ones at its edge."""
    size = number(values, "cross_size")
    return f"Cross-stitch {size:.1f}", cross_stitch(work.region, "decoration", size, work.start)


CONSTRUCTION = plain("cross_stitch", "Cross-stitch", DECORATION, SETTINGS, sewing, ends=Ends.PATH,
    shown_with={"cross_size": 1.8})  # fmt: skip
