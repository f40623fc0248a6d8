"""Corners of borders: where a mitre meets, what a lap covers, and what is left round."""

import numpy as np
import pytest
import shapely
from scipy.spatial import KDTree
from shapely import LineString, Point, Polygon, box

from core.jobs import job_of
from core.sewn_density import along, density, stitches
from core.shapes import SHAPES
from core.ugly import ugly
from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.core.stitching.border import SatinSewing, border_rails, edge_borders, sampled, satin_borders
from velamen.core.stitching.roles import CODE

ROUND = Point(0, 0).buffer(20, 64)
HALF = 1.5  # mm of the border on either side of the outline


def turning(radii, count):
    """A polygon about the origin whose corners lie at some radii by turns, the first at the top."""
    angle = np.pi / 2 + 2 * np.pi * np.arange(count) / count
    return Polygon(np.stack([np.cos(angle), np.sin(angle)], axis=1) * np.resize(radii, count)[:, None])


def rhomb(degrees, high):
    """One with tips of some degrees at top and bottom."""
    wide = high * np.tan(np.radians(degrees / 2))
    return Polygon([(0, high), (-wide, 0), (0, -high), (wide, 0)])


def letter(text, face, high):
    (one,) = lettering(text, face, high)
    return one.regions[0]


CORNERED = {
    "square": box(-20, -20, 20, 20), "small": box(-3, -3, 3, 3), "strip": box(-15, -3, 15, 3),
    "triangle": turning([23], 3), "small_triangle": turning([5.2], 3), "pentagon": turning([8], 5),
    "hexagon": turning([10], 6), "small_hexagon": turning([4], 6), "gear": turning([20, 16], 24),
    "star": turning([22, 8.4], 10), "small_star": turning([9, 3.4], 10),
    "sharp": rhomb(45, 20), "rhomb": rhomb(70, 14),
    "lens": Point(-21, 0).buffer(24, 64).intersection(Point(21, 0).buffer(24, 64)),
    "leaf": SHAPES["leaf"], "comb": SHAPES["comb"], "half": ROUND.intersection(box(-30, 0, 30, 30)),
    "angle": Polygon([(-20, -20), (20, -20), (20, 0), (0, 0), (0, 20), (-20, 20)]),
    "plus": box(-15, -5, 15, 5).union(box(-5, -15, 5, 15)),
    "steps": Polygon([(0, 0), (24, 0), (24, 6), (18, 6), (18, 12), (12, 12), (12, 18), (6, 18), (6, 24), (0, 24)]),
    "house": Polygon([(-9, -9), (9, -9), (9, 5), (0, 13), (-9, 5)]),
    "frame": box(-20, -20, 20, 20).difference(box(-9, -9, 9, 9)),
    "R": letter("R", "merriweather", 30), "E": letter("E", "alfa-slab-one", 30), "A": letter("A", "graduate", 30),
}  # fmt: skip


def tips(region, outside, inside):
    """Where the longer rails of a region's corners meet (n, 2), and the places of the corners themselves."""
    found = []
    for corners in sampled(region).corners:
        for corner in corners:
            big, sign = (outside, 1.0) if corner.turn > 0 else (inside, -1.0)
            aside = sign * np.array([corner.before[1], -corner.before[0]])
            found.append((corner.place + big * (np.tan(abs(corner.turn) / 2) * corner.before + aside), corner.place))
    return np.array([one for one, _ in found]), np.array([place for _, place in found])


def sewn_border(region, how, pull=0.0):
    """The stitches (n, 2, 2) of a satin 1.8 off and 1.2 on a region, its needle points, and where it begins."""
    strands = satin_borders(region, "border", SatinSewing(1.8, 1.2, 0.4, pull, "none", how))
    ends = np.concatenate([stitches(one, "border")[0] for one in strands])
    return ends, [one.xy[one.role == CODE["border"]] for one in strands]


@pytest.mark.parametrize("how", ["auto", "lapped"])
@pytest.mark.parametrize("name", CORNERED)
def test_every_corner_comes_to_its_tip_and_no_thread_is_heaped_there(name, how):
    region = CORNERED[name]
    ends, _ = sewn_border(region, how)
    points, _, _ = along(ends, 0.1)
    off = KDTree(points).query(tips(region, 1.8, 1.2)[0])[0]
    assert off.max() < 0.6 and off.mean() < (0.3 if how == "auto" else 0.4)
    band = shapely.difference(
        *(shapely.buffer(region, far, join_style="mitre", mitre_limit=3.3) for far in (1.8, -1.2))
    )
    assert (density(band, ends, 0.5, 1) > 15).sum() * 0.25 <= (0.5 if how == "auto" else 1.0)
    inside = shapely.buffer(band, 0.25)
    shapely.prepare(inside)
    assert shapely.covers(inside, shapely.linestrings(ends)).mean() > (0.99 if how == "auto" else 0.98)
    spots = np.mgrid[-32:32:0.2, -32:32:0.2].reshape(2, -1).T
    spots = spots[shapely.contains_xy(band, spots[:, 0], spots[:, 1])]
    assert (KDTree(points).query(spots)[0] > 0.3).sum() * 0.04 < (
        0.6 if how == "auto" else 1.0
    )  # mm² that can be seen through it


@pytest.mark.parametrize("name", CORNERED)
def test_needle_points_of_a_mitre_lie_apart(name):
    region = CORNERED[name]
    _, needle = sewn_border(region, "mitred")
    _, places = tips(region, 1.8, 1.2)
    close = 0
    for points in needle:
        near = KDTree(points).query_pairs(0.25, output_type="ndarray")
        near = near[near[:, 1] < len(points) - 12]  # past its start a border lies on itself
        beside = KDTree(places).query(points[near].mean(axis=1))[0] < 3.0
        close += int(beside.sum())
    assert close <= 2.5 * len(places)


def test_a_mitre_closes_once_its_rows_are_drawn_in():
    for name in ("square", "star", "plus"):
        _, (needle,) = sewn_border(CORNERED[name], "auto", 0.4)
        way = np.diff(needle, axis=0)
        length = np.linalg.norm(way, axis=1)
        unit = way / np.maximum(length, 1e-9)[:, None]
        back = np.minimum(0.4, 0.5 * length)[:, None] * unit
        drawn, _, _ = along(np.stack([needle[:-1] + back, needle[1:] - back], axis=1), 0.1)
        diagonal = [np.linspace(place + 0.1 * (tip - place), place + 0.7 * (tip - place), 20)
                    for tip, place in zip(*tips(CORNERED[name], 1.8, 1.2), strict=True)]  # fmt: skip
        assert KDTree(drawn).query(np.concatenate(diagonal))[0].max() < 0.45


def corner_stitches(region, corner):
    """Ends (n, 2) off and on the cloth of what could be sewn round a region."""
    (rails,) = border_rails(region, HALF, HALF, 0.0, corner)
    return rails.outer, rails.inner


def square_on(outer, inner):
    """Share of the stitches that stand square on a side of a box."""
    return (np.abs(outer - inner).min(axis=1) < 0.1).mean()


def test_a_mitre_is_square_to_both_sides_and_ends_on_the_diagonal():
    outer, inner = corner_stitches(box(-20, -20, 20, 20), "mitred")
    assert square_on(outer, inner) > 0.9 > square_on(*corner_stitches(box(-20, -20, 20, 20), "rounded")) + 0.1
    short = np.linalg.norm(outer - inner, axis=1) < 2 * HALF - 0.25
    assert short.any()
    beyond = np.abs(inner[short]).max(axis=1) - np.abs(inner[short]).min(axis=1)
    assert 0.1 < beyond.max() < 0.25  # across it by a seam, so that none opens


def test_a_lap_keeps_every_stitch_whole_over_all_of_the_corner():
    outer, inner = corner_stitches(box(-20, -20, 20, 20), "lapped")
    assert square_on(outer, inner) == 1.0
    assert np.linalg.norm(outer - inner, axis=1) == pytest.approx(2 * HALF, abs=0.01)
    for x, y in ((-1, -1), (-1, 1), (1, -1), (1, 1)):  # the tip has thread of one side or the other
        tip = np.array([x, y]) * (20 + HALF)
        assert np.linalg.norm(outer - tip, axis=1).min() < 0.1


@pytest.mark.parametrize("turn", [45, 90, 110, 135])
def test_by_its_angle_a_corner_is_mitred(turn):
    side = rhomb(180 - turn, 20.0)
    by_angle, wanted = corner_stitches(side, "auto"), corner_stitches(side, "mitred")
    assert np.array_equal(by_angle[0], wanted[0]) and not np.array_equal(
        by_angle[0], corner_stitches(side, "rounded")[0]
    )


@pytest.mark.parametrize("region", [ROUND, box(0, 0, 1.1, 1.1), turning([20, 19.7], 200), rhomb(25, 60).buffer(0)])
def test_what_is_round_too_sharp_too_short_or_too_blunt_is_left_as_it_is(region):
    tip = [corner_stitches(region, corner)[0] for corner in ("rounded", "auto")]
    high = [one[one[:, 1] > 0.9 * region.bounds[3]] for one in tip]
    assert np.array_equal(*high)


def test_corners_left_round_beside_mitred_ones_are_told():
    notched = box(-20, -20, 20, 20).difference(box(-0.5, 15, 0.5, 30))  # both corners of the notch are too near
    job = job_of(notched)
    for construct in ("satin_border", "zigzag", "applique"):
        made = change(job, pieces=[change(job.pieces[0], construct=construct)])
        (told,) = [one for one in build_job(made).findings if one.code == "corners_round"]
        assert told.message.startswith("4 corners of") and "stay round" in told.message and len(told.at) == 4
        assert shapely.distance(shapely.points(told.at), Point(0, 17.5)).max() < 3
    whole = change(job_of(CORNERED["square"]), pieces=[change(job.pieces[0], construct="satin_border")])
    assert not [one for one in build_job(whole).findings if one.code == "corners_round"]


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
    "name", ["star", "comb", "triangle", "coast", "circle", "small_circle", "hole", "small_hole", "sieve"]
)
def test_an_overedge_makes_no_knots_where_one_side_comes_together(name, outside, inside):
    circles = {"circle": 3.0, "small_circle": 2.0, "hole": 3.0, "small_hole": 1.5}
    if name in circles:
        disc = Point(0, 0).buffer(circles[name], 32)
        region = box(-15, -15, 15, 15).difference(disc) if "hole" in name else disc
    else:
        region = {**SHAPES, **BITTEN, "sieve": ugly("sieve", 0)[0]}[name]
    for sewn in edge_borders(region, "border", "overedge", outside, inside, 0.5):
        needle = sewn.xy[sewn.role != CODE["tie"]]
        assert KDTree(needle).query_ball_point(needle, 0.25, return_length=True).max() <= 6
