"""Speed of matching and stitching, told as ratios within one run."""

from __future__ import annotations

import json
import time
import tracemalloc
from collections.abc import Callable
from typing import Any

import numpy as np
import shapely
from shapely import Point, Polygon

from velamen.core.artwork.tracing.picture import Picture
from velamen.core.artwork.tracing.trace import TraceSettings, trace
from velamen.core.building.build import build_job
from velamen.core.building.matched import forget_layers, forget_values, matched_job
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece, Repeat, Route, brief_for, change
from velamen.core.job.shape import Shape
from velamen.core.materials.library import shipped
from velamen.core.memo import forget
from velamen.core.plan.stitch_plan import plan_of
from velamen.core.proofs.access import access_findings
from velamen.core.proofs.density import density_findings
from velamen.core.stitching.fill import FillSewing, fill
from velamen.core.stitching.rows import hatch
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.refusals import violations
from velamen.foam_bench import foam_figures
from velamen.lace_bench import lace_figures
from velamen.recover_bench import recover_figures
from velamen.scissors_bench import scissors_figures

ROUNDS = 5
WIDTH, SHARE, SPACING = 3.0, 0.6, 0.4


def main(as_json: bool = False) -> int:
    """Prints the figures; exit status 0."""
    rows = figures()
    if as_json:
        print(json.dumps(rows, indent=1))
        return 0
    width = max(len(name) for name in rows)
    for name, value in rows.items():
        print(f"{name:<{width}}  {value:>12,}")
    return 0


def figures() -> dict[str, Any]:
    """All figures by name, medians of several rounds."""
    one, ten, hundred = (_job(count) for count in (1, 10, 100))
    built = build_job(ten)
    small, large = _seconds(lambda: _afresh(ten)), _seconds(lambda: _afresh(hundred))
    stitches = {count: build_job(job).figures.stitches for count, job in ((10, ten), (100, hundred))}
    geos = _seconds(lambda: _geos_rails([piece.work.region for piece in built.pieces]))
    steps = [("", each) for piece in built.pieces for each in piece.sewn]
    touched = _seconds(lambda: _touch(hundred))
    return {
        "appliqué, 10 pieces: stitches": stitches[10],
        "appliqué, 10 pieces: stitches a second": round(stitches[10] / small),
        "appliqué, 10 pieces: time over the same offsets in GEOS": round(small / geos, 2),
        "appliqué, 100 pieces over 10: stitches": round(stitches[100] / stitches[10], 2),
        "appliqué, 100 pieces over 10: time": round(large / small, 2),
        "one piece of 100 edited over all built: time": round(touched / large, 4),
        "joining the plan over building it: time": round(_seconds(lambda: plan_of(steps)) / small, 4),
        **_matching(),
        **_fills(),
        **_plans(),
        **_tracing(),
        **_blanket(),
        **_copies(),
        "one outline over ten: time": round(_seconds(lambda: _afresh(one)) / small, 2),
        **lace_figures(),
        **foam_figures(),
        **scissors_figures(),
        **recover_figures(),
    }


def _matching() -> dict[str, Any]:
    """Values of a 60-piece job under a changed brief, with its geometry known and afresh."""
    sixty = _job(60, apart=30.0)
    fleece = change(sixty, brief=brief_for("fleece", "h200x300"))
    turn = iter(range(10**9))

    def warmly() -> None:
        forget_values()
        matched_job((sixty, fleece)[next(turn) % 2])

    warm = _seconds(warmly)

    def afresh() -> None:
        forget_layers()
        matched_job(sixty)

    cold = _seconds(afresh)
    return {
        "matching 60 pieces under another base: ms": round(1000 * warm, 1),
        "matching 60 pieces, layers beneath worked out afresh: ms": round(1000 * cold, 1),
        "matching 60 pieces over building them: time": round(warm / _seconds(lambda: _afresh(sixty)), 4),
    }


def _fills() -> dict[str, Any]:
    """Rows against GEOS cutting the same lines with the same region, and fills from small to large."""
    coast = _wave(0, 400, 60.0)
    rows = hatch(coast, 0.3, SPACING)
    across = rows.levels
    ends = np.stack([np.stack([np.full_like(across, x), across], axis=1) for x in (-90.0, 90.0)], axis=1)
    cuts = shapely.linestrings(rows.frame.places(ends.reshape(-1, 2)).reshape(ends.shape))
    geos = _seconds(lambda: shapely.intersection(cuts, coast))
    small, large = (Polygon(_wave(0, 400, size).exterior) for size in (40.0, 400.0))
    counts = [sum(len(part.xy) for part in _fill(region)) for region in (small, large)]
    times = [_seconds(lambda region=region: _fill(region)) for region in (small, large)]  # type: ignore[misc]
    return {
        "fill rows: GEOS's time over ours": round(geos / _seconds(lambda: hatch(coast, 0.3, SPACING)), 1),
        "fill, small: stitches": counts[0],
        "fill, small: stitches a second": round(counts[0] / times[0]),
        "fill, large: stitches": counts[1],
        "fill, large: stitches a second": round(counts[1] / times[1]),
        "fill, large over small: stitches": round(counts[1] / counts[0], 1),
        "fill, large over small: time": round(times[1] / times[0], 1),
    }


def _plans() -> dict[str, Any]:
    """Whole plans, underlay, ties, findings and all, of every plain construction, and as a fill grows."""
    found: dict[str, Any] = {}
    for name in ("fill", "contour", "column", "satin_border", "cross_stitch", "stipple", "blend"):
        job = _plain_job(name, 60.0)
        seconds = _seconds(lambda job=job: _afresh(job))  # type: ignore[misc]
        found[f"whole plan, {name}: stitches a second"] = round(build_job(job).figures.stitches / seconds)
    counts, times, memory = [], [], []
    for size in (65.0, 205.0, 650.0):
        job = _plain_job("fill", size)
        times.append(_seconds(lambda job=job: _afresh(job)))  # type: ignore[misc]
        counts.append(build_job(job).figures.stitches)
        forget()
        tracemalloc.start()
        build_job(job)
        memory.append(tracemalloc.get_traced_memory()[1])
        tracemalloc.stop()
    for nth, (count, seconds) in enumerate(zip(counts, times, strict=True)):
        found[f"whole plan, fill of {count:,}: stitches a second"] = round(count / seconds)
        if nth:
            found[f"fill of {count:,} over the one before: stitches"] = round(count / counts[nth - 1], 1)
            found[f"fill of {count:,} over the one before: time"] = round(seconds / times[nth - 1], 1)
    found[f"fill of {counts[-1]:,}: MB taken at most"] = round(memory[-1] / 1e6)
    petals = [shapely.affinity.rotate(Point(11, 0).buffer(7), 45 * nth, origin=(0, 0)) for nth in range(8)]
    parts = [_plain_piece(nth, "fill", petal) for nth, petal in enumerate(petals)]
    job = Job(name="bench", brief=brief_for("felt", "h200x300"), shapes=[one for one, _ in parts],
              pieces=[one for _, one in parts], routes=[Route([one.id for _, one in parts])])  # fmt: skip
    (routed,) = build_job(job).routes
    found["route of 8 pieces: trims before"], found["route of 8 pieces: trims after"] = routed.before, routed.after
    found["route of 8 pieces: seconds"] = round(_seconds(lambda: _afresh(job)), 2)
    return found


def _plain_job(construct: str, size: float) -> Job:
    shape, piece = _plain_piece(1, construct, _wave(0, 400, size))
    return Job(name="bench", brief=brief_for("felt", "h360x200"), shapes=[shape], pieces=[piece])


def _plain_piece(nth: int, construct: str, region: Polygon) -> tuple[Shape, Piece]:
    rings = [[(x, y) for x, y in one] for one in rings_of(region)]
    return Shape(f"s{nth}", "wave", rings), Piece(f"p{nth}", "wave", f"s{nth}", construct)


def _fill(region: Polygon) -> list[Strand]:
    return fill(region, "decoration", FillSewing(0.3, SPACING, 4.0))


def _tracing() -> dict[str, Any]:
    """A picture of 2000 by 2000 pixels of six colours, blended at their edges."""
    y, x = np.mgrid[-1.0:1.0:2000j, -1.0:1.0:2000j]
    far, turn = np.hypot(x, y), np.arctan2(y, x)
    edge = 0.8 + 0.06 * np.sin(9 * turn)
    ring = np.clip(np.floor(5 * far / edge), 0, 5)
    blend = np.clip((5 * far / edge - ring) * 40, 0, 1)[..., None]
    palette = np.array([[34, 48, 58], [184, 69, 60], [201, 154, 28], [93, 122, 58], [43, 93, 125], [246, 241, 228]])
    before = palette[np.maximum(ring - 1, 0).astype(int)]
    colours = np.where(ring[..., None] > 0, before + (palette[ring.astype(int)] - before) * blend, palette[0])
    picture = Picture(np.round(colours).astype(np.uint8), np.ones(x.shape, dtype=bool), 200.0, 200.0)
    seconds = _seconds(lambda: trace(picture, TraceSettings(200.0)))
    return {"tracing 2000 x 2000 pixels: seconds": round(seconds, 2)}


def _blanket() -> dict[str, Any]:
    """Thirty cloths on fleece with a knockdown round them: plan, one value of one piece, findings and proofs."""
    job = with_ground(_job(30, apart=46.0), "knockdown")
    job = change(job, brief=brief_for("fleece", "h360x200"))
    build = build_job(job)
    whole, plan = _seconds(lambda: _afresh(job)), _seconds(lambda: _plan_afresh(job))
    turn = iter(range(10**9))

    def edit() -> None:
        first, *rest = job.pieces
        edited = change(rest[-1], own={"cover_spacing": 0.36 + 0.0001 * next(turn)})
        _ = build_job(change(job, pieces=[first, *rest[:-1], edited])).figures

    cloths = build.cloths
    points = build.plan.xy[build.plan.sewn]
    proofs = _seconds(lambda: (
        access_findings(build.plan, cloths), density_findings(points, job.brief, build.library),
        violations(build.placed, build.operations),
    ))  # fmt: skip
    return {
        "blanket of 30 cloths with knockdown: stitches": build.figures.stitches,
        "blanket, plan: stitches a second": round(build.figures.stitches / plan),
        "blanket, plan with findings and proofs: stitches a second": round(build.figures.stitches / whole),
        "blanket, one value of one piece over the plan: time": round(_seconds(edit) / plan, 3),
        "blanket, findings and proofs over the plan: time": round(whole / plan - 1.0, 3),
        "blanket, access, density and order over the plan: time": round(proofs / plan, 3),
    }


def _wave(nth: int, points: int, radius: float) -> Polygon:
    """A wavy outline about the origin."""
    turn = np.linspace(0.0, 2.0 * np.pi, points, endpoint=False)
    far = radius * (1.0 + 0.15 * np.sin((3 + nth % 5) * turn) + 0.05 * np.cos(17 * turn))
    return Polygon(np.stack([far * np.cos(turn), far * np.sin(turn)], axis=1))


def _job(count: int, apart: float = 52.0) -> Job:
    """A job of wavy outlines of a few hundred points, all different, in rows of ten `apart` mm.

    Outlines are about 40 mm across, so that at 30 mm each lies over its neighbours.
    """
    turn = np.linspace(0.0, 2.0 * np.pi, 240, endpoint=False)
    shapes, pieces = [], []
    for nth in range(count):
        radius = 20.0 + 2.0 * np.sin((3 + nth % 7) * turn) + 0.01 * nth
        ring = np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)
        ring += apart * np.array([nth % 10, nth // 10])
        rings = [[(x, y) for x, y in one] for one in rings_of(Polygon(ring))]
        shapes.append(Shape(f"s{nth}", f"wave {nth}", rings))
        pieces.append(Piece(f"p{nth}", f"wave {nth}", f"s{nth}"))
    return Job(name="bench", brief=brief_for("terry", "h200x300"), shapes=shapes, pieces=pieces)


def _afresh(job: Job) -> None:
    """A job built with its findings and proofs, nothing known."""
    forget()
    _ = build_job(job).findings


def _plan_afresh(job: Job) -> None:
    """A job built as far as it is drawn, nothing known."""
    forget()
    _ = build_job(job).figures


def _copies() -> dict[str, Any]:
    """Twenty-four copies of a patch in one hooping against as many pieces built, with nothing known."""
    shape, piece = _plain_piece(1, "fill", _wave(0, 400, 45.0))
    host = change(piece, construct="patch", own={"patch_ground": "fill", "patch_edge": "overedge"})
    one = Job(name="bench", brief=brief_for("none", "h360x200"), shapes=[shape], pieces=[host])
    many = build_job(change(one, repeat=Repeat(6, 4)))

    def separately() -> None:
        for _ in range(24):
            forget()
            _ = build_job(one).plan

    return {
        "24 copies of a patch: stitches": int(many.hooping.sewn.sum()),
        "24 copies of a patch over building each: time": round(
            _seconds(lambda: many.hooping_of(24)) / _seconds(separately), 4
        ),
    }


def _touch(job: Job) -> None:
    """One value of one piece changes; the others are kept."""
    _touch.width += 0.001  # type: ignore[attr-defined]
    first, *rest = job.pieces
    edited = Piece(first.id, first.name, first.shape, own={"cover_width": _touch.width})  # type: ignore[attr-defined]
    _ = build_job(Job(name=job.name, brief=job.brief, shapes=job.shapes, pieces=[edited, *rest])).findings


_touch.width = 3.0  # type: ignore[attr-defined]


def _geos_rails(regions: list[Polygon]) -> None:
    """The plain way: both offsets by buffering, and points along them at the spacing."""
    extra = shipped().bases["terry"].pull
    for region in regions:
        for offset in (WIDTH * SHARE + extra, -(WIDTH * (1.0 - SHARE) + extra)):
            line = shapely.boundary(shapely.buffer(region, offset))
            count = max(round(line.length / SPACING), 3)
            shapely.line_interpolate_point(line, np.linspace(0.0, line.length, count))


def _seconds(work: Callable[[], object]) -> float:
    """Median time of several rounds after a warm-up."""
    work()
    times = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return float(np.median(times))
