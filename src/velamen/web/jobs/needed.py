"""What all the pieces of a job that are wanted need, for a page."""

from __future__ import annotations

from typing import Any

from velamen.core.building.build import Build
from velamen.core.building.needs import needs_of


def needed(build: Build) -> dict[str, Any]:
    """Needs with the rows of the library that they name; nothing where nobody has said how many."""
    wanted, strip = build.wanted, build.job.strip
    known: dict[str, Any] = {"wanted": (build.job.wanted or "") if strip is None else "", "strip": strip}
    if not wanted or not build.pieces:
        return known
    known["repeat_length"] = build.repeat_length
    needs = needs_of(build, wanted)
    threads = [(build.library.threads[key], metres) for key, metres in needs.threads.items()]
    cloths = [(build.library.cloths[one.key], one) for one in needs.cloths]
    sheet = build.library.stabilizers[build.job.brief.stabilizer]
    return {**known, "needs": needs, "need_threads": threads, "need_cloths": cloths, "need_sheet": sheet}
