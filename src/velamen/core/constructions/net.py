"""Net: lines in two directions, sewn there and back, that hold one another where they cross (handbook, section 9)."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import numpy as np
import shapely

from velamen.core.constructions.base import Ends, Sewn, Work
from velamen.core.constructions.plain import plain
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.net import net
from velamen.core.stitching.roles import declare
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

NET = declare("lace_net", "net")
NET_BORDER = declare("lace_border", "border of a net")


STRAIGHT, CURVED = "straight", "curved"
COURSES = ((STRAIGHT, "straight"), (CURVED, "curved, along outline and guides"))


def net_settings(name: str) -> tuple[Setting, ...]:
    """Settings of the lines of a net."""
    return (
        Setting(f"{name}_cell", "Cell", "Net", "Between neighbouring lines, in both directions.", low=1.5, high=12.0),
        Setting(f"{name}_course", "Lines", "Net", "Lines in two directions, or along the outline and across to the "
                "next.", kind="choice", unit="", choices=COURSES),
        Setting(f"{name}_angle", "Angle", "Net", "Of the lines one way, clockwise from the horizontal; the others "
                "lie square to them.", unit="°", low=-90, high=90, step=1, needs=(f"{name}_course", STRAIGHT)),
        Setting(f"{name}_length", "Length", "Net", "Of a stitch, at most.", low=1.0, high=4.0),
    )  # fmt: skip


SETTINGS = (
    *net_settings("net"),
    Setting("net_border", "Border rounds", "Net", "Beside the one in which its lines end: the first on the outline, "
            "the second a little inside, across the lines.", unit="", low=0, high=2, step=1),
)  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The net with its border, in one thread."""
    return f"Net {number(values, 'net_cell'):.1f}", nets(work, values, "net", int(number(values, "net_border")))


def nets(work: Work, values: Values, name: str, border: int) -> list[Strand]:
    """A net over each part of a region, by the settings `name`_cell, _course and so on; border: its rounds."""
    cell, angle = number(values, f"{name}_cell"), float(np.radians(number(values, f"{name}_angle")))
    length, curved = number(values, f"{name}_length"), choice(values, f"{name}_course") == CURVED
    return [one for part in shapely.get_parts(work.region) if not part.is_empty
            for one in net(part, (NET, NET_BORDER), cell, angle, length, border, work.start, curved,
                           work.guides)]  # fmt: skip


def bordered(found: Sewn) -> Iterator[tuple[str, Mapping[str, Plain]]]:
    """One border round more."""
    rounds = number(found.values, "net_border")
    if rounds < 2:
        yield f"Sew a border round more on {found.work.name}", {"net_border": rounds + 1}


CONSTRUCTION = plain("net", "Net", NET, SETTINGS, sewing, ends=Ends.BACK,
    ways={"lace_apart": bordered, "lace_hinge": bordered},
    shown_with={"net_cell": 2.0})  # fmt: skip
