"""Net: lines in two directions, sewn there and back, that hold one another where they cross (handbook, section 9)."""

from __future__ import annotations

import numpy as np
import shapely

from velamen.core.constructions.base import Ends, Work
from velamen.core.constructions.plain import plain
from velamen.core.setting import Setting
from velamen.core.stitching.net import net
from velamen.core.stitching.roles import declare
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, number

NET = declare("lace_net", "net")
NET_BORDER = declare("lace_border", "border of a net")

SETTINGS = (
    Setting("net_cell", "Cell", "Net", "Between neighbouring lines, in both directions.", low=1.5, high=12.0),
    Setting("net_angle", "Angle", "Net", "Of the lines one way, clockwise from the horizontal; the others lie square "
            "to them.", unit="°", low=-90, high=90, step=1),
    Setting("net_length", "Length", "Net", "Of a stitch, at most.", low=1.0, high=4.0),
    Setting("net_border", "Border rounds", "Net", "Beside the one in which its lines end: the first on the outline, "
            "the second a little inside, across the lines.", unit="", low=0, high=2, step=1),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The net with its border, in one thread."""
    cell, angle = number(values, "net_cell"), float(np.radians(number(values, "net_angle")))
    length, border = number(values, "net_length"), int(number(values, "net_border"))
    sewn = [one for part in shapely.get_parts(work.region)
            for one in net(part, (NET, NET_BORDER), cell, angle, length, border, work.start)]  # fmt: skip
    return f"Net {cell:.1f}", sewn


CONSTRUCTION = plain("net", "Net", NET, SETTINGS, sewing, ends=Ends.BACK,
    shown_with={"net_cell": 2.0})  # fmt: skip
