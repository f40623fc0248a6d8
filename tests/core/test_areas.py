"""Contour rings, stipple, cross-stitch, blends: inside, without a trim, even; and what they refuse."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import LineString, Point, box

from core.sewn_density import off_thread
from core.shapes import SHAPES
from core.ugly import KINDS, ugly
from velamen.core.errors import BadInput
from velamen.core.stitching.area_underlay import UNDERLAYS, area_underlay
from velamen.core.stitching.blend import blend, shared_out
from velamen.core.stitching.contour import contour
from velamen.core.stitching.cross import cross_stitch
from velamen.core.stitching.fill import FillSewing, fill
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.scribble import scribble
from velamen.core.stitching.stagger import shares_of, staggers
from velamen.core.stitching.stipple import stipple


def rings(region, style="rings", spacing=0.4):
    return contour(region, "decoration", spacing, 2.5, style)


def points_of(strands):
    return np.concatenate([one.xy for one in strands])


def spots_in(region, step):
    left, top, right, bottom = region.bounds
    spots = np.mgrid[left:right:step, top:bottom:step].reshape(2, -1).T
    return spots[shapely.contains_xy(region, spots[:, 0], spots[:, 1])]


@pytest.mark.parametrize("style", ["rings", "spiral"])
@pytest.mark.parametrize("name", SHAPES)
def test_contours_echo_the_outline_as_one_strand(name, style):
    region = SHAPES[name]
    sewn = rings(region, style)
    assert len(sewn) == 1
    assert shapely.distance(shapely.points(points_of(sewn)), region).max() < 0.15
    far = off_thread(spots_in(region, 0.5), sewn[0].xy)
    assert far.max() <= 0.5 and np.quantile(far, 0.99) <= 0.35
    assert not (sewn[0].role == CODE["travel"]).any()


@pytest.mark.parametrize("spacing", [0.8, 1.6])
@pytest.mark.parametrize("name", ["square", "ring", "star", "coast", "comb", "spiral", "neck", "leaf", "thin_ring"])
def test_a_spiral_winds_on_without_crossing_itself(name, spacing):
    (sewn,) = rings(SHAPES[name], "spiral", spacing)
    sides = shapely.linestrings(np.stack([sewn.xy[:-1], sewn.xy[1:]], axis=1))
    one, other = shapely.STRtree(sides).query(sides, predicate="crosses")
    assert (one < other).sum() <= 12  # of some hundred to two thousand stitches, where detours leave a turn
    assert off_thread(spots_in(SHAPES[name], 0.5), sewn.xy).max() <= spacing


def test_a_spiral_begins_where_it_is_told_to():
    (sewn,) = contour(box(-10, -10, 10, 10), "decoration", 1.0, 2.5, "spiral", start=(10.0, 3.0))
    assert np.hypot(*(sewn.xy[0] - (10.0, 3.0))) < 0.1
    assert np.abs(sewn.xy[-1]).max() < 1.0
    assert off_thread(spots_in(box(-10, -10, 10, 10), 0.5), sewn.xy).max() <= 0.8


def test_rings_of_a_square_lie_a_spacing_apart():
    xy = rings(box(-10, -10, 10, 10), spacing=1.0)[0].xy
    depth = 10 - np.abs(xy).max(axis=1)
    on_ring = np.abs(depth - np.round(depth)) < 0.02
    assert on_ring.mean() > 0.8 and set(np.round(depth[on_ring])) == set(range(10))


@pytest.mark.parametrize("spacing", [1.2, 3.0])
@pytest.mark.parametrize("name", SHAPES)
def test_a_stipple_is_one_thread_at_any_spacing(name, spacing):
    (sewn,) = stipple(SHAPES[name], "decoration", spacing, 2.0)
    assert LineString(sewn.xy[sewn.role != CODE["tie"]]).is_simple


@pytest.mark.parametrize("name", SHAPES)
def test_a_stipple_is_one_line_that_never_crosses_itself(name):
    region = SHAPES[name]
    (sewn,) = stipple(region, "decoration", 2.0, 2.0)
    assert LineString(sewn.xy[sewn.role != CODE["tie"]]).is_simple
    assert shapely.distance(shapely.points(sewn.xy), region).max() < 0.1
    far = off_thread(spots_in(region, 0.7), sewn.xy)
    assert far.max() <= (4.2 if name == "sliver" else 2.6)


@pytest.mark.parametrize("spacing", [1.5, 3.0])
@pytest.mark.parametrize("name", ["square", "star", "comb", "spiral", "coast", "two_holes", "needles", "sliver"])
def test_a_scribble_is_one_line_of_round_loops_that_overlap_all_over(name, spacing):
    region = SHAPES[name]
    (sewn,) = scribble(region, "decoration", spacing, 2.5)
    line = LineString(sewn.xy[sewn.role != CODE["tie"]])
    assert shapely.distance(shapely.points(sewn.xy), region).max() < 0.15
    far = off_thread(spots_in(region, 0.7), shapely.get_coordinates(line)) / spacing
    assert far.max(initial=0.0) <= 2.0 and (far > 0.8).mean() < 0.02
    steps = np.diff(shapely.get_coordinates(line), axis=0)
    turned = np.diff(np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))).sum() / (2 * np.pi)
    assert abs(turned) > 0.05 * region.area / spacing**2  # it goes round, the same way
    assert not line.is_simple
    assert np.hypot(*(scribble(region, "decoration", spacing, 2.5)[0].xy - sewn.xy).T).max() == 0


@pytest.mark.steady
@settings(max_examples=25)
@given(st.sampled_from(sorted(KINDS)), st.integers(0, 10**6), st.floats(0.8, 4.0))
def test_a_stipple_of_any_region_never_crosses_itself(kind, seed, spacing):
    for region in ugly(kind, seed)[:1]:
        for sewn in stipple(region, "decoration", spacing, 2.0):
            line = LineString(sewn.xy[sewn.role != CODE["tie"]])
            assert line.is_simple or line.length < 4
            assert shapely.distance(shapely.points(sewn.xy), region).max() < 0.1


def test_crosses_have_the_same_arm_on_top_and_lie_inside():
    region = SHAPES["two_holes"]
    (sewn,) = cross_stitch(region, "decoration", 2.0)
    assert shapely.distance(shapely.points(sewn.xy), region).max() < 0.1
    step = np.round(np.diff(sewn.xy, axis=0), 6)
    arm = (np.abs(np.abs(step) - 2.0) < 1e-6).all(axis=1)
    down = step[arm][:, 0] * step[arm][:, 1] > 0
    middle = np.round((sewn.xy[:-1] + sewn.xy[1:])[arm] / 2, 3)
    last = {}
    both = {}
    for spot, kind in zip(map(tuple, middle.tolist()), down.tolist(), strict=True):
        last[spot] = kind
        both.setdefault(spot, set()).add(kind)
    spots = np.array(list(both))
    cells = shapely.box(*(spots - 1).T, *(spots + 1).T)
    whole = shapely.covers(region.buffer(0.05), cells)
    arms = np.array([len(kinds) for kinds in both.values()])
    assert whole.sum() > 300 and (arms[whole] < 2).sum() <= 2  # ties
    assert not any(on_top for on_top, is_whole in zip(last.values(), whole, strict=True) if is_whole)
    # the others are half ones, where the outline goes through their cell
    assert 10 < (~whole).sum() < 60 and (shapely.area(shapely.intersection(cells[~whole], region)) > 0.45 * 4).all()


def test_the_grid_of_crosses_is_fitted_to_its_shape():
    for wide, high in ((31.0, 20.6), (17.1, 43.0)):
        (sewn,) = cross_stitch(box(0, 0, wide, high), "decoration", 2.0)
        assert np.abs(np.concatenate([sewn.xy.min(axis=0), sewn.xy.max(axis=0) - [wide, high]])).max() < 1e-6


@pytest.mark.parametrize("name", ["spiral", "neck", "star", "slit_01", "coast"])
def test_crosses_of_scattered_cells_are_all_whole(name):
    sewn = cross_stitch(SHAPES[name], "decoration", 2.0)
    xy = points_of(sewn)
    assert shapely.distance(shapely.points(xy), SHAPES[name]).max() < 0.1
    steps = np.concatenate([np.linalg.norm(np.diff(one.xy, axis=0), axis=1) for one in sewn])
    assert steps.max() <= 2.0 * 1.12 * np.sqrt(2) + 0.02
    assert cross_stitch(SHAPES["sliver"], "decoration", 2.0) == []


@pytest.mark.parametrize("places", [[0.0, 1.0], [0.0, 0.5, 1.0], [0.1, 0.3, 0.5, 0.7, 0.8, 0.95]])
@pytest.mark.parametrize("name", ["square", "ring", "two_holes", "star"])
def test_densities_of_a_blend_add_up_to_the_plain_fill(name, places):
    region = SHAPES[name]
    sewn = blend(region, "decoration", 0.4, 0.4, 4.0, places)
    plain = fill(region, "decoration", FillSewing(0.4, 0.4, 4.0))
    assert len(sewn) == len(places) and all(len(one) == 1 for one in sewn)

    def rows_of(strands):
        pairs = [np.stack([one.xy[:-1], one.xy[1:]], axis=1)[one.role[1:] == CODE["decoration"]] for one in strands]
        pairs = np.concatenate(pairs)
        turn = np.arctan2(*(pairs[:, 1] - pairs[:, 0]).T[::-1])
        along = np.abs(np.sin(turn - 0.4)) < 0.08  # the rows themselves, not their ends
        return shapely.STRtree(shapely.linestrings(pairs[along]))

    def thread_in(rows, window):
        near = rows.geometries[rows.query(window)]
        return shapely.length(shapely.intersection(near, window)).sum()

    sewn, plain = [rows_of(one) for one in sewn], rows_of(plain)
    left, top, right, bottom = region.bounds
    for x in np.arange(left + 5, right - 5, 9.0):
        for y in np.arange(top + 5, bottom - 5, 9.0):
            window = Point(x, y).buffer(4)
            if region.contains(window):
                together = sum(thread_in(one, window) for one in sewn)
                assert together == pytest.approx(thread_in(plain, window), rel=0.1)


def test_every_row_of_a_blend_has_one_thread_and_colours_pass_over():
    at = np.linspace(0, 1, 200)
    owner = shared_out(at, np.array([0.0, 0.5, 1.0]))
    share = [(owner[part] == 1).mean() for part in (slice(0, 40), slice(80, 120), slice(160, 200))]
    assert share[0] < 0.25 and share[1] > 0.8 and share[2] < 0.25
    assert set(owner[:90]) == {0, 1} and set(owner[110:]) == {1, 2}


@pytest.mark.parametrize("key", sorted(staggers()))
@pytest.mark.parametrize("length", [3.5, 4.0, 4.5])
def test_no_stagger_lets_three_rows_line_up(key, length):
    shares = shares_of(key)
    rows = np.arange(3 * len(shares))
    apart = [np.abs((shares[(rows + step) % len(shares)] - shares[rows % len(shares)] + 0.5) % 1 - 0.5) * length
             for step in (1, 2)]  # fmt: skip
    assert not ((apart[0] < 0.5) & (apart[1] < 0.5)).any()
    assert len(staggers()) == 7


@pytest.mark.parametrize("recipe", [key for key, _ in UNDERLAYS])
def test_underlays_lie_under_their_area(recipe):
    region = SHAPES["two_holes"]
    sewn = area_underlay(region, recipe, 0.3)
    assert bool(sewn) == (recipe != "none")
    for one in sewn:
        assert shapely.distance(shapely.points(one.xy), region.buffer(-0.1)).max() < 0.05
        assert set(np.unique(one.role)) <= {CODE["underlay"], CODE["tie"], CODE["travel"]}


SQUARE = box(-10, -10, 10, 10)
REFUSED = {
    "contour spacing": (lambda: rings(SQUARE, spacing=0.0), "spacing of contour rings cannot be 0: use 0.2 to 20"),
    "contour nan": (lambda: rings(SQUARE, spacing=float("nan")), "cannot be nan"),
    "stipple spacing": (lambda: stipple(SQUARE, "x", 0.1, 2.0), "spacing of a stipple cannot be 0.1: use 0.6 to 20"),
    "stipple fine": (lambda: stipple(box(0, 0, 900, 900), "x", 0.6, 2.0), "too fine for 8100 cm²"),
    "cross size": (lambda: cross_stitch(SQUARE, "x", 40.0), "size of a cross-stitch cannot be 40: use 0.8 to 8"),
    "cross many": (lambda: cross_stitch(box(0, 0, 900, 900), "x", 0.8), "too small for 8100 cm²"),
    "blend threads": (lambda: blend(SQUARE, "x", 0, 0.4, 4, [0.0]), "A blend of 1 threads cannot be sewn"),
    "blend places": (lambda: blend(SQUARE, "x", 0, 0.4, 4, [0.5, 0.2]), "must grow from the first to the last"),
    "blend spacing": (lambda: blend(SQUARE, "x", 0, 0.0, 4, [0.0, 1.0]), "spacing of a fill cannot be 0"),
}


@pytest.mark.parametrize("case", REFUSED)
def test_impossible_areas_are_told(case):
    sew, words = REFUSED[case]
    with pytest.raises(BadInput, match=words):
        sew()
