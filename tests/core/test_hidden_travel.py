"""Travel of a fill that covers lies under rows sewn later, wherever it begins and ends (a fill of 0.40)."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.shapes import SHAPES
from velamen.core.artwork.lettering import lettering
from velamen.core.stitching.column import columns
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.fill import FillSewing, fill
from velamen.core.stitching.roles import CODE

SPACING, UNDER = 0.4, 0.3  # mm: half a spacing and 0.1
SLIVERS = {"sliver": 5.0}  # mm: where rows hang together through places thinner than a spacing
AREAS = {
    **SHAPES,
    "crescent": Point(0, 0).buffer(28, 64).difference(Point(10, 0).buffer(24, 64)),
    "gear": shapely.union_all([Point(0, 0).buffer(20, 64), *(
        shapely.affinity.rotate(box(18, -1.5, 25, 1.5), turn, (0, 0)) for turn in range(0, 360, 15)
    )]),
    "forty_holes": Point(0, 0).buffer(28, 32).difference(shapely.union_all([
        Point(x, y).buffer(2) for x in range(-24, 25, 8) for y in range(-24, 25, 8) if x * x + y * y < 500
    ])),
    "ladder": shapely.union_all([box(-20, -30, -15, 30), box(15, -30, 20, 30),
                                 *(box(-20, y, 20, y + 4) for y in range(-28, 28, 9))]),
}  # fmt: skip


def on_finished(strand):
    """mm of travel with no row sewn later over it, and its longest stretch, in steps of 0.15."""
    ends = np.stack([strand.xy[:-1], strand.xy[1:]], axis=1)
    role = strand.role[1:]
    travel, rows = np.flatnonzero(role == CODE["travel"]), np.flatnonzero(role == CODE["decoration"])
    steps = np.maximum(np.ceil(np.linalg.norm(ends[travel, 1] - ends[travel, 0], axis=1) / 0.15), 1).astype(int)
    owner = np.repeat(travel, steps)
    share = np.concatenate([(np.arange(count) + 0.5) / count for count in steps] or [[]])
    places = ends[owner, 0] + share[:, None] * (ends[owner, 1] - ends[owner, 0])
    near = shapely.STRtree(shapely.linestrings(ends[rows])).query(shapely.points(places), "dwithin", UNDER)
    later = np.zeros(len(places), bool)
    later[near[0][rows[near[1]] > owner[near[0]]]] = True
    run = np.split(~later, np.flatnonzero(np.diff(~later)) + 1) if len(later) else []
    return 0.15 * float((~later).sum()), 0.15 * max((len(one) for one in run if one[0]), default=0)


@pytest.mark.parametrize("angle", [0, 37, 90])
@pytest.mark.parametrize("name", AREAS)
def test_all_travel_lies_under_rows_sewn_later(name, angle):
    sewing = FillSewing(np.radians(angle), SPACING, 4.0, "plain", 0.2, covers=True)
    (sewn,) = fill(AREAS[name], "decoration", sewing)
    bare, longest = on_finished(sewn)
    gates = int((np.diff((sewn.role == CODE["travel"]).astype(int)) > 0).sum())
    assert longest <= SLIVERS.get(name, 2.0)
    assert bare <= 2.0 * SLIVERS.get(name, 1.0) + 0.3 * gates  # a step over from a row's end is half a row long


@pytest.mark.parametrize("name", ["star", "comb", "ring", "two_holes", "ladder", "square"])
def test_it_begins_and_ends_where_it_is_to(name):
    region = AREAS[name]
    sewing = FillSewing(0.3, SPACING, 4.0, "plain", 0.2, covers=True)  # a row ends near any place on an outline
    places = shapely.line_interpolate_point(region.exterior, [0.1, 0.37, 0.8], normalized=True)
    for start, end in [(0, None), (1, None), (None, 0), (None, 2), (0, 1), (2, 2)]:
        asked = [None if nth is None else tuple(shapely.get_coordinates(places[nth])[0]) for nth in (start, end)]
        (sewn,) = fill(region, "decoration", sewing, *asked)
        assert on_finished(sewn)[1] <= 2.0
        if asked[1] is not None:
            assert np.hypot(*(sewn.xy[-1] - asked[1])) < 1.5
        if asked[0] is not None:  # at an end of a section: there rows begin
            assert np.hypot(*(sewn.xy[0] - asked[0])) < 30


ACROSS = np.linspace(-30, 30, 61)
GUIDES = {
    "bow": np.stack([ACROSS, 6 * np.cos(ACROSS / 30 * np.pi / 2) - 10], axis=1),
    "roof": np.array([[-30.0, -10.0], [0.0, 8.0], [30.0, -10.0]]),
    "valley": np.array([[-30.0, -10.0], [0.0, -28.0], [30.0, -10.0]]),
    "wave": np.stack([ACROSS, 12 * np.sin(ACROSS / 30 * np.pi)], axis=1),
}


@pytest.mark.parametrize("guide", GUIDES)
@pytest.mark.parametrize("name", ["star", "two_holes", "comb", "neck", "crescent"])
def test_it_does_so_along_a_guide_too(name, guide):
    sewing = FillSewing(0.0, SPACING, 4.0, "plain", 0.2, guide=GUIDES[guide], covers=True)
    (sewn,) = fill(AREAS[name], "decoration", sewing)
    assert on_finished(sewn)[1] <= 2.0
    assert shapely.distance(shapely.points(sewn.xy), AREAS[name]).max() < 0.35


@pytest.mark.parametrize("letter", list("BRESa8&"))
def test_ways_between_the_columns_of_a_letter_lie_under_them(letter):
    (shape,) = lettering(letter, "merriweather", 40.0)
    for region in shape.regions:
        for sewn in columns(region, Sewing("decoration", SPACING, 0.15)):
            assert on_finished(sewn)[1] <= 2.0
