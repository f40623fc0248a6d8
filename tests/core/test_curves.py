"""Curves through nodes: flattened and fitted within their tolerance, nodes edited without harm."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, Polygon, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.edits.shapes import curve_nodes, shape_points
from velamen.core.errors import BadInput
from velamen.core.geometry.curves import flatten_nodes
from velamen.core.geometry.refit import ring_nodes
from velamen.core.geometry.region import boundaries
from velamen.core.job.reading import check_job
from velamen.core.job.regions import region_of

CIRCLE = job_of(Point(0, 0).buffer(20, 32))
CURVED = curve_nodes.curved(CIRCLE, ["s1"], 0.05)
SQUARE = curve_nodes.curved(job_of(box(0, 0, 30, 10)), ["s1"], 0.05)
ORIGIN = [node[:2] for node in SQUARE.shapes[0].nodes[0]].index((0.0, 0.0))


def region(job):
    return region_of(job.shapes[0])


def circle_nodes(radius=20.0):
    """Four nodes of a circle, with the usual handles."""
    turn = np.arange(4) * np.pi / 2
    place = radius * np.stack([np.cos(turn), np.sin(turn)], axis=1)
    along = 0.5522847498 * radius * np.stack([-np.sin(turn), np.cos(turn)], axis=1)
    return np.concatenate([place, place - along, place + along], axis=1)


@pytest.mark.parametrize("tolerance", [0.01, 0.05, 0.3])
def test_flattened_curves_stay_within_their_tolerance(tolerance):
    ring = flatten_nodes(circle_nodes(), tolerance)
    middles = (ring + np.roll(ring, -1, axis=0)) / 2
    assert np.abs(np.linalg.norm(middles, axis=1) - 20).max() < tolerance + 0.006
    assert len(flatten_nodes(circle_nodes(), 0.01)) > len(flatten_nodes(circle_nodes(), 0.3)) > 8
    assert len(flatten_nodes(circle_nodes()[:2], closed=False)) < len(ring) or tolerance == 0.3


def test_a_circle_is_a_few_curves_and_a_square_has_no_handles():
    (nodes,) = (ring_nodes(ring, 0.05) for ring in boundaries(region(CIRCLE)))
    assert len(nodes) <= 6
    assert np.abs(np.linalg.norm(flatten_nodes(nodes), axis=1) - 20).max() < 0.08
    (square,) = (ring_nodes(ring, 0.05) for ring in boundaries(box(0, 0, 30, 10)))
    assert len(square) == 4 and (square[:, :2] == square[:, 2:4]).all() and (square[:, :2] == square[:, 4:]).all()


@pytest.mark.parametrize("tolerance", [0.05, 0.3])
@pytest.mark.parametrize("name", SHAPES)
def test_any_outline_becomes_curves_within_the_tolerance(name, tolerance):
    for ring in boundaries(SHAPES[name]):
        nodes = ring_nodes(ring, tolerance)
        flat = shapely.linearrings(flatten_nodes(nodes))
        off = shapely.distance(
            shapely.points(shapely.get_coordinates(shapely.segmentize(shapely.linearrings(ring), 0.2))), flat
        )
        assert off.max() < 1.6 * tolerance + 0.03
        assert len(nodes) <= len(ring) + 2


@settings(max_examples=60)
@given(st.integers(0, 10**6), st.floats(0.02, 0.5))
def test_random_outlines_become_curves(seed, tolerance):
    rng = np.random.default_rng(seed)
    turn = np.linspace(0, 2 * np.pi, rng.integers(5, 300), endpoint=False)
    radius = rng.uniform(8, 25) + rng.uniform(0, 2) * rng.normal(size=len(turn))
    ring = np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)
    nodes = ring_nodes(ring, tolerance)
    assert np.isfinite(nodes).all() and len(nodes) >= 1
    off = shapely.distance(shapely.points(ring), shapely.linearrings(flatten_nodes(nodes)))
    assert off.max() < 1.6 * tolerance + 0.15


def test_turning_into_curves_keeps_the_shape():
    assert CURVED.shapes[0].nodes and check_job(CURVED)
    assert region(CURVED).symmetric_difference(region(CIRCLE)).area < 8
    holes = curve_nodes.curved(job_of(SHAPES["two_holes"]), ["s1"], 0.05)
    assert len(holes.shapes[0].nodes) == len(holes.shapes[0].rings) == 2 and len(region(holes).interiors) == 1


def test_a_node_is_added_without_changing_the_outline_and_removed_again():
    for job in (CURVED, curve_nodes.curved(job_of(box(0, 0, 30, 10)), ["s1"], 0.05)):
        count = len(job.shapes[0].nodes[0])
        more = shape_points.point_added(job, "s1", (14.0, 15.0))
        assert len(more.shapes[0].nodes[0]) == count + 1
        assert region(more).symmetric_difference(region(job)).area < 0.2
    less = shape_points.points_removed(more, "s1", [(0, 0)])
    assert len(less.shapes[0].nodes[0]) == count
    with pytest.raises(BadInput, match="at least two nodes"):
        shape_points.points_removed(CURVED, "s1", [(0, nth) for nth in range(len(CURVED.shapes[0].nodes[0]) - 1)])


def test_nodes_move_with_their_handles():
    before = np.array(CURVED.shapes[0].nodes[0])
    after = np.array(shape_points.points_moved(CURVED, "s1", [(0, 1)], (2.0, -1.0), 0.0).shapes[0].nodes[0])
    assert after[1] - before[1] == pytest.approx(np.tile([2.0, -1.0], 3), abs=1e-3)
    assert (np.delete(after, 1, axis=0) == np.delete(before, 1, axis=0)).all()


def test_a_smooth_node_stays_smooth_when_one_handle_is_bent():
    bent = np.array(curve_nodes.handle_moved(CURVED, "s1", (0, 1), "after", (1.0, 4.0)).shapes[0].nodes[0][1])
    back, ahead = bent[2:4] - bent[:2], bent[4:] - bent[:2]
    assert abs(np.cross(np.append(back, 0), np.append(ahead, 0))[2]) < 0.01 * np.linalg.norm(back) * np.linalg.norm(
        ahead
    )
    corner = curve_nodes.nodes_made(CURVED, "s1", [(0, 1)], "corner")
    node = np.array(corner.shapes[0].nodes[0][1])
    assert (node[2:4] == node[:2]).all() and (node[4:] == node[:2]).all()
    free = np.array(curve_nodes.handle_moved(corner, "s1", (0, 1), "before", (-1.0, 2.0)).shapes[0].nodes[0][1])
    assert (free[4:] == free[:2]).all() and not (free[2:4] == free[:2]).all()
    again = np.array(curve_nodes.nodes_made(corner, "s1", [(0, 1)], "smooth").shapes[0].nodes[0][1])
    assert not (again[4:] == again[:2]).all()


def test_a_stretch_between_two_nodes_is_made_straight():
    count = len(CURVED.shapes[0].nodes[0])
    straight = shape_points.straightened(CURVED, "s1", [(0, 0), (0, 1)])
    assert len(straight.shapes[0].nodes[0]) == count and region(straight).area < region(CURVED).area - 5
    one, other = straight.shapes[0].nodes[0][:2]
    assert shapely.LineString([one[:2], other[:2]]).within(region(straight).boundary.buffer(0.01))


def test_a_curved_hole_is_filled_or_kept():
    job = curve_nodes.curved(job_of(Point(0, 0).buffer(20).difference(Point(0, 0).buffer(8))), ["s1"], 0.05)
    filled, hole = shape_points.hole_removed(job, "s1", 1, keep=True)
    assert len(filled.shapes[0].nodes) == 1 and hole.area == pytest.approx(np.pi * 64, rel=0.02)


def test_a_shape_is_split_between_two_points():
    square = job_of(box(0, 0, 20, 20))
    halves = shape_points.split_at(square, "s1", (0, 0), (0, 2))
    assert sorted(region_of(shape).area for shape in halves.shapes) == pytest.approx([200, 200], abs=0.1)
    assert len(halves.pieces) == 2 and check_job(halves)
    curved = shape_points.split_at(CURVED, "s1", (0, 0), (0, len(CURVED.shapes[0].nodes[0]) // 2))
    assert sum(region_of(shape).area for shape in curved.shapes) == pytest.approx(region(CURVED).area, abs=0.1)
    with pytest.raises(BadInput, match="choose points across it"):
        shape_points.split_at(square, "s1", (0, 0), (0, 1))


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (lambda: curve_nodes.nodes_moved(CURVED, "s1", [(0, 99)], (1, 1)), "no longer in the shape"),
        (lambda: curve_nodes.nodes_moved(CIRCLE, "s1", [(0, 0)], (1, 1)), "has no curve nodes"),
        (lambda: curve_nodes.nodes_moved(SQUARE, "s1", [(0, ORIGIN)], (40, 4)), "would cross itself"),
        (
            lambda: curve_nodes.handle_moved(CURVED, "s1", (0, 0), "above", (1, 1)),
            "a handle before and a handle after",
        ),
        (lambda: curve_nodes.nodes_made(CURVED, "s1", [(0, 0)], "round"), "a corner or smooth"),
        (lambda: curve_nodes.stretch_straightened(CURVED, "s1", [(0, 0)]), "Choose two points"),
        (lambda: shape_points.split_at(CURVED, "s1", (0, 0), (4, 0)), "no longer in the shape"),
    ],
)
def test_impossible_edits_of_nodes_are_told(edit, words):
    with pytest.raises(BadInput, match=words):
        edit()


def test_curves_are_moved_turned_and_sized_with_their_shape():
    from velamen.core.edits.shapes import arranging

    for job in (arranging.turned(CURVED, ["s1"], 33), arranging.sized(CURVED, ["s1"], 55.0, 20.0)):
        shape = job.shapes[0]
        assert Polygon(flatten_nodes(np.array(shape.nodes[0]))).symmetric_difference(region_of(shape)).area < 0.5
