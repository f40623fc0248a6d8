"""Corners of borders: where a mitre meets, what a lap covers, and what is left round."""

import numpy as np
import pytest
import shapely
from scipy.spatial import KDTree
from shapely import LineString, Point, Polygon, box

from core.shapes import SHAPES
from velamen.core.stitching.border import border_rails, edge_borders
from velamen.core.stitching.roles import CODE

ROUND = Point(0, 0).buffer(20, 64)
LENS = Point(-21, 0).buffer(24, 64).intersection(Point(21, 0).buffer(24, 64))  # its two tips are 58 degrees sharp
HALF = 1.5  # mm of the border on either side of the outline


def corner_stitches(region, corner):
    """Ends (n, 2) off and on the cloth of what could be sewn round a region."""
    (rails,) = border_rails(region, HALF, HALF, 0.0, corner)
    return rails.outer, rails.inner


def square_on(outer, inner):
    """Share of the stitches that stand square on a side of a box."""
    return (np.abs(outer - inner).min(axis=1) < 0.1).mean()


def test_a_mitre_is_square_to_both_sides_and_ends_on_the_diagonal():
    outer, inner = corner_stitches(box(-20, -20, 20, 20), "mitred")
    assert square_on(outer, inner) > 0.98 > square_on(*corner_stitches(box(-20, -20, 20, 20), "rounded")) + 0.1
    short = np.linalg.norm(outer - inner, axis=1) < 2 * HALF - 0.05
    assert short.any()
    assert np.abs(np.abs(inner[short][:, 0]) - np.abs(inner[short][:, 1])).max() < 0.05


def test_a_lap_keeps_every_stitch_whole_over_all_of_the_corner():
    outer, inner = corner_stitches(box(-20, -20, 20, 20), "lapped")
    assert square_on(outer, inner) == 1.0
    assert np.linalg.norm(outer - inner, axis=1) == pytest.approx(2 * HALF, abs=0.01)
    for x, y in ((-1, -1), (-1, 1), (1, -1), (1, 1)):  # the tip has thread of one side or the other
        tip = np.array([x, y]) * (20 + HALF)
        assert np.linalg.norm(outer - tip, axis=1).min() < 0.1


@pytest.mark.parametrize(("turn", "kind"), [(90, "mitred"), (110, "lapped")])
def test_by_its_angle_a_corner_is_mitred_and_from_100_degrees_on_lapped(turn, kind):
    off = np.radians(180 - turn)
    side = Polygon([(0, 0), (40, 0), (40 - 40 * np.cos(off), 40 * np.sin(off))])
    if turn == 90:
        side = box(0, 0, 40, 40)
    by_angle, wanted = corner_stitches(side, "auto"), corner_stitches(side, kind)
    tip = np.array([40.0, 0.0])
    near = [np.linalg.norm(outer - tip, axis=1) < 4.0 for outer, _ in (by_angle, wanted)]
    assert np.array_equal(by_angle[0][near[0]], wanted[0][near[1]])


@pytest.mark.parametrize("region", [ROUND, LENS, box(0, 0, 5, 5)])
def test_what_is_round_too_sharp_or_too_short_is_left_as_it_is(region):
    left = [corner_stitches(region, corner) for corner in ("rounded", "auto")]
    assert np.array_equal(left[0][0], left[1][0])


BITTEN = {
    "rectangle": box(-30, -20, 30, 20),
    "triangle": Polygon([(0, -25), (22, 13), (-22, 13)]),
    "angle": Polygon([(-20, -20), (20, -20), (20, 0), (0, 0), (0, 20), (-20, 20)]),
    "star": SHAPES["star"],
    "small": box(-4, -4, 4, 4),
    "comb": SHAPES["comb"].simplify(0.01),
}


@pytest.mark.parametrize("stitch", ["estitch", "blanket"])
@pytest.mark.parametrize("name", BITTEN)
def test_an_edge_run_reaches_every_corner_and_no_bite_crosses_another(name, stitch):
    region = BITTEN[name]
    (sewn,) = edge_borders(region, "border", stitch, 0.0, 3.0, 2.5, "auto")
    ring = shapely.get_coordinates(region.exterior)[:-1]
    line = LineString(sewn.xy)
    assert shapely.distance(shapely.points(ring), line).max() < 0.08
    ends = np.stack([sewn.xy[:-1], sewn.xy[1:]], axis=1)[sewn.role[1:] != CODE["tie"]]
    inwards = shapely.distance(shapely.points(ends), region.exterior).max(axis=1) > 0.3
    bites = shapely.linestrings(ends[inwards])
    one, other = shapely.STRtree(bites).query(bites, "crosses")
    assert not (other - one > 2).any()
    # On every corner a bite as long as all, along the line that halves it.
    for before, corner, after in zip(np.roll(ring, 1, axis=0), ring, np.roll(ring, -1, axis=0), strict=True):
        ways = [(one - corner) / np.linalg.norm(one - corner) for one in (before, after)]
        half = ways[0] + ways[1]
        half *= 3.0 / np.linalg.norm(half)
        inner = corner + (half if region.contains(Point(corner + 0.1 * half)) else -half)
        if region.exterior.distance(Point(inner)) > 0.8:
            assert np.hypot(*(sewn.xy - inner).T).min() < 0.6, corner


@pytest.mark.parametrize(("outside", "inside"), [(1.5, 1.5), (2.0, 2.0), (0.5, 2.5)])
@pytest.mark.parametrize(
    "name", ["star", "comb", "triangle", "coast", "circle", "small_circle", "hole", "small_hole"]
)
def test_an_overedge_makes_no_knots_where_one_side_comes_together(name, outside, inside):
    circles = {"circle": 3.0, "small_circle": 2.0, "hole": 3.0, "small_hole": 1.5}
    if name in circles:
        disc = Point(0, 0).buffer(circles[name], 32)
        region = box(-15, -15, 15, 15).difference(disc) if "hole" in name else disc
    else:
        region = {**SHAPES, **BITTEN}[name]
    for sewn in edge_borders(region, "border", "overedge", outside, inside, 0.5):
        needle = sewn.xy[sewn.role != CODE["tie"]]
        assert KDTree(needle).query_ball_point(needle, 0.25, return_length=True).max() <= 7
