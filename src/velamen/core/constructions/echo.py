"""Echo rings: stem stitch outward round a shape, ring outside ring, corners sharp (handbook, section 10)."""

from __future__ import annotations

import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.constructions.base import Sample, Work
from velamen.core.constructions.plain import OUTLINE, plain
from velamen.core.geometry.combine import fill_holes, parts_of
from velamen.core.geometry.region import boundaries
from velamen.core.setting import NONE, Plain, Setting
from velamen.core.stitching.line import line_stitch
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number, plain_values

MOST_RINGS, MITRE = 8, 4.0  # rings, and times the offset up to which a corner stays sharp
THREADS = range(2, 5)

SETTINGS = (
    Setting("echo_rings", "Rings", "Rings", "How many, one outside the other.", unit="", low=1, high=MOST_RINGS,
            step=1),
    Setting("echo_first", "First ring", "Rings", "How far outside the shape its middle lies.", low=0.0, high=10.0,
            step=0.05),
    Setting("echo_gap", "Gap", "Rings", "Between the edges of neighbouring rings.", low=0.1, high=10.0, step=0.05),
    Setting("echo_width", "Width", "Stem", "Of the first ring, from side to side.", low=0.25, high=3.0, step=0.05),
    Setting("echo_width_last", "Width of the last", "Stem", "Those between grow evenly.", low=0.25, high=3.0,
            step=0.05),
    Setting("echo_length", "Length", "Stem", "That a stitch takes along the line.", low=1.0, high=6.0,
            measure="run_length"),
    Setting("echo_holes", "Holes too", "Rings", "Whether holes of the shape have rings, or are left out.",
            kind="switch", unit=""),
    *(Setting(f"echo_thread_{nth}", f"Thread {nth}", "Threads", "The piece's own thread is the first; rings take "
              "them by turns." if nth == 2 else "One more, or none.", kind="thread", unit="") for nth in THREADS),
)  # fmt: skip


def rings_of(region: Polygon, distance: float, holes: bool) -> list[Array]:
    """Closed lines (n, 2) `distance` mm outside a region, corners sharp."""
    whole = region if holes else shapely.union_all([fill_holes(part) for part in parts_of(region)])
    wider = shapely.buffer(whole, distance, join_style="mitre", mitre_limit=MITRE)
    return [ring for part in parts_of(wider) for ring in boundaries(part)]


def distances(known: dict[str, Plain]) -> list[tuple[float, float]]:
    """Distance from the shape and width, mm, of each ring."""
    count = round(float(known["echo_rings"]))
    first, last = float(known["echo_width"]), float(known["echo_width_last"])
    widths = [first + (last - first) * nth / max(count - 1, 1) for nth in range(count)]
    found, at = [], float(known["echo_first"])
    for nth, width in enumerate(widths):
        at += float(known["echo_gap"]) + (widths[nth - 1] + width) / 2 if nth else 0.0
        found.append((at, width))
    return found


def sewing(work: Work, values: Values) -> list[Pass]:
    """The rings, the innermost first; a pass for each thread."""
    keys = [work.thread, *(key for nth in THREADS if (key := choice(values, f"echo_thread_{nth}")) != NONE)]
    by_thread: dict[int, list[Strand]] = {}
    holes, length = bool(values["echo_holes"].value), number(values, "echo_length")
    for nth, (off, width) in enumerate(distances(plain_values(values))):
        rings = rings_of(work.region, off, holes)
        sewn = line_stitch(rings, True, "stem", OUTLINE, length, width=width, start=work.start)
        by_thread.setdefault(nth % len(keys), []).extend(sewn)
    several = len(by_thread) > 1
    return [Pass(OUTLINE, f"Echo rings, thread {nth + 1}" if several else "Echo rings", keys[nth], work.piece,
                 tuple(sewn)) for nth, sewn in sorted(by_thread.items()) if sewn]  # fmt: skip


CONSTRUCTION = plain(
    "echo", "Echo rings", OUTLINE, SETTINGS, sewing,
    beyond=lambda known: max(off + width / 2 for off, width in distances(dict(known))),
    shown_on=Sample.BODY, shown_with={"echo_rings": 3.0},
)  # fmt: skip
