"""Patches: each way's order of work, borders on many shapes, and an edge that stays hidden."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import KDTree
from shapely import Point, Polygon, box

from core.jobs import done_of, edge_cover_of, job_of
from core.shapes import SHAPES
from velamen.core.artwork.framed import FORMS, framed
from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.edits.shapes.arranging import moved
from velamen.core.edits.stack.apart import taken_apart
from velamen.core.edits.stack.grounds import frozen, with_ground
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import mends
from velamen.core.job.document import brief_for, change
from velamen.core.materials.colour import nearest_thread
from velamen.core.outputs.report import report
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.rope import ropes
from velamen.core.stitching.rope_course import courses, rounded

DISC = Point(0, 0).buffer(30, 64)
ROUND = {
    "disc": DISC,
    "oval": shapely.affinity.scale(DISC, 1.2, 0.7),
    "rounded": box(-27, -17, 27, 17).buffer(6, quad_segs=16),
    "ring": DISC.difference(Point(0, 0).buffer(13, 48)),
    "clover": shapely.union_all([Point(x, y).buffer(14, 48) for x, y in ((12, 0), (-12, 0), (0, 12), (0, -12))])
    .buffer(5).buffer(-5),
    "kidney": Point(0, 0).buffer(26, 48).difference(Point(30, 0).buffer(18, 48)).buffer(-4).buffer(8).buffer(-4),
}  # fmt: skip
(LETTER,) = (one for shape in lettering("R", "rubik", 70.0) for one in shape.regions)
CORNERED = {
    "box": box(-30, -20, 30, 20),
    "shield": Polygon([(-20, -25), (20, -25), (20, 0), (12, 18), (0, 28), (-12, 18), (-20, 0)]),
    "notch": box(-30, -20, 30, 20).difference(box(-6, 0, 6, 20)),
    "star": SHAPES["star"],
    "letter": LETTER,
    "frame": box(-30, -30, 30, 30).difference(box(-14, -14, 14, 14)),
}
HELD = {
    "film": ["placement", "lay", "tack"],
    "trimmed": ["placement", "lay", "tack", "trim", "second_tack", "tidy"],
    "sheet": ["lay"],
    "direct": [],
}
OUT = {"film": "poke_out", "trimmed": "tear_away", "sheet": "cut_free", "direct": None}


def patch(region, *, base="firm_woven", inner=(), **own):
    job = job_of(region, *inner, base=base, hoop="h360x200")
    host, *guests = job.pieces
    made = [change(host, construct="patch", own={f"patch_{key}": value for key, value in own.items()})]
    made += [change(one, construct="fill", on=host.id, own={}) for one in guests]
    return build_job(change(job, pieces=made))


def needles(strands, *roles):
    codes = [CODE[role] for role in roles]
    return np.concatenate([one.xy[np.isin(one.role, codes)] for one in strands])


@pytest.mark.parametrize("ground", ["none", "fill", "cloth"])
@pytest.mark.parametrize("way", HELD)
def test_its_first_steps_come_before_what_decorates_it_and_its_border_after(way, ground):
    build = patch(DISC, way=way, ground=ground, inner=[box(-8, -8, 8, 8)])
    assert not build.lost
    order = [one.key for one in build.operations if one.piece]
    held = HELD["film"] if (way, ground) == ("direct", "cloth") else HELD[way]
    first = [*held, *(["ground"] if ground == "fill" else [])]
    last = ["border", *(["trim_guide"] if way == "sheet" else []), *(["free"] if OUT[way] else [])]
    assert order == [*(f"p1:{part}" for part in first), "p2:decoration", *(f"p1:{part}" for part in last)]
    ended = [one["kind"] for one in report(build)["steps"] if one.get("when") == "after"]
    assert ended == ([OUT[way]] if OUT[way] else [])


@pytest.mark.parametrize("edge", ["satin", "overedge"])
@pytest.mark.parametrize("way", ["film", "trimmed"])
@pytest.mark.parametrize("name", [*ROUND, *CORNERED])
def test_its_border_hides_the_edge_of_its_cloth(name, way, edge):
    built = patch({**ROUND, **CORNERED}[name], way=way, edge=edge).pieces[0]
    proof = edge_cover_of(built)
    if name in ROUND and (edge == "satin" or way == "film"):
        assert proof.held
    else:  # an overedge goes round sharp corners, and draws its bites in where a bay crowds them: that is told
        assert proof.share > (0.98 if edge == "satin" or name in ROUND else 0.8)
        assert proof.held or any(one.code == "edge_bare" for one in built.findings)


@pytest.mark.parametrize("edge", ["satin", "overedge", "none"])
def test_a_sheet_is_cut_outside_all_that_is_sewn(edge):
    built = patch(ROUND["ring"], way="sheet", edge=edge).pieces[0]
    found = {one.role: one for one in done_of(built) if hasattr(one, "role") and hasattr(one, "strands")}
    lines = [shapely.linestrings(needles([one], "trim_guide")) for one in found["trim_guide"].strands]
    guide = shapely.multilinestrings(lines)
    sewn = [needles(one.strands, role) for role, one in found.items() if role != "trim_guide"]
    assert edge_cover_of(built) is None
    assert len(found["trim_guide"].strands) == 2
    for points in sewn:
        assert shapely.distance(shapely.points(points), guide).min() > 0.8


@pytest.mark.parametrize("way", ["film", "trimmed", "direct"])
def test_what_shows_and_holds_the_cloth_lies_under_the_border(way):
    built = patch(DISC, way=way, ground="cloth").pieces[0]
    found = {one.role: one for one in done_of(built) if hasattr(one, "strands")}
    border = needles(found["border"].strands, "border")
    low, high = np.hypot(*border.T).min(), np.hypot(*border.T).max()
    for role in ("placement", "second_tack"):
        if role in found:
            radius = np.hypot(*needles(found[role].strands, role).T)
            assert low < radius.min() and radius.max() < high


@pytest.mark.parametrize("name", [*ROUND, *CORNERED])
def test_an_overedge_is_one_thread_of_whole_bites_without_knots(name):
    region = {**ROUND, **CORNERED}[name]
    sewn = ropes(region, "border", 1.9, 1.9)
    assert len(sewn) == 1 + len(region.interiors)
    for one in sewn:
        seen = one.xy[one.role == CODE["border"]]
        assert max(KDTree(seen).query_ball_point(seen, 0.25, return_length=True)) <= 5
        size = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
        assert size.min() >= 0.3 - 1e-9 and size.max() < 6.0
        assert (one.role == CODE["travel"]).sum() == 0
    points = np.concatenate([one.xy for one in sewn])
    calm = rounded(region, 1.9, 1.9)
    assert shapely.distance(shapely.points(points), shapely.boundary(calm)).max() < 2.2


@pytest.mark.parametrize("name", ROUND)
def test_no_spot_of_an_overedge_is_bare_and_its_closing_is_like_the_rest(name):
    region = ROUND[name]
    course = courses(rounded(region, 1.9, 1.9), 1.9, 1.9)[0]
    sewn = ropes(region, "border", 1.9, 1.9)[0]
    seen = sewn.role == CODE["border"]
    ends = np.stack([sewn.xy[:-1], sewn.xy[1:]], axis=1)[seen[1:] & seen[:-1]]
    rows = shapely.STRtree(shapely.linestrings(ends))
    along, off = np.meshgrid(np.arange(0, course.size, 0.3), np.linspace(-1.1, 1.5, 12))
    spots = shapely.points(course.points(along.ravel(), off.ravel()))
    far = rows.query_nearest(spots, return_distance=True, all_matches=False)[1].reshape(along.shape)
    assert far.max() < 0.5
    near = (along[0] < 6) | (along[0] > course.size - 6)
    assert far[:, near].mean() < 1.3 * far[:, ~near].mean() + 0.02


def test_an_overedge_begins_on_a_calm_stretch_or_where_it_is_told_to():
    slot = shapely.LineString([(-25, 0), (25, 0)]).buffer(10, 24)
    begin = ropes(slot, "border", 1.9, 1.9)[0].xy[0]
    assert abs(begin[0]) < 20  # on a straight side
    told = ropes(slot, "border", 1.9, 1.9, start=(35.0, 0.0))[0].xy[0]
    assert np.hypot(*(told - (35.0, 0.0))) < 3.0


def test_a_fill_keeps_clear_of_the_outside_of_the_border():
    built = patch(DISC, way="direct", ground="fill").pieces[0]
    ground = next(one for one in done_of(built) if one.role == "ground")
    assert np.hypot(*needles(ground.strands, "ground").T).max() < 30.0 - 0.5


def test_a_shape_with_no_room_for_its_border_is_told():
    built = patch(box(-20, -3, 20, 3), way="film").pieces[0]
    assert any(one.code == "patch_narrow" for one in built.findings)


DESIGN = job_of(box(-12, -9, 12, 9), Point(0, -20).buffer(7), base="none")
DESIGN = change(DESIGN, pieces=[change(one, construct="fill") for one in DESIGN.pieces])


BOTH = Point(0, -20).buffer(7).union(box(-12, -9, 12, 9))


def test_a_patch_is_made_of_a_design_and_goes_round_it():
    job = with_ground(DESIGN, "patch")
    host, *guests = job.pieces
    assert host.construct == "patch" and not host.shape and host.around == ["*"]
    assert host.thread == nearest_thread(job.library.cloths[host.cloth].colour, job.library).key
    build = build_job(job)
    keys = [one.key for one in build.operations if one.piece]
    assert keys[0] == f"{host.id}:placement" and keys[-2:] == [f"{host.id}:border", f"{host.id}:free"]
    assert [build.host_of(one.id) for one in guests] == [host.id, host.id]
    inner = shapely.union_all([build.piece(one.id).work.region for one in guests])
    seen = shapely.buffer(build.piece(host.id).work.region, -4.0 * 0.45)  # inside its border
    assert shapely.distance(inner, shapely.boundary(seen)) >= 2.0
    assert not build.findings


@given(st.data())
@settings(max_examples=25)
def test_a_patch_follows_its_design_whatever_is_done_to_it(data):
    """Moved, turned or sized, the cloth does the same, but for its margin; no stitch of the design leaves it."""
    far = st.floats(-40, 40)
    turn, size = data.draw(st.floats(-3.1, 3.1)), data.draw(st.floats(0.6, 1.6))
    spin = size * np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    form = data.draw(st.sampled_from(["calm", "circle"]))
    job = with_ground(DESIGN, "patch")
    job = change(job, pieces=[change(job.pieces[0], own={"patch_outline": form}), *job.pieces[1:]])
    shift = np.array([data.draw(far), data.draw(far)])
    after = moved(job, [one.id for one in job.shapes], spin, shift)
    was, now = (build_job(one).piece(job.pieces[0].id).work.region for one in (job, after))
    design = shapely.union_all([build_job(after).piece(one.id).work.region for one in job.pieces[1:]])
    assert now.contains(design) and shapely.distance(now.exterior, design) == pytest.approx(6.0, abs=0.05)
    if form == "circle":
        carried = shapely.transform(was.buffer(-6.0, 64), lambda points: points @ spin + shift).buffer(6.0, 64)
        assert shapely.symmetric_difference(carried, now).area < 0.01 * now.area


@pytest.mark.parametrize("form", [key for key, _ in FORMS])
@pytest.mark.parametrize("name", ["two", "star", "letter", "bar", "dots"])
def test_an_outline_on_offer_is_the_smallest_that_keeps_its_margin(form, name):
    design = {
        "two": [BOTH], "star": [SHAPES["star"]], "letter": [LETTER], "bar": [box(-40, -3, 40, 3)],
        "dots": [Point(30 * x, 5 * x * x).buffer(2) for x in range(-2, 3)],
    }[name]  # fmt: skip
    for margin in (2.0, 6.0):
        found = framed(design, form, margin, 10.0, 4.0)
        whole = shapely.union_all(design)
        assert found.is_valid and not found.interiors and found.contains(whole)
        nearest = shapely.distance(found.exterior, whole)
        assert 0.75 * margin <= nearest <= margin + 0.35, (form, nearest)


def test_a_patch_round_nothing_says_so():
    lone = with_ground(DESIGN, "patch")
    build = build_job(change(lone, pieces=lone.pieces[:1], shapes=[]))
    assert [one.code for one in build.findings] == ["nothing_sewn"] and not build.plan.sewn.any()


def test_a_margin_too_small_for_the_border_is_widened():
    job = with_ground(DESIGN, "patch")
    job = change(job, pieces=[change(job.pieces[0], own={"patch_margin": 2.5}), *job.pieces[1:]])
    build = build_job(job)
    (told,) = [one for one in build.findings if one.code == "clearance_small"]
    (way, *_) = mends(build, told)
    assert way.label == "Set margin 4" and not build_job(way.job).findings


def test_a_frozen_patch_keeps_its_outline_and_its_design():
    job = with_ground(DESIGN, "patch")
    before = build_job(job)
    after = build_job(frozen(job, job.pieces[0].id))
    host = after.job.pieces[0]
    assert host.shape and host.own["patch_outline"] == "own"
    assert [one.on for one in after.job.pieces[1:]] == [host.id] * 2
    assert after.figures.stitches == pytest.approx(before.figures.stitches, rel=0.02)
    assert [one.part for one in after.operations] == [one.part for one in before.operations]


def test_a_knockdown_lies_round_the_patch_that_goes_round_the_design():
    job = with_ground(with_ground(change(DESIGN, brief=brief_for("terry", "h200x300")), "patch"), "knockdown")
    build = build_job(job)
    by_kind = {one.piece.construct: one for one in build.pieces}
    ground, patch = by_kind["knockdown"], by_kind["patch"]
    assert ground.work.region.contains(patch.work.region)
    keys = [one.key for one in build.operations if one.piece in (ground.piece.id, patch.piece.id)]
    assert keys.index(f"{ground.piece.id}:knockdown") < keys.index(f"{patch.piece.id}:placement")


def test_only_what_has_a_shape_becomes_a_patch():
    with pytest.raises(BadInput, match="nothing yet"):
        with_ground(change(DESIGN, pieces=[], shapes=[]), "patch")


@pytest.mark.parametrize("edge", ["satin", "overedge", "none"])
@pytest.mark.parametrize("ground", ["none", "fill"])
@pytest.mark.parametrize("way", HELD)
def test_a_patch_is_taken_apart_into_plain_pieces_in_its_order(way, ground, edge):
    job = with_ground(DESIGN, "patch")
    own = {"patch_way": way, "patch_ground": ground, "patch_edge": edge}
    job = change(job, pieces=[change(job.pieces[0], own=own), *job.pieces[1:]])
    if (way, ground, edge) == ("direct", "none", "none"):
        with pytest.raises(BadInput, match="nothing to take apart"):
            taken_apart(job, job.pieces[0].id)
        return
    plain = taken_apart(job, job.pieces[0].id)
    kinds = [one.construct for one in plain.pieces]
    assert "patch" not in kinds and not build_job(plain).lost
    under = [*(["applique"] if way != "direct" else []), *(["fill"] if ground == "fill" else [])]
    over = {"satin": ["satin_border"], "overedge": ["overedge"], "none": []}[edge]
    assert kinds == [*under, "fill", "fill", *over]
    assert len({one.id for one in plain.pieces}) == len(plain.pieces)
    hosts = {one.on for one in plain.pieces if one.name in {each.name for each in DESIGN.pieces}}
    assert hosts == ({plain.pieces[0].id} if way != "direct" else {""})
    if edge == "satin":
        (before,) = [one for one in build_job(job).piece(job.pieces[0].id).sewn if one.role == "border"]
        (after,) = [one for one in build_job(plain).pieces[-1].sewn if one.role == "border"]
        assert sum(len(one.xy) for one in after.strands) == pytest.approx(
            sum(len(one.xy) for one in before.strands), rel=0.02
        )


def test_only_a_patch_can_be_taken_apart():
    with pytest.raises(BadInput, match="not made of others"):
        taken_apart(DESIGN, DESIGN.pieces[0].id)


def crowded(build):
    return [one for one in build.findings if one.code == "clearance_small"]


@pytest.mark.parametrize(("inner", "label"), [
    (box(10, -5, 26, 5), "Move the design to the middle"), (box(-28, -4, 26, 4), "Make the design"),
    (box(-24, -24, 24, 24), "Make the design"),
])  # fmt: skip
def test_decoration_too_near_to_the_border_is_told_and_brought_inside(inner, label):
    build = patch(DISC, way="film", inner=[inner, box(-3, -3, 3, 3)])
    (finding,) = crowded(build)
    assert finding.piece == "p1" and "piece 2" in finding.message and "border of piece 1" in finding.message
    (mend,) = [one for one in mends(build, finding) if one.label.startswith(label)]
    after = build_job(mend.job)
    assert not crowded(after)
    room = shapely.buffer(DISC, -(4.0 * 0.45 + 1.95))
    for _, area in after.guests_of("p1"):
        assert shapely.covers(room, area)
    assert after.piece("p1").work.region.equals(build.piece("p1").work.region)
    sizes = [one.piece("p2").work.region.area for one in (build, after)]
    assert sizes[1] == pytest.approx(sizes[0]) if "middle" in label else sizes[0] * 0.3 < sizes[1] < sizes[0]


def test_decoration_with_clearance_is_not_told():
    assert not crowded(patch(DISC, way="film", inner=[Point(0, 0).buffer(30 - 1.8 - 2.0)]))
    assert crowded(patch(DISC, way="film", inner=[Point(0, 0).buffer(30 - 1.8 - 1.5)]))
    assert not crowded(patch(DISC, way="film", clearance=1.0, inner=[Point(0, 0).buffer(30 - 1.8 - 1.5)]))
