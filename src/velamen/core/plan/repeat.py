"""Repeats in the hoop: one design sewn several times, step by step across all copies or copy by copy."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from velamen.core.arrays import Array
from velamen.core.job.document import COPY
from velamen.core.plan.stitch_plan import Step
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.operation import HANDS, Stop

Box = tuple[float, float, float, float]
"""Left, top, right and bottom, mm."""


@dataclass(frozen=True)
class Grid:
    """Copies in columns and rows about the middle of the field. box: of one design, mm; gap: mm between two."""

    columns: int
    rows: int
    gap: float
    box: Box

    @property
    def copies(self) -> int:
        return self.columns * self.rows

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of all copies together, mm."""
        left, top, right, bottom = self.box
        wide, high = right - left, bottom - top
        return (self.columns * (wide + self.gap) - self.gap, self.rows * (high + self.gap) - self.gap)

    def moves(self) -> Array:
        """How far each copy lies off the design, (n, 2) mm, row by row to and fro: each beside the last."""
        left, top, right, bottom = self.box
        across = (np.arange(self.columns) - (self.columns - 1) / 2) * (right - left + self.gap)
        down = (np.arange(self.rows) - (self.rows - 1) / 2) * (bottom - top + self.gap)
        rows = [across if nth % 2 == 0 else across[::-1] for nth in range(self.rows)]
        places = np.stack([np.concatenate(rows), np.repeat(down, self.columns)], axis=1)
        return np.asarray(places - ((left + right) / 2, (top + bottom) / 2))


def fitting(box: Box, gap: float, margin: float, field: Box) -> tuple[int, int]:
    """Columns and rows, as many copies of a box as fit into a field with a margin, mm; none where one does not."""
    wide, high = box[2] - box[0] + gap, box[3] - box[1] + gap
    room = (field[2] - field[0] - 2 * margin + gap, field[3] - field[1] - 2 * margin + gap)
    return int(room[0] / max(wide, 1e-6) + 1e-9), int(room[1] / max(high, 1e-6) + 1e-9)


def repeated(steps: Sequence[Step], moves: Array, order: str) -> list[Step]:
    """What is sewn and stopped for with a design at every move (n, 2).

    Step by step, every stretch sewn with one thread between two stops goes once round all copies, back the way it
    came the next time, and each stop is made once. Copy by copy everything is done for one after another.
    """
    if order == COPY:
        return [_moved(step, move) for move in moves for step in steps]
    found: list[Step] = []
    ahead = True
    for stretch in _stretches(steps):
        if isinstance(stretch[0], Stop):
            found.append(for_copies(stretch[0], len(moves)))
            continue
        found += [_moved(step, move) for move in (moves if ahead else moves[::-1]) for step in stretch]
        ahead = not ahead
    return found


def for_copies(stop: Stop, copies: int) -> Stop:
    """A stop made once for all copies: what it takes for each, but what doing it again at once spares."""
    spared = min(HANDS[stop.kind].spared, stop.seconds)
    return replace(stop, seconds=copies * stop.seconds - (copies - 1) * spared)


def _stretches(steps: Sequence[Step]) -> list[list[Step]]:
    """Stops, and stretches sewn with one thread between them."""
    found: list[list[Step]] = []
    thread = ""  # of the stretch that goes on, "" after a stop
    for step in steps:
        if not isinstance(step, Stop) and step[1].thread == thread:
            found[-1].append(step)
            continue
        found.append([step])
        thread = "" if isinstance(step, Stop) else step[1].thread
    return found


def _moved(step: Step, move: Array) -> Step:
    if isinstance(step, Stop):
        return step
    key, item = step
    return key, replace(item, strands=tuple(Strand(one.xy + move, one.role) for one in item.strands))


def box_of(steps: Sequence[Step]) -> Box:
    """The box of all that is sewn, mm; nothing sewn is a dot."""
    ends = [(one.xy.min(axis=0), one.xy.max(axis=0)) for step in steps if not isinstance(step, Stop)
            for one in step[1].strands if len(one.xy)]  # fmt: skip
    if not ends:
        return 0.0, 0.0, 0.0, 0.0
    low, high = np.min([one for one, _ in ends], axis=0), np.max([one for _, one in ends], axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
