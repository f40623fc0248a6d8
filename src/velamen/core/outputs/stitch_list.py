"""stitches.csv: the stitch list that every other output agrees with (docs/formats.md)."""

from __future__ import annotations

import csv
import io

from velamen.core.plan.stitch_plan import COMMANDS, NO_ROLE, StitchPlan
from velamen.core.stitching.roles import ROLES

HEADER = ("n", "x_mm", "y_mm", "command", "thread", "block", "role", "piece", "note")


def stitch_list(plan: StitchPlan) -> str:
    """The plan as CSV text, a row a command, three decimals."""
    note = {stop.row: stop.step for stop in plan.stops}
    blocks = plan.blocks
    out = io.StringIO()
    write = csv.writer(out, lineterminator="\n")
    write.writerow(HEADER)
    rows = zip(plan.xy.tolist(), plan.command.tolist(), plan.role.tolist(), plan.block.tolist(), strict=True)
    for n, ((x, y), command, role, block) in enumerate(rows, 1):
        owner = blocks[block] if block >= 0 else None
        step = note.get(n - 1)
        thread = owner.thread if owner else (blocks[0].thread if blocks else "")
        piece = step.piece if step else owner.piece if owner else ""
        write.writerow((
            n, f"{x + 0.0:.3f}", f"{y + 0.0:.3f}", COMMANDS[command], thread, max(block, 0) + 1 if owner else 0,
            "" if role == NO_ROLE else ROLES[role], piece, step.text if step else "",
        ))  # fmt: skip
    return out.getvalue()
