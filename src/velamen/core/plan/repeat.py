"""Repeats in the hoop: one design sewn several times, step by step across all copies or copy by copy."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from msgspec.structs import replace as renewed

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area
from velamen.core.job.document import COPY
from velamen.core.plan.stitch_plan import Step
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.effects import CutsBack, Effect, Lays, Opens, Presses, Slits, TakesAway
from velamen.core.timeline.operation import HANDS, Stop

MOST_OVERLAP = 0.4  # of the shorter side of a copy, by which it may overlap another
COPY_MARK = "@"  # between the id of a piece and the number of the copy it lies in

Box = tuple[float, float, float, float]
"""Left, top, right and bottom, mm."""


@dataclass(frozen=True)
class Grid:
    """Copies in columns and rows about the middle of the field.

    box: of one design, mm; gap: mm between two; turned: whether each copy is turned by 90 degrees.
    """

    columns: int
    rows: int
    gap: float
    box: Box
    turned: bool = False

    @property
    def copies(self) -> int:
        return self.columns * self.rows

    @property
    def matrix(self) -> Array:
        """What a copy is turned by: a place is `point @ matrix` and its move."""
        return TURN if self.turned else np.eye(2)

    @property
    def one(self) -> Box:
        """The box of a copy, turned as it is, before it is moved."""
        left, top, right, bottom = self.box
        return (-bottom, left, -top, right) if self.turned else self.box

    @property
    def size(self) -> tuple[float, float]:
        """Width and height of all copies together, mm."""
        left, top, right, bottom = self.one
        wide, high = right - left, bottom - top
        return (self.columns * (wide + self.gap) - self.gap, self.rows * (high + self.gap) - self.gap)

    def moves(self) -> Array:
        """How far each copy lies off the design, (n, 2) mm, row by row to and fro: each beside the last."""
        left, top, right, bottom = self.one
        across = (np.arange(self.columns) - (self.columns - 1) / 2) * (right - left + self.gap)
        down = (np.arange(self.rows) - (self.rows - 1) / 2) * (bottom - top + self.gap)
        rows = [across if nth % 2 == 0 else across[::-1] for nth in range(self.rows)]
        places = np.stack([np.concatenate(rows), np.repeat(down, self.columns)], axis=1)
        return np.asarray(places - ((left + right) / 2, (top + bottom) / 2))

    def laid(self, area: Area) -> list[Area]:
        """An area of the design in every copy."""
        return [shapely.transform(area, lambda points, by=move: points @ self.matrix + by) for move in self.moves()]


def kept_gap(box: Box, gap: float) -> float:
    """A gap between copies, which may overlap by a part of their shorter side alone."""
    return max(gap, -MOST_OVERLAP * min(box[2] - box[0], box[3] - box[1]))


TURN = np.array([[0.0, 1.0], [-1.0, 0.0]])  # a quarter, clockwise as seen


def fitting(box: Box, gap: float, margin: float, field: Box) -> tuple[int, int]:
    """Columns and rows, as many copies of a box as fit into a field with a margin, mm; none where one does not."""
    wide, high = box[2] - box[0] + gap, box[3] - box[1] + gap
    room = (field[2] - field[0] - 2 * margin + gap, field[3] - field[1] - 2 * margin + gap)
    return int(room[0] / max(wide, 1e-6) + 1e-9), int(room[1] / max(high, 1e-6) + 1e-9)


def repeated(steps: Sequence[Step], grid: Grid, order: str, copies: int | None = None) -> list[Step]:
    """What is sewn and stopped for with a design in every copy, or in the first so many.

    Step by step, every stretch sewn with one thread between two stops goes once round all copies, back the way it
    came the next time, and each stop is made once. Copy by copy everything is done for one after another.
    """
    moves = grid.moves()[:copies]
    if order == COPY:
        return [_moved(step, grid, nth, move) for nth, move in enumerate(moves) for step in steps]
    found: list[Step] = []
    ahead, spread = True, Spread(grid)
    for stretch in _stretches(steps):
        if isinstance(stretch[0], Stop):
            found.append(for_copies(spread.stop(stretch[0]), len(moves)))
            continue
        found += [_moved(step, grid, 0, move) for move in (moves if ahead else moves[::-1]) for step in stretch]
        ahead = not ahead
    return found


def for_copies(stop: Stop, copies: int) -> Stop:
    """A stop made once for all copies: what it takes for each, but what doing it again at once spares."""
    spared = min(HANDS[stop.kind].spared, stop.seconds)
    return replace(stop, seconds=copies * stop.seconds - (copies - 1) * spared)


class Spread:
    """What stops change in the design, changed in every copy at once; areas that were one object stay one."""

    def __init__(self, grid: Grid) -> None:
        self.grid = grid
        self.known: dict[int, tuple[Area, Area]] = {}

    def area(self, area: Area) -> Area:
        """An area of every copy together."""
        if id(area) not in self.known:
            self.known[id(area)] = area, shapely.union_all(self.grid.laid(area))
        return self.known[id(area)][1]

    def stop(self, stop: Stop) -> Stop:
        """A stop that is made for all copies."""
        return replace(stop, effects=tuple(_over(one, self.area, lambda owner: owner) for one in stop.effects))


def of_design(owner: str) -> str:
    """The piece of the design that one of a copy stands for."""
    return owner.partition(COPY_MARK)[0]


def _over(effect: Effect, area: Callable[[Area], Area], owner: Callable[[str], str]) -> Effect:
    """An effect with its areas and the pieces it names as they are in a copy."""

    def maybe(region: Area | None) -> Area | None:
        return None if region is None else area(region)

    match effect:
        case Lays(layers):
            return Lays(tuple(renewed(one, region=maybe(one.region), owners=tuple(map(owner, one.owners)))
                              for one in layers))  # fmt: skip
        case CutsBack():
            return replace(effect, owner=owner(effect.owner), region=area(effect.region))
        case Slits():
            return replace(effect, owner=owner(effect.owner), region=area(effect.region))
        case TakesAway():
            owners = tuple(map(owner, effect.owners))
            return replace(effect, owners=owners, region=maybe(effect.region), keeps=maybe(effect.keeps))
        case Opens() | Presses():
            return replace(effect, region=area(effect.region))


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


def _moved(step: Step, grid: Grid, nth: int, move: Array) -> Step:
    """A step in one copy; what it lays there is a piece of that copy's own."""
    matrix = grid.matrix
    if isinstance(step, Stop):
        known: dict[int, Area] = {}

        def area(region: Area) -> Area:
            return known.setdefault(id(region), shapely.transform(region, lambda points: points @ matrix + move))

        def owner(piece: str) -> str:
            return f"{piece}{COPY_MARK}{nth}" if nth and piece else piece

        return replace(step, effects=tuple(_over(one, area, owner) for one in step.effects))
    key, item = step
    strands = tuple(Strand((one.xy @ matrix if grid.turned else one.xy) + move, one.role) for one in item.strands)
    return key, replace(item, strands=strands)


def box_of(steps: Sequence[Step]) -> Box:
    """The box of all that is sewn, mm; nothing sewn is a dot."""
    ends = [(one.xy.min(axis=0), one.xy.max(axis=0)) for step in steps if not isinstance(step, Stop)
            for one in step[1].strands if len(one.xy)]  # fmt: skip
    if not ends:
        return 0.0, 0.0, 0.0, 0.0
    low, high = np.min([one for one, _ in ends], axis=0), np.max([one for _, one in ends], axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
