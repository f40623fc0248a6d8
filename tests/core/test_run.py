"""Runs: even lengths, corners hit, the chord on the line."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import LineString

from core.shapes import SHAPES
from velamen.core.geometry.region import boundaries
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.run import calm_start, run_along, run_round, start_ring_at


def closed(ring):
    return LineString(np.concatenate([ring, ring[:1]]))


@pytest.mark.parametrize("name", SHAPES)
def test_chords_stay_on_the_outline(name):
    for ring in boundaries(SHAPES[name]):
        points = run_round(calm_start(ring), 2.5)
        line = closed(ring)
        along = shapely.line_interpolate_point(
            shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1)), 0.5, normalized=True
        )
        # noise finer than the shortest stitch that holds, as on the coast, cannot be followed
        assert shapely.distance(along, line).max() <= (0.3 if name == "coast" else 0.12)
        assert shapely.hausdorff_distance(line, LineString(points), densify=0.05) <= 0.5
        assert np.linalg.norm(np.diff(points, axis=0), axis=1).max() <= 2.5 + 0.05


def test_corners_are_hit():
    ring = boundaries(SHAPES["star"])[0]
    points = run_round(calm_start(ring), 2.5)
    nearest = np.linalg.norm(ring[:, None] - points[None], axis=2).min(axis=1)
    assert nearest.max() < 1e-6


def test_lengths_are_even_on_a_circle():
    ring = boundaries(shapely.Point(0, 0).buffer(30, 128))[0]
    gaps = np.linalg.norm(np.diff(run_round(ring, 2.5, 0.0), axis=0), axis=1)
    assert gaps.max() - gaps.min() < 0.1 and 2.2 < gaps.mean() <= 2.5


def test_tight_curves_shorten_the_stitch():
    ring = boundaries(shapely.Point(0, 0).buffer(2.0, 64))[0]
    gaps = np.linalg.norm(np.diff(run_round(ring, 2.5, 0.0), axis=0), axis=1)
    assert gaps.max() < 1.4  # a chord of 2.5 would leave this curve by 0.44


def test_ends_of_an_open_line_are_sewn():
    line = np.array([[0.0, 0], [3, 0], [3, 4], [10, 4]])
    points = run_along(line, 2.0)
    assert np.allclose(points[0], line[0]) and np.allclose(points[-1], line[-1])
    assert np.linalg.norm(points - [3, 4], axis=1).min() < 1e-6


def test_run_closes_past_its_start_with_ties():
    part = run_borders(SHAPES["square"], "placement", 2.5)[0]
    assert np.count_nonzero(part.role == CODE["tie"]) == 7
    assert (
        1.0 <= np.linalg.norm(part.xy[-2] - part.xy[0]) <= 2.0
        or 1.0 <= np.linalg.norm(part.xy[-1] - part.xy[0]) <= 2.0
    )
    to_and_fro = 6 * 0.5
    assert LineString(part.xy).length == pytest.approx(SHAPES["square"].length + 1.5 + to_and_fro, abs=1.1)


def test_inset_run_keeps_its_distance():
    region = SHAPES["two_holes"]
    for part in run_borders(region, "tack", 3.5, 0.8):
        sewn = part.xy[part.role == CODE["tack"]]
        off = shapely.distance(shapely.points(sewn), region.boundary)
        assert np.quantile(np.abs(off - 0.8), 0.9) < 0.12
        assert shapely.contains_xy(region, sewn).all()


@settings(max_examples=50)
@given(st.floats(-20, 20), st.floats(-20, 20))
def test_a_ring_may_begin_anywhere(x, y):
    ring = boundaries(SHAPES["star"])[0]
    moved = start_ring_at(ring, np.array([x, y]))
    assert abs(shapely.Polygon(moved).area - SHAPES["star"].area) < 1e-6
    assert closed(ring).distance(shapely.Point(moved[0])) < 1e-6
