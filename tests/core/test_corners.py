"""Corners of borders: where a mitre meets, what a lap covers, and what is left round."""

import numpy as np
import pytest
from shapely import Point, Polygon, box

from velamen.core.stitching.border import border_rails

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
