"""Threads of a plan from tie to trim: where each begins and ends, whether it is tied, and what cuts it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Index
from velamen.core.plan.stitch_plan import COLOR, STOP, StitchPlan
from velamen.core.proofs.finding import Finding
from velamen.core.stitching.roles import CODE

WITHIN = 4  # stitches at either end among which a tie counts
MOST_ENDS_TOLD = 12  # places told


@dataclass(frozen=True)
class Thread:
    """One thread from where it begins to where it is cut.

    first, last: rows of its first and last stitch; block, upto: blocks it begins and ends in; length: mm sewn;
    begins, ends: mm; tied_in, tied_off: whether a tie holds each end; then: what cuts it, "stop", "color",
    "jump" or "end"; onward: mm from there to where the next thread begins.
    """

    first: int
    last: int
    block: int
    upto: int
    stitches: int
    length: float
    begins: tuple[float, float]
    ends: tuple[float, float]
    tied_in: bool
    tied_off: bool
    then: str
    onward: float


def threads_of(plan: StitchPlan) -> list[Thread]:
    """Every thread of a plan, in sewing order."""
    sewn = plan.sewn
    if not sewn.any():
        return []
    first = np.flatnonzero(sewn & ~np.concatenate(([False], sewn[:-1])))
    last = np.flatnonzero(sewn & ~np.concatenate((sewn[1:], [False])))
    start = np.maximum(first - 1, 0)
    way = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(plan.xy, axis=0).T))))
    ties = _counted(plan.role == CODE["tie"])
    tied_in = ties[np.minimum(first + WITHIN, last + 1)] > ties[first]
    tied_off = ties[last + 1] > ties[np.maximum(last + 1 - WITHIN, first)]
    then = _cuts(plan, last, first)
    onward = np.append(np.hypot(*(plan.xy[start[1:]] - plan.xy[last[:-1]]).T), 0.0)
    return [
        Thread(int(first[nth]), int(last[nth]), int(plan.block[first[nth]]), int(plan.block[last[nth]]),
               int(last[nth] - first[nth] + 1), float(way[last[nth]] - way[start[nth]]), _place(plan.xy[start[nth]]),
               _place(plan.xy[last[nth]]), bool(tied_in[nth]), bool(tied_off[nth]), then[nth], float(onward[nth]))
        for nth in range(len(first))
    ]  # fmt: skip


def end_findings(plan: StitchPlan) -> list[Finding]:
    """Threads that nothing holds at one of their ends."""
    loose = [one for one in threads_of(plan) if not (one.tied_in and one.tied_off)]
    if not loose:
        return []
    spots = tuple(one.ends if one.tied_in else one.begins for one in loose[:MOST_ENDS_TOLD])
    told = "A thread is not tied at both ends: it comes undone in wear."
    if len(loose) > 1:
        told = f"{len(loose)} threads are not tied at both ends: they come undone in wear."
    return [Finding("thread_loose", "error", "", told, spots)]


def _cuts(plan: StitchPlan, last: Index, first: Index) -> list[str]:
    """What lies between each thread and the next."""
    stops, colours = _counted(plan.command == STOP), _counted(plan.command == COLOR)
    until = np.append(first[1:], len(plan.command))
    stop, colour = stops[until] > stops[last], colours[until] > colours[last]
    found = np.where(stop, "stop", np.where(colour, "color", "jump"))
    found[-1] = "stop" if stop[-1] else "end"
    return [str(one) for one in found]


def _counted(which: NDArray[np.bool_]) -> Index:
    return np.concatenate(([0], np.cumsum(which)))


def _place(xy: NDArray[np.float64]) -> tuple[float, float]:
    return round(float(xy[0]), 2), round(float(xy[1]), 2)
