"""What the page of a stitch file's parts shows of them: rows with small pictures, appliqués found, threads."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from velamen.core.constructions import constructions, usual
from velamen.core.edits.shapes.stitch_parts import thread_keys
from velamen.core.geometry.region import rings_of
from velamen.core.materials.library import Library
from velamen.core.recovery.parts import KIND_WORDS
from velamen.core.recovery.recovered import Recovered
from velamen.core.recovery.segments import Segment
from velamen.core.recovery.ways import KEEP, WAYS, ways_of
from velamen.web.jobs.pictures import ring_path

THIN = 0.3  # mm that the outline of a small picture may be off
MOST_DRAWN = 240  # points of the small picture of a part without a shape


def parts_context(found: Recovered, library: Library) -> dict[str, Any]:
    """What the page shows of a file that could be read."""
    keys = thread_keys(found, library)
    of = {nth: number for number, one in enumerate(found.proposals) for nth in (*one.placement, *one.drops)}
    parts = [_part(found, nth) | {"proposal": of.get(nth)} for nth in found.numbers]
    used = sorted({part["thread"] for part in parts})
    proposals = [
        {"nth": number, "parts": [nth for nth in (*one.placement, *one.drops) if found.listed(nth)],
         "drops": [_told(found.segments[nth]) for nth in one.drops], "top": sum(map(found.listed, one.on_top))}
        for number, one in enumerate(found.proposals)
    ]  # fmt: skip
    cloths = [(one.name, one.title) for one in constructions().values() if one.of_cloth]
    return {
        "parts": parts, "proposals": proposals, "ways": WAYS, "keep": KEEP, "found": found,
        "stitch_count": found.rows.stitches, "keys": " ".join(keys),
        "file_threads": [(nth, keys[nth], library.threads[keys[nth]]) for nth in used],
        "colours": {one.key: one.colour for one in library.threads.values()},
        "cloth_ways": [("cloth", f"One {usual('area').title.lower()}"), *cloths],
    }  # fmt: skip


def _part(found: Recovered, nth: int) -> dict[str, Any]:
    """A part of the list."""
    one, first = found.segments[nth], found.first_of(nth)
    path, box = _thumb(one)
    return {
        "nth": nth, "number": found.numbers[nth], "thread": one.thread, "told": _figures(one),
        "word": KIND_WORDS[one.kind] + (", underlay" if first < nth else ""),
        "count": one.last - found.segments[first].first + 1, "ways": [(way, WAYS[way]) for way in ways_of(one)],
        "path": path, "box": box, "area": one.area is not None, "cut": one.rails is not None and one.closed,
    }  # fmt: skip


def _told(one: Segment) -> str:
    """A part in a few words."""
    return " ".join(filter(None, (KIND_WORDS[one.kind].lower(), f"{one.width:.1f} mm" if one.width else "")))


def _figures(one: Segment) -> Sequence[str]:
    """Width, spacing and angle, as far as a part has them."""
    return [
        *([f"{one.width:.1f} wide"] if one.width else []),
        *([f"{one.spacing:.2f} apart"] if one.spacing else []),
        *([f"{one.angle:.0f}°"] if one.angle is not None else []),
    ]


def _thumb(one: Segment) -> tuple[str, str]:
    """The small picture of a part: the path and its box."""
    if one.area is not None and not one.area.is_empty:
        thin = shapely.simplify(one.area, THIN)
        area = thin if not thin.is_empty else one.area
        path, (left, top, right, bottom) = ring_path(rings_of(area, 1), decimals=1), area.bounds
    else:
        line = one.line if one.line is not None and len(one.line) > 1 else np.zeros((2, 2))
        line = line[:: max(1, len(line) // MOST_DRAWN)]
        path = ring_path([line.tolist()], False, 1)
        left, top, right, bottom = np.concatenate([line.min(axis=0), line.max(axis=0)]).tolist()
    edge = 0.08 * max(right - left, bottom - top, 1.0)
    return path, f"{left - edge:.1f} {top - edge:.1f} {right - left + 2 * edge:.1f} {bottom - top + 2 * edge:.1f}"
