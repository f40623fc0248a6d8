"""Blend: two to six threads that pass into one another over a shape (handbook, section 13)."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

import numpy as np

from velamen.core.constructions.base import Led, Stop, Work
from velamen.core.constructions.plain import DECORATION, all_hidden, plain
from velamen.core.setting import NONE, Plain, Setting
from velamen.core.stitching.area_underlay import UNDERLAYS, area_underlay
from velamen.core.stitching.blend import blend, rows_of
from velamen.core.stitching.fill import linked
from velamen.core.stitching.stagger import staggers
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number, plain_values

MOST_THREADS = 6

SETTINGS = (
    *(Setting(f"blend_thread_{nth}", f"Thread {nth}", "Threads",
              "The piece's own thread is the first; this one follows it." if nth == 2 else
              "One more, or none.", kind="thread", unit="") for nth in range(2, MOST_THREADS + 1)),
    *(Setting(f"blend_place_{nth}", f"Place of thread {nth}", "Threads", "Where it is alone, on the way across the "
              "rows.", unit="%", low=0, high=100, step=1) for nth in range(1, MOST_THREADS + 1)),
    Setting("blend_angle", "Angle", "Rows", "Of the rows; colours pass over across them.", unit="°", low=-180,
            high=180, step=1, measure="row_angle"),
    Setting("blend_spacing", "Spacing", "Rows", "Between neighbouring rows of all threads together.", low=0.2,
            high=6.0, step=0.01, role="decoration", measure="fill_spacing"),
    Setting("blend_length", "Length", "Rows", "Of a stitch.", low=1.5, high=10.0, measure="row_length"),
    Setting("blend_stagger", "Stagger", "Rows", "How penetrations of neighbouring rows lie beside one another.",
            kind="choice", unit="", choices=tuple((one.key, one.title.lower()) for one in staggers().values()),
            measure="stagger", pictures="textures"),
    Setting("blend_pull", "Pull, per side", "Rows", "Added at either end of a row, as stitches draw the fabric in.",
            low=0.0, high=1.0, step=0.01, role="decoration", measure="pull"),
    Setting("blend_underlay", "Underlay", "Rows", "Sewn first, with the first thread.", kind="choice", unit="",
            choices=UNDERLAYS, measure="area_underlay"),
)  # fmt: skip


PLACES = tuple(f"blend_place_{nth}" for nth in range(1, MOST_THREADS + 1))


def threads_of(work: Work, known: Mapping[str, Plain]) -> list[tuple[str, float, int]]:
    """Keys of the threads in order, each with its place as a share of the way, and which one it is; two at least."""
    keys = [work.thread, *(str(known[f"blend_thread_{nth}"]) for nth in range(2, MOST_THREADS + 1))]
    used = [(key, nth) for nth, key in enumerate(keys, 1) if key != NONE]
    places = [float(known[f"blend_place_{nth}"]) / 100.0 for _, nth in used]
    even = [nth / max(len(used) - 1, 1) for nth in range(len(used))]
    grows = all(one < other for one, other in pairwise(places))
    found = [(key, place, nth) for (key, nth), place in zip(used, places if grows else even, strict=True)]
    return found if len(found) > 1 else [*found, (found[0][0], 1.0, 2)]


def sewing(work: Work, values: Values) -> list[Pass]:
    """A pass for every thread, the underlay in the first."""
    angle, spacing = float(np.radians(number(values, "blend_angle"))), number(values, "blend_spacing")
    threads = threads_of(work, plain_values(values))
    sewn = blend(
        work.region, "decoration", angle, spacing, number(values, "blend_length"), [at for _, at, _ in threads],
        choice(values, "blend_stagger"), number(values, "blend_pull"),
    )  # fmt: skip
    sewn[0] = linked([*area_underlay(work.region, choice(values, "blend_underlay"), angle), *sewn[0]], work.region)
    return [
        Pass("decoration", f"Blend {nth} of {len(threads)}", key, work.piece, tuple(strands))
        for nth, ((key, _, _), strands) in enumerate(zip(threads, sewn, strict=True), 1) if strands
    ]  # fmt: skip


def led(work: Work, known: Mapping[str, Plain]) -> list[Led]:
    """Its rows, each in its thread."""
    threads = threads_of(work, known)
    angle, spacing = float(np.radians(float(known["blend_angle"]))), float(known["blend_spacing"])
    rows = rows_of(work.region, angle, spacing, [at for _, at, _ in threads])
    return [Led(line, threads[nth][0]) for line, nth in rows]


def strip(work: Work, known: Mapping[str, Plain]) -> list[Stop]:
    """The place of each thread."""
    return [Stop(f"blend_place_{nth}", f"Thread {nth}", 100.0 * at, key) for key, at, nth in threads_of(work, known)]


CONSTRUCTION = plain("blend", "Blend", DECORATION, SETTINGS, sewing, hides=all_hidden,
    led=led, strip=strip, strip_keys=PLACES,
    shown_with={"blend_underlay": "none"})  # fmt: skip
