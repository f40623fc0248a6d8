"""Grounds that go round other pieces: knockdown, embossing, contrast border, panel, basting."""

import numpy as np
import pytest
import shapely
from scipy.spatial import KDTree
from shapely import Point, Polygon, box

from core.jobs import done_of, job_of
from core.sewn_density import along
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.works import check_pieces
from velamen.core.edits.stack.grounds import base_thread, with_ground
from velamen.core.errors import BadInput
from velamen.core.geometry.narrow import narrowest, thin_parts
from velamen.core.job.document import Piece, change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.materials.colour import nearest_thread
from velamen.core.stitching.roles import CODE


def grounded(construct, *regions, base="terry", own=None, around=("*",), **more):
    """A job whose first piece goes round all the others."""
    job = job_of(*regions, base=base, hoop="h360x200", **more)
    piece = Piece("k", "Ground", "", construct, "sail_red", "140", own or {}, around=list(around))
    return check_pieces(check_job(change(job, pieces=[piece, *job.pieces])))


def points_of(built, role=None):
    rows = [(part.xy, part.role) for step in done_of(built) for part in getattr(step, "strands", ())]
    xy, codes = np.concatenate([one for one, _ in rows]), np.concatenate([one for _, one in rows])
    return xy if role is None else xy[codes == CODE[role]]


@pytest.mark.parametrize("stitch", ["crosshatch", "rows", "pattern", "crosses", "stipple", "scribble", "rings"])
@pytest.mark.parametrize("name", ["ring", "star", "needles", "slit_3", "slit_01", "neck", "comb", "two_holes",
                                  "sliver", "leaf"])  # fmt: skip
def test_a_knockdown_keeps_its_margin_and_has_no_underlay(name, stitch):
    build = build_job(grounded("knockdown", SHAPES[name], own={"knockdown_stitch": stitch}))
    ground, served = build.piece("k"), build.piece("p1")
    margin = ground.values["knockdown_margin"].value
    sewn = shapely.buffer(served.work.region, 1.8)
    assert margin == 3.5 and ground.values["knockdown_stitch"].own
    points = shapely.points(points_of(ground))
    assert shapely.distance(points, ground.work.region).max() <= 0.1
    outer = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(ground.work.region)])
    assert shapely.covers(shapely.buffer(outer, 0.05), shapely.buffer(sewn, margin / 2))
    assert not (
        np.concatenate([part.role for step in done_of(ground) for part in step.strands]) == CODE["underlay"]
    ).any()
    assert len(done_of(ground)[0].strands) == shapely.get_num_geometries(ground.work.region)
    assert build.plan.blocks[0].role == "knockdown"
    if stitch == "crosses":
        return  # those that do not fit wholly are left out
    spots = np.random.default_rng(5).uniform(*np.array(ground.work.region.bounds).reshape(2, 2), (3000, 2))
    spots = spots[shapely.contains_xy(ground.work.region, spots[:, 0], spots[:, 1])]
    lines = [np.stack([part.xy[:-1], part.xy[1:]], axis=1) for part in done_of(ground)[0].strands]
    far = KDTree(along(np.concatenate(lines), 0.3)[0]).query(spots)[0]
    most = 1.35 if stitch == "stipple" else 1.1  # a meander grows another arm from 1.2 spacings on
    assert np.percentile(far, 98) < most * ground.values["knockdown_spacing"].value


def test_a_knockdown_reaches_round_the_tips_of_a_mitred_cover():
    job = grounded("knockdown", SHAPES["star"])
    ground, cover = job.pieces
    reach = {}
    for corner in ("auto", "rounded"):
        build = build_job(change(job, pieces=[ground, change(cover, own={"cover_corner": corner})]))
        outer = shapely.union_all([Polygon(one.exterior) for one in shapely.get_parts(build.piece("k").work.region)])
        assert shapely.covers(outer, shapely.points(points_of(build.piece("p1"), "cover"))).all()
        reach[corner] = np.hypot(*shapely.get_coordinates(outer).T).max()
    assert reach["auto"] > reach["rounded"] + 1.0


def test_crosshatch_rows_cross_at_right_angles_and_travel_keeps_to_the_edge():
    ground = build_job(grounded("knockdown", SHAPES["comb"], own={"knockdown_gap": 0, "knockdown_margin": 0})).piece(
        "k"
    )
    (part,) = done_of(ground)[0].strands
    steps = np.diff(part.xy, axis=0)
    angle = np.degrees(np.arctan2(steps[:, 1], steps[:, 0])) % 180
    sewn = part.role[1:] == CODE["knockdown"]
    length = np.linalg.norm(steps, axis=1)
    assert (length[sewn & (np.abs(angle - 145) < 2)].sum() > 300) and (
        length[sewn & (np.abs(angle - 55) < 2)].sum() > 300
    )
    travel = part.xy[1:][part.role[1:] == CODE["travel"]]
    assert len(travel) and shapely.distance(shapely.points(travel), ground.work.region.boundary).max() < 1.0


@pytest.mark.parametrize(
    ("base", "margin", "stitch", "most"),
    [("fleece", 3.0, "crosshatch", 2.5), ("terry", 3.5, "crosshatch", 2.5), ("fur", 6.0, "rows", 1.2)],
)
def test_pile_sets_margin_stitch_and_spacing(base, margin, stitch, most):
    values = build_job(grounded("knockdown", SHAPES["square"], base=base)).piece("k").values
    assert (values["knockdown_margin"].value, values["knockdown_stitch"].value) == (margin, stitch)
    assert values["knockdown_spacing"].value <= most and all(value.reasons for value in values.values())


def test_a_ground_follows_what_it_serves_in_one_part_or_several():
    near, far = box(-40, -8, -4, 8), box(4, -8, 40, 8)
    one = build_job(grounded("knockdown", near, far)).piece("k").work.region
    assert one.geom_type == "Polygon"
    apart = build_job(grounded("knockdown", near, shapely.affinity.translate(far, 60))).piece("k")
    assert apart.work.region.geom_type == "MultiPolygon" and len(done_of(apart)[0].strands) == 2
    chosen = build_job(grounded("knockdown", near, shapely.affinity.translate(far, 60), around=["p2"])).piece("k")
    assert chosen.work.region.bounds[0] > 50


def test_a_calm_ground_closes_gaps_and_smooths_notches():
    rough, calm = (
        build_job(grounded("knockdown", SHAPES["needles"], own={"knockdown_gap": gap, "knockdown_calm": gap})).piece(
            "k"
        )
        for gap in (0.0, 10.0)
    )
    assert calm.work.region.length < 0.92 * rough.work.region.length


def test_an_empty_ground_says_so_and_broken_jobs_are_refused():
    job = job_of(box(0, 0, 20, 20))
    for construct in ("knockdown", "basting"):  # in a document that nobody has read: reading refuses it
        lost = change(job, pieces=[Piece("k", "Ground", "", construct, around=["gone"]), *job.pieces])
        build = build_job(lost)
        assert [one.code for one in build.findings if one.piece == "k"] == ["nothing_sewn"]
        assert done_of(build.piece("k")) == []
        with pytest.raises(BadInput, match="goes round 'gone', which is not in the job"):
            check_job(lost)
    with pytest.raises(BadInput, match="no shape, nor pieces"):
        check_job(change(job, pieces=[Piece("k", "Ground", "", "knockdown")]))
    with pytest.raises(BadInput, match="Appliqué cannot"):
        check_pieces(change(job, pieces=[*job.pieces, Piece("k", "Ground", "", "applique", around=["*"])]))
    again = grounded("knockdown", box(0, 0, 20, 20))
    assert read_job(write_job(again)) == again


@pytest.mark.parametrize("name", ["ring", "star", "slit_3", "neck", "comb", "two_holes", "notch", "leaf", "coast",
                                  "thin_ring"])  # fmt: skip
def test_embossing_leaves_the_motif_bare_and_makes_its_counters_ground(name):
    motif = SHAPES[name]
    job = job_of(motif, base="terry", hoop="h360x200")
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="emboss")]))
    (built,) = build.pieces
    inner = shapely.buffer(motif, -0.2)
    assert not shapely.contains(inner, shapely.points(points_of(built))).any()
    assert shapely.intersection(built.work.region, motif).area < 0.01
    for hole in motif.interiors:
        assert shapely.covers(shapely.buffer(built.work.region, 0.01), shapely.Polygon(hole))
    assert [step.role for step in done_of(built)] == ["ground", "outline"]
    edge = shapely.boundary(motif)
    spots = shapely.get_coordinates(shapely.line_interpolate_point(edge, np.linspace(0, edge.length, 300)))
    far = KDTree(points_of(built, "outline")).query(spots)[0]
    assert np.percentile(far, 95) < 0.8


def test_an_embossed_ground_may_be_a_box_or_all_of_the_field():
    job = job_of(Point(0, 0).buffer(12), base="terry", hoop="h100x100")
    areas = {}
    for kind in ("outline", "box", "field"):
        piece = change(job.pieces[0], construct="emboss", own={"emboss_ground": kind})
        areas[kind] = build_job(change(job, pieces=[piece])).pieces[0].work.region.area
    assert areas["outline"] < areas["box"] < areas["field"] <= 94.0**2


def test_parts_too_narrow_for_the_pile_are_found_and_bold_ones_are_not():
    bold, thin = Point(0, 0).buffer(20), SHAPES["neck"]
    codes = {}
    for name, motif in (("bold", bold), ("thin", thin), ("needles", SHAPES["needles"])):
        job = job_of(motif, base="terry")
        build = build_job(change(job, pieces=[change(job.pieces[0], construct="emboss")]))
        codes[name] = [(one.code, len(one.at)) for one in build.findings if one.code == "emboss_thin"]
    assert codes == {"bold": [], "thin": [("emboss_thin", 1)], "needles": [("emboss_thin", 7)]}


@pytest.mark.parametrize(("region", "width"), [
    (box(0, 0, 40, 6), 6.0), (SHAPES["neck"], 2.0), (SHAPES["thin_ring"], 2.5), (SHAPES["ring"], 13.0),
    (SHAPES["comb"], 5.0),
])  # fmt: skip
def test_the_narrowest_part_is_measured(region, width):
    assert abs(narrowest(region) - width) < 0.12 * width


def test_right_angles_are_not_thin():
    assert thin_parts(box(0, 0, 30, 30), 8.0) == [] and thin_parts(box(0, 0, 3, 30), 8.0)


@pytest.mark.parametrize("name", ["ring", "star", "needles", "slit_3", "neck", "comb", "two_holes", "sliver", "leaf",
                                  "coast"])  # fmt: skip
def test_a_contrast_border_keeps_its_distance_all_round(name):
    built = build_job(grounded("contrast", SHAPES[name], base="firm_woven")).piece("k")
    points = points_of(built, "border")
    off = shapely.distance(shapely.points(points), built.work.region)
    assert off.max() <= 2.5 + 2 * built.values["contrast_pull"].value + 0.05
    edge = shapely.boundary(built.work.region)
    spots = shapely.get_coordinates(shapely.line_interpolate_point(edge, np.arange(0, edge.length, 0.5)))
    assert np.percentile(KDTree(points).query(spots)[0], 97) < 0.6


def test_a_panel_has_an_open_ground_and_a_border_over_its_edge():
    job = job_of(box(-30, -15, 30, 15), base="terry")
    (built,) = build_job(change(job, pieces=[change(job.pieces[0], construct="panel")])).pieces
    assert [step.role for step in done_of(built)] == ["ground", "border"]
    bare = build_job(change(job, pieces=[change(job.pieces[0], construct="panel", own={"panel_width": 0.0})]))
    assert [step.role for step in done_of(bare.pieces[0])] == ["ground"]


def test_basting_is_implied_by_the_brief_first_and_inside_the_field():
    job = job_of(box(-44, -44, 44, 44), hoop="h100x100")
    job = change(job, brief=change(job.brief, hold="basting"))
    build = build_job(job)
    assert build.plan.blocks[0].role == "basting" and build.pieces[0].piece.id == "basting"
    assert np.abs(points_of(build.pieces[0])).max() <= 49.0 + 1e-6
    own = Piece("b", "Basting", "", "basting", "sail_red", "140", {"basting_margin": 2.0}, around=["*"])
    explicit = build_job(change(job, pieces=[own, *job.pieces]))
    assert [one.piece.id for one in explicit.pieces] == ["b", "p1"]
    assert np.abs(points_of(explicit.pieces[0])).max() < 49.0 - 0.5


def test_basting_follows_the_outline_or_a_box_with_centre_lines():
    regions = Point(-30, 0).buffer(10), Point(30, 0).buffer(10)
    round_, cross = (
        build_job(grounded("basting", *regions, base="firm_woven", own=own)).piece("k")
        for own in ({"basting_course": "outline"}, {"basting_cross": True})
    )
    assert round_.work.region.area < 0.8 * cross.work.region.area
    assert len(done_of(cross)[0].strands) == 3
    lengths = np.linalg.norm(np.diff(done_of(cross)[0].strands[0].xy, axis=0), axis=1)
    assert lengths.max() <= 6.01 and np.median(lengths) > 4.5


@pytest.mark.parametrize("base", ["leather", "velvet"])
def test_basting_is_not_sewn_where_it_would_mark(base):
    build = build_job(grounded("basting", box(0, 0, 30, 30), base=base))
    assert done_of(build.piece("k")) == [] and all(block.role != "basting" for block in build.plan.blocks)


def test_a_floated_base_too_thick_to_hoop_is_basted():
    assert job_of(box(0, 0, 9, 9), base="fur").brief.hold == "basting"
    assert job_of(box(0, 0, 9, 9), base="velvet").brief.hold == "adhesive"


def test_an_embossed_motif_says_on_build_whether_it_stands_up():
    def told(region, base):
        (built,) = build_job(job_of_kind("emboss", region, base)).pieces
        return built.proofs["standing"].told

    bold, thin = box(-20, -20, 20, 20), shapely.union(box(-20, -20, 20, 20), box(20, -1, 40, 1))
    assert told(bold, "terry") == "Stands up in 4 mm of pile"
    assert told(thin, "terry") == "A part vanishes in 4 mm of pile"
    assert told(bold, "firm_woven") == ""


def job_of_kind(construct, region, base):
    job = job_of(region, base=base)
    return change(job, pieces=[change(job.pieces[0], construct=construct)])


def test_a_job_is_sewn_on_a_base_in_its_own_colour():
    job = job_of(SHAPES["square"], base="terry")
    navy = change(job, brief=change(job.brief, base_colour="#1d2b4f"))
    assert navy.library.bases["terry"].colour == "#1d2b4f" and navy.rows is job.library
    assert navy.library is change(navy, name="Other").library
    assert base_thread(navy) != base_thread(job) and nearest_thread("#1d2b4f", job.library).key == base_thread(navy)
    assert read_job(write_job(navy)) == navy
    with pytest.raises(BadInput, match="#rrggbb"):
        read_job(write_job(change(job, brief=change(job.brief, base_colour="navy"))))
    ground = with_ground(navy, "knockdown")
    assert ground.pieces[0].thread == base_thread(navy)


def test_a_ground_cut_off_at_the_field_says_so_and_offers_the_margin_there_is_room_for():
    def found(own, hoop="h100x100"):
        job = job_of(box(-38, -12, 38, 12), base="terry", hoop=hoop)
        build = build_job(change(job, pieces=[change(job.pieces[0], construct="emboss", own=own)]))
        return [one for one in build.findings if one.code == "ground_cut_off"]

    for kind in ("outline", "box"):
        (cut,) = found({"emboss_ground": kind, "emboss_margin": 20.0})
        assert "there is room for 9.0" in cut.message and cut.fix == {"emboss_margin": 9.0}
        assert abs(cut.at[0][0]) > 45 and not found({"emboss_ground": kind, **cut.fix})
        assert not found({"emboss_ground": kind, "emboss_margin": 20.0}, "h200x300")
    assert not found({"emboss_ground": "field"})


def test_basting_that_the_field_cuts_off_says_so():
    def cut(hoop):
        job = job_of(box(-47, -20, 47, 20), base="fleece", hoop=hoop)
        build = build_job(change(job, brief=change(job.brief, hold="basting")))
        return [one for one in build.findings if one.code == "ground_cut_off"]

    (told,) = cut("h100x100")
    assert told.message.startswith("The line of Basting is cut off") and not told.fix
    assert cut("h200x300") == []
