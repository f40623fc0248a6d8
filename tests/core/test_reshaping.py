"""Points moved with their neighbours, added, removed; stretches straightened, outlines smoothed."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.edits.shapes import shape_points
from velamen.core.errors import BadInput
from velamen.core.job.regions import region_of

DISC = job_of(Point(0, 0).buffer(20, 64))
SQUARE = job_of(box(0, 0, 40, 40).difference(box(10, 10, 20, 20)))


def region(job):
    return region_of(job.shapes[0])


def ring_of(job, ring=0):
    return np.array(job.shapes[0].rings[ring])


def test_a_point_moved_alone_leaves_all_others():
    before = ring_of(SQUARE)
    after = ring_of(shape_points.points_moved(SQUARE, "s1", [(0, 2)], (3.0, -1.0), 0.0))
    assert np.allclose(after[2] - before[2], (3, -1)) and np.allclose(np.delete(after - before, 2, axis=0), 0)


def test_neighbours_follow_within_the_reach_and_fade():
    before = ring_of(DISC)
    after = ring_of(shape_points.points_moved(DISC, "s1", [(0, 5)], (0.0, 4.0), 12.0))
    moved = np.linalg.norm(after - before, axis=1)
    step = np.linalg.norm(before[1] - before[0])
    near = np.minimum(np.abs(np.arange(len(before)) - 5), len(before) - np.abs(np.arange(len(before)) - 5)) * step
    assert moved[5] == pytest.approx(4.0) and (moved[near > 12.1] == 0).all()
    assert (moved[(near > 0) & (near < 11)] > 0).all() and (np.diff(moved[np.argsort(near)]) <= 3e-4).all()
    assert region(shape_points.points_moved(DISC, "s1", [(0, 0), (0, 20)], (0.0, 2.0), 5.0)).is_valid


def test_a_move_that_crosses_the_outline_is_refused():
    with pytest.raises(BadInput, match="would cross itself or its cut-outs"):
        shape_points.points_moved(SQUARE, "s1", [(0, 0)], (30.0, 30.0), 0.0)
    for wrong in ([(0, 99)], [(7, 0)]):
        with pytest.raises(BadInput, match="no longer in the shape"):
            shape_points.points_moved(SQUARE, "s1", wrong, (1.0, 0.0), 0.0)
    with pytest.raises(BadInput, match="no longer in the job"):
        shape_points.points_moved(SQUARE, "s9", [(0, 0)], (1.0, 0.0), 0.0)


@pytest.mark.parametrize(
    ("place", "ring"), [((20.0, -3.0), 0), ((41.0, 33.0), 0), ((-1.0, 1.0), 0), ((15.0, 11.0), 1)]
)
def test_a_point_is_added_on_the_nearest_outline_without_changing_it(place, ring):
    after = shape_points.point_added(SQUARE, "s1", place)
    sizes = [len(one) for one in after.shapes[0].rings]
    wanted = [len(one) for one in SQUARE.shapes[0].rings]
    wanted[ring] += 1
    assert sizes == wanted and region(after).area == pytest.approx(region(SQUARE).area)


def test_points_and_holes_are_removed():
    corner = shape_points.points_removed(SQUARE, "s1", [(0, 2)])
    assert len(corner.shapes[0].rings[0]) == 3
    gone = shape_points.points_removed(SQUARE, "s1", [(1, nth) for nth in range(4)])
    assert len(gone.shapes[0].rings) == 1
    with pytest.raises(BadInput, match="at least three points"):
        shape_points.points_removed(SQUARE, "s1", [(0, 0), (0, 1)])
    filled, kept = shape_points.hole_removed(SQUARE, "s1", 1, keep=True)
    assert region(filled).area == 1600 and kept.area == 100
    assert shape_points.hole_removed(SQUARE, "s1", 1, keep=False)[1] is None
    with pytest.raises(BadInput, match="no longer in the shape"):
        shape_points.hole_removed(SQUARE, "s1", 0, keep=False)


@pytest.mark.parametrize(("one", "other"), [(10, 60), (60, 10), (250, 20)])
def test_the_shorter_stretch_is_straightened(one, other):
    before = ring_of(DISC)
    after = ring_of(shape_points.straightened(DISC, "s1", [(0, one), (0, other)]))
    between = min(abs(one - other), len(before) - abs(one - other)) - 1
    assert len(after) == len(before) - between
    kept = {tuple(point) for point in after}
    assert tuple(before[one]) in kept and tuple(before[other]) in kept
    for wrong in ([(0, 1)], [(0, 1), (1, 2)], [(0, 1), (0, 2), (0, 3)]):
        with pytest.raises(BadInput, match="Choose two points"):
            shape_points.straightened(DISC, "s1", wrong)


def test_smoothing_calms_noise_and_keeps_corners():
    turn = np.linspace(0, 2 * np.pi, 600, endpoint=False)
    noise = np.random.default_rng(5).normal(0, 0.06, 600)
    rough = shapely.Polygon(np.stack([(20 + noise) * np.cos(turn), (20 + noise) * np.sin(turn)], axis=1)).buffer(0)
    calm = shape_points.smoothed(rough, 3.0)
    assert abs(calm.length - 2 * np.pi * 20) < 0.25 * abs(rough.length - 2 * np.pi * 20)
    assert calm.area == pytest.approx(np.pi * 400, rel=0.02) and len(calm.exterior.coords) < 300
    square = shape_points.smoothed(region(SQUARE), 4.0)
    assert shapely.hausdorff_distance(square.boundary, region(SQUARE).boundary) < 0.05


@pytest.mark.parametrize("amount", [0.5, 2.0, 8.0])
@pytest.mark.parametrize("name", SHAPES)
def test_any_shape_can_be_smoothed(name, amount):
    calm = shape_points.smoothed(SHAPES[name], amount)
    assert (
        calm.is_valid and calm.area > 0.3 * SHAPES[name].area and len(calm.interiors) == len(SHAPES[name].interiors)
    )


@settings(max_examples=60)
@given(st.integers(0, 255), st.floats(-40, 40), st.floats(-40, 40), st.floats(0, 60))
def test_any_drag_gives_a_sound_shape_or_a_sentence(nth, x, y, reach):
    try:
        after = shape_points.points_moved(DISC, "s1", [(0, nth)], (x, y), reach)
    except BadInput:
        return
    assert region(after).is_valid
