"""Samples along outlines, how far they may go, and strands made of needle points."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from core.shapes import SHAPES
from velamen.core.geometry.outline import reach, sample_outline, surroundings
from velamen.core.geometry.rails import match_rails, rail
from velamen.core.geometry.region import (
    across,
    boundaries,
    clean_ring,
    region_from_rings,
    rings_of,
    signed_area,
)
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand, every_second, join, long_enough, strand, tie, tied


def sampled(region):
    outlines = [sample_outline(ring) for ring in boundaries(region)]
    return outlines, surroundings(outlines)


@pytest.mark.parametrize("name", SHAPES)
def test_samples_lie_on_the_outline_with_normals_off_the_cloth(name):
    region = SHAPES[name]
    outlines, _ = sampled(region)
    for outline in outlines:
        assert shapely.distance(shapely.points(outline.point), region.boundary).max() < 1e-6
        assert np.allclose(np.linalg.norm(outline.normal, axis=1), 1)
        assert (np.diff(outline.along) >= -1e-9).all()
        gaps = np.linalg.norm(np.roll(outline.point, -1, axis=0) - outline.point, axis=1)
        assert gaps.max() <= 0.16
    if name == "coast":
        return  # its noise is finer than the step taken off the outline below
    off = np.mean([shapely.contains_xy(region, o.point + 0.004 * o.normal).mean() for o in outlines])
    on = np.mean([shapely.contains_xy(region, o.point - 0.004 * o.normal).mean() for o in outlines])
    assert off < 0.02 and on > 0.85  # fanned normals at a corner point along its sides


def test_a_ball_stops_at_the_opposite_wall():
    slit = SHAPES["slit_3"]
    (outline,), tree = sampled(slit)
    wall = (np.abs(np.abs(outline.point[:, 0]) - 1.5) < 1e-6) & (np.abs(outline.point[:, 1] + 5) < 8)
    found = reach(outline, tree, 2.2, outward=True)
    assert np.allclose(found.depth[wall], 1.5, atol=0.02)
    assert np.degrees(found.opening[wall]).min() > 165
    free = reach(outline, tree, 1.0, outward=True)
    assert np.allclose(free.depth[wall], 1.0)


def test_a_hair_thin_slit_is_seen_though_finer_than_the_balls_tolerance():
    region = shapely.box(-14, -12, 14, 12).difference(shapely.box(-0.009, -12, 0.009, 4))
    (outline,), tree = sampled(region)
    wall = (np.abs(outline.point[:, 0]) < 0.02) & (np.abs(outline.point[:, 1] + 4) < 6)
    assert reach(outline, tree, 2.0, outward=True).depth[wall].max() < 0.05


def test_inner_rail_of_a_square_turns_in_its_corner():
    region = SHAPES["square"]
    (outline,), tree = sampled(region)
    points, back = rail(outline, tree, 1.2, outward=False)
    corner = np.array([[18.8, 18.8], [-18.8, 18.8], [-18.8, -18.8], [18.8, -18.8]])
    assert np.linalg.norm(points[None] - corner[:, None], axis=2).min(axis=1).max() < 0.02
    assert np.abs(points).max() <= 18.81 and back.max() < 1.2


def test_rails_are_closed_and_run_together():
    for name in ("ring", "star", "neck"):
        outlines, tree = sampled(SHAPES[name])
        for outline in outlines:
            rails = match_rails(outline, tree, 1.8, 1.2, 0.2)
            assert np.linalg.norm(rails.outer[0] - rails.outer[-1]) < 0.1
            assert np.linalg.norm(rails.inner[0] - rails.inner[-1]) < 0.1
            here, again = rails.at(np.array([1.0])), rails.at(np.array([1.0 + rails.length]))
            assert np.allclose(here[0], again[0]) and np.allclose(here[1], again[1])
            assert (
                np.maximum(np.diff(rails.outer_way), np.diff(rails.inner_way)) <= np.diff(rails.advance) + 1e-9
            ).all()


def test_rings_are_cleaned_oriented_and_stored():
    ring = clean_ring(np.array([[0, 0], [0, 0], [10, 0], [10, 10], [0, 10], [0, 0.00001], [0, 0]], dtype=float))
    assert len(ring) == 4 and signed_area(ring) == pytest.approx(100)
    assert len(clean_ring(np.zeros((5, 2)))) == 1 and len(clean_ring(np.zeros((0, 2)))) == 0
    outer, *holes = boundaries(SHAPES["two_holes"])
    assert signed_area(outer) > 0 and all(signed_area(hole) < 0 for hole in holes)
    again = region_from_rings(rings_of(SHAPES["two_holes"]))
    assert shapely.hausdorff_distance(again, SHAPES["two_holes"]) < 1e-3
    assert across(SHAPES["ring"]) == pytest.approx(13, abs=0.1)


@settings(max_examples=80)
@given(st.lists(st.tuples(st.floats(-20, 20), st.floats(-20, 20)), min_size=2, max_size=80))
def test_no_strand_keeps_a_stitch_too_short(points):
    xy = np.array(points)
    kept = long_enough(xy)
    assert kept[0] == 0 and kept[-1] == len(xy) - 1
    gaps = np.linalg.norm(np.diff(xy[kept], axis=0), axis=1)
    if len(kept) > 2:
        assert np.sort(gaps)[1:].min() >= 0.29


def test_every_second_of_each_run():
    assert every_second(np.array([3, 4, 5, 6, 9, 12, 13])).tolist() == [3, 5, 9, 12]


def test_ties_go_to_and_fro_in_the_direction_of_sewing():
    line = np.array([[0.0, 0.0], [0.2, 0.0], [0.2, 9.0]])
    made = tie(line)
    assert (
        (made.role == CODE["tie"]).all()
        and np.allclose(made.xy[[0, 2]], [0, 0])
        and np.allclose(made.xy[[1, 3]], [0.2, 0.3])
    )
    whole = tied(strand(np.array([[0.0, 0.0], [5.0, 0.0], [10.0, 0.0]]), "placement"))
    assert np.allclose(whole.xy[0], [0, 0]) and np.allclose(whole.xy[-1], [9.5, 0])
    assert np.count_nonzero(whole.role == CODE["placement"]) == 2


def test_joined_strands_keep_their_roles():
    one, two = strand(np.array([[0.0, 0], [3, 0]]), "underlay"), strand(np.array([[3.1, 0], [6, 0]]), "cover")
    whole = join([one, two])
    assert isinstance(whole, Strand) and len(whole.xy) == 3
    assert whole.role.tolist() == [CODE["underlay"], CODE["underlay"], CODE["cover"]]
