"""The stitch plan: passes and hand steps joined into one list of commands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.constructions.base import HandStep, Pass, Step
from velamen.core.stitching.strand import CODE, DROP, Strand

Array = NDArray[np.float64]

COMMANDS = ("stitch", "jump", "trim", "stop", "color", "end")
STITCH, JUMP, TRIM, STOP, COLOR, END = range(6)
NO_ROLE = 255
TRAVEL = 3.0  # mm sewn on without a trim (handbook, section 2)


@dataclass(frozen=True)
class Block:
    """Rows sewn without a change of pass: role, thread, piece, label, first row and row count."""

    index: int
    role: str
    thread: str
    piece: str
    label: str
    first: int
    count: int


@dataclass(frozen=True)
class Stop:
    """A stop of the machine: the row it stands in and the hand step done there."""

    row: int
    step: HandStep


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
    stops: tuple[Stop, ...]

    @property
    def threads(self) -> list[str]:
        """Threads in the order of their first use."""
        return list(dict.fromkeys(block.thread for block in self.blocks))

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
        self.stops: list[Stop] = []

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
        elif float(np.linalg.norm(self.at - start[0])) > TRAVEL:
            self.trim()
            self.put(start, JUMP)
        elif float(np.linalg.norm(self.at - start[0])) >= DROP:
            self.put(start, STITCH, CODE["travel"])
        first = 0 if int(self.command[-1][-1]) == JUMP else 1
        self.put(part.xy[first:], STITCH, part.role[first:])
        self.cut = False

    def pass_(self, item: Pass) -> None:
        if self.thread is not None and item.thread != self.thread:
            self.trim()
            self.mark(COLOR)
        self.thread = item.thread
        first = self.rows
        self.blocks.append(Block(len(self.blocks), item.role, item.thread, item.piece, item.label, first, 0))
        for part in item.strands:
            self.sew(part)
        last = self.blocks.pop()
        self.blocks.append(
            Block(last.index, last.role, last.thread, last.piece, last.label, first, self.rows - first)
        )

    def stop(self, step: HandStep) -> None:
        self.trim()
        self.stops.append(Stop(self.rows, step))
        self.mark(STOP)


def plan_of(steps: list[Step]) -> StitchPlan:
    """Stitch plan of passes and hand steps in sewing order."""
    writer = _Writer()
    for step in steps:
        if isinstance(step, HandStep):
            writer.stop(step)
        elif step.strands:
            writer.pass_(step)
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
