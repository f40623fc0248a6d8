"""The stitch plan: passes and hand steps joined into one list of commands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.stitching.roles import CODE, TRAVEL
from velamen.core.stitching.strand import DROP, Strand
from velamen.core.stitching.travel import SEWN_ON
from velamen.core.timeline.operation import Stop
from velamen.core.timeline.passes import Pass

COMMANDS = ("stitch", "jump", "trim", "stop", "color", "end")
STITCH, JUMP, TRIM, STOP, COLOR, END = range(6)
NO_ROLE = 255


Step = tuple[str, Pass] | Stop
"""A pass with the key of the operation it belongs to, or a stop."""


@dataclass(frozen=True)
class Block:
    """Rows sewn without a change of pass."""

    index: int
    role: str
    thread: str  # key
    piece: str  # id
    label: str
    first: int  # row
    count: int  # rows
    key: str = ""  # of the operation it belongs to


@dataclass(frozen=True)
class Halt:
    """A stop of the machine."""

    row: int  # of the plan, in which it stands
    step: Stop  # what is done there


@dataclass(frozen=True)
class Load:
    """A thread taken up by the machine."""

    thread: str  # key
    first: int  # row
    again: bool  # whether it was sewn with before


@dataclass(frozen=True)
class StitchPlan:
    """All commands in order.

    xy: (n, 2) mm, y down, origin in the sewing field's centre; command: (n,) index into
    COMMANDS; role: (n,) index into ROLES, NO_ROLE where nothing is sewn; block: (n,)
    index into blocks, -1 before the first.
    """

    xy: Array
    command: NDArray[np.uint8]
    role: NDArray[np.uint8]
    block: NDArray[np.int32]
    blocks: tuple[Block, ...]
    stops: tuple[Halt, ...]

    @property
    def threads(self) -> list[str]:
        """Threads in the order of their first use."""
        return list(dict.fromkeys(block.thread for block in self.blocks))

    @property
    def loads(self) -> list[Load]:
        """Threads in the order in which they are sewn, one that comes back listed again."""
        found: list[Load] = []
        for block in self.blocks:
            if not found or found[-1].thread != block.thread:
                again = any(one.thread == block.thread for one in found)
                found.append(Load(block.thread, block.first, again))
        return found

    @property
    def sewn(self) -> NDArray[np.bool_]:
        """Which rows are stitches."""
        return np.asarray(self.command == STITCH)

    def stitches(self, block: Block) -> Array:
        """Needle points of one block: (m, 2)."""
        rows = slice(block.first, block.first + block.count)
        return np.asarray(self.xy[rows][self.command[rows] == STITCH])


class _Writer:
    """Collects chunks of rows; knows where the needle is and whether the thread is cut."""

    def __init__(self) -> None:
        self.xy: list[Array] = []
        self.command: list[NDArray[np.uint8]] = []
        self.role: list[NDArray[np.uint8]] = []
        self.block: list[NDArray[np.int32]] = []
        self.rows = 0
        self.at = np.zeros(2)
        self.thread: str | None = None
        self.cut = True
        self.blocks: list[Block] = []
        self.stops: list[Halt] = []

    def put(self, xy: Array, command: int, role: NDArray[np.uint8] | int = NO_ROLE) -> None:
        count = len(xy)
        self.xy.append(xy)
        self.command.append(np.full(count, command, dtype=np.uint8))
        self.role.append(np.broadcast_to(np.asarray(role, dtype=np.uint8), (count,)))
        self.block.append(np.full(count, len(self.blocks) - 1, dtype=np.int32))
        self.rows += count
        self.at = xy[-1]

    def mark(self, command: int) -> None:
        self.put(self.at[None], command)

    def trim(self) -> None:
        if not self.cut:
            self.mark(TRIM)
            self.cut = True

    def sew(self, part: Strand) -> None:
        start = part.xy[:1]
        if self.cut:
            self.put(start, JUMP)
        elif float(np.linalg.norm(self.at - start[0])) > SEWN_ON:
            self.trim()
            self.put(start, JUMP)
        elif float(np.linalg.norm(self.at - start[0])) >= DROP:
            self.put(start, STITCH, CODE[TRAVEL])
        first = 0 if int(self.command[-1][-1]) == JUMP else 1
        self.put(part.xy[first:], STITCH, part.role[first:])
        self.cut = False

    def pass_(self, key: str, item: Pass) -> None:
        if self.thread is not None and item.thread != self.thread:
            self.trim()
            self.mark(COLOR)
        self.thread = item.thread
        first = self.rows
        self.blocks.append(Block(len(self.blocks), item.role, item.thread, item.piece, item.label, first, 0, key))
        for part in item.strands:
            self.sew(part)
        self.blocks.append(replace(self.blocks.pop(), count=self.rows - first))

    def stop(self, step: Stop) -> None:
        self.trim()
        self.stops.append(Halt(self.rows, step))
        self.mark(STOP)


def plan_of(steps: Sequence[Step]) -> StitchPlan:
    """Stitch plan of passes and stops in order."""
    writer = _Writer()
    for step in steps:
        if isinstance(step, Stop):
            writer.stop(step)
        elif step[1].strands:
            writer.pass_(*step)
    writer.trim()
    writer.mark(END)
    return StitchPlan(
        xy=np.asarray(np.round(np.concatenate(writer.xy), 3), dtype=np.float64),
        command=np.concatenate(writer.command),
        role=np.concatenate(writer.role),
        block=np.concatenate(writer.block),
        blocks=tuple(writer.blocks),
        stops=tuple(writer.stops),
    )
