"""stitches.gcode: the stitch list as ISO 6983 for simple motion controllers (docs/formats.md)."""

from __future__ import annotations

import numpy as np

from velamen.core.building.build import Build
from velamen.core.plan.stitch_plan import COLOR, END, JUMP, STITCH, STOP, TRIM

LONGEST_COMMENT = 100


def gcode(build: Build) -> str:
    """The plan as G-code: mm, absolute, the list's own axes, a line a row.

    G1 one stitch, the needle going down at its end; G0 a jump; M0 a stop for the hands; M6 Tn the nth
    thread of the report; a trim is a comment, since no standard word cuts a thread; M2 the end.
    """
    plan, threads = build.hooping, build.hooping.threads
    notes = {stop.row: stop.step.text for stop in plan.stops}
    starts = {block.first: block for block in plan.blocks}
    lines = ["%", f"({_plain(build.job.name)})", "G21 G90", *_first_thread(build)]
    where = np.char.add(np.char.add(np.char.mod("X%.3f", plan.xy[:, 0] + 0.0), " "),
                        np.char.mod("Y%.3f", plan.xy[:, 1] + 0.0)).tolist()  # fmt: skip
    words = {STITCH: "G1 ", JUMP: "G0 "}
    thread = plan.blocks[0].thread if plan.blocks else ""
    for row, command in enumerate(plan.command.tolist()):
        block = starts.get(row)
        if block is not None:
            if block.thread != thread:
                thread = block.thread
                lines.append(f"M6 T{threads.index(thread) + 1} ({_plain(build.library.threads[thread].name)})")
            lines.append(f"(block {block.index + 1}: {_plain(block.label)})")
        if command in words:
            lines.append(words[command] + where[row])
        elif command == TRIM:
            lines.append("(trim)")
        elif command == STOP:
            lines.append(f"M0 ({_plain(notes.get(row, 'stop'))})")
        elif command == END:
            lines.append("M2")
        elif command == COLOR:
            continue  # told with the block that follows
    return "\n".join([*lines, "%", ""])


def _first_thread(build: Build) -> list[str]:
    if not build.plan.blocks:
        return []
    thread = build.library.threads[build.plan.blocks[0].thread]
    return [f"M6 T1 ({_plain(thread.name)})"]


def _plain(text: str) -> str:
    """Text for a comment: ASCII without brackets, which end it."""
    kept = "".join(one if one.isascii() and one.isprintable() and one not in "()%;" else " " for one in text)
    return " ".join(kept.split())[:LONGEST_COMMENT]
