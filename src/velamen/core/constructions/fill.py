"""Fill: rows of staggered stitches over a shape, on an underlay (handbook, sections 2 and 13)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from velamen.core.constructions.base import SMALL, WIDE_STROKE, Ends, FoundPart, Led, SortedAs, Stop, Work
from velamen.core.constructions.plain import DECORATION, all_hidden, plain
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.area_underlay import UNDERLAYS, area_underlay
from velamen.core.stitching.fill import COVERS, FillSewing, fill, linked, rows_of
from velamen.core.stitching.stagger import staggers
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, plain_values

SETTINGS = (
    Setting("fill_angle", "Angle", "Rows", "Of the rows, clockwise from the horizontal; a guide line drawn on the "
            "shape outranks it.", unit="°", low=-180, high=180, step=1, measure="row_angle"),
    Setting("fill_spacing", "Spacing", "Rows", "Between neighbouring rows.", low=0.2, high=6.0, step=0.01,
            role="decoration", measure="fill_spacing"),
    Setting("fill_spacing_end", "Spacing at the far side", "Rows", "Where it differs, rows grow or close up evenly "
            "from one side to the other.", low=0.2, high=6.0, step=0.01),
    Setting("fill_length", "Length", "Rows", "Of a stitch.", low=1.5, high=10.0, measure="row_length"),
    Setting("fill_stagger", "Stagger", "Rows", "How penetrations of neighbouring rows lie beside one another.",
            kind="choice", unit="", choices=tuple((one.key, one.title.lower()) for one in staggers().values()),
            measure="stagger", pictures="textures"),
    Setting("fill_pull", "Pull, per side", "Rows", "Added at either end of a row, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="decoration", measure="pull"),
    Setting("fill_edge_travel", "Travel along the edge", "Rows", "Between parts of the fill, rather than under its "
            "rows.", kind="switch", unit=""),
    Setting("fill_underlay", "Underlay", "Rows", "Sewn first, under the rows.", kind="choice", unit="",
            choices=UNDERLAYS, measure="area_underlay"),
    Setting("fill_ramp_begin", "Begins at", "Ramp", "Of the way across the rows; they lie evenly before that.",
            unit="%", low=0, high=95, step=1),
    Setting("fill_ramp_end", "Ends at", "Ramp", "Of the way across the rows; they lie evenly after that.", unit="%",
            low=5, high=100, step=1),
)  # fmt: skip
LEAST_RAMP = 5.0  # % of the way across


def _rows(work: Work, known: Mapping[str, Plain]) -> FillSewing:
    """How the rows are sewn."""
    spacing, last, begin, end, length, pull = (
        float(known[f"fill_{key}"]) for key in ("spacing", "spacing_end", "ramp_begin", "ramp_end", "length", "pull")
    )
    along, end = bool(known["fill_edge_travel"]), max(end, begin + LEAST_RAMP)
    return FillSewing(
        float(np.radians(float(known["fill_angle"]))), spacing, length, str(known["fill_stagger"]), pull, last,
        (begin / 100.0, min(end, 100.0) / 100.0), work.guides[-1] if work.guides else None, along,
        covers=not along and max(spacing, last) <= COVERS,
    )  # fmt: skip


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Underlay, then the rows."""
    rows = _rows(work, plain_values(values))
    sewn = area_underlay(work.region, choice(values, "fill_underlay"), rows.angle)
    if rows.covers or work.end is None:
        sewn += fill(work.region, DECORATION, rows, work.start, work.end)
    else:
        back = fill(work.region, DECORATION, rows, work.end)
        sewn += [one.back() for one in back[::-1]]
    shown = f"{rows.spacing:.2f}" if rows.last == rows.spacing else f"{rows.spacing:.2f} to {rows.last:.2f}"
    return f"Fill {shown}", linked(sewn, work.region)


def led(work: Work, known: Mapping[str, Plain]) -> list[Led]:
    """Its rows."""
    return [Led(line, work.thread) for line in rows_of(work.region, _rows(work, known))]


def strip(work: Work, known: Mapping[str, Plain]) -> list[Stop]:
    """Both ends of its ramp, where it has one."""
    near, far = (float(known[f"fill_{key}"]) for key in ("spacing", "spacing_end"))
    if near == far:
        return []
    begin, end = (float(known[f"fill_ramp_{key}"]) for key in ("begin", "end"))
    return [Stop("fill_ramp_begin", f"{near:.2f} mm", begin, work.thread, min(near, far) / near),
            Stop("fill_ramp_end", f"{far:.2f} mm", end, work.thread, min(near, far) / far)]  # fmt: skip


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A fill found as it lies: what was sewn has its pull already."""
    if part.kind != "fill":
        return None
    return {"fill_angle": part.angle, "fill_spacing": part.spacing, "fill_length": part.length, "fill_pull": 0.0}


CONSTRUCTION = plain("fill", "Fill", DECORATION, SETTINGS, sewing, hides=all_hidden, ends=Ends.OWN, led=led,
    strip=strip, reads=reads,
    sorted_as=SortedAs("Fill", lambda stroke, short: stroke >= WIDE_STROKE and short < SMALL),
    strip_keys=("fill_ramp_begin", "fill_ramp_end"),
    shown_with={"fill_underlay": "none"})  # fmt: skip
