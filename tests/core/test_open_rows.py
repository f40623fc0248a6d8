"""Open rows: every row sewn, in both directions of a net at once, and from row to row along the edge alone."""

from collections import Counter
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import done_of, job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.core.stitching.edge_trail import Ends, trails
from velamen.core.stitching.open_ground import open_ground
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.rows import hatch

SPACING = 2.5
AREAS = {
    **SHAPES,
    "forty_holes": Point(0, 0).buffer(28, 32).difference(shapely.union_all([
        Point(x, y).buffer(2) for x in range(-24, 25, 8) for y in range(-24, 25, 8) if x * x + y * y < 500
    ])),
}  # fmt: skip


@pytest.mark.parametrize("stitch", ["crosshatch", "rows"])
@pytest.mark.parametrize("name", AREAS)
def test_travel_of_an_open_ground_goes_along_its_edge_and_every_row_is_sewn(name, stitch):
    region = AREAS[name]
    strands = open_ground(region, "knockdown", stitch, SPACING, 3.0, 0.6)
    assert len(strands) <= 2  # none where an edge is not long
    edge = region.boundary
    for one in strands:
        ends = np.stack([one.xy[:-1], one.xy[1:]], axis=1)
        travel = shapely.linestrings(ends[one.role[1:] == CODE["travel"]])
        assert shapely.distance(shapely.centroid(travel), edge).max(initial=0.0) < 0.8
    sewn = shapely.union_all([shapely.LineString(one.xy) for one in strands])
    for turn in (0.6, 0.6 + np.pi / 2) if stitch == "crosshatch" else (0.6,):
        rows = hatch(region, turn, SPACING)
        middle = rows.frame.places(np.stack([(rows.left + rows.right) / 2, rows.across], axis=1))
        long = rows.right - rows.left > 1.0
        assert shapely.distance(shapely.points(middle[long]), sewn).max(initial=0.0) < 0.15


OPEN = {
    "wide": ("fill", {"fill_spacing": 1.2}),
    "growing": ("fill", {"fill_spacing": 0.4, "fill_spacing_end": 1.6}),
    "closing": ("fill", {"fill_spacing": 1.6, "fill_spacing_end": 0.4}),
    "net": ("crosshatch", {}),
}


@pytest.mark.parametrize("kind", OPEN)
@pytest.mark.parametrize("name", ["star", "comb", "two_holes", "ring", "coast", "spiral", "needles", "forty_holes"])
def test_what_stays_open_has_no_underlay_and_travels_along_its_edge(name, kind):
    region, (construct, own) = AREAS[name], OPEN[kind]
    job = job_of(region, hoop="h360x200")
    (built,) = build_job(change(job, pieces=[change(job.pieces[0], construct=construct, own=own)])).pieces
    strands = [one for step in done_of(built) for one in step.strands]
    assert strands and not any((one.role == CODE["underlay"]).any() for one in strands)
    for one in strands:
        ends = np.stack([one.xy[:-1], one.xy[1:]], axis=1)[one.role[1:] == CODE["travel"]]
        assert shapely.distance(shapely.points(ends.mean(axis=1)), region.boundary).max(initial=0.0) < 1.0


def test_it_begins_at_the_row_that_ends_nearest_to_the_start():
    for place in ((30.0, 0.0), (9.3, -28.5), (-24.0, 17.6)):
        (one,) = open_ground(SHAPES["star"], "knockdown", "crosshatch", SPACING, 3.0, 0.6, start=place)
        assert np.hypot(*(one.xy[0] - place)) < 2.5


@pytest.mark.parametrize("name", ["ring", "two_holes", "forty_holes", "thin_ring"])
def test_it_begins_at_a_hole_too(name):
    region = AREAS[name]
    for hole in list(region.interiors)[:6]:
        place = shapely.get_coordinates(hole)[0]
        for stitch in ("crosshatch", "rows"):
            one = open_ground(region, "knockdown", stitch, SPACING, 3.0, 0.6, start=tuple(place))[0]
            assert hole.distance(Point(one.xy[0])) < 0.5  # at one of the rows that end on it


@settings(max_examples=150)
@given(st.data())
def test_a_trail_takes_every_row_and_no_stretch_of_an_outline_more_than_twice(data):
    """Any rows between any outlines."""
    rows = data.draw(st.integers(1, 14))
    rings = data.draw(st.integers(1, 4))
    ring = np.array(data.draw(st.lists(st.integers(0, rings - 1), min_size=2 * rows, max_size=2 * rows)))
    place = np.array(data.draw(st.lists(st.floats(0, 99), min_size=2 * rows, max_size=2 * rows, unique=True)))
    start = data.draw(st.one_of(st.none(), st.integers(0, 2 * rows - 1)))
    ends = Ends(np.arange(rows) + 5.0, ring, place, np.full(rings, 100.0))
    found = trails(ends, start, 1000.0)
    taken = Counter(step.row for trail in found for step in trail if step.row >= 0)
    assert set(taken) == set(range(rows)) and max(taken.values()) <= 2
    graph = {one: {one} for one in range(rings)}
    for one, other in ring.reshape(-1, 2).tolist():
        whole = graph[one] | graph[other]
        for each in whole:
            graph[each] = whole
    assert len(found) == len({frozenset(graph[one]) for one in set(ring.tolist())})
    for trail in found:
        for step in trail:
            assert step.row >= 0 or ring[step.one] == ring[step.other]
        assert all(one.other == other.one for one, other in pairwise(trail))
    if start is not None:
        assert found[0][0].one == start or found[0][0].row < 0
    walked = Counter()
    order = np.lexsort((place, ring))
    for trail in found:
        for step in trail:
            if step.row < 0:
                one, other = (step.one, step.other) if step.up else (step.other, step.one)
                mine = [node for node in order.tolist() if ring[node] == ring[one]]
                at = mine.index(one)
                while mine[at % len(mine)] != other:
                    walked[mine[at % len(mine)]] += 1
                    at += 1
    assert max(walked.values(), default=0) <= 3


def test_a_square_is_sewn_to_and_fro():
    (one,) = open_ground(box(0, 0, 20, 20), "knockdown", "rows", SPACING, 12.0, 0.0)
    assert not (one.role == CODE["travel"]).any()
