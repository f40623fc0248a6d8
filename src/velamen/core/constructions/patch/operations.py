"""What is done for a patch, in order, by the way it is made (handbook, section 8)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

import numpy as np
import shapely

from velamen.core.constructions.base import Work, pass_of
from velamen.core.constructions.edge import sides
from velamen.core.constructions.laid_cloth import (
    LAY_SECONDS,
    PLACEMENT,
    SECOND_TACK,
    TACK,
    lies_over,
    tidying,
    trimming,
    untrimmed,
)
from velamen.core.constructions.patch.edge import border
from velamen.core.constructions.plain import BORDER, GROUND
from velamen.core.setting import Plain
from velamen.core.stitching.area_underlay import area_underlay
from velamen.core.stitching.border import run_borders, zigzag_borders
from velamen.core.stitching.fill import COVERS, FillSewing, fill, linked
from velamen.core.stitching.roles import declare
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.effects import Lays
from velamen.core.timeline.operation import Cut, Decorated, Does, Fill, Hand, Operation, Share, When
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

TRIM_GUIDE = declare("trim_guide", "trim guide", dash="1 3")
RUN = 2.5  # mm of a stitch of placement, second line and guide
HOLD_WIDTH, HOLD_SPACING = 2.5, 1.7  # mm of the tack-down's zigzag (handbook, section 8)
CLEAR = 0.1  # mm that a tack-down keeps from the inner side of the border
SEWN_DOWN = 0.8  # mm inside the edge of the line that sews a larger cloth down
GUIDE = 1.5  # mm outside the border of the line along which a sheet is cut
ROWS = 4.0  # mm of a ground's stitch
FREE_SECONDS = 30.0  # ours
OUT = {  # what is done with it out of the hoop: kind, label, text, tool
    "film": (Hand.POKE_OUT, "Free the patch", "Tear or poke {names} out of the film, and wash away what stays.", ""),
    "trimmed": (Hand.TEAR_AWAY, "Free the patch", "Tear the stabilizer off round {names}, close to the border.", ""),
    "sheet": (Hand.CUT_FREE, "Cut the patch free", "Cut {names} free along the guide line outside the border: "
              "scissors, or a hot knife where the cloth is synthetic.", "scissors"),
}  # fmt: skip


def operations(work: Work, known: Mapping[str, Plain]) -> tuple[Operation, ...]:
    """What holds its cloth, the ground, and after its decoration the border; freed at the end."""
    if work.region.is_empty:
        return ()
    way, ground, edged = (str(known[f"patch_{key}"]) for key in ("way", "ground", "edge"))
    found = _held(work, way, ground)
    if ground == "fill":
        found.append(_sewn(work, GROUND, _ground, found, Decorated.AFTER))
    if edged != "none":
        found.append(_sewn(work, BORDER, border, found, Decorated.BEFORE))
    if way == "sheet":
        found.append(_sewn(work, TRIM_GUIDE, _guide, found, Decorated.BEFORE))
    if way in OUT:
        kind, label, text, tool = OUT[way]
        found.append(Operation(
            work.piece, work.name, "free", work.region, (found[-1].part,) if found else (),
            does=Does(kind, label, text, FREE_SECONDS, tool), when=When.AFTER, share=Share(kind),
        ))  # fmt: skip
    return tuple(found)


def _held(work: Work, way: str, ground: str) -> list[Operation]:
    """What lays its cloth and holds it: nothing straight onto an item, unless a cloth is wanted there."""
    if way == "direct" and ground != "cloth":
        return []
    if way == "sheet":
        return [_lay(work, way, ())]
    found = [_sewn(work, PLACEMENT, _placement, [])]
    found.append(_lay(work, way, (PLACEMENT,)))
    found.append(_sewn(work, TACK, partial(_tack, way), found, Decorated.AFTER))
    if way == "trimmed":
        text = f"Trim {work.cloth.name} for {{names}} close to the line that holds it"
        found.append(trimming(work, work.region, TACK, text))
        found.append(_sewn(work, SECOND_TACK, _second, found))
        found.append(tidying(work))
    return found


def _sewn(
    work: Work, role: str, fills: Fill, before: list[Operation], decorated: Decorated = Decorated.NO
) -> Operation:
    needs = (before[-1].part,) if before else ()
    return Operation(work.piece, work.name, role, work.region, needs, role=role, fills=fills, decorated=decorated)


def _lay(work: Work, way: str, needs: tuple[str, ...]) -> Operation:
    cloth = work.cloth.name
    region = work.region if way in ("film", "direct") else untrimmed(work.region)
    layer = work.cloth.placed(region, work.piece)
    text = {
        "sheet": f"Lay a sheet of {cloth} over all of the hoop, or hoop it with the stabilizer, for {{names}}.",
        "trimmed": f"Lay {cloth} for {{names}}, right side up, at least 10 mm over the placement line all round.",
    }.get(way, f"Lay the pre-cut {cloth} for {{names}} exactly inside the placement line.")
    return Operation(
        work.piece, work.name, "lay", work.region, needs, (Lays((layer,)),),
        does=Does(Hand.LAY, f"Lay {cloth}", text, LAY_SECONDS), share=Share(work.cloth.key, sheet=way == "sheet"),
        decorated=Decorated.AFTER if way == "sheet" else Decorated.NO,
        guards=(lies_over(work),),
        cut=None if way == "sheet" else Cut(work.region, work.cloth.key),
    )  # fmt: skip


def _placement(work: Work, values: Values) -> list[Pass]:
    return pass_of(work, PLACEMENT, "Placement, run", run_borders(work.region, PLACEMENT, RUN))


def _tack(way: str, work: Work, values: Values) -> list[Pass]:
    """A zigzag on pre-cut cloth; on a larger one the line along which it is trimmed."""
    if way == "trimmed":
        return pass_of(work, TACK, "Sewn down, run", run_borders(work.region, TACK, RUN, SEWN_DOWN))
    outside, inside = _sides(values)
    on = min(HOLD_WIDTH, max(inside - CLEAR, 1.0))
    off = min(HOLD_WIDTH - on, 0.6 * outside)  # the rest of its width off the cloth, where the border hides it
    strands = zigzag_borders(work.region, TACK, off, on, HOLD_SPACING)
    return pass_of(work, TACK, f"Tack-down, zigzag {off + on:.1f}", strands)


def _sides(values: Values) -> tuple[float, float]:
    """What the border hides off the cloth and on it, mm; without a border as much as a tack-down is wide."""
    return sides(values, "patch") if choice(values, "patch_edge") != "none" else (0.0, HOLD_WIDTH + CLEAR)


def _second(work: Work, values: Values) -> list[Pass]:
    """A zigzag over the trimmed edge, hidden by the border."""
    outside, inside = _sides(values)
    off, on = min(HOLD_WIDTH / 3, 0.6 * outside), min(2 * HOLD_WIDTH / 3, 0.8 * inside)
    strands = zigzag_borders(work.region, SECOND_TACK, off, on, HOLD_SPACING)
    return pass_of(work, SECOND_TACK, f"Second tack-down, zigzag {off + on:.1f}", strands)


def _ground(work: Work, values: Values) -> list[Pass]:
    """A fill up to the middle of what the border covers, on open rows."""
    angle, spacing = float(np.radians(number(values, "patch_ground_angle"))), number(values, "patch_ground_spacing")
    inside = 0.0 if choice(values, "patch_edge") == "none" else sides(values, "patch")[1] / 2
    sewn: list[Strand] = []
    for part in shapely.get_parts(shapely.buffer(work.region, -inside, quad_segs=4)):
        if part.is_empty:
            continue
        under = area_underlay(part, "edge_rows" if spacing <= COVERS else "none", angle)
        rows = FillSewing(angle, spacing, ROWS, covers=spacing <= COVERS, edge=spacing > COVERS)
        sewn += linked([*under, *fill(part, GROUND, rows)], part)
    return pass_of(work, GROUND, f"Ground, fill {spacing:.2f}", sewn)


def _guide(work: Work, values: Values) -> list[Pass]:
    """The line along which a sheet is cut, outside the border."""
    outside = sides(values, "patch")[0] if choice(values, "patch_edge") != "none" else 0.0
    grown = shapely.buffer(work.region, outside + GUIDE, quad_segs=8)
    sewn = [one for part in shapely.get_parts(grown) for one in run_borders(part, TRIM_GUIDE, RUN)]
    return pass_of(work, TRIM_GUIDE, "Trim guide, run", sewn)
