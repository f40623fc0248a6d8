"""Stitch files as ISO 6983: G1 a stitch, G0 a jump, M0 and M1 stops, M6 a thread, M2 and M30 the end."""

from __future__ import annotations

import re

import numpy as np

from velamen.core.errors import BadInput
from velamen.core.plan.stitch_plan import COLOR, END, JUMP, STITCH, STOP, TRIM
from velamen.core.recovery.stitch_rows import StitchRows

WORD = re.compile(r"([A-Z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")
COMMENT = re.compile(r"\([^)]*\)|;.*")
MM = 25.4
MILLING = ("Z", "A", "B", "C")  # axes that no needle has
SPINDLE = (3.0, 4.0, 5.0)


def is_gcode(text: str) -> bool:
    """Whether a text looks like ISO 6983."""
    lines = [COMMENT.sub("", line).strip().upper() for line in text.lstrip("\ufeff").splitlines()[:60]]
    told = [line for line in lines if line and line != "%"]
    return bool(told) and sum(bool(re.match(r"(N\d+\s*)?[GMT]\s*\d", line)) for line in told) > 0.6 * len(told)


def read_gcode(text: str) -> StitchRows:
    """The rows of a file. Raises BadInput with the line and what to do."""
    reader = _Reader()
    for nth, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        reader.line(nth, line)
        if reader.ended:
            break
    if all(row[2] > JUMP for row in reader.rows):
        raise BadInput("The G-code file moves nowhere: bring in one with G0 and G1.")
    table = np.array(reader.rows)
    return StitchRows(table[:, :2], table[:, 2].astype(np.uint8), table[:, 3].astype(np.int64))


class _Reader:
    """The state of a controller that reads line by line."""

    def __init__(self) -> None:
        self.rows: list[tuple[float, float, float, float]] = []
        self.x = self.y = 0.0
        self.scale, self.absolute, self.moves = 1.0, True, -1
        self.thread = -1
        self.ended = False

    def line(self, nth: int, line: str) -> None:
        told = line.upper()
        if "(TRIM" in told.replace(" ", ""):
            self._row(TRIM)
        told = COMMENT.sub(" ", told)
        words = [(letter, float(number)) for letter, number in WORD.findall(told)]
        if not words:
            return
        if any(letter in MILLING for letter, _ in words) or ("M", SPINDLE[0]) in words or ("M", SPINDLE[1]) in words:
            raise BadInput(f"Line {nth} turns a spindle or moves a third axis: that is a job of milling.")
        places = {letter: number for letter, number in words if letter in "XY"}
        for letter, number in words:
            if letter == "G":
                self._general(nth, number)
            elif letter == "M":
                self._machine(number)
        if places and not self.ended:
            self._move(nth, places)

    def _general(self, nth: int, number: float) -> None:
        if number in (2.0, 3.0):
            raise BadInput(f"Line {nth} sews an arc (G{number:.0f}): have it written as straight stitches.")
        if number in (0.0, 1.0):
            self.moves = int(number)
        elif number in (20.0, 21.0):
            self.scale = MM if number == 20.0 else 1.0
        elif number in (90.0, 91.0):
            self.absolute = number == 90.0

    def _machine(self, number: float) -> None:
        if number in (0.0, 1.0):
            self._row(STOP)
        elif number == 6.0:
            if self.thread >= 0 and self.rows:
                self._row(COLOR)
            self.thread += 1
        elif number in (2.0, 30.0):
            self._row(END)
            self.ended = True

    def _move(self, nth: int, places: dict[str, float]) -> None:
        if self.moves < 0:
            raise BadInput(f"Line {nth} has a place before any G0 or G1: say which move it is.")
        x, y = places.get("X"), places.get("Y")
        if self.absolute:
            self.x = self.x if x is None else x * self.scale
            self.y = self.y if y is None else y * self.scale
        else:
            self.x, self.y = self.x + (x or 0.0) * self.scale, self.y + (y or 0.0) * self.scale
        self._row(STITCH if self.moves else JUMP)

    def _row(self, command: int) -> None:
        self.rows.append((self.x, self.y, float(command), float(max(self.thread, 0))))
