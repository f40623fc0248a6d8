"""Columns out of shapes: covered, inside, one strand; skeleton, splits, ends; ways inside a region."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import LineString, Polygon, box

from core.shapes import SHAPES
from core.ugly import KINDS, ugly
from velamen.core.artwork.lettering import lettering
from velamen.core.errors import BadInput
from velamen.core.geometry.interior_paths import EdgeWays, Ways
from velamen.core.geometry.medial import medial_axis
from velamen.core.geometry.strokes import strokes_of
from velamen.core.stitching.column import columns, planned
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.drawn_rails import drawn_column
from velamen.core.stitching.lanes import lane_of
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.split import split

PULL = 0.15


def sewn(region, **more):
    return columns(region, Sewing("column", 0.4, PULL, **more))


def covered(region, strands):
    thread = shapely.multilinestrings([LineString(one.xy) for one in strands])
    shapely.prepare(thread)
    left, top, right, bottom = region.bounds
    spots = np.mgrid[left : right : (right - left) / 90, top : bottom : (bottom - top) / 90].reshape(2, -1).T
    spots = spots[shapely.contains_xy(region, spots[:, 0], spots[:, 1])]
    return shapely.dwithin(shapely.points(spots), thread, 0.25).mean()


def check(region, strands, outside=PULL + 0.2):
    xy = np.concatenate([one.xy for one in strands])
    assert shapely.distance(shapely.points(xy), region).max() <= outside
    pairs = np.concatenate([np.stack([one.xy[:-1], one.xy[1:]], axis=1) for one in strands])
    away = shapely.difference(shapely.linestrings(pairs), region.buffer(outside + 0.05))
    assert shapely.length(away).max() < 0.3
    assert covered(region, strands) >= 0.98
    step = np.linalg.norm(pairs[:, 1] - pairs[:, 0], axis=1)
    assert step.min() >= 0.29 and step.max() <= 12.1


@pytest.mark.parametrize("name", SHAPES)
def test_any_shape_is_covered_by_columns_in_one_strand(name):
    strands = sewn(SHAPES[name])
    assert len(strands) == 1
    check(SHAPES[name], strands)


@pytest.mark.parametrize(
    ("typeface", "height", "text"),
    [("merriweather", 14, "EHKg&8"), ("pacifico", 16, "VamQ"), ("alfa-slab-one", 20, "TEXRk"), ("oswald", 9, "AMBi")],
)
def test_letters_are_covered_stroke_by_stroke(typeface, height, text):
    for letter in lettering(text, typeface, height):
        for region in letter.regions:
            strands = sewn(region)
            assert len(strands) == 1
            check(region, strands, PULL + 0.05)


@pytest.mark.steady
@settings(max_examples=25)
@given(st.sampled_from(sorted(KINDS)), st.integers(0, 10**6))
def test_any_region_is_sewn_inside(kind, seed):
    for region in ugly(kind, seed)[:1]:
        for one in sewn(region):
            assert np.isfinite(one.xy).all()
            assert shapely.distance(shapely.points(one.xy), region).max() <= PULL + 0.2


def test_strokes_of_a_cross_meet_in_one_that_goes_through():
    cross = shapely.union(box(-20, -2, 20, 2), box(-2, -15, 2, 15))
    found = strokes_of(cross)
    assert len(found.strokes) == 3 and len(found.contacts) == 2
    (host,) = {one.host for one in found.contacts}
    assert not found.strokes[host].ends and len(found.strokes[host].tips) == 2
    ring = planned(SHAPES["thin_ring"])
    assert len(ring.axes) == 1 and ring.axes[0].closed


def test_stitches_of_a_straight_column_stand_square_and_even():
    (one,) = sewn(box(-20, -2, 20, 2))
    xy = one.xy[one.role == CODE["column"]]
    inner = xy[np.abs(xy[:, 0]) < 17]
    assert np.abs(np.abs(inner[:, 1]) - 2 - PULL).max() < 0.02
    gap = np.diff(np.sort(inner[inner[:, 1] > 0, 0]))
    assert gap.max() < 0.41 and gap.mean() > 0.37 and np.quantile(gap, 0.05) > 0.33


def test_stitches_lie_along_direction_lines():
    region = box(-20, -3, 20, 3)
    lines = [np.array([[-8.0, -4], [-4, 4]]), np.array([[4.0, 4], [8, -4]])]
    lane = lane_of(planned(region).axes[0], region, region, directions=lines)
    along = lane.rails.outer - lane.rails.inner
    for line in lines:
        way = line[1] - line[0]
        middle = line.mean(axis=0)
        nth = int(np.argmin(np.linalg.norm((lane.rails.outer + lane.rails.inner) / 2 - middle, axis=1)))
        cross = abs(along[nth, 0] * way[1] - along[nth, 1] * way[0])
        assert cross / np.linalg.norm(along[nth]) / np.linalg.norm(way) < 0.12


@pytest.mark.parametrize("underlay", ["none", "centre_run", "edge_run", "zigzag", "edge_run_zigzag", "double_zigzag"])
def test_every_underlay_lies_inside_its_column(underlay):
    region = SHAPES["spiral"]
    strands = sewn(region, underlay=underlay)
    check(region, strands)
    xy = np.concatenate([one.xy[one.role == CODE["underlay"]] for one in strands])
    assert shapely.distance(shapely.points(xy), region).max() < 0.05
    least = {"none": 1, "centre_run": 1, "edge_run": 2.5, "zigzag": 1.2, "edge_run_zigzag": 3, "double_zigzag": 3}
    run = sum(shapely.length(LineString(one.xy[one.role == CODE["underlay"]])) for one in strands)
    assert run > least[underlay] * 100


def test_ends_are_flat_pointed_or_capped():
    region = box(-20, -2, 20, 2)
    flat, pointed, capped = (sewn(region, ends=ends)[0] for ends in ("flat", "pointed", "capped"))
    wide = [np.abs(one.xy[(np.abs(one.xy[:, 0]) > 19.2) & (one.role == CODE["column"]), 1]).max()
            for one in (flat, pointed)]  # fmt: skip
    assert wide[0] > 2 and wide[1] < 0.8
    caps = capped.xy[capped.role == CODE["cap"]]
    assert len(caps) > 15 and np.abs(caps[:, 0]).max() == pytest.approx(20.5, abs=0.1)
    first = np.flatnonzero(capped.role == CODE["cap"])[0]
    assert (capped.role[first:] == CODE["column"]).any()
    short = sewn(region, push=0.5)[0]
    assert np.abs(short.xy[short.role == CODE["column"], 0]).max() == pytest.approx(19.5, abs=0.1)


def test_long_stitches_are_split_by_length_along_lines_or_not_at_all():
    zigzag = np.stack([np.arange(40) * 0.2, np.where(np.arange(40) % 2, 9.0, 0.0)], axis=1)
    limited = split(zigzag, "limit", 5.0)
    assert np.linalg.norm(np.diff(limited, axis=0), axis=1).max() < 6.2
    between = limited[(limited[:, 1] > 1) & (limited[:, 1] < 8), 1]
    assert np.ptp(between) > 1.0  # no line of penetrations
    drawn = split(zigzag, "lines", 5.0, [np.array([[-1.0, 3.0], [20.0, 3.0]])])
    assert (np.abs(drawn[:, 1] - 3.0) < 1e-6).sum() == 39
    assert split(zigzag, "none", 5.0) is zigzag
    for how in ("limit", "none"):
        wide = sewn(box(-20, -5, 20, 5), split=how)[0]
        assert (np.linalg.norm(np.diff(wide.xy, axis=0), axis=1).max() > 9) == (how == "none")


REFUSED = [({"spacing": 0.0}, "spacing of a column cannot be 0: use 0.15 to 4"), ({"pull": float("nan")}, "cannot be nan"),
           ({"longest": 90.0}, "longest stitch of a column cannot be 90")]  # fmt: skip


def test_a_wide_satin_between_rails_is_divided_along_every_rib_drawn_on_it():
    turn = np.linspace(-1.15, 1.15, 60)
    arc = lambda radius: radius * np.stack([np.sin(turn), -np.cos(turn)], axis=1)  # noqa: E731
    ribs = tuple(arc(radius) for radius in (12.0, 18.0, 24.0))
    (one,) = drawn_column(
        (arc(30.0), arc(6.0)), Sewing("column", 0.4, 0.0, split="lines", lines=ribs, underlay="none")
    )
    rows = one.role[1:] == CODE["column"]
    stitches = shapely.linestrings(np.stack([one.xy[:-1], one.xy[1:]], axis=1)[rows])
    for rib in ribs:
        crossed = shapely.length(shapely.intersection(stitches, LineString(rib).buffer(0.02)))
        points = np.linalg.norm(one.xy, axis=1)
        on_it = np.count_nonzero(np.abs(points - np.linalg.norm(rib[0])) < 0.05)
        assert on_it > 100 and (crossed > 0.0).sum() == pytest.approx(2 * on_it, rel=0.1)  # each ends on it
    assert np.linalg.norm(np.diff(one.xy, axis=0), axis=1).max() < 6.6


@pytest.mark.parametrize(("figures", "words"), REFUSED)
def test_impossible_columns_are_told(figures, words):
    with pytest.raises(BadInput, match=words):
        columns(box(0, 0, 9, 3), Sewing(**{"role": "column", "spacing": 0.4, **figures}))


@pytest.mark.parametrize("name", SHAPES)
def test_ways_stay_inside_and_the_axis_midway(name):
    region = SHAPES[name]
    axis = medial_axis(region)
    off = shapely.distance(shapely.points(axis.place), region.boundary)
    assert np.abs(off - axis.radius).max() < 0.13  # half of what lies between samples
    ways = Ways(region)
    left, top, right, bottom = region.bounds
    spots = np.random.default_rng(1).uniform([left, top], [right, bottom], (300, 2))
    spots = spots[shapely.contains_xy(region, spots[:, 0], spots[:, 1])][:12]
    for one, other in zip(spots[::2], spots[1::2], strict=False):
        way = ways.between(one, other)
        assert way is not None and (way[0] == one).all() and (way[-1] == other).all()
        assert shapely.length(shapely.difference(LineString(way), region.buffer(0.05))) < 0.01


def test_ways_between_parts_do_not_exist_and_edges_are_followed_the_shorter_way():
    apart = Polygon([(0, 0), (10, 0), (10, 10), (0, 10)])
    assert Ways(apart).between(np.array([1.0, 1]), np.array([9.0, 9])).shape == (2, 2)
    edge = EdgeWays(apart, 0.3, 2.0)
    way = edge.between(np.array([1.0, 0.5]), np.array([0.5, 4.0]))
    assert np.linalg.norm(np.diff(way, axis=0), axis=1).sum() < 6
    assert edge.between(np.array([5.0, 5]), np.array([1.0, 1])) is None
