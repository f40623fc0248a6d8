"""Contour: rings that echo the outline of a shape, or one spiral of them (handbook, section 1)."""

from __future__ import annotations

from velamen.core.constructions.base import Ends, Work
from velamen.core.constructions.plain import DECORATION, plain
from velamen.core.setting import Setting
from velamen.core.stitching.contour import STYLES, contour
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SETTINGS = (
    Setting("contour_spacing", "Spacing", "Rings", "Between neighbouring rings.", low=0.3, high=10.0, step=0.01,
            role="decoration", measure="fill_spacing"),
    Setting("contour_length", "Length", "Rings", "Of a stitch; shorter round tight curves.", low=1.0, high=6.0,
            measure="run_length"),
    Setting("contour_style", "Winding", "Rings", "Ring by ring, or each winding on into the next.", kind="choice",
            unit="", choices=STYLES),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The rings."""
    spacing = number(values, "contour_spacing")
    style = choice(values, "contour_style")
    sewn = contour(work.region, "decoration", spacing, number(values, "contour_length"), style, start=work.start)
    return f"Contour {style} {spacing:.2f}", sewn


CONSTRUCTION = plain("contour", "Contour rings", DECORATION, SETTINGS, sewing, ends=Ends.PATH,
    shown_with={"contour_spacing": 0.9})  # fmt: skip
