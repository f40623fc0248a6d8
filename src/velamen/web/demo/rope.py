"""Demo job of a stitch file brought in: an old badge's border becomes an appliqué, its anchor a fill."""

from __future__ import annotations

from velamen.core.edits.shapes.stitch_parts import take_stitch_parts
from velamen.core.job.document import Job, StitchFile, brief_for, change
from velamen.core.recovery.recovered import Recovered
from velamen.core.recovery.ways import KEEP, OUTLINE

ROPE, LIST = "Old rope badge", "old-rope-badge.csv"
THREADS = ("121", "108", "103")  # of its border, rope and anchor
NAMES = ("Badge", "Rope", "Anchor")


def rope_document(key: str, found: Recovered) -> Job:
    """The badge on felt. key: of the kept stitch file; found: its parts."""
    (badge,) = found.proposals
    on_top = filter(found.listed, badge.on_top)
    ways = {"satin": KEEP, "fill": OUTLINE}
    wanted = {nth: ways[kind] for nth in on_top if (kind := found.segments[nth].kind) in ways}
    job = Job(name=ROPE, brief=brief_for("felt", "h130x180"))
    job = take_stitch_parts(job, found, StitchFile(key, LIST), wanted, {0: ""}, THREADS)
    named = dict(zip([one.shape for one in job.pieces], NAMES, strict=True))
    return change(
        job, shapes=[change(one, name=named[one.id]) for one in job.shapes],
        pieces=[change(one, name=named[one.shape]) for one in job.pieces],
    )  # fmt: skip
