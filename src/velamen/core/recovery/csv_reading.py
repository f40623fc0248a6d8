"""Stitch lists as CSV: ours, and any with x, y and perhaps a command or a colour; columns and unit guessed."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index
from velamen.core.errors import BadInput
from velamen.core.plan.stitch_plan import COLOR, JUMP, STITCH
from velamen.core.recovery.stitch_rows import UNITS, WORDS, StitchRows
from velamen.core.stitching.strand import LONGEST

NAMES = {
    "x": re.compile(r"^(pos_?)?x($|[ _(\[.-])", re.IGNORECASE),
    "y": re.compile(r"^(pos_?)?y($|[ _(\[.-])", re.IGNORECASE),
    "command": re.compile(r"command|cmd|type|kind|flag|action", re.IGNORECASE),
    "thread": re.compile(r"thread|colou?r|needle", re.IGNORECASE),
}
DELIMITERS = ",;\t|"
USUAL = (0.25, 8.0)  # mm that the middle stitch of a file is long


@dataclass(frozen=True)
class Columns:
    """Numbers of the columns; command and thread -1 for none."""

    x: int
    y: int
    command: int = -1
    thread: int = -1


def read_csv(text: str, unit: str = "", columns: str = "") -> StitchRows:
    """The rows of a list. unit: key of UNITS, "" to guess; columns: names or numbers of x, y and the command, apart
    by commas, "" to guess. Raises BadInput with the row and what to do."""
    lines = text.lstrip("\ufeff").splitlines()
    delimiter = max(DELIMITERS, key=lambda one: sum(line.count(one) for line in lines[:20]))
    table = [row for row in csv.reader(io.StringIO("\n".join(lines)), delimiter=delimiter) if any(row)]
    if len(table) < 2:
        raise BadInput("The stitch file has no rows: bring in a list with x, y and a command in each.")
    header = [] if any(_is_number(one) for one in table[0]) else [one.strip() for one in table[0]]
    body = table[1:] if header else table
    known = _asked(columns, header) if columns else _guessed(header, body)
    width = max(known.x, known.y) + 1
    short = next((nth for nth, row in enumerate(body) if len(row) < width), None)
    if short is not None:
        raise BadInput(f"Row {short + 1 + bool(header)} of the stitch file has no x and y: mend it there.")
    command = _commands(body, known.command, bool(header))
    places = _places(body, known, command, bool(header))
    scale = UNITS[unit] if unit else _unit(header, known, places, command)
    xy = places * scale
    thread, names = _threads(body, known.thread, command)
    if known.command < 0:
        command = _with_jumps(xy, thread)
    used = [one for one in (known.x, known.y, known.command, known.thread) if one >= 0]
    told = ",".join(header[one] if one < len(header) else str(one + 1) for one in used)
    return StitchRows(xy, command, thread, names, next(key for key, size in UNITS.items() if size == scale), told)


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _asked(columns: str, header: Sequence[str]) -> Columns:
    found = []
    for one in columns.split(","):
        name = one.strip()
        if name in header:
            found.append(header.index(name))
        elif name.isdecimal() and 1 <= int(name) < 1000:
            found.append(int(name) - 1)
        else:
            raise BadInput(f"There is no column {name[:40]!r}: name x, y and the command, or give their numbers.")
    if len(found) < 2:
        raise BadInput("Name at least the columns of x and y, apart by a comma.")
    return Columns(*found[:4])


def _guessed(header: Sequence[str], body: Sequence[Sequence[str]]) -> Columns:
    """By the names at the top, or the first two columns of numbers, one before them that counts the rows left out."""
    named = {
        key: next((nth for nth, one in enumerate(header) if name.search(one)), -1) for key, name in NAMES.items()
    }
    some = body[: min(len(body), 200)]
    if named["x"] >= 0 and named["y"] >= 0:
        told = named["command"] if named["command"] >= 0 else _told(some)
        return Columns(named["x"], named["y"], told, named["thread"])
    numbers = [nth for nth in range(len(some[0])) if all(nth < len(row) and _is_number(row[nth]) for row in some)]
    first = [float(row[numbers[0]]) for row in some] if len(numbers) > 2 else []
    left = numbers[1:] if first and all(np.diff(first) == 1.0) else numbers
    if len(left) < 2:
        raise BadInput("No columns of x and y were found: name them, as in --columns x,y,command.")
    return Columns(left[0], left[1], _told(some))


def _told(some: Sequence[Sequence[str]]) -> int:
    """The first column in which nothing but commands stands, -1 for none."""
    found = (nth for nth in range(len(some[0])) if all(nth < len(row) and row[nth].strip().lower() in WORDS
                                                       for row in some))  # fmt: skip
    return next(found, -1)


def _commands(body: Sequence[Sequence[str]], column: int, headed: bool) -> NDArray[np.uint8]:
    if column < 0:
        return np.full(len(body), STITCH, dtype=np.uint8)
    words = [row[column].strip().lower() if column < len(row) else "" for row in body]
    codes = {word: WORDS.get(word) for word in set(words)}
    wrong = next((word for word, code in codes.items() if code is None), None)
    if wrong is not None:
        row = words.index(wrong) + 1 + headed
        raise BadInput(
            f"Row {row} of the stitch file has the command {wrong[:30]!r}: "
            "use stitch, jump, trim, stop, color or end."
        )
    return np.array([codes[word] for word in words], dtype=np.uint8)


def _places(body: Sequence[Sequence[str]], known: Columns, command: NDArray[np.uint8], headed: bool) -> Array:
    """Places (n, 2) in the unit of the file; rows that sew nothing may have none."""
    found = np.zeros((len(body), 2))
    for axis, column in enumerate((known.x, known.y)):
        texts = [row[column] for row in body]
        try:
            found[:, axis] = np.array(texts, dtype=np.float64)
        except ValueError:
            found[:, axis] = [_place(text, nth, command[nth], headed) for nth, text in enumerate(texts)]
    blank = np.isnan(found).any(axis=1) & (command > JUMP)
    if blank[:1].any():
        found[0], blank[0] = 0.0, False
    before = np.maximum.accumulate(np.where(blank, 0, np.arange(len(found))))
    return found[before]


def _place(text: str, nth: int, command: int, headed: bool) -> float:
    try:
        return float(text)
    except ValueError:
        if command > JUMP and not text.strip():
            return float("nan")
        row = nth + 1 + headed
        raise BadInput(f"Row {row} of the stitch file has {text[:30]!r} for a place: use a number.") from None


def _unit(header: Sequence[str], known: Columns, places: Array, command: NDArray[np.uint8]) -> float:
    """What a number of the file is in mm: as its column says, or so that the middle stitch is as long as usual."""
    if header:
        told = re.search(r"(mm|cm|inch|in)\b", header[known.x].lower().replace("_", " "))
        if told:
            return {"mm": 1.0, "cm": 10.0}.get(told.group(1), 25.4)
    sewn = places[command == STITCH]
    step = np.linalg.norm(np.diff(sewn, axis=0), axis=1)
    middle = float(np.median(step[step > 0])) if (step > 0).any() else 1.0
    for scale in (1.0, 0.1, 25.4):
        if USUAL[0] <= middle * scale <= USUAL[1]:
            return scale
    return 1.0


def _threads(body: Sequence[Sequence[str]], column: int, command: NDArray[np.uint8]) -> tuple[Index, tuple[str, ...]]:
    """Numbers of threads in the order they come, and their names: by their column, or one more at every change."""
    if column < 0:
        return np.cumsum(command == COLOR).astype(np.int64), ()
    names = [row[column].strip() if column < len(row) else "" for row in body]
    number: dict[str, int] = {}
    return np.array([number.setdefault(name, len(number)) for name in names], dtype=np.int64), tuple(number)


def _with_jumps(xy: Array, thread: Index) -> NDArray[np.uint8]:
    """Commands of a list without any: what is longer than a machine sews is a jump."""
    far = np.linalg.norm(np.diff(xy, axis=0, prepend=xy[:1]), axis=1)
    changed = np.diff(thread, prepend=thread[:1]) != 0
    return np.where((far > LONGEST) | changed, JUMP, STITCH).astype(np.uint8)
