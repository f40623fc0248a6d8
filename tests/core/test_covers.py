"""Appliqué whole: every tack-down and cover, second tack, web, margins, cloths over one another."""

import numpy as np
import pytest
import shapely
from scipy.spatial import KDTree
from shapely import Point, box

from core.jobs import done_of, edge_cover_of, edge_fixes, job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.geometry.overlap import run_under
from velamen.core.job.document import change
from velamen.core.stitching.roles import CODE

COVERS = ("satin", "estitch", "blanket", "overedge", "raw", "none")
NAMES = ("square", "ring", "star", "needles", "slit_3", "neck", "coast", "comb", "two_holes", "leaf")


def sewn(step, role):
    return np.concatenate([part.xy[part.role == CODE[role]] for part in step.strands])


def roles(built):
    return [getattr(step, "part", "") or step.role for step in done_of(built)]


@pytest.mark.parametrize("kind", COVERS)
@pytest.mark.parametrize("name", NAMES)
def test_every_cover_follows_every_boundary(name, kind):
    build = build_job(job_of(SHAPES[name], base="firm_woven", own={"cover_kind": kind}))
    (built,) = build.pieces
    order = ["placement", "lay", "tack", "trim", "cover"]
    order[-1:] = {"raw": ["raw_edge"], "none": []}.get(kind, ["cover"])
    assert roles(built) == order
    if kind == "none":
        assert edge_cover_of(built) is None
        return
    points = sewn(done_of(built)[-1], order[-1])
    region, edge = built.work.region, shapely.boundary(built.work.region)
    off = shapely.distance(shapely.points(points), edge)
    most = {"satin": 2.0, "overedge": 2.5, "raw": 2.1}.get(kind, 3.6)
    if kind == "satin":  # it comes to points at corners
        mitred = shapely.buffer(shapely.simplify(region, 0.1), most + 0.3, join_style="mitre", mitre_limit=4.2)
        assert shapely.covers(shapely.buffer(region, most) | mitred, shapely.points(points)).all()
    else:
        assert off.max() <= most
    if kind == "raw":
        assert shapely.covers(shapely.buffer(region, -1.0), shapely.points(points)).mean() > 0.8
        return
    if any(one.code == "cover_fell_back" for one in build.findings):
        assert kind in ("estitch", "blanket") and built.values["cover_bite"].value < 1.2
        return
    spots = shapely.line_interpolate_point(edge, np.linspace(0, edge.length, 400))
    far = shapely.distance(spots, shapely.MultiPoint(points))
    assert np.percentile(far, 97) < 2.2


@pytest.mark.parametrize("kind", ["zigzag", "run", "double_run", "estitch"])
@pytest.mark.parametrize("name", ["ring", "star", "slit_3", "neck", "comb", "two_holes"])
def test_every_tack_down_holds_the_cloth_inside_its_edge(name, kind):
    own = {"tack_kind": kind}
    build = build_job(job_of(SHAPES[name], base="firm_woven", own=own))
    points = sewn(done_of(build.pieces[0])[2], "tack")
    assert shapely.covers(shapely.buffer(SHAPES[name], 0.15), shapely.points(points)).all()
    if kind == "double_run":
        single = build_job(job_of(SHAPES[name], base="firm_woven", own={"tack_kind": "run"}))
        assert len(points) > 1.7 * len(sewn(done_of(single.pieces[0])[2], "tack"))


def test_a_second_tack_has_a_stop_of_its_own():
    for kind in ("zigzag", "run"):
        build = build_job(job_of(SHAPES["ring"], base="fleece", own={"second_tack": kind}))
        assert roles(build.pieces[0]) == ["placement", "lay", "tack", "trim", "second_tack", "tidy", "cover"]
        assert build.figures.stops == 3 and "Tidy" in build.plan.stops[2].step.text


def test_trimming_after_finishing_is_the_last_step():
    own = {"cover_kind": "raw", "trim_when": "after"}
    build = build_job(job_of(SHAPES["ring"], shapely.affinity.translate(SHAPES["star"], 80), base="felt", own=own))
    kinds = [stop.step.kind for stop in build.plan.stops]
    assert kinds == ["lay", "lay", "trim", "trim"] and build.plan.stops[-1].row == len(build.plan.xy) - 2


def test_a_die_piece_is_precut_and_unlocked_it_is_trimmed():
    job = job_of(box(-20, -20, 20, 20))
    die = change(job, shapes=[change(job.shapes[0], die="star_60")])
    (built,) = build_job(die).pieces
    assert built.values["precut"].value is True and "die" in built.values["precut"].reasons[-1]
    assert roles(built) == ["placement", "lay", "tack", "cover"]
    assert "trim" in roles(build_job(job).pieces[0])


@pytest.mark.parametrize(
    ("region", "bite"), [(box(0, 0, 40, 5), 2.0), (SHAPES["neck"], 0.8), (box(0, 0, 40, 40), 3.0)]
)
def test_bites_fit_the_narrowest_part(region, bite):
    (built,) = build_job(job_of(region, base="felt", own={"cover_kind": "estitch"})).pieces
    assert abs(built.values["cover_bite"].value - bite) < 0.15


def test_tiny_parts_take_a_run_and_say_so():
    build = build_job(job_of(box(0, 0, 30, 2.4), base="felt", own={"cover_kind": "blanket"}))
    (finding,) = [one for one in build.findings if one.code == "cover_fell_back"]
    assert "double run" in finding.message and done_of(build.pieces[0])[-1].label == "Cover, double run"


def test_a_double_run_that_stands_in_stops_under_later_cloth_too():
    back, front = box(-30, -1.2, 0, 1.2), box(0.1, -10, 26, 10)
    (one, _) = build_job(job_of(back, front, base="felt", own={"cover_kind": "blanket"})).pieces
    assert done_of(one)[-1].label == "Cover, double run" and one.outline.bounds[2] > 3.0
    points = sewn(done_of(one)[-1], "cover")
    assert -29.5 < points[:, 0].min() < -28.5 and points[:, 0].max() < 2.0


@pytest.mark.parametrize("kind", ["satin", "estitch", "blanket", "overedge", "raw"])
def test_an_edge_under_later_cloth_has_no_cover_and_runs_on_under_it(kind):
    back, front = box(-30, -15, 0, 15), box(0.1, -10, 26, 10)
    build = build_job(job_of(back, front, base="firm_woven", own={"cover_kind": kind}))
    one, other = build.pieces
    assert edge_cover_of(one).held and edge_cover_of(other).held
    under = shapely.intersection(one.outline, front)
    depth = under.bounds[2] - front.bounds[0]
    assert 3.0 <= depth <= 5.0 and under.bounds[3] - under.bounds[1] > 15.0
    points = sewn(done_of(one)[-1], "raw_edge" if kind == "raw" else "cover")
    assert not shapely.contains(shapely.buffer(front, -3.2), shapely.points(points)).any()
    across = sewn(done_of(one)[2], "tack")
    assert shapely.contains(front, shapely.points(across)).any()


@pytest.mark.parametrize("turn", range(6))
def test_covers_of_overlapping_shapes_meet_without_a_bare_place(turn):
    names = list(NAMES)
    back, front = SHAPES[names[turn]], shapely.affinity.translate(SHAPES[names[turn + 3]], 22, 9)
    build = build_job(job_of(back, front, base="firm_woven", own={"cover_width": 3.6, "cover_share": 50}))
    covered = build.piece("p1")
    assert edge_cover_of(covered).share > 0.985
    gone = shapely.intersection(shapely.boundary(covered.outline), shapely.buffer(front, -3.6))
    if gone.length > 4:
        parts = [part for part in shapely.get_parts(gone) if part.length > 0]
        spots = [shapely.line_interpolate_point(part, np.arange(0, part.length, 0.5)) for part in parts]
        places = shapely.get_coordinates(np.concatenate(spots))
        far = KDTree(sewn(done_of(covered)[-1], "cover")).query(places)[0]
        assert (far < 0.4).mean() < 0.25


def test_cloth_drawn_farther_under_stays_and_a_piece_on_top_changes_nothing():
    back = box(-30, -15, 0, 15)
    assert run_under(back, box(-10, -10, 26, 10), 4.0).bounds[2] < 0.05
    assert run_under(back, Point(-15, 0).buffer(5), 4.0) is back
    assert run_under(back, box(20, -10, 26, 10), 4.0) is back
    assert run_under(back, None, 4.0) is back


@pytest.mark.parametrize("turn", range(10))
def test_cloth_drawn_farther_under_later_cloth_is_cut_back(turn):
    back, front = SHAPES[NAMES[turn]], shapely.affinity.translate(SHAPES[NAMES[(turn + 3) % 10]], 17, 6)
    whole, cut = run_under(back, front, 4.0), run_under(back, front, 4.0, cut_back=True)
    assert cut.geom_type == "Polygon" and cut.is_valid and len(cut.interiors) <= len(whole.interiors)
    assert shapely.covers(shapely.buffer(whole, 0.02), cut)
    gone = shapely.buffer(shapely.difference(whole, cut), -0.02)
    assert shapely.difference(gone, shapely.buffer(front, -3.95)).area < 1e-6  # never less than the depth
    deep = shapely.get_parts(shapely.intersection(cut, shapely.buffer(front, -4.1)))
    for part in deep:  # what stays would make holes, divide the cloth, or could be reached through a slot alone
        open_ = shapely.intersection(shapely.boundary(cut), shapely.buffer(part, 0.3)).length
        assert part.area < 0.6 or open_ < 0.5 * part.length or len(shapely.get_parts(shapely.difference(cut, part))) > 1 or (
            len(shapely.difference(cut, part).interiors) > len(cut.interiors)
        )  # fmt: skip


def test_the_cut_file_and_the_lines_follow_what_is_cut_back():
    regions = box(-30, -15, 12, 15), box(-10, -20, 26, 20)
    build = build_job(job_of(*regions, base="firm_woven"))
    one = build.pieces[0]
    assert abs(one.outline.bounds[2] - (-6.0)) < 0.05 and edge_cover_of(one).held
    for step, role in ((0, "placement"), (2, "tack")):
        assert sewn(done_of(one)[step], role)[:, 0].max() < -5.9
    kept = build_job(job_of(*regions, base="firm_woven", own={"cut_back": False}))
    assert abs(kept.pieces[0].outline.bounds[2] - 12.0) < 0.05
    bar = build_job(job_of(box(-40, -5, 40, 5), box(-15, -20, 15, 20)))  # it would fall in two
    assert bar.pieces[0].outline.bounds == (-40.0, -5.0, 40.0, 5.0)
    plate, knob = box(-30, -20, 30, 20), Point(0, 13).buffer(12)  # which could be reached through a slot alone
    assert run_under(plate, knob, 4.0, cut_back=True) is run_under(plate, knob, 4.0)
    on_top = build_job(job_of(box(-40, -30, 40, 30), box(-15, -20, 15, 20)))
    assert len(on_top.pieces[0].outline.interiors) == 0


def test_own_depth_is_taken_and_dies_are_never_changed():
    regions = box(-30, -15, 0, 15), box(0, -10, 26, 10)
    build = build_job(job_of(*regions, own={"run_under": 3.0}))
    under = shapely.intersection(build.pieces[0].outline, regions[1])
    assert abs(under.bounds[2] - 3.0) < 0.05
    job = job_of(*regions)
    die = build_job(change(job, shapes=[change(job.shapes[0], die="star_60"), job.shapes[1]]))
    assert die.pieces[0].outline is die.pieces[0].work.region


@pytest.mark.parametrize("own", [
    {"cover_kind": "estitch", "cover_bite": 1.4}, {"cover_kind": "blanket", "cover_bite": 1.3},
    {"cover_kind": "raw", "cover_inset": 0.8}, {"cover_kind": "overedge", "cover_width": 1.5}, {"cover_width": 1.5},
])  # fmt: skip
@pytest.mark.parametrize("name", ["square", "ring", "two_holes"])
def test_every_fix_that_is_offered_does_what_it_says(name, own):
    job = job_of(SHAPES[name], base="firm_woven", own=own)
    (built,) = build_job(job).pieces
    assert not edge_cover_of(built).held and edge_fixes(built)
    for fix in edge_fixes(built):
        (after,) = build_job(change(job, pieces=[change(job.pieces[0], own=own | fix.values)])).pieces
        assert (
            edge_cover_of(after).share == pytest.approx(fix.share, abs=0.002)
            and fix.share > edge_cover_of(built).share
        )


def test_an_edge_held_by_short_bites_is_found_and_the_fix_ends_it():
    job = job_of(SHAPES["square"], base="firm_woven", own={"cover_kind": "estitch", "cover_bite": 1.4})
    build = build_job(job)
    (finding,) = [one for one in build.findings if one.code == "edge_bare"]
    assert "come loose" in finding.message and edge_cover_of(build.pieces[0]).share < 0.1
    fixed = build_job(change(job, pieces=[change(job.pieces[0], own=job.pieces[0].own | finding.fix)]))
    assert edge_cover_of(fixed.pieces[0]).held and fixed.findings == ()
