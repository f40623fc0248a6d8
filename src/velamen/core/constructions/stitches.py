"""Needle points: sewn just as they came out of a stitch file; of a drawn shape, the points of its outline."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from velamen.core.arrays import Array
from velamen.core.constructions.base import Sewn, Work
from velamen.core.constructions.plain import plain
from velamen.core.geometry.region import boundaries, spot_in
from velamen.core.job.needles import Needles, strands_of
from velamen.core.job.shape import Frame, in_frame
from velamen.core.memo import Same
from velamen.core.proofs.finding import Finding
from velamen.core.stitching.roles import CODE, TIE, TRAVEL, declare
from velamen.core.stitching.strand import Strand, strand, tied
from velamen.core.values.value import Values

NEEDLE = declare("needle", "needle points", broad=True)
KEPT = (TIE, TRAVEL)  # roles that stitches of a list keep
SAME_SIZE = 0.10  # share by which needle points may be sized (handbook, section 15)


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """The points of the list, or of every outline, from the first to the last."""
    if work.needles is not None:
        return "Needle points", list(_as_they_came(Same(work.needles), work.placed))
    lines = [work.line] if work.line is not None else [_closed(one) for one in boundaries(work.region)]
    return "Needle points", [tied(strand(line, NEEDLE)) for line in lines]


@lru_cache(maxsize=256)
def _as_they_came(needles: Same[Needles], placed: Frame) -> tuple[Strand, ...]:
    known = strands_of(needles.it)
    codes = np.array([CODE[one if one in KEPT else NEEDLE] for one in known.roles], dtype=np.uint8)
    xy, role = in_frame(known.xy, placed), codes[known.role]
    return tuple(Strand(xy[first : first + count], role[first : first + count])
                 for first, count in zip(known.first.tolist(), known.counts.tolist(), strict=True))  # fmt: skip


def _closed(ring: Array) -> Array:
    return np.concatenate([ring, ring[:1]])


def findings(sewn: Sewn) -> list[Finding]:
    """That needle points are much larger or smaller than they came: their spacing went along."""
    work = sewn.work
    sizes = np.linalg.svd(np.array(work.placed[:4]).reshape(2, 2), compute_uv=False)
    if work.needles is None or float(np.abs(sizes - 1.0).max()) <= SAME_SIZE:
        return []
    share = " by ".join(f"{100.0 * size:.0f} %" for size in dict.fromkeys(np.round(sizes, 2).tolist()))
    return [Finding(
        "needles_sized", "warning", work.piece,
        f"The needle points of {work.name} are sewn at {share} of the size they came in: spacing and stitch lengths "
        f"went along. Turn them into a shape instead, or keep within {100 * SAME_SIZE:.0f} %.",
        spot_in(work.region),
    )]  # fmt: skip


CONSTRUCTION = plain("stitches", "Needle points", NEEDLE, (), sewing, lines=True, needles=True, findings=findings)
