"""Speed of lace: motifs laid anew at other sizes, nets, and the rinse proof of 200,000 stitches."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import numpy as np
from shapely import box

from velamen.core.artwork.motif import figure_of
from velamen.core.materials.library import shipped
from velamen.core.proofs.rinse.proof import prove_rinse
from velamen.core.proofs.rinse.thread import Stitches
from velamen.core.stitching.motif_copies import Pattern
from velamen.core.stitching.motif_fill import motif_fill
from velamen.core.stitching.motif_thread import Sewing
from velamen.core.stitching.net import net

AREA, LARGE = box(-30, -30, 30, 30), box(-285, -285, 285, 285)
ROLES = "lace_net", "lace_border"
EDITS = 40


def lace_figures() -> dict[str, Any]:
    """Rows of the benchmark, by name."""
    leaf = figure_of(shipped().motifs["leaf"])
    edits = sorted(_seconds(lambda nth=nth: _filled(leaf, 6.0 + 0.05 * nth)) for nth in range(EDITS))  # type: ignore[misc]
    straight = _seconds(lambda: net(AREA, ROLES, 3.0, 0.7, 2.2, 2))
    curved = _seconds(lambda: net(AREA, ROLES, 3.0, 0.7, 2.2, 2, curved=True))
    begun = time.perf_counter()
    (strand,) = net(LARGE, ROLES, 3.0, 0.7, 2.2, 2)
    built = time.perf_counter() - begun
    sewn = Stitches(
        strand.xy[:-1], strand.xy[1:], np.zeros(len(strand.xy) - 1, np.int64), np.arange(len(strand.xy) - 1)
    )
    proved = _seconds(lambda: prove_rinse(sewn))
    return {
        "motif fill 60 x 60: ms from a size to its stitches, 95th percentile": round(1000 * edits[int(0.95 * EDITS)]),
        "motif fill 60 x 60: of a straight net": round(float(np.median(edits)) / straight, 2),
        "curved net 60 x 60: of a straight one": round(curved / straight, 2),
        "rinse proof: stitches": len(sewn.row),
        "rinse proof: stitches a second": round(len(sewn.row) / proved),
        "rinse proof: of building the net": round(proved / built, 2),
    }


def _filled(figure: Any, size: float) -> None:
    motif_fill(AREA, Pattern((figure,), size, -0.6, -0.6), Sewing("motif", 2.2, 2), cut=True)


def _seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun
