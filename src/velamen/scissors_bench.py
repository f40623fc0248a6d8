"""Speed of what is finished with scissors: bars along a guide that is bent, channels and their proof."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
import shapely
from shapely import Polygon, affinity, box

from velamen.core.arrays import Array
from velamen.core.memo import forget
from velamen.core.proofs.bars import prove_bars
from velamen.core.proofs.channels import prove_channels
from velamen.core.stitching.bar_plan import Wanted, plan_bars
from velamen.core.stitching.bars import sewn_bars
from velamen.core.stitching.channels import Asked, channels
from velamen.core.stitching.fill import FillSewing, fill

BENT = 24  # places of a guide's middle that are tried on each opening
WANTED = Wanted(8.0, 0, 0.0, 1.6)
DIAGONAL = Asked(6.5, np.pi / 4, 2.3, 5.0)
FACE = shapely.union_all([shapely.Point(x, -4).buffer(6) for x in (-12, 12)] + [box(-12, 12, 12, 16)])


def scissors_figures() -> dict[str, Any]:
    """Rows of the benchmark, by name."""
    openings = [_wave(seed, rough) for seed, rough in ((1, 0.2), (2, 0.4), (3, 0.6))]
    openings += [openings[0].difference(shapely.Point(0, 0).buffer(9)), box(-30, -12, 30, 12)]
    bent = [_seconds(partial(plan_bars, one, [guide], WANTED)) for one in openings for guide in _guides(one)]
    bars = plan_bars(openings[0], [_guides(openings[0])[3]], WANTED)
    sewn = sewn_bars(openings[0], bars, 1.6)
    proved = _seconds(lambda: prove_bars(openings[0], sewn))
    small, large = (affinity.scale(openings[1], times, times) for times in (1.4, 2.8))
    times = [_seconds(partial(_afresh, one)) for one in (small, large)]
    rows = FillSewing(0.7, 0.4, 4.0, covers=True)
    plain = _seconds(lambda: fill(small, "decoration", rows))
    threads = channels(small, DIAGONAL, FACE)
    walk = _seconds(lambda: prove_channels(small, threads, DIAGONAL, FACE))
    return {
        "bars along a bent guide, five openings: ms, middle": round(1000 * float(np.median(bent)), 1),
        "bars along a bent guide: ms, 95th percentile": round(1000 * float(np.percentile(bent, 95)), 1),
        "bar proof: of laying those bars, time": round(proved / float(np.median(bent)), 2),
        "channels round a face: over a fill of the same shape, time": round(times[0] / plain, 2),
        "channels, four times the area: time": round(times[1] / times[0], 2),
        "channel proof: of sewing the channels, time": round(walk / times[0], 2),
    }


def _wave(seed: int, rough: float) -> Polygon:
    """An opening of a thousand points."""
    random, turn = np.random.default_rng(seed), np.linspace(0.0, 2 * np.pi, 1000, endpoint=False)
    radius = 28.0 + sum(
        28.0 * rough / wave * random.normal() * np.cos(wave * turn + random.uniform(0, 6)) for wave in range(2, 9)
    )
    outline = shapely.buffer(Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)), 0)
    return max(shapely.get_parts(outline), key=lambda part: float(part.area))


def _guides(opening: Polygon) -> list[Array]:
    """A line across it, its middle dragged from one side to the other."""
    left, top, right, bottom = opening.bounds
    along = np.linspace(0.0, 1.0, 25)
    bulge = 0.5 - 0.5 * np.cos(2 * np.pi * along)
    middle = (top + bottom) / 2
    return [np.stack([left + along * (right - left), middle + share * (bottom - top) * bulge], axis=1)
            for share in np.linspace(-0.45, 0.45, BENT)]  # fmt: skip


def _afresh(region: Polygon) -> None:
    forget()
    channels(region, DIAGONAL, FACE)


def _seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun
