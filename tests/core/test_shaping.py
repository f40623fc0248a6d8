"""Shapes drawn, combined, offset, arranged and mended, on plain and on ugly outlines."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.artwork.basic import BASICS
from velamen.core.edits.shapes import arranging, drawing
from velamen.core.errors import BadInput
from velamen.core.geometry import combine
from velamen.core.job.document import Job
from velamen.core.job.reading import check_job
from velamen.core.job.regions import region_of


def regions(job):
    return {shape.name: region_of(shape) for shape in job.shapes}


def size(region):
    left, top, right, bottom = region.bounds
    return pytest.approx((right - left, bottom - top), abs=0.05)


@pytest.mark.parametrize("kind", BASICS)
def test_basic_shapes_have_their_numbers_and_can_be_sewn(kind):
    basic = BASICS[kind]
    region = basic.draw({})
    assert region.is_valid and shapely.hausdorff_distance(region.centroid, Point(0, 0)) < 12
    if {"width", "height"} <= basic.start.keys() and kind != "banner":
        assert size(region) == (basic.start["width"], basic.start["height"])
    assert check_job(drawing.draw_basic(Job(), kind, {})).pieces[0].name == basic.title


@pytest.mark.parametrize(
    ("kind", "typed", "area"),
    [
        ("circle", {"diameter": "40"}, np.pi * 400),
        ("oval", {"width": "2 in", "height": "25.4"}, np.pi * 25.4 * 12.7),
        ("rectangle", {"width": "30", "height": "20", "radius": "0"}, 600),
        ("rectangle", {"width": "30", "height": "20", "radius": "99"}, 200 + np.pi * 100),
        ("polygon", {"sides": "4", "diameter": "20"}, 200),
        ("ring", {"diameter": "50", "hole": "30"}, np.pi * (625 - 225)),
        ("banner", {"width": "80", "height": "20", "arch": "0"}, 1600),
        ("banner", {"width": "80", "height": "20", "arch": "1e-300"}, 1600),
    ],
)
def test_areas_of_basic_shapes(kind, typed, area):
    assert BASICS[kind].draw(typed).area == pytest.approx(area, rel=2e-3)


@pytest.mark.parametrize(
    ("kind", "typed", "words"),
    [
        ("circle", {"diameter": "0"}, "Across 0 is out of bounds"),
        ("ring", {"diameter": "30", "hole": "30"}, "smaller than the ring"),
        ("banner", {"width": "40", "height": "60", "arch": "18"}, "more tightly than it is high"),
        ("star", {"points": "2"}, "Points 2 is out of bounds"),
        ("oval", {"width": "wide"}, "Width cannot be 'wide'"),
        ("spiral", {}, "no basic shape 'spiral'"),
    ],
)
def test_numbers_that_make_no_shape_are_told(kind, typed, words):
    with pytest.raises(BadInput, match=words):
        drawing.draw_basic(Job(), kind, typed)


@settings(max_examples=80)
@given(st.sampled_from(sorted(BASICS)), st.data())
def test_any_numbers_within_bounds_make_a_sound_shape_or_a_sentence(kind, data):
    typed = {one.key: data.draw(st.floats(one.low, min(one.high, 300.0))) for one in BASICS[kind].settings}
    try:
        region = BASICS[kind].draw(typed)
    except BadInput:
        return
    assert region.is_valid and region.area >= 1.0


TWO = job_of(box(0, 0, 40, 40), box(20, 20, 60, 60))


@pytest.mark.parametrize(
    ("how", "areas"),
    [("union", [2800]), ("subtract", [1200]), ("intersect", [400]), ("divide", [1200, 1200, 400])],
)
def test_combining_two_squares(how, areas):
    after = drawing.combined(TWO, ["s1", "s2"], how)
    found = sorted((region.area for region in regions(after).values()), reverse=True)
    assert found == pytest.approx(areas, abs=0.1)
    assert after.pieces[0].id == "p1" and after.shapes[0].name == "shape 1"
    assert len(after.pieces) == len(areas) and check_job(after)


def test_what_does_not_overlap_is_not_combined_away():
    apart = job_of(box(0, 0, 10, 10), box(30, 30, 40, 40))
    with pytest.raises(BadInput, match="Nothing is left of shape 1, shape 2"):
        drawing.combined(apart, ["s1", "s2"], "intersect")
    joined = drawing.combined(apart, ["s1", "s2"], "union")
    assert len(joined.shapes) == 2 and {piece.cloth for piece in joined.pieces} == {"sail_red"}
    for ids in ([], ["s1"], ["s1", "s9"]):
        with pytest.raises(BadInput):
            drawing.combined(apart, ids, "union")


@pytest.mark.parametrize("how", ["union", "subtract", "intersect", "divide"])
@pytest.mark.parametrize("name", SHAPES)
def test_ugly_shapes_combine(name, how):
    one, two = SHAPES[name], shapely.affinity.translate(SHAPES["star"], 7.3, -3.1)
    found = getattr(combine, how)([one, two])
    whole = {
        "union": one.union(two),
        "subtract": one.difference(two),
        "intersect": one.intersection(two),
        "divide": one.union(two),
    }[how]
    assert all(part.is_valid and part.geom_type == "Polygon" for part in found)
    assert sum(part.area for part in found) == pytest.approx(whole.area, abs=0.5 * (len(found) + 6))


@pytest.mark.parametrize("distance", [4.0, 0.6, -0.8])
@pytest.mark.parametrize("name", SHAPES)
def test_an_even_outline_keeps_its_distance(name, distance):
    found = combine.offset([SHAPES[name]], distance)
    for region in found:
        off = shapely.distance(shapely.points(shapely.get_coordinates(region.exterior)), SHAPES[name].boundary)
        assert off.max() <= abs(distance) + 0.03 and off.min() >= abs(distance) - 0.05


def test_gaps_are_closed_and_bumps_calmed():
    letters = [box(0, 0, 10, 30), box(13, 0, 23, 30)]
    assert len(combine.offset(letters, 1.0)) == 2 and len(combine.offset(letters, 1.0, close=2.0)) == 1
    comb = [shapely.union_all([box(0, 0, 60, 10), *(box(x, 10, x + 2, 16) for x in range(0, 60, 8))])]
    rough, calm = (combine.offset(comb, 2.0, calm=one)[0] for one in (0.0, 6.0))
    assert calm.length < 0.85 * rough.length and calm.contains(shapely.buffer(comb[0], 0.95))
    sharp = combine.offset([box(0, 0, 20, 20)], 5.0, sharp=True)[0]
    assert sharp.area == pytest.approx(900) and combine.offset([box(0, 0, 20, 20)], 5.0)[0].area < 890


def test_an_outline_lies_below_what_it_goes_round():
    after = drawing.offset(TWO, ["s2"], [4.0], False, 0.0, 0.0, False)
    assert [piece.name for piece in after.pieces] == ["piece 1", "shape 2 outline", "piece 2"]
    with pytest.raises(BadInput, match="20 mm inside nothing is left"):
        drawing.offset(TWO, ["s2"], [-20.0], False, 0.0, 0.0, False)


def test_moving_turning_mirroring_and_sizing():
    moved = arranging.moved(TWO, ["s1"], np.eye(2), np.array([5.0, -2.0]))
    assert regions(moved)["shape 1"].bounds == (5, -2, 45, 38) and moved.shapes[1] == TWO.shapes[1]
    turned = regions(arranging.turned(TWO, ["s1", "s2"], 90))
    assert turned["shape 1"].bounds == pytest.approx((20, 0, 60, 40)) and turned["shape 2"].bounds == pytest.approx(
        (0, 20, 40, 60)
    )
    flat = job_of(box(0, 0, 40, 10))
    assert regions(arranging.turned(flat, ["s1"], 90))["shape 1"].bounds == pytest.approx((15, -15, 25, 25))
    mirrored = regions(arranging.mirrored(TWO, ["s1", "s2"], "sideways"))
    assert mirrored["shape 1"].bounds == pytest.approx((20, 0, 60, 40))
    wide = regions(arranging.sized(TWO, ["s1", "s2"], 120.0, None))
    assert wide["shape 1"].bounds == pytest.approx((-30, -30, 50, 50))
    assert regions(arranging.sized(flat, ["s1"], 20.0, 20.0))["shape 1"].area == pytest.approx(400)
    with pytest.raises(BadInput, match="more than 1000 mm"):
        arranging.moved(TWO, ["s1"], np.eye(2), np.array([5000.0, 0.0]))
    with pytest.raises(BadInput, match="needs a width or a height"):
        arranging.sized(TWO, ["s1"], None, None)


def test_mirrored_shapes_keep_their_holes_open():
    (one,) = regions(arranging.mirrored(job_of(SHAPES["two_holes"]), ["s1"], "upright")).values()
    assert (
        one.is_valid
        and one.area == pytest.approx(SHAPES["two_holes"].area)
        and len(one.interiors) == len(SHAPES["two_holes"].interiors)
    )


def test_lining_up_and_distributing():
    job = job_of(box(0, 0, 10, 10), box(20, 5, 26, 9), box(50, 30, 54, 60))
    ids = ["s1", "s2", "s3"]
    lefts = [region.bounds[0] for region in regions(arranging.aligned(job, ids, "left")).values()]
    assert lefts == pytest.approx([0, 0, 0], abs=1e-3)
    middles = [np.mean(region.bounds[1::2]) for region in regions(arranging.aligned(job, ids, "middle")).values()]
    assert middles == pytest.approx([30, 30, 30])
    alone = regions(arranging.aligned(job, ["s3"], "centre"))["shape 3"].bounds
    assert (alone[0] + alone[2]) / 2 == pytest.approx(0)
    spread = regions(arranging.distributed(job, ids, "sideways"))
    boxes = [spread[f"shape {nth}"].bounds for nth in (1, 2, 3)]
    assert boxes[1][0] - boxes[0][2] == pytest.approx(boxes[2][0] - boxes[1][2])
    with pytest.raises(BadInput, match="at least 3 shapes"):
        arranging.distributed(job, ids[:2], "sideways")


def test_repeating_in_rows_and_round_a_circle():
    job = job_of(box(0, 0, 10, 10), own={"cover_width": 2.5})
    rows = arranging.repeated(job, ["s1"], 3, 2, 5.0)
    assert len(rows.pieces) == 6 and all(piece.own == {"cover_width": 2.5} for piece in rows.pieces)
    assert {region.bounds[:2] for region in regions(rows).values()} == {(x, y) for x in (0, 15, 30) for y in (0, 15)}
    ring = arranging.repeated_round(job, ["s1"], 8, 30.0)
    middles = np.array([[region.centroid.x, region.centroid.y] for region in regions(ring).values()])
    assert np.hypot(*(middles - (5, 35)).T) == pytest.approx([30] * 8, abs=1e-3)
    assert len({shape.name for shape in ring.shapes}) == 8
    for wrong in (
        lambda: arranging.repeated(job, ["s1"], 40, 40, 1.0),
        lambda: arranging.repeated_round(job, ["s1"], 1, 9.0),
    ):
        with pytest.raises(BadInput):
            wrong()


def test_holes_points_names_and_removal():
    job = job_of(SHAPES["two_holes"])
    holes = sorted(shapely.Polygon(hole).area for hole in SHAPES["two_holes"].interiors)
    fill = lambda below: lambda region: [combine.fill_holes(region, below)]  # noqa: E731
    assert len(regions(drawing.mended(job, ["s1"], fill(np.inf)))["shape 1"].interiors) == 0
    assert len(regions(drawing.mended(job, ["s1"], fill(holes[0] + 1)))["shape 1"].interiors) == len(holes) - 1
    coast = job_of(SHAPES["coast"])
    calm = regions(drawing.mended(coast, ["s1"], lambda region: [combine.simplified(region, 0.5)]))["shape 1"]
    assert len(calm.exterior.coords) < 0.5 * len(SHAPES["coast"].exterior.coords)
    assert shapely.hausdorff_distance(calm, SHAPES["coast"]) <= 0.51
    named = arranging.renamed(TWO, "s1", "  Deck   hatch ")
    assert named.shapes[0].name == "Deck hatch" and named.pieces[0].name == "piece 1"
    assert [shape.id for shape in arranging.removed(TWO, ["s1"]).shapes] == ["s2"]
    with pytest.raises(BadInput, match="Nothing would be left"):
        drawing.mended(TWO, ["s1"], lambda region: [])
