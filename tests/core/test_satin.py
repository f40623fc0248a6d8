"""Satin along closed outlines, measured against the outline with shapely."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import KDTree
from shapely import LineString, Point, Polygon

from core.shapes import SHAPES
from velamen.core.artwork.lettering import lettering
from velamen.core.geometry.outline import STEP, sample_outline, surroundings
from velamen.core.geometry.rails import match_rails
from velamen.core.geometry.region import boundaries
from velamen.core.stitching.border import OVERLAP, UNDERLAY, SatinSewing, border_rails, satin_borders
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.satin import satin, straightest

OUTSIDE, INSIDE, SPACING = 1.8, 1.2, 0.4


def covers(region, pull=0.0, spacing=SPACING, underlay="none"):
    strands = satin_borders(region, "cover", SatinSewing(OUTSIDE, INSIDE, spacing, pull, underlay))
    return [part.xy[part.role == CODE["cover"]] for part in strands]


def signed(points, region):
    """Distance from the boundary, positive off the cloth."""
    distance = shapely.distance(shapely.points(points), region.boundary)
    return np.where(shapely.contains_xy(region, points), -distance, distance)


@pytest.mark.parametrize("name", SHAPES)
def test_no_penetration_leaves_the_rails(name):
    region = SHAPES[name]
    off = np.concatenate([signed(line, region) for line in covers(region)])
    assert off.max() <= OUTSIDE + 0.05
    # a neck thinner than the inside share is crossed by the back-off at most
    assert off.min() >= -(INSIDE + 0.05)


@pytest.mark.parametrize("name", ["square", "ring", "two_holes", "leaf"])
def test_rails_are_true_offsets_away_from_corners(name):
    region = SHAPES[name]
    corners = shapely.get_coordinates(region.boundary)
    heading = np.concatenate([_turns(ring) for ring in boundaries(region)])
    sharp = np.concatenate(boundaries(region))[np.abs(heading) > 0.4]
    for line in covers(region):
        if len(sharp):
            far = KDTree(sharp).query(line)[0] > 7.0
            line = line[far]
        off = np.abs(signed(line, region))
        to_rail = np.minimum(np.abs(off - OUTSIDE), np.abs(off - INSIDE))
        # short stitches lie between the rails on purpose; on these shapes only tight curves have them
        assert np.quantile(to_rail, 0.95) <= 0.05
        assert len(corners)


def _turns(ring):
    side = np.roll(ring, -1, axis=0) - ring
    heading = np.arctan2(side[:, 1], side[:, 0])
    return np.angle(np.exp(1j * (heading - np.roll(heading, 1))))


def test_spacing_holds_on_the_outer_rail():
    for radius in (6.0, 15.0, 60.0):
        region = Point(0, 0).buffer(radius, 256)
        line = covers(region)[0]
        outer = line[np.linalg.norm(line, axis=1) > radius + 0.5]
        gaps = np.linalg.norm(np.diff(outer, axis=0), axis=1)[4:-8]
        assert abs(np.median(gaps) - SPACING) <= 0.01 * SPACING + 0.002
        assert gaps.max() <= 1.05 * SPACING


@pytest.mark.parametrize("pull", [0.0, 0.15, 0.4])
@pytest.mark.parametrize("name", SHAPES)
def test_no_knot_of_needle_points(name, pull):
    region = SHAPES[name]
    for line in covers(region, pull):
        crowd = [len(near) for near in KDTree(line).query_ball_point(line, 0.125)]
        assert max(crowd) <= 4


@pytest.mark.parametrize("name", SHAPES)
def test_band_is_covered_without_a_gap(name):
    """No spot between edge and outer rail is farther from thread than a gap of 1.25 spacings allows."""
    region = SHAPES[name]
    lines = shapely.union_all([LineString(line) for line in covers(region)])
    band = shapely.difference(shapely.buffer(region, OUTSIDE - 0.15), shapely.buffer(region, -0.3))
    spots = _spots(band, 4000)
    assert shapely.distance(shapely.points(spots), lines).max() <= 0.5 * 1.25 * SPACING + 0.12


def _spots(area, count):
    left, bottom, right, top = area.bounds
    rng = np.random.default_rng(1)
    points = rng.uniform((left, bottom), (right, top), (count, 2))
    return points[shapely.contains_xy(area, points)]


def test_inner_corner_is_thinned_to_a_quarter_millimetre():
    region = SHAPES["square"]
    line = covers(region)[0]
    inner = line[signed(line, region) < -(INSIDE - 0.02)]
    gaps = np.linalg.norm(np.diff(inner, axis=0), axis=1)
    assert np.quantile(gaps, 0.02) >= 0.2


def test_start_and_end_overlap():
    region = SHAPES["ring"]
    ring = boundaries(region)[0]
    outline = sample_outline(ring)
    rails = match_rails(outline, surroundings([outline]), OUTSIDE, INSIDE)
    start = straightest(rails)
    line = satin(rails, SPACING, OVERLAP, start)
    walked = np.unwrap(np.arctan2(line[:, 1], line[:, 0]))
    past = (abs(walked[-1] - walked[0]) - 2 * np.pi) * 25.0
    assert 1.0 <= past <= 2.0


def turned(rails, at, reach=2.5):
    """Degrees that the middle of a border turns within a reach of a place."""
    outer, inner, _, _ = rails.at(np.mod(np.linspace(at - reach, at + reach, 41), rails.length))
    step = np.diff(outer + inner, axis=0)
    heading = np.unwrap(np.arctan2(step[:, 1], step[:, 0]))
    return np.degrees(heading.max() - heading.min())


def whole(rails, at, reach=2.5):
    """Whether rows within a reach of a place are about as long as one another."""
    outer, inner, _, _ = rails.at(np.mod(np.linspace(at - reach, at + reach, 41), rails.length))
    size = np.linalg.norm(outer - inner, axis=1)
    return size.min() > 0.8 * size.max()


@pytest.mark.parametrize("face", ["merriweather", "graduate", "courgette"])
def test_covers_of_letters_begin_where_they_turn_least_counters_too(face):
    for letter in lettering("RSa8&", face, 30.0):
        for region in letter.regions:
            for rails in border_rails(region, 1.8, 1.2, 0.15, "auto"):
                every, start = np.linspace(0.0, rails.length, 100), straightest(rails)
                calm = [at for at in every if whole(rails, at)]  # not where rows end on a diagonal
                assert whole(rails, start) or not calm, letter.text
                least = min(turned(rails, at) for at in calm or every)
                assert turned(rails, start) <= least + 20.0, letter.text


@pytest.mark.parametrize("half", [3.4, 5.0])
@pytest.mark.parametrize("name", ["star", "needles", "square", "ring"])
def test_no_stitch_of_a_wide_border_is_longer_than_a_column_s(name, half):
    for part in satin_borders(SHAPES[name], "cover", SatinSewing(half, half, SPACING, 0.2, corner="auto")):
        size = np.linalg.norm(np.diff(part.xy, axis=0), axis=1)[part.role[1:] == CODE["cover"]]
        assert size.max() <= 7.7
        assert name != "square" or half > 3.4 or np.median(size) > 7.0  # one that is not is left whole


def test_ties_lie_inside_the_cover():
    for part in satin_borders(SHAPES["star"], "cover", SatinSewing(OUTSIDE, INSIDE, SPACING, 0.2, "centre_run")):
        ties = part.xy[part.role == CODE["tie"]]
        assert len(ties) == 8  # a needle point and three stitches at either end
        steps = np.linalg.norm(np.diff(ties[:4], axis=0), axis=1)
        assert np.allclose(steps, 0.5, atol=0.02)
        off = signed(ties, SHAPES["star"])
        assert off.max() < OUTSIDE and off.min() > -INSIDE


def test_no_stitch_is_shorter_than_thread_bears():
    for region in SHAPES.values():
        for part in satin_borders(region, "cover", SatinSewing(OUTSIDE, INSIDE, SPACING, 0.3, "edge_run")):
            assert np.linalg.norm(np.diff(part.xy, axis=0), axis=1).min() >= 0.29


@pytest.mark.parametrize("recipe", sorted(set(UNDERLAY) - {"none"}))
@pytest.mark.parametrize("name", SHAPES)
def test_every_underlay_lies_inside_its_cover(name, recipe):
    region = SHAPES[name]
    bare = satin_borders(region, "cover", SatinSewing(OUTSIDE, INSIDE, SPACING, 0.2, "none"))
    for part, plain in zip(
        satin_borders(region, "cover", SatinSewing(OUTSIDE, INSIDE, SPACING, 0.2, recipe)), bare, strict=True
    ):
        under = part.xy[part.role == CODE["underlay"]]
        off = signed(under, region)
        assert off.max() <= OUTSIDE + 0.2 and off.min() >= -(INSIDE + 0.2)
        steps = np.linalg.norm(np.diff(part.xy, axis=0), axis=1)
        assert steps.min() >= 0.29 and steps.max() <= 12.1 + 1e-9
        cover = part.xy[part.role == CODE["cover"]]
        assert len(cover) >= 0.98 * (plain.role == CODE["cover"]).sum()
        runs, zigzags = UNDERLAY[recipe]
        crowd = KDTree(under).query_ball_point(under, 0.125, return_length=True)
        assert crowd.max() <= 4 + 4 * (runs + zigzags > 1)
        assert len(under) >= (runs + zigzags) * len(cover) / 40  # at least one stitch for each 8 mm


@st.composite
def blobs(draw):
    """Star-shaped polygons of any roughness, 5 to 40 mm across."""
    count = draw(st.integers(3, 60))
    size = draw(st.floats(5.0, 40.0))
    radius = np.array(draw(st.lists(st.floats(0.35, 1.0), min_size=count, max_size=count))) * size
    turn = np.sort(np.array(draw(st.lists(st.floats(0, 1), min_size=count, max_size=count, unique=True))))
    turn = 2 * np.pi * (0.5 * turn + 0.5 * np.arange(count) / count)
    region = Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1))
    return region if region.is_valid and region.area > 12 else Point(0, 0).buffer(size)


@settings(max_examples=60)
@given(blobs(), st.floats(0.0, 0.5))
def test_any_outline_gives_a_finite_satin_within_its_rails(region, pull):
    for line in covers(region, pull):
        assert np.isfinite(line).all() and len(line) > 6
        off = signed(line, region)
        assert off.max() <= OUTSIDE + pull + 0.06
        assert off.min() >= -(INSIDE + pull + 0.06)


@settings(max_examples=60)
@given(blobs(), st.floats(0.3, 3.0))
def test_rails_of_any_outline_keep_their_distance(region, offset):
    rings = boundaries(region)
    outlines = [sample_outline(ring) for ring in rings]
    rails = match_rails(outlines[0], surroundings(outlines), offset, offset)
    outer = signed(rails.outer, region)
    # between two samples a rail may cut across its corner, by half their step at most
    assert outer.max() <= offset + STEP / 2
    assert np.diff(rails.outer_way).min() >= -1e-9 and np.diff(rails.inner_way).min() >= -1e-9
