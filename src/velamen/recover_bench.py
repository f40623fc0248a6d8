"""Speed of stitch files: parts found in 100,000 stitches, the shapes they came of; needle points edited."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
import shapely
from shapely import affinity

from velamen.core.building.build import build_job
from velamen.core.edits.shapes.needle_shapes import with_needle_piece
from velamen.core.edits.stack.needle_points import edited
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece, brief_for
from velamen.core.job.needles import Strands
from velamen.core.job.shape import Shape
from velamen.core.memo import forget
from velamen.core.plan.stitch_plan import END
from velamen.core.recovery.parts import parts_of
from velamen.core.recovery.segments import segments_of
from velamen.core.recovery.stitch_rows import StitchRows
from velamen.core.recovery.strips import stitches_of, turns_of
from velamen.core.stitching.needle_strands import ROLES

STITCHES = 100_000
KINDS = ("fill", "satin_border", "applique", "run", "bean", "zigzag", "estitch")
FOUR, POINTS = 4, 50_000


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
        "needle points: an edit of one in 50,000, of sewing them": round(_edit() / (POINTS * built), 3),
    }


def _edit() -> float:
    """Seconds from a needle point moved among 50,000 to the plan."""
    way = np.arange(POINTS)
    xy = np.stack([way % 500 * 0.4, way // 500 * 1.0 + way % 2 * 0.9], axis=1)
    strands = Strands(xy, np.zeros(POINTS, dtype=np.uint8), ROLES, np.full(POINTS // 500, 500))
    like = Piece("", "", "", "stitches")
    job = with_needle_piece(Job(brief=brief_for("felt", "h360x200")), "Mesh", strands, np.zeros(2), like)
    build_job(job)
    by = {"dx": 0.3, "dy": 0.2}
    return _seconds(lambda: build_job(edited(job, "p1", "move", [(POINTS // 2, POINTS // 2)], by)[0]))


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
