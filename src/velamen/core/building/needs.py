"""What so many pieces of a design need: hoopings, time, thread, cloth and stabilizer."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

import numpy as np
import shapely

from velamen.core.building.build import Build
from velamen.core.errors import within
from velamen.core.plan.figures import figures_of
from velamen.core.plan.stitch_plan import STITCH, StitchPlan
from velamen.core.timeline.effects import Lays

SLACK = 1.15  # of a stitch's length, as thread does not lie flat (handbook, section 2)
BORDER = 25.0  # mm of stabilizer round the sewing field; ours
MOST = 100_000  # pieces


@dataclass(frozen=True)
class Cloth:
    """Cloth to cut up: so many rectangles, mm, as they are laid."""

    key: str
    pieces: int
    width: float
    height: float

    @property
    def area(self) -> float:
        """m² of all of them."""
        return self.pieces * self.width * self.height / 1e6


@dataclass(frozen=True)
class Needs:
    """What a number of pieces need. left: pieces in the last hooping; threads: metres by key; stabilizer: m²."""

    wanted: int
    copies: int
    hoopings: int
    left: int
    seconds: float
    threads: dict[str, float]
    cloths: tuple[Cloth, ...]
    stabilizer: float

    @property
    def each(self) -> float:
        """Seconds a piece."""
        return self.seconds / self.wanted


def needs_of(build: Build, wanted: int) -> Needs:
    """What so many pieces need, sewn as many to a hooping as the job says. Raises BadInput out of bounds."""
    within("number of pieces", wanted, 1, MOST)
    copies = 1 if build.grid is None else build.grid.copies
    hoopings = ceil(wanted / copies)
    left = wanted - (hoopings - 1) * copies
    full = build.hooping_figures.seconds
    last = full if left == copies else figures_of(build.hooping_of(left)).seconds
    hoop = build.library.hoops[build.job.brief.hoop]
    sheet = (hoop.width + 2 * BORDER) * (hoop.height + 2 * BORDER) / 1e6
    return Needs(
        wanted, copies, hoopings, left, round((hoopings - 1) * full + last, 1),
        {key: round(wanted * metres, 2) for key, metres in threads_of(build).items()},
        tuple(_cloths(build, wanted)), round(hoopings * sheet * build.job.brief.stabilizer_layers, 3),
    )  # fmt: skip


def threads_of(build: Build) -> dict[str, float]:
    """Metres of top thread that one design takes, by thread in the order they are first used.

    Stitches and 15 %, and twice the thickness of the base for each of them (handbook, section 2).
    """
    plan = build.plan
    deep = build.library.bases[build.job.brief.base].thickness
    found: dict[str, float] = {}
    for key, length, count in _sewn(plan):
        found[key] = found.get(key, 0.0) + (SLACK * length + 2.0 * deep * count) / 1000.0
    return found


def _sewn(plan: StitchPlan) -> list[tuple[str, float, int]]:
    """Thread, mm and number of the stitches of every block."""
    step = np.linalg.norm(np.diff(plan.xy, axis=0, prepend=plan.xy[:1]), axis=1)
    stitched = plan.command == STITCH
    rows = [slice(one.first, one.first + one.count) for one in plan.blocks]
    return [(one.thread, float(step[span][stitched[span]].sum()), int(stitched[span].sum()))
            for one, span in zip(plan.blocks, rows, strict=True)]  # fmt: skip


def _cloths(build: Build, wanted: int) -> list[Cloth]:
    found: list[Cloth] = []
    for one in build.operations:
        layers = [layer for effect in one.effects if isinstance(effect, Lays) for layer in effect.layers]
        for layer in layers:
            if one.piece and layer.kind == "cloth" and layer.region is not None:
                left, top, right, bottom = shapely.bounds(layer.region).tolist()
                found.append(Cloth(layer.key, wanted, round(right - left, 1), round(bottom - top, 1)))
    return found
