"""Appliqué as passes: order, places, roles, on shapes with holes and necks."""

import numpy as np
import pytest
import shapely

from core.jobs import done_of, job_of, why_lost
from core.shapes import SHAPES
from velamen.core.building import sewn as sewing
from velamen.core.building.build import build_job
from velamen.core.job.document import Job, Piece, change
from velamen.core.memo import forget
from velamen.core.plan.figures import COLOR_SECONDS, SPEED, TRIM_SECONDS
from velamen.core.plan.stitch_plan import COMMANDS, JUMP, STITCH, STOP, TRIM
from velamen.core.stitching.roles import ROLES


def xy_of(plan, role):
    return plan.xy[(plan.role == ROLES.index(role)) & plan.sewn]


def order(plan):
    """Roles of the blocks with the hand steps between them."""
    rows = [(block.first, block.role) for block in plan.blocks]
    rows += [(stop.row, stop.step.kind) for stop in plan.stops]
    return [name for _, name in sorted(rows)]


def test_steps_in_layering_order():
    assert order(build_job(job_of(SHAPES["square"])).plan) == ["placement", "lay", "tack", "trim", "cover"]
    precut = build_job(job_of(SHAPES["square"], own={"precut": True})).plan
    assert order(precut) == ["placement", "lay", "tack", "cover"]


def test_a_tack_down_and_a_placement_line_can_be_left_out_which_says_what_it_takes():
    square = SHAPES["square"]
    fused = build_job(job_of(square, own={"tack_kind": "none", "precut": True, "fusible": True}))
    assert order(fused.plan) == ["placement", "lay", "cover"]
    assert not {one.code for one in fused.findings} & {"tack_needed", "tack_left_out", "tack_shows"}
    (glued,) = [one for one in build_job(job_of(square, own={"tack_kind": "none", "precut": True})).findings
                if one.code == "tack_left_out"]  # fmt: skip
    assert glued.fix == {"fusible": True}
    trimmed = build_job(job_of(square, own={"tack_kind": "none", "placement_line": False}))
    assert order(trimmed.plan) == ["lay", "trim", "cover"]
    assert "by the template, all round" in trimmed.plan.stops[0].step.text
    assert "close to the tack-down" not in trimmed.plan.stops[1].step.text
    (needed,) = [one for one in trimmed.findings if one.code == "tack_needed"]
    assert needed.fix == {"precut": True}


def test_what_decorates_cloth_without_a_tack_down_is_sewn_on_it():
    own = {"tack_kind": "none", "precut": True}
    job = job_of(SHAPES["square"], SHAPES["square"].buffer(-8), own=own)
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill", own={}, on="p1")])
    sewn = order(build_job(job).plan)
    assert sewn == ["placement", "lay", "decoration", "cover"]


def test_a_tiny_piece_is_held_by_a_run_and_says_why():
    piece = build_job(job_of(SHAPES["square"].buffer(0).intersection(shapely.box(0, 0, 5, 5)))).pieces[0]
    value = piece.values["tack_kind"]
    assert value.value == "run" and "5.0 mm across" in " ".join(value.reasons)


@pytest.mark.parametrize("name", SHAPES)
def test_every_boundary_gets_every_pass(name):
    region = SHAPES[name]
    plan = build_job(job_of(region)).plan
    rings = [region.exterior, *region.interiors]
    for role, reach in (("placement", 0.15), ("tack", 1.1), ("cover", 2.3)):
        points = shapely.points(xy_of(plan, role))
        for ring in rings:
            assert np.count_nonzero(shapely.distance(points, ring) <= reach) >= 6, role
    on_edge = shapely.distance(shapely.points(xy_of(plan, "placement")), region.boundary)
    assert np.quantile(on_edge, 0.98) <= 0.05


@pytest.mark.parametrize("name", ["square", "star", "two_holes", "neck", "comb"])
def test_placement_and_tack_lie_under_the_cover(name):
    plan = build_job(job_of(SHAPES[name])).plan
    cover = shapely.LineString(xy_of(plan, "cover")) if name in ("square", "star") else None
    lines = cover or shapely.union_all(shapely.linestrings(_pairs(xy_of(plan, "cover"))))
    for role in ("placement", "tack"):
        assert shapely.distance(shapely.points(xy_of(plan, role)), lines).max() <= 0.45


def _pairs(points):
    pairs = np.stack([points[:-1], points[1:]], axis=1)
    return pairs[np.linalg.norm(pairs[:, 0] - pairs[:, 1], axis=1) < 8]


def test_outer_edge_of_the_tack_is_the_cloth_edge():
    region = SHAPES["square"]
    points = xy_of(build_job(job_of(region)).plan, "tack")
    assert shapely.contains_xy(region.buffer(0.02), points).all()
    inner = shapely.distance(shapely.points(points), region.boundary)
    assert 0.95 <= inner.max() <= 1.05


def test_run_tack_lies_inside():
    region = SHAPES["square"]
    points = xy_of(build_job(job_of(region, own={"tack_kind": "run"})).plan, "tack")
    off = shapely.distance(shapely.points(points), region.boundary)
    assert np.allclose(off, 0.8, atol=0.05)


def test_plan_is_consistent():
    build = build_job(job_of(SHAPES["two_holes"], shapely.affinity.translate(SHAPES["star"], 90)))
    plan, figures = build.plan, build.figures
    assert COMMANDS[plan.command[-1]] == "end" and plan.command[0] == JUMP
    sewn = plan.sewn
    gap = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)
    assert gap[sewn[1:]].max() <= 12.1
    # a stitch never follows a trim or stop without a jump to its place
    before = plan.command[:-1][sewn[1:] & (plan.command[:-1] != STITCH)]
    assert set(before.tolist()) == {JUMP}
    stops = np.flatnonzero(plan.command == STOP)
    assert (plan.command[stops - 1] == TRIM).all() and len(stops) == figures.stops == 4
    assert figures.stitches == sewn.sum() == sum(len(plan.stitches(block)) for block in plan.blocks)
    hands = sum(stop.step.seconds for stop in plan.stops)
    machine = figures.stitches * 60 / SPEED + figures.trims * TRIM_SECONDS + figures.changes * COLOR_SECONDS
    assert figures.seconds == pytest.approx(machine + hands, abs=0.1)
    trim = next(stop.step for stop in plan.stops if stop.step.kind == "trim")
    assert trim.seconds == pytest.approx(60 + SHAPES["two_holes"].length / 10, abs=0.1)


def test_neighbouring_boundaries_travel_without_a_stitch_of_no_length():
    pinched = shapely.box(-20, -20, 20, 20).difference(shapely.box(-19, -8, -3, 8))
    for own in ({}, {"cover_width": 9.5, "cover_spacing": 2.0, "precut": True}):
        plan = build_job(job_of(pinched, SHAPES["sliver"], own=own)).plan
        gap = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)
        stitch = plan.sewn[1:] & plan.sewn[:-1]
        assert gap[stitch].min() >= 0.29 and gap[plan.sewn[1:]].max() <= 12.1


def test_stitches_beyond_what_a_machine_sews_are_divided():
    from velamen.core.stitching.roles import CODE
    from velamen.core.stitching.strand import Strand, short_enough

    part = Strand(
        np.array([[0.0, 0], [30, 0], [30, 5]]), np.array([CODE["tie"], CODE["cover"], CODE["tack"]], dtype=np.uint8)
    )
    divided = short_enough(part)
    assert divided.xy[:, 0].tolist() == [0, 10, 20, 30, 30] and (divided.role[1:4] == CODE["cover"]).all()


def test_findings_of_small_and_narrow_pieces():
    tiny = shapely.box(-20, -20, 20, 20).difference(shapely.Point(0, 0).buffer(3))
    codes = [finding.code for finding in build_job(job_of(tiny)).pieces[0].findings]
    assert codes == ["cutout_small"]
    assert [f.code for f in build_job(job_of(tiny, own={"precut": True})).pieces[0].findings] == []
    narrow = build_job(job_of(SHAPES["thin_ring"])).findings
    assert "piece_narrow" in [finding.code for finding in narrow]
    shows = build_job(job_of(SHAPES["square"], own={"tack_width": 2.5})).pieces[0].findings
    assert [(f.code, f.fix) for f in shows] == [("tack_shows", {"tack_width": 1.0})]


def test_design_outside_the_field_names_the_next_hoop():
    found = build_job(job_of(shapely.box(-60, -60, 60, 60), hoop="h100x100")).findings
    assert found[0].code == "outside_field" and found[0].severity == "error"
    assert "130 × 180" in found[0].message
    far = build_job(job_of(shapely.box(-400, -400, 400, 400), hoop="h100x100")).findings
    assert "no hoop of the library" in far[0].message


def test_only_the_touched_piece_is_built_again():
    forget()
    build_job(job_of(SHAPES["square"], SHAPES["star"], SHAPES["leaf"]))
    before = sewing.sewn.cache_info()
    job = job_of(SHAPES["square"], SHAPES["star"], SHAPES["leaf"])
    pieces = [*job.pieces[:2], Piece("p3", "piece 3", "s3", own={"cover_width": 4.0})]
    build_job(Job(name=job.name, brief=job.brief, shapes=job.shapes, pieces=pieces))
    after = sewing.sewn.cache_info()
    assert (after.misses - before.misses, after.hits - before.hits) == (1, 2)


def test_broken_shapes_get_a_sentence():
    job = job_of(SHAPES["square"])
    crossed = [[(0.0, 0.0), (20.0, 20.0), (20.0, 0.0), (0.0, 20.0)]]
    bow = type(job)(shapes=[type(job.shapes[0])("s1", "bow", crossed)], pieces=job.pieces)
    assert "'bow' crosses itself" in why_lost(bow)


@pytest.mark.parametrize("size", [1.2, 2.0, 3.0, 5.0])
def test_a_tiny_piece_is_held_by_a_run_of_real_stitches_and_says_why(size):
    for region in (shapely.box(0, 0, size, size), shapely.Point(0, 0).buffer(size / 2)):
        build = build_job(job_of(region))
        value = build.pieces[0].values["tack_kind"]
        assert value.value == "run" and f"{size:.1f} mm across" in " ".join(map(str, value.reasons))
        plan = build.plan
        sewn = plan.sewn[1:] & plan.sewn[:-1]
        assert np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)[sewn].min() >= 0.29
    if size >= 2.0:
        tack = next(one for one in done_of(build.pieces[0]) if one.role == "tack")
        turn = np.unwrap(np.arctan2(*(tack.strands[0].xy - tack.strands[0].xy.mean(axis=0)).T))
        assert np.ptp(turn) > 5.2  # it comes round
