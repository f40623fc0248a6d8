"""What so many pieces of a design need: hoopings, time, thread, cloth and stabilizer."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.errors import within
from velamen.core.job.document import MOST_WANTED
from velamen.core.plan.figures import figures_of
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.timeline.effects import Lays

SLACK = 1.15  # of a stitch's length, as thread does not lie flat (handbook, section 2)
BORDER = 25.0  # mm of stabilizer round the sewing field; ours
BOBBIN, BOBBIN_RUN = 1.0 / 3.0, 1.0  # of the top thread, where stitches turn back and where they run on (the same)
BACK = -0.5  # cosine of the angle from which a stitch turns back on the one before it


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
    """What a number of pieces need. left: pieces in the last hooping; threads, bobbin: metres; stabilizer: m²."""

    wanted: int
    copies: int
    hoopings: int
    left: int
    seconds: float
    threads: dict[str, float]  # by key
    bobbin: float
    cloths: tuple[Cloth, ...]
    stabilizer: float

    @property
    def metres(self) -> float:
        """Metres of top thread, all colours."""
        return sum(self.threads.values())

    @property
    def cloth(self) -> float:
        """cm² of all cloths."""
        return 1e4 * sum(one.area for one in self.cloths)

    @property
    def each(self) -> float:
        """Seconds a piece."""
        return self.seconds / self.wanted


def needs_of(build: Build, wanted: int) -> Needs:
    """What so many pieces need, sewn as many to a hooping as the job says. Raises BadInput out of bounds."""
    within("number of pieces", wanted, 1, MOST_WANTED)
    copies = 1 if build.grid is None else build.grid.copies
    hoopings = ceil(wanted / copies)
    left = wanted - (hoopings - 1) * copies
    full = build.hooping_figures.seconds
    last = full if left == copies else figures_of(build.hooping_of(left)).seconds
    hoop = build.library.hoops[build.job.brief.hoop]
    sheet = (hoop.width + 2 * BORDER) * (hoop.height + 2 * BORDER) / 1e6
    threads, bobbin = threads_of(build)
    return Needs(
        wanted, copies, hoopings, left, round((hoopings - 1) * full + last, 1),
        {key: round(wanted * metres, 2) for key, metres in threads.items()}, round(wanted * bobbin, 2),
        tuple(_cloths(build, wanted)), round(hoopings * sheet * build.job.brief.stabilizer_layers, 3),
    )  # fmt: skip


def threads_of(build: Build) -> tuple[dict[str, float], float]:
    """Metres of top thread that one design takes, by thread in the order they are first used, and of bobbin thread.

    Stitches and 15 %, and twice the thickness of all that lies there for each of them (handbook, section 2).
    """
    plan, deep = build.plan, _depths(build)
    step = np.linalg.norm(np.diff(plan.xy, axis=0, prepend=plan.xy[:1]), axis=1)
    stitched = plan.command == STITCH
    found: dict[str, float] = {}
    bobbin = 0.0
    for one in plan.blocks:
        rows = slice(one.first, one.first + one.count)
        count = int(stitched[rows].sum())
        metres = (SLACK * float(step[rows][stitched[rows]].sum()) + 2.0 * deep.get(one.key, 0.0) * count) / 1000.0
        found[one.thread] = found.get(one.thread, 0.0) + metres
        back = _turning_back(plan.stitches(one))
        bobbin += metres * (back * BOBBIN + (1.0 - back) * BOBBIN_RUN)
    return found, bobbin


def _turning_back(points: Array) -> float:
    """The share of stitches that turn back on the one before: all in a satin, none in a run."""
    step = np.diff(points, axis=0)
    long = np.linalg.norm(step, axis=1)
    cosine = (step[1:] * step[:-1]).sum(axis=1) / np.maximum(long[1:] * long[:-1], 1e-9)
    return float((cosine < BACK).mean()) if len(cosine) else 0.0


def _depths(build: Build) -> dict[str, float]:
    """mm of all that lies there when an operation has its turn, by its key."""
    found = {}
    for one in build.operations:
        lying = [layer for layer in build.layers[one.key] if layer.region is None or one.region is None
                 or shapely.intersects(layer.region, one.region)]  # fmt: skip
        found[one.key] = sum(layer.thickness for layer in lying)
    return found


def _cloths(build: Build, wanted: int) -> list[Cloth]:
    found: list[Cloth] = []
    for one in build.operations:
        layers = [layer for effect in one.effects if isinstance(effect, Lays) for layer in effect.layers]
        for layer in layers:
            if one.piece and layer.kind == "cloth" and layer.region is not None:
                left, top, right, bottom = shapely.bounds(layer.region).tolist()
                found.append(Cloth(layer.key, wanted, round(right - left, 1), round(bottom - top, 1)))
    return found
