"""Motifs: every figure of the library, and copies of them over areas, along lines and in columns, in one thread."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import LineString, Point, Polygon, box

from core.jobs import job_of, why_lost
from core.laces import lace
from core.shapes import SHAPES
from velamen.core.artwork.motif import figure_of, path_of
from velamen.core.building.build import build_job
from velamen.core.edits.shapes.drawing import kept_apart
from velamen.core.edits.stack.own_values import with_own
from velamen.core.errors import BadInput
from velamen.core.geometry.clipped import clipped
from velamen.core.job.document import change
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Shape
from velamen.core.materials.library import library_with, shipped
from velamen.core.materials.records import Motif
from velamen.core.stitching.motif_copies import ACROSS, OUT, PAIRED, TURNS, Pattern, rows_over
from velamen.core.stitching.motif_fill import motif_fill, open_share
from velamen.core.stitching.motif_line import LineMotifs, motif_lines, placed
from velamen.core.stitching.motif_pitch import pitch, row_pitch
from velamen.core.stitching.motif_thread import Sewing, whole_loops
from velamen.core.stitching.roles import CODE

FIGURES = {key: figure_of(motif) for key, motif in shipped().motifs.items()}
CLOSED = [key for key, figure in FIGURES.items() if figure.closed]
OPEN = [key for key in FIGURES if key not in CLOSED]
UGLY = ("star", "coast", "comb", "ring", "two_holes", "neck", "notch", "spiral", "needles", "wedge", "leaf", "slit_3")
SEWING = Sewing("motif", 2.2)


def test_there_are_thirty_figures_and_more_each_one_line_on_its_base():
    assert len(FIGURES) >= 30 and len(OPEN) >= 6
    for key, figure in FIGURES.items():
        line = figure.line
        assert np.allclose(line[0], 0) and abs(np.ptp(line[:, 1]) - 1) < 1e-6, key
        assert abs(line[-1, 1]) < 0.06 and 0.3 < figure.width < 2.6, key
        assert np.linalg.norm(np.diff(line, axis=0), axis=1).max() < 2.2 and len(line) < 400, key


@pytest.mark.parametrize(
    "path", ["", "M0,0L5,0", "M0,0L5,-5L8,-9", "M0,0L3,-4L6,0M9,0L12,-4L15,0", "rubbish", "M0,0Lx"]
)
def test_a_path_that_is_no_motif_is_told_in_a_sentence(path):
    with pytest.raises(BadInput, match=r"[Mm]otif 'Odd'"):
        figure_of(Motif("odd", "Odd", path))


@pytest.mark.parametrize("gap", [0.0, 0.4, 2.0])
@pytest.mark.parametrize("key", FIGURES)
def test_neighbours_keep_their_gap_and_no_more(key, gap):
    figure, size = FIGURES[key], 6.0
    step = pitch(figure, figure, size, gap)
    line = LineString(figure.line * size)
    near = [
        shapely.distance(line, shapely.transform(line, lambda xy, far=far: xy + np.array([far, 0])))
        for far in (step, step + 3)
    ]
    assert near[0] >= gap - 1e-6 and near[1] >= gap - 1e-6 and near[0] <= gap + 0.4


@pytest.mark.parametrize("key", CLOSED)
def test_negative_gaps_make_figures_overlap(key):
    figure, size = FIGURES[key], 6.0
    line = LineString(figure.line * size)
    apart, over = (pitch(figure, figure, size, gap) for gap in (0.0, -0.8))
    moved = shapely.transform(line, lambda xy: xy + np.array([over, 0]))
    assert over < apart and (line.crosses(moved) or line.overlaps(moved))
    up = row_pitch((figure,), (figure,), size, (over,), over / 2, (False, False), -0.8)
    assert up < row_pitch((figure,), (figure,), size, (over,), over / 2, (False, False), 0.4)


def over(name, *, cut=False, key="heart", size=5.0, gap=0.6, times=1, **more):
    pattern = Pattern((FIGURES[key],), size, gap, gap, **more)
    return motif_fill(SHAPES[name], pattern, Sewing("motif", 2.2, times), cut)


@pytest.mark.parametrize(
    ("name", "cut"), [(one, cut) for one in UGLY for cut in (False, True) if (one, cut) != ("coast", False)]
)
def test_a_fill_is_one_thread_and_nothing_lies_outside(name, cut):
    region = SHAPES[name]
    every = itertools.product(("heart", "wave"), (0.6, -0.6))
    for key, gap in [("wave", -0.6)] if name == "coast" else every:  # of 1,500 points, cut all along its edge
        sewn = over(name, cut=cut, key=key, gap=gap, size=4.0)
        if not sewn:
            assert not cut and region.buffer(-1.6).area < 0.2 * region.area
            continue
        (one,) = sewn
        gaps = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
        assert gaps.max() < 2.6 + 0.1 and (gaps > 0).all()
        assert shapely.distance(shapely.points(one.xy), region).max() < 0.05
        lines = shapely.linestrings(np.stack([one.xy[:-1], one.xy[1:]], axis=1))
        assert shapely.length(shapely.difference(lines, region.buffer(0.12))).max() < 0.35


@pytest.mark.parametrize("name", UGLY)
def test_no_figure_comes_closer_than_its_gap(name):
    for turn, _ in TURNS:
        rows = rows_over(SHAPES[name], Pattern((FIGURES["leaf"],), 4.0, 0.7, 0.7, turn=turn, angle=0.3), whole=True)
        lines = np.array([LineString(line) for line in whole_loops(rows, SHAPES[name])], dtype=object)
        one, other = shapely.STRtree(lines).query(lines, "dwithin", 0.69)
        assert (one == other).all() and shapely.covers(SHAPES[name].buffer(0.02), lines).all()


def test_figures_in_turn_and_growing_keep_their_gap():
    region = box(-40, -30, 40, 30)
    for more in ({"growing": ACROSS, "grown": 2.0}, {"turn": PAIRED}, {"growing": OUT, "grown": 2.0}):
        rows = rows_over(region, Pattern((FIGURES["heart"], FIGURES["star"]), 4.0, 0.6, 0.6, **more), whole=True)
        lines = np.array([LineString(line) for line in whole_loops(rows, region)], dtype=object)
        heights = shapely.bounds(lines)[:, 3] - shapely.bounds(lines)[:, 1]
        one, other = shapely.STRtree(lines).query(lines, "dwithin", 0.55)
        assert len(lines) > 40 and (one == other).all()
        assert (np.ptp(heights) > 2.0) == ("growing" in more)


def test_a_growing_fill_goes_from_small_to_large():
    rows = rows_over(
        box(-30, -30, 30, 30), Pattern((FIGURES["ring"],), 3.0, 0.5, 0.5, growing=ACROSS, grown=3.0), whole=False
    )
    heights = [np.ptp(row.lines[0][:, 1]) for row in rows]
    assert heights == sorted(heights) and abs(heights[0] - 3.0) < 0.01 and heights[-1] > 8.0


def test_of_hearts_no_outline_is_sewn_twice_and_hops_are_no_longer_than_a_gap():
    (one,) = over("coast", size=6.0)
    travel = one.role[1:] == CODE["travel"]
    step = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
    rows = rows_over(SHAPES["coast"], Pattern((FIGURES["heart"],), 6.0, 0.6, 0.6), whole=True)
    outlines = sum(LineString(line).length for line in whole_loops(rows, SHAPES["coast"]))
    assert step[~travel].sum() < 1.02 * outlines + 6 and step[travel].max() < 1.0


def test_sewn_twice_every_outline_is_gone_round_twice():
    once, twice = (over("square", size=6.0, times=times)[0] for times in (1, 2))
    assert 1.85 < len(twice.xy) / len(once.xy) < 2.1


def test_the_open_share_is_told_with_a_smaller_size():
    job = job_of(SHAPES["star"], base="felt", own={"motif_size": 14.0})
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="motif_fill")]))
    (told,) = [one for one in build.findings if one.code == "motif_open"]
    assert "have no figure near" in told.message
    square = box(0, 0, 10, 10)
    assert open_share(square, [], 1.0) == 1.0
    assert (
        0.4
        < open_share(square, motif_fill(box(0, 0, 5, 10), Pattern((FIGURES["ring"],), 2, 0, 0), SEWING, True), 1)
        < 0.5
    )


@given(st.integers(0, 10_000))
@settings(max_examples=40)
def test_a_line_is_clipped_in_its_own_order_however_it_crosses_itself(seed):
    random = np.random.default_rng(seed)
    line = np.cumsum(random.normal(size=(40, 2)) * 4, axis=0)
    region = Point(0, 0).buffer(9).difference(box(-2, -2, 3, 1))
    pieces = clipped(line, region)
    whole = sum(LineString(one).length for one in pieces)
    each = shapely.linestrings(np.stack([line[:-1], line[1:]], axis=1))
    assert abs(whole - shapely.length(shapely.intersection(each, region)).sum()) < 1e-6
    drawn = LineString(line)
    assert all(drawn.distance(Point(spot)) < 1e-9 for one in pieces for spot in one[[0, -1]])


ROUND = np.stack(
    [20 * np.cos(np.linspace(0, 2 * np.pi, 90)[:-1]), 12 * np.sin(np.linspace(0, 2 * np.pi, 90)[:-1])], axis=1
)
BENT = np.array([(-40.0, 0), (-10, 8), (20, -6), (40, 0)])


@pytest.mark.parametrize("stand", ["turned", "upright", "by_turns", "inward"])
def test_a_ring_takes_a_whole_number_of_figures_evenly(stand):
    for key in ("leaf", "wave", "shell"):
        closed = np.concatenate([ROUND, ROUND[:1]])
        copies, links = placed(closed, True, LineMotifs((FIGURES[key],), 4.0, 0.5, stand))
        sizes = [max(np.ptp(copy, axis=0)) for copy in copies] if stand == "upright" else [4.0]
        assert len(copies) == len(links) > 12 and np.ptp(sizes) < 0.01
        middles = np.array([copy[[0, -1]].mean(axis=0) for copy in copies])
        apart = np.linalg.norm(middles - np.roll(middles, 1, axis=0), axis=1)
        assert apart.max() < 1.25 * apart.min()
        (one,) = motif_lines([ROUND], True, LineMotifs((FIGURES[key],), 4.0, 0.5, stand), SEWING)
        assert (
            np.linalg.norm(one.xy[0] - one.xy[-1]) < 1.0
            and np.linalg.norm(np.diff(one.xy, axis=0), axis=1).max() < 2.4
        )


def test_figures_grow_along_a_line_and_reach_from_end_to_end():
    copies, _ = placed(BENT, False, LineMotifs((FIGURES["ring"],), 3.0, 0.5, grown=2.0))
    heights = [np.ptp(copy[:, 1]) for copy in copies]
    assert heights == sorted(heights) and heights[0] < 3.4 and heights[-1] > 5.6
    spots = np.concatenate(copies)
    assert spots[:, 0].min() < -37.5 and spots[:, 0].max() > 37.5


def test_by_turns_every_second_figure_stands_on_the_other_side():
    copies, _ = placed(np.array([(-30.0, 0), (30, 0)]), False, LineMotifs((FIGURES["leaf"],), 5.0, 0.5, "by_turns"))
    sides = [np.sign(copy[:, 1].mean()) for copy in copies]
    assert sides == [-1.0 if nth % 2 == 0 else 1.0 for nth in range(len(copies))]


@pytest.mark.parametrize("name", ["comb", "thin_ring", "ring", "spiral", "star", "leaf", "slit_3"])
@pytest.mark.parametrize("fit", ["width", "rows"])
def test_a_column_of_figures_stays_between_its_rails_in_one_thread(name, fit):
    job = job_of(SHAPES[name], base="felt", own={"motif_fit": fit, "motif_size": 3.0, "motif": "wave"})
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="motif_column")]))
    strands = [strand for one in build.pieces[0].sewn for strand in one.strands]
    assert len(strands) <= 1 and not build.lost
    for one in strands:
        assert shapely.distance(shapely.points(one.xy), SHAPES[name]).max() < 0.35


def test_each_figure_of_a_column_is_as_high_as_the_column_is_wide():
    wedge = Polygon([(-40, -2), (40, -8), (40, 8), (-40, 2)])
    job = job_of(wedge, base="felt", own={"motif": "peak", "motif_gap": 0.0})
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="motif_column")]))
    xy = build.pieces[0].sewn[0].strands[0].xy
    for left in (-30, -10, 10, 30):
        here = xy[np.abs(xy[:, 0] - left) < 9]
        assert abs(np.ptp(here[:, 1]) - (10 + 0.15 * left)) < 2.6


def test_motifs_of_a_shop_travel_with_the_job_and_one_that_is_gone_is_told():
    own = {"motifs": {"gull": {"name": "Gull", "path": "M-6,0C-4,-4 -1,-4 0,0C1,-4 4,-4 6,0"}}}
    assert figure_of(library_with(own).motifs["gull"]).closed is False
    job = lace((box(-20, -20, 20, 20), "motif_fill", {"motif": "gull", "motif_edge": "whole"}), base="felt")
    assert "no motif 'gull'" in why_lost(job)
    build = build_job(change(job, materials=own))
    assert not build.lost and build.figures.stitches > 100 and build.plan.blocks[0].role == "motif"


def test_a_figure_too_small_for_its_area_is_refused_in_a_sentence():
    with pytest.raises(BadInput, match="use larger ones"):
        motif_fill(box(-400, -400, 400, 400), Pattern((FIGURES["ring"],), 1.0, 0.0, 0.0), SEWING, False)
    line = Shape("s1", "line", [[(-500.0, 0.0), (500.0, 0.0)]], open=True)
    job = change(job_of(box(0, 0, 1, 1), own={"motif_size": 1.0, "motif_gap": -0.9}), shapes=[line])
    job = change(job, pieces=[change(job.pieces[0], construct="motif_line")])
    assert "Motifs of 1.0 mm are too small for a line of 1000 mm: use larger ones" in why_lost(job)


def test_the_second_figure_may_be_none_and_the_first_one_not():
    job = with_own(
        lace((box(-20, -20, 20, 20), "motif_fill", {"motif_second": "shell"})), ["p1"], "motif_second", "none"
    )
    assert job.pieces[0].own == {"motif_second": "none"} and not build_job(job).lost
    with pytest.raises(BadInput, match="Motif cannot be none"):
        with_own(job, ["p1"], "motif", "none")


def test_any_shape_or_line_becomes_a_motif_on_its_base():
    leaf = figure_of(Motif("own", "Own", path_of([np.array(SHAPES["leaf"].exterior.coords)], True, "Leaf")))
    assert (
        leaf.closed
        and abs(leaf.width - np.ptp(SHAPES["leaf"].bounds[::2]) / np.ptp(SHAPES["leaf"].bounds[1::2])) < 0.05
    )
    hook = np.array([(0.0, 0), (5, -9), (12, -6), (20, 8)])
    figure = figure_of(Motif("own", "Own", path_of([hook], False, "Hook")))
    assert not figure.closed and abs(figure.line[-1, 1]) < 1e-6 and figure.line[:, 1].min() < -0.9
    for rings, closed, why in (
        ([hook, hook], True, "cut-outs"), ([np.array([(0.0, 0), (5, 0.1), (10, 0)])], False, "too flat"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=why):
            path_of(rings, closed, "Hook")


def test_shapes_are_cut_by_those_above_but_for_the_overlap():
    job = job_of(box(0, 0, 20, 20), box(15, 0, 35, 20), box(30, 5, 50, 15))
    apart = kept_apart(job, ["s1", "s2", "s3"], 1.5)
    regions = [region_of(shape) for shape in apart.shapes]
    assert [region.bounds for region in regions] == [(0, 0, 16.5, 20), (15, 0, 35, 20), (30, 5, 50, 15)]
    assert abs(regions[0].intersection(regions[1]).area - 1.5 * 20) < 1.6
    assert abs(regions[1].area - (20 * 20 - 3.5 * 7)) < 0.1 and len(apart.pieces) == 3
    with pytest.raises(BadInput, match="wholly under"):
        kept_apart(job_of(box(5, 5, 8, 8), box(0, 0, 20, 20)), ["s1", "s2"], 1.0)
