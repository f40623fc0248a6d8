"""Flat shadow: what shows of shapes drawn out behind themselves, sewn flat before they are (handbook, section 10)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.constructions.base import Around, Sample, Thread, Work
from velamen.core.constructions.plain import all_hidden, plain
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area
from velamen.core.geometry.swept import faces, swept
from velamen.core.setting import NONE, Plain, Setting
from velamen.core.stitching.faces import FaceSewing, sewn_faces
from velamen.core.stitching.roles import declare
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number, plain_values

SHADOW = declare("column", "column")

SETTINGS = (
    Setting("shadow_distance", "Distance", "Shadow", "How far it falls, each step of it.", low=0.5, high=8.0,
            grows=True),
    Setting("shadow_direction", "Direction", "Shadow", "In which it falls: 0 to the right, 90 down.", unit="°",
            low=-180, high=180, step=1),
    Setting("shadow_steps", "Steps", "Shadow", "One behind the other; the second takes the second thread.", unit="",
            low=1, high=2, step=1),
    Setting("shadow_second", "Second thread", "Shadow", "Of the second step; with one step, of the faces turned to "
            "the other side.", kind="thread", unit=""),
    Setting("shadow_spacing", "Spacing", "Shadow", "Between neighbouring penetrations on one rail.", low=0.25,
            high=2.0, step=0.01, role=SHADOW, measure="satin_spacing"),
    Setting("shadow_pull", "Pull, per side", "Shadow", "Added at either end of a row, as stitches draw the fabric "
            "in.", low=0.0, high=1.0, step=0.01, role=SHADOW, measure="pull"),
)  # fmt: skip


def way_of(known: Mapping[str, Plain]) -> Array:
    """The way (2,) in mm that one step falls."""
    turn = np.radians(float(known["shadow_direction"]))
    return np.asarray(float(known["shadow_distance"]) * np.array([np.cos(turn), np.sin(turn)]))


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """All that shows of it, and what of it lies under the shapes that cast it."""
    area = joined(work.sources)
    if area.is_empty:
        return area
    return faces(area, way_of(known) * float(known["shadow_steps"]), area)


def sewing(work: Work, values: Values) -> list[Pass]:
    """The second step first, since it lies behind the first one."""
    known = plain_values(values)
    way, area, second = way_of(known), joined(work.sources), choice(values, "shadow_second")
    spacing, pull = number(values, "shadow_spacing"), number(values, "shadow_pull")
    other = work.thread if second == NONE else second
    two = second != NONE and known["shadow_steps"] == 1
    near = sewn_faces(faces(area, way, area), area, FaceSewing(way, spacing, pull, two))
    sewn = [("Shadow", work.thread, near[0]), ("Shadow, other side", other, near[1])]
    if known["shadow_steps"] == 2:
        first = swept(area, way)
        far, _ = sewn_faces(faces(first, way, first), first, FaceSewing(way, spacing, pull))
        sewn.insert(0, ("Shadow, second step", other, far))
    return [Pass(SHADOW, f"{label} {spacing:.2f}", thread, work.piece, tuple(strands))
            for label, thread, strands in sewn if strands]  # fmt: skip


def stands_on(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """Its faces."""
    return work.region if role == SHADOW and not shapely.is_empty(work.region) else None


CONSTRUCTION = plain(
    "flat_shadow", "Flat shadow", SHADOW, SETTINGS, sewing, hides=all_hidden, stands_on=stands_on,
    around=Around(ground, first=True, thread=Thread.FIRST, asks="Flat shadow",
                  told="Drawn out behind the pieces, sewn flat before them and their foam"),
    shown_on=Sample.BODY, shown_with={"shadow_distance": 2.0},
)  # fmt: skip
