"""Access proof: at every stop, can the cloth be laid flat and the scissors reach all round (handbook, section 0)?"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.geometry.narrow import thin_parts
from velamen.core.geometry.region import Area
from velamen.core.memo import kept
from velamen.core.plan.stitch_plan import STITCH, StitchPlan
from velamen.core.proofs.finding import Finding
from velamen.core.timeline.effects import Opens
from velamen.core.timeline.operation import Hand

CUT_OUT = 8.0  # mm across; scissors do not trim in a smaller cut-out (handbook, section 5)
SCISSOR_POINTS = 4.0  # mm that the points of appliqué scissors need
OVER = 0.5  # mm off the cut from which sewing lies over the waste
HELD = 3  # stitches over the waste that hold it down
MOST_PLACES_TOLD = 12  # places told for one piece


@dataclass(frozen=True)
class Cloth:
    """What is laid and cut to an outline, as the proof sees it."""

    piece: str  # id
    name: str
    outline: Area  # as cut
    late: bool = False  # whether it is cut when all is sewn


def access_findings(plan: StitchPlan, cloths: Sequence[Cloth]) -> list[Finding]:
    """What keeps hands from laying a cloth flat or from trimming it, for every piece."""
    rows = {(stop.step.kind, piece): stop.row for stop in plan.stops for piece in stop.step.pieces}
    block_piece = np.array([block.piece for block in plan.blocks] or [""])
    owner = block_piece[np.maximum(plan.block, 0)]
    found: list[Finding] = []
    for nth, cloth in enumerate(cloths):
        laid, trimmed = rows.get((Hand.LAY, cloth.piece)), rows.get((Hand.TRIM, cloth.piece))
        if laid is not None:
            found += _not_flat(cloth, [one for one in cloths[:nth] if one.late])
        if laid is None or trimmed is None:
            continue
        found += _held_down(plan, cloth, laid, trimmed, owner)
        found += _out_of_reach(cloth)
    return found


def opening_findings(plan: StitchPlan, names: Mapping[str, str]) -> list[Finding]:
    """Sewing across an opening before it is cut, which the cut goes through. names: of pieces by id."""
    found = []
    for stop in plan.stops:
        for cut in (one.region for one in stop.step.effects if isinstance(one, Opens)):
            points = plan.xy[: stop.row][plan.command[: stop.row] == STITCH]
            inside = shapely.buffer(cut, -OVER)
            across = points[shapely.contains_xy(inside, points[:, 0], points[:, 1])]
            if len(across) >= HELD:
                piece = stop.step.piece
                found.append(Finding(
                    "opening_sewn", "error", piece, f"{len(across)} stitches lie across the opening of "
                    f"{names.get(piece, piece)} before it is cut, and are cut through: sew them after it.",
                    _places(across),
                ))  # fmt: skip
    return found


def _held_down(plan: StitchPlan, cloth: Cloth, laid: int, trimmed: int, owner: NDArray[np.str_]) -> list[Finding]:
    """Sewing of other pieces over the waste beside the cut, before it is cut."""
    span = slice(laid, trimmed)
    sewn = (plan.command[span] == STITCH) & (owner[span] != cloth.piece)
    points = plan.xy[span][sewn]
    if len(points) == 0:
        return []
    waste = shapely.difference(shapely.buffer(cloth.outline, SCISSOR_POINTS), shapely.buffer(cloth.outline, OVER))
    over = points[shapely.contains_xy(waste, points[:, 0], points[:, 1])]
    if len(over) < HELD:
        return []
    return [Finding("trim_blocked", "error", cloth.piece,
                    f"The waste of {cloth.name} is sewn down before it is trimmed: move what is sewn over it behind "
                    "the trimming.", _places(over))]  # fmt: skip


def _out_of_reach(cloth: Cloth) -> list[Finding]:
    """Notches and slits of the outline too narrow for scissors; small cut-outs have a finding of their own."""
    spots = _slits(cloth.outline)
    if len(spots) == 0:
        return []
    many = "A notch" if len(spots) == 1 else f"{len(spots)} notches"
    return [Finding("notch_narrow", "info", cloth.piece,
                    f"{many} of {cloth.name} narrower than {SCISSOR_POINTS:g} mm: scissors do not reach in. "
                    "Trim straight across, or use pre-cut cloth.", _places(spots))]  # fmt: skip


@kept(1024, lasting=True)
def _slits(outline: Area) -> NDArray[np.float64]:
    """A place (n, 2) in every gap outside an outline that is narrower than scissors."""
    solid = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(outline)])
    outside = shapely.difference(shapely.box(*shapely.buffer(solid, 3 * SCISSOR_POINTS).bounds), solid)
    spots = [part.representative_point() for part, _ in thin_parts(outside, SCISSOR_POINTS)]
    return np.asarray(shapely.get_coordinates(spots)).reshape(-1, 2)


def _not_flat(cloth: Cloth, loose: Sequence[Cloth]) -> list[Finding]:
    """Cloth laid over waste that is only trimmed at the end."""
    under = [one for one in loose if shapely.intersects(shapely.buffer(one.outline, SCISSOR_POINTS), cloth.outline)
             and not shapely.covers(one.outline, cloth.outline)]  # fmt: skip
    if not under:
        return []
    spot = shapely.intersection(
        shapely.buffer(under[0].outline, SCISSOR_POINTS), cloth.outline
    ).representative_point()
    return [Finding("lay_not_flat", "warning", cloth.piece,
                    f"{cloth.name} is laid over the loose margin of {under[0].name}, which is only trimmed when all "
                    "is sewn: it cannot lie flat.", ((round(spot.x, 2), round(spot.y, 2)),),
                    others=tuple(one.piece for one in under))]  # fmt: skip


def _places(points: NDArray[np.float64]) -> tuple[tuple[float, float], ...]:
    """A few places of many, apart from one another."""
    chosen = points[np.unique(np.linspace(0, len(points) - 1, min(MOST_PLACES_TOLD, len(points))).astype(int))]
    return tuple((round(float(x), 2), round(float(y), 2)) for x, y in chosen)
