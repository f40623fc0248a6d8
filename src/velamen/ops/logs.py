"""Logs that only their owner reads, and that do not grow without end."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import BinaryIO

LARGEST = 5_000_000  # bytes of a log before it is turned over
OLDER = 4  # kept of those


def opened(path: Path) -> BinaryIO:
    """A log to be written at its end."""
    path.touch(mode=0o600)
    path.chmod(0o600)
    return path.open("ab")


def turn_over(path: Path) -> None:
    """Puts a log that has grown large aside, under its number; servers that write to it go on at its new start."""
    try:
        if path.stat().st_size < LARGEST:
            return
    except FileNotFoundError:
        return
    for nth in range(OLDER, 1, -1):
        older = path.with_name(f"{path.name}.{nth - 1}")
        if older.exists():
            older.replace(path.with_name(f"{path.name}.{nth}"))
    aside = path.with_name(f"{path.name}.1")
    aside.touch(mode=0o600)
    shutil.copyfile(path, aside)
    with path.open("r+b") as log:
        log.truncate(0)
