"""Fills: rows at their distance, nothing outside, no open ground crossed, one part without a trim."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import KDTree
from shapely import LineString, Point, box

from core.jobs import done_of, edge_cover_of, job_of
from core.sewn_density import off_thread
from core.shapes import SHAPES
from core.ugly import KINDS, ugly
from velamen.core.building.build import build_job
from velamen.core.constructions import construction
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.outputs.cut_file import cut_svg
from velamen.core.outputs.report import report
from velamen.core.stitching.blend import blend
from velamen.core.stitching.fill import FillSewing, fill, rows_of
from velamen.core.stitching.frame import guided
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.row_joins import joins
from velamen.core.stitching.rows import cut, flat_rings, hatch, levels_over, overlaps, sections_of
from velamen.core.stitching.stagger import staggers

PULL = 0.1
FAR = 0.75 * 0.4  # mm from thread, at this spacing
BESIDE = {"notch": 0.39}  # beside its edge, where that runs along the rows and the last of them ends early


def filled(region, angle=0.0, spacing=0.4, start=None, **more):
    return fill(region, "decoration", FillSewing(angle, spacing, 4.0, **{"pull": PULL, **more}), start)


def lines(strands, role=None):
    """Stitches as lines, those of one role or all."""
    pairs = [np.stack([one.xy[:-1], one.xy[1:]], axis=1)[slice(None) if role is None else one.role[1:] == CODE[role]]
             for one in strands]  # fmt: skip
    return shapely.linestrings(np.concatenate(pairs))


@pytest.mark.parametrize("angle", [0.0, 0.7, -2.5])
@pytest.mark.parametrize("name", SHAPES)
def test_nothing_is_sewn_outside_and_one_part_needs_no_trim(name, angle):
    region = SHAPES[name]
    strands = filled(region, angle)
    xy = np.concatenate([one.xy for one in strands])
    assert shapely.distance(shapely.points(xy), region).max() <= PULL + 0.1
    travel = lines(strands, "travel")
    if len(travel):
        assert shapely.length(shapely.difference(travel, region.buffer(PULL + 0.1))).max() < 0.1
    assert len(strands) == 1
    steps = np.concatenate([np.linalg.norm(np.diff(one.xy, axis=0), axis=1) for one in strands])
    assert steps.max() <= 12.1 + 1e-9 and steps.min() >= 0.29


@pytest.mark.parametrize("angle", [0.0, 0.7])
@pytest.mark.parametrize("name", sorted(set(SHAPES) - {"needles"}))
def test_no_spot_lies_far_from_thread(name, angle):
    region = SHAPES[name]
    left, top, right, bottom = region.bounds
    spots = np.mgrid[left:right:0.3, top:bottom:0.3].reshape(2, -1).T
    spots = spots[shapely.contains_xy(region, spots[:, 0], spots[:, 1])]
    assert off_thread(spots, *(one.xy for one in filled(region, angle))).max() <= BESIDE.get(name, FAR)


@pytest.mark.parametrize("made", ["fill", "blend"])
@pytest.mark.parametrize("angle", [0.0, 0.4, 1.2])
@pytest.mark.parametrize("name", ["square", "star", "comb", "coast", "two_holes", "spiral", "wedge", "leaf"])
def test_pull_is_added_along_each_row_however_slanted_its_ends(name, angle, made):
    region, pull = SHAPES[name], 0.3
    if made == "fill":
        sewn = fill(region, "decoration", FillSewing(angle, 0.4, 4.0, pull=pull, covers=True))
    else:
        threads = blend(region, "decoration", angle, 0.4, 4.0, [0.0, 0.5, 1.0], pull=pull)
        sewn = [one for thread in threads for one in thread]
    needle = np.concatenate([one.xy[one.role == CODE["decoration"]] for one in sewn])
    rows = hatch(region, angle, 0.4)
    long = rows.right - rows.left > 0.6  # not a speck
    ends = np.concatenate([
        rows.frame.places(np.stack([at, rows.across], axis=1)[long]) for at in (rows.left - pull, rows.right + pull)
    ])  # fmt: skip
    points = np.concatenate([one.xy for one in sewn])  # a row may begin at the end of a way along the edge
    missed = KDTree(points).query(ends)[0] > 0.1  # one where each begins and one where it ends
    assert missed.sum() <= max(2 * len(sewn), 0.03 * len(ends))
    beyond = needle[~shapely.contains_xy(shapely.buffer(region, 0.02), needle[:, 0], needle[:, 1])]
    way = pull * np.array([np.cos(angle), np.sin(angle)])
    drawn = [shapely.distance(shapely.points(beyond + one), region) for one in (way, -way)]
    assert np.minimum(*drawn).max(initial=0.0) < 0.1


def test_rows_follow_a_guide_at_their_distance():
    region = SHAPES["two_holes"]
    turn = np.linspace(-1.2, 1.2, 40)
    guide = np.stack([45 * np.sin(turn), 60 - 45 * np.cos(turn)], axis=1)
    frame = guided(guide)
    rings = flat_rings(region, frame)
    rows = cut(rings, frame, levels_over(rings, 0.4))
    middle = frame.places(np.stack([(rows.left + rows.right) / 2, rows.across], axis=1))
    off = shapely.distance(frame.whole, shapely.points(middle))
    assert np.abs(off - np.abs(rows.across)).max() < 0.03 and np.diff(rows.levels) == pytest.approx(0.4)
    sewn = filled(region, guide=guide)
    assert len(sewn) == 1
    assert shapely.distance(shapely.points(sewn[0].xy), region).max() <= PULL + 0.1
    thread = LineString(sewn[0].xy)
    spots = np.mgrid[-30:30:0.5, -20:20:0.5].reshape(2, -1).T
    spots = spots[shapely.contains_xy(region, spots[:, 0], spots[:, 1])]
    assert shapely.distance(shapely.points(spots), thread).max() <= FAR


def test_rows_may_grow_apart_towards_the_far_end():
    region = SHAPES["two_holes"]
    grown = np.diff(levels_over([np.array([[0.0, 0], [1, 0], [1, 30]])], 0.4, 3.0))
    assert grown[0] == pytest.approx(0.4, abs=0.1) and 2.5 < grown[-1] < 3.0
    assert (np.diff(grown) > 0).all() and len(filled(region, last=3.0)[0].xy) < 0.5 * len(filled(region)[0].xy)


def test_travel_keeps_to_the_edge_where_asked():
    region = SHAPES["star"]
    for edge in (False, True):
        travel = lines(filled(region, spacing=2.5, edge=edge), "travel")
        middle = shapely.line_interpolate_point(travel, 0.5, normalized=True)
        deep = shapely.length(travel)[shapely.distance(middle, region.boundary) > 1.2].sum()
        assert (deep == 0) if edge else (deep > 20)


@pytest.mark.parametrize("spacing", [0.3, 0.4, 2.5])
def test_rows_keep_their_distance(spacing):
    rows = hatch(SHAPES["star"], 0.3, spacing)
    assert rows.spacing == pytest.approx(spacing) and np.diff(np.unique(rows.across)) == pytest.approx(
        spacing, rel=1e-6
    )
    across = np.asarray(SHAPES["star"].exterior.coords) @ rows.frame.turn[1]
    assert rows.across.min() - across.min() <= spacing / 2 + 1e-9 >= across.max() - rows.across.max()


@pytest.mark.steady
@settings(max_examples=60)
@given(st.sampled_from(sorted(KINDS)), st.integers(0, 10**6), st.floats(0.05, 1.5), st.floats(0.3, 2.0))
def test_rows_are_what_lines_cut_out_of_any_region(kind, seed, angle, spacing):
    for region in ugly(kind, seed)[:2]:
        rows = hatch(region, angle, spacing)
        ends = np.array([[-200.0, 0.0], [200.0, 0.0]])
        across = rows.levels
        cuts = shapely.linestrings(
            (ends[None] + np.stack([np.zeros_like(across), across], axis=1)[:, None]) @ rows.frame.turn
        )
        wanted = shapely.length(shapely.intersection(cuts, region)).sum()
        assert (rows.right - rows.left).sum() == pytest.approx(wanted, abs=0.03 * (len(rows.row) + 1))
        sections = sections_of(rows, region)
        assert len(np.unique(sections.section)) == len(sections.top)
        one, other = overlaps(rows)
        assert (rows.row[other] == rows.row[one] + 1).all()
        for way in joins(rows, flat_rings(region, rows.frame), region, sections_of(rows, region)):
            path = way.path @ rows.frame.turn
            assert shapely.distance(shapely.points(path), region).max(initial=0.0) < 0.05


@settings(max_examples=40)
@given(st.sampled_from(sorted(KINDS)), st.integers(0, 10**6), st.floats(-3, 3), st.sampled_from(sorted(staggers())))
def test_any_region_is_filled_inside(kind, seed, angle, stagger):
    for region in ugly(kind, seed)[:2]:
        strands = filled(region, angle, stagger=stagger)
        if not strands:
            continue
        xy = np.concatenate([one.xy for one in strands])
        assert np.isfinite(xy).all()
        assert shapely.distance(shapely.points(xy), region).max() <= PULL + 0.1
        travel = lines(strands, "travel")
        if len(travel):
            assert shapely.length(shapely.difference(travel, region.buffer(PULL + 0.1))).max() < 0.3


@pytest.mark.parametrize("stagger", ["plain", "brick"])
def test_penetrations_of_three_rows_never_line_up(stagger):
    xy = filled(box(-20, -10, 20, 10), stagger=stagger)[0].xy
    inner = xy[(np.abs(xy[:, 0]) < 18)]
    rows = [np.sort(inner[np.abs(inner[:, 1] - y) < 0.05, 0]) for y in np.unique(np.round(inner[:, 1], 2))]
    for one, two, three in zip(rows[:-2], rows[1:-1], rows[2:], strict=True):
        near = np.abs(one[:, None] - two[None]).min(axis=1) < 0.5
        assert not (near & (np.abs(one[:, None] - three[None]).min(axis=1) < 0.5)).any()


def test_sewing_begins_near_a_chosen_place():
    for start in ((-24.0, -19.0), (24.0, 19.0)):
        first = filled(box(-25, -20, 25, 20), start=start)[0].xy[0]
        assert np.linalg.norm(first - start) < 51 and np.sign(first[1]) == np.sign(start[1])


@pytest.mark.parametrize(
    ("numbers", "words"),
    [
        ((0.0, 0.0, 4.0), "spacing of a fill cannot be 0: use 0.1 to 10"),
        ((0.0, float("nan"), 4.0), "spacing of a fill cannot be nan"),
        ((float("inf"), 0.4, 4.0), "angle of a fill cannot be inf"),
        ((0.0, 0.4, 40.0), "length of a fill cannot be 40"),
    ],
)
def test_impossible_numbers_are_told(numbers, words):
    with pytest.raises(BadInput, match=words):
        fill(Point(0, 0).buffer(10), "decoration", FillSewing(*numbers))
    with pytest.raises(BadInput, match="no stagger 'tweed'"):
        fill(Point(0, 0).buffer(10), "decoration", FillSewing(0.0, 0.4, 4.0, "tweed"))


def test_a_filled_piece_lays_no_cloth_and_needs_no_edge_cover():
    job = job_of(SHAPES["two_holes"], box(40, 0, 60, 20), base="felt")
    job = change(job, pieces=[change(job.pieces[0], construct="fill"), job.pieces[1]])
    build = build_job(job)
    filled_, laid = build.pieces
    assert edge_cover_of(filled_) is None and edge_cover_of(laid) is not None and build.cut == [laid]
    assert {stop.step.piece for stop in build.plan.stops} == {"p2"}
    values = {key: value.value for key, value in filled_.values.items()}
    assert values["fill_spacing"] == 0.45 and values["fill_underlay"] == "edge_rows"
    told = report(build)
    assert [one["piece"] for one in told["proofs"]["edge_cover"]] == ["p2"] and "cut-p1" not in cut_svg(build)
    assert {"underlay", "decoration"} <= {block["role"] for block in told["blocks"]} | {
        list(CODE)[code] for code in np.unique(build.plan.role[build.plan.sewn])
    }
    assert construction("fill").materials == frozenset()


@pytest.mark.parametrize("construct", ["run", "bean", "zigzag", "satin_border", "fill"])
@pytest.mark.parametrize("name", ["ring", "needles", "slit_01", "comb", "sliver", "two_holes"])
def test_every_plain_construction_sews_any_shape_near_it(name, construct):
    job = job_of(SHAPES[name], base="felt")
    build = build_job(change(job, pieces=[change(job.pieces[0], construct=construct)]))
    (built,) = build.pieces
    assert done_of(built) and not build.plan.stops and edge_cover_of(built) is None
    xy = build.plan.xy[build.plan.sewn]
    values = {key.split("_", 1)[1]: value.value for key, value in built.values.items()}
    reach = values.get("width", 0.0) * values.get("share", 50.0) / 100 + values.get("pull", 0.0) + 0.15
    reach *= 1.9 if "width" in values else 1.0  # a mitre or lap of a corner just under 115 degrees
    assert shapely.distance(shapely.points(xy), SHAPES[name]).max() <= reach
    step = np.linalg.norm(np.diff(build.plan.xy, axis=0), axis=1)[build.plan.sewn[1:]]
    assert step.max() <= 12.1 + 2e-3


def test_a_bean_sews_every_stitch_again_and_an_inset_lies_inside():
    square = box(-20, -20, 20, 20)
    line = [len(build_job(change(job, pieces=[change(job.pieces[0], construct=kind, own=own)])).plan.xy)
            for job in [job_of(square, base="felt")]
            for kind, own in (("run", {}), ("bean", {}), ("bean", {"bean_repeats": "5"}))]  # fmt: skip
    assert line[1] > 2.4 * line[0] and line[2] > 4 * line[0]
    job = job_of(square, base="felt")
    for inset, bounds in ((3.0, 17.0), (-2.0, 22.0)):
        own = {"run_inset": inset}
        plan = build_job(change(job, pieces=[change(job.pieces[0], construct="run", own=own)])).plan
        assert np.abs(plan.xy[plan.sewn]).max() == pytest.approx(bounds, abs=0.05)


@pytest.mark.parametrize(("name", "trims"), [("square", 1), ("star", 2), ("ring", 2), ("two_holes", 2), ("comb", 3)])
def test_underlay_and_rows_are_sewn_on_without_a_trim_where_the_way_is_clear(name, trims):
    job = job_of(SHAPES[name], base="felt")
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="fill")]))
    assert build.figures.trims <= trims
    xy = build.plan.xy[build.plan.sewn]
    assert shapely.distance(shapely.points(xy), SHAPES[name]).max() <= 0.15 + 0.1
    roles = {code: int((build.plan.role == CODE[code]).sum()) for code in ("underlay", "decoration", "tie")}
    assert roles["underlay"] > 20 and roles["decoration"] > 300 and roles["tie"] <= 8 * trims
    rows = build.plan.sewn[1:] & (build.plan.role[1:] != CODE["travel"])
    stitch = shapely.linestrings(np.stack([build.plan.xy[:-1], build.plan.xy[1:]], axis=1)[rows])
    assert shapely.length(shapely.difference(stitch, SHAPES[name].buffer(0.3))).max() < 0.3


@pytest.mark.parametrize("spacing", [0.4, 1.5, 2.5])
def test_sparse_rows_of_arms_side_by_side_never_travel_across_the_gap(spacing):
    zigzag = LineString([(4 * nth, 30 * (nth % 2)) for nth in range(12)]).buffer(0.6)
    for angle in (-0.6, 0.0, 0.9):
        strands = filled(zigzag, angle, spacing)
        assert len(strands) == 1
        stitches = lines(strands)
        assert shapely.length(shapely.difference(stitches, zigzag.buffer(PULL + 0.12))).max() < 0.15


def test_a_ramp_lies_between_its_ends_and_rows_are_even_outside_it():
    rows = rows_of(box(-20, -30, 20, 30), FillSewing(0.0, 0.4, 4.0, last=1.2, ramp=(0.25, 0.75)))
    level = np.sort([float(line[0, 1]) for line in rows])
    step, middle = np.diff(level), (level[1:] + level[:-1]) / 2
    assert step[middle < -15.5] == pytest.approx(0.4, rel=0.02) and step[middle > 16] == pytest.approx(1.2, rel=0.02)
    inside = (middle > -14) & (middle < 14)
    assert (np.diff(step[inside]) > 0).all() and step[inside][len(step[inside]) // 2] == pytest.approx(
        np.interp(middle[inside][len(step[inside]) // 2], (-15, 15), (0.4, 1.2)), rel=0.03
    )
    whole = rows_of(box(-20, -30, 20, 30), FillSewing(0.0, 0.4, 4.0, last=1.2))
    assert len(whole) == pytest.approx(60 * np.log(3) / 0.8, abs=1)
