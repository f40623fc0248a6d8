"""Outlines drawn by hand: corners, curves, freehand strokes, cut-outs, and what cannot be closed."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of
from velamen.core.artwork.pen import freehand, outline_through
from velamen.core.edits.shapes import arranging, drawing
from velamen.core.errors import BadInput
from velamen.core.job.regions import region_of

SQUARE = np.array([[0.0, 0], [40, 0], [40, 40], [0, 40]])


def test_corners_stay_and_curve_points_bend_only_their_own_stretches():
    assert outline_through(SQUARE, [False] * 4)[0].equals(box(0, 0, 40, 40))
    one, _ = outline_through(SQUARE, [True, False, False, False])
    assert one.contains(box(10, 10, 39, 39)) and one.covers(Point(40, 20)) and one.covers(Point(20, 40))
    assert one.area > 1600  # bulging out beside the curve point


def test_points_on_a_circle_make_nearly_one():
    turn = np.linspace(0, 2 * np.pi, 12, endpoint=False)
    disc, (nodes,) = outline_through(20 * np.stack([np.cos(turn), np.sin(turn)], axis=1), [True] * 12)
    radius = np.linalg.norm(np.asarray(disc.exterior.coords), axis=1)
    assert abs(radius - 20).max() < 0.1 and disc.area == pytest.approx(np.pi * 400, rel=0.005)
    assert len(nodes) == 12 and not np.allclose(nodes[:, :2], nodes[:, 4:])


def test_a_shaky_stroke_becomes_a_calm_outline():
    turn = np.linspace(0, 1.97 * np.pi, 260)
    shake = np.random.default_rng(2).normal(0, 0.15, (260, 2))
    region, _ = freehand(25 * np.stack([np.cos(turn), np.sin(turn)], axis=1) + shake, 0.8)
    assert region.area == pytest.approx(np.pi * 625, rel=0.03) and region.length < 1.05 * 2 * np.pi * 25


@pytest.mark.parametrize(
    ("points", "words"),
    [
        (np.zeros((0, 2)), "at least three points"),
        (np.zeros((9, 2)), "at least three points"),
        (np.array([[0, 0], [1, 0], [1, 1.0]]), "draw it larger"),
        (np.array([[0, 0], [90, 90], [90, 0], [0, 90.0]]), "crosses itself"),
        (np.array([[0, 0], [np.inf, 0], [9, 9.0]]), "not a finite number"),
        (np.random.default_rng(1).uniform(0, 90, (5000, 2)), "at most 4,000"),
    ],
)
def test_what_cannot_be_closed_is_told(points, words):
    with pytest.raises(BadInput, match=words):
        outline_through(points, [False] * len(points))


@settings(max_examples=80)
@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50), st.booleans()), min_size=3, max_size=20))
def test_any_clicks_make_a_sound_shape_or_a_sentence(clicks):
    points = np.array([(x, y) for x, y, _ in clicks])
    try:
        region, _ = outline_through(points, [curve for *_, curve in clicks])
    except BadInput:
        return
    assert region.is_valid and region.area >= 4.0


def test_a_cut_out_is_drawn_into_a_shape():
    job = job_of(box(0, 0, 60, 60))
    cut = drawing.draw_outline(job, *outline_through(SQUARE + 10, [False] * 4), "s1")
    assert len(cut.shapes) == 1 and region_of(cut.shapes[0]).area == pytest.approx(2000)
    assert len(drawing.draw_outline(job, *outline_through(SQUARE, [False] * 4)).shapes) == 2
    twice = arranging.duplicated(cut, ["s1"])
    assert region_of(twice.shapes[1]).area == pytest.approx(2000) and twice.shapes[1].name == "shape 2"
