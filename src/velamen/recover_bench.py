"""Speed of stitch files: parts found in 100,000 stitches, and the shapes they came of."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
import shapely
from shapely import affinity

from velamen.core.building.build import build_job
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece, brief_for
from velamen.core.job.shape import Shape
from velamen.core.memo import forget
from velamen.core.plan.stitch_plan import END
from velamen.core.recovery.parts import parts_of
from velamen.core.recovery.segments import segments_of
from velamen.core.recovery.stitch_rows import StitchRows
from velamen.core.recovery.strips import stitches_of, turns_of

STITCHES = 100_000
KINDS = ("fill", "satin_border", "applique", "run", "bean", "zigzag", "estitch")
FOUR = 4


def recover_figures() -> dict[str, Any]:
    """Rows of the benchmark, by name."""
    job = _job()
    small = _rows(job, STITCHES // FOUR)
    large = _rows(job, STITCHES)
    built = _seconds(partial(_afresh, job)) / build_job(job).figures.stitches
    parts, shapes, some = (_seconds(partial(work, rows)) for work, rows in (
        (_parts, large), (segments_of, large), (segments_of, small)))  # fmt: skip
    return {
        "stitch file, 100,000 stitches: ms to find its parts": round(1000 * parts),
        "stitch file, 100,000 stitches: ms to its shapes": round(1000 * shapes),
        "stitch file, four times the stitches: time": round(shapes / some, 2),
        "stitch file: of sewing as many, time": round(shapes / large.stitches / built, 2),
    }


def _parts(rows: StitchRows) -> None:
    found = stitches_of(rows)
    parts_of(found, turns_of(found))


def _job() -> Job:
    """One flower of four hundred points sewn in every way."""
    turn = np.linspace(0.0, 2 * np.pi, 400, endpoint=False)
    radius = 20.0 + 4.0 * np.sin(5 * turn) + 0.8 * np.sin(23 * turn)
    flower = shapely.Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1))
    shapes, pieces = [], []
    for nth, kind in enumerate(KINDS, 1):
        placed = affinity.translate(flower, 60.0 * nth, 0.0)
        shapes.append(Shape(f"s{nth}", kind, [[(x, y) for x, y in ring] for ring in rings_of(placed)]))
        pieces.append(Piece(f"p{nth}", kind, f"s{nth}", construct=kind))
    return Job(name="Flowers", brief=brief_for("felt", "h360x200"), shapes=shapes, pieces=pieces)


def _rows(job: Job, stitches: int) -> StitchRows:
    """The plan of a job, row below row until it has so many stitches."""
    plan = build_job(job).plan
    sewn = plan.command < END
    times = -(-stitches // build_job(job).figures.stitches)
    places = [plan.xy[sewn] + np.array([0.0, 60.0 * nth]) for nth in range(times)]
    return StitchRows(np.concatenate(places), np.tile(plan.command[sewn], times),
                      np.repeat(np.arange(times), int(sewn.sum())))  # fmt: skip


def _afresh(job: Job) -> None:
    forget()
    build_job(job)


def _seconds(work: Callable[[], object]) -> float:
    """The middle of three rounds."""
    times = []
    for _ in range(3):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return sorted(times)[1]
