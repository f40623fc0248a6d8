"""Size, stitches, trims, stops and time of a plan."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from velamen.core.plan.stitch_plan import COLOR, TRIM, StitchPlan

SPEED = 700.0  # stitches a minute (handbook, section 2)
TRIM_SECONDS = 6.0
COLOR_SECONDS = 10.0
LONG = 7200  # s, from which hours are told


@dataclass(frozen=True)
class Figures:
    """Figures of a plan. size in mm; seconds of machine and hands together."""

    width: float
    height: float
    stitches: int
    trims: int
    stops: int
    changes: int
    seconds: float


def clock(seconds: float) -> str:
    """Seconds as minutes and seconds, in words.

    >>> clock(95.4)
    '1 min 35 s'
    >>> clock(9000.0)
    '2 h 30 min'
    """
    whole = round(float(seconds))
    if whole >= LONG:
        return f"{whole // 3600} h {whole % 3600 // 60:02d} min"
    return f"{whole // 60} min {whole % 60:02d} s" if whole >= 60 else f"{whole} s"


def figures_of(plan: StitchPlan) -> Figures:
    """Figures counted from the plan's own rows."""
    sewn = plan.xy[plan.sewn]
    width, height = np.ptp(sewn, axis=0) if len(sewn) else (0.0, 0.0)
    trims = int(np.count_nonzero(plan.command == TRIM))
    changes = int(np.count_nonzero(plan.command == COLOR))
    hands = sum(stop.step.seconds for stop in plan.stops)
    machine = 60.0 * len(sewn) / SPEED + TRIM_SECONDS * trims + COLOR_SECONDS * changes
    return Figures(
        round(float(width), 2), round(float(height), 2), len(sewn), trims, len(plan.stops), changes,
        round(machine + hands, 1),
    )  # fmt: skip
