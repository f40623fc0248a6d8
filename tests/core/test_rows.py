"""Sections of a fill: the order they are sewn in, where they are divided, and travel along rows from one to another."""

from itertools import pairwise

import numpy as np
import pytest
import shapely

from core.shapes import SHAPES
from velamen.core.stitching.row_joins import joins
from velamen.core.stitching.row_travel import roads_of
from velamen.core.stitching.rows import flat_rings, hatch, sections_of
from velamen.core.stitching.section_order import divided_at, routes

ANGLE, SPACING = 0.3, 0.8


def ground_of(name):
    region = SHAPES[name]
    rows = hatch(region, ANGLE, SPACING)
    return (
        region,
        rows,
        sections_of(rows, region),
        joins(rows, flat_rings(region, rows.frame), region, sections_of(rows, region)),
    )


@pytest.mark.parametrize("name", SHAPES)
def test_every_section_is_sewn_once_and_each_way_leads_from_where_the_last_ended(name):
    _, rows, sections, between = ground_of(name)
    parts = routes(rows, sections, between, None)
    assert sorted(leg.section for legs in parts for leg in legs) == list(range(len(sections.top)))
    part_of = {leg.section: nth for nth, legs in enumerate(parts) for leg in legs}
    for one, other in [*sections.gates.tolist(), *((way.one, way.other) for way in between)]:
        assert part_of[sections.section[one]] == part_of[sections.section[other]]  # trims only where no way leads on
    for legs in parts:
        sewn = {legs[0].section}
        for before, leg in pairwise(legs):
            assert leg.way[0] == (before.section, 1 - before.end) and leg.way[-1] == (leg.section, leg.end)
            assert {section for section, _ in leg.way[:-1]} <= sewn  # what is passed on the way is sewn already
            sewn.add(leg.section)


def test_sewing_begins_at_a_place_in_the_middle_of_a_section():
    _, rows, sections, between = ground_of("square")
    assert len(sections.top) == 1
    middle = len(rows.row) // 2
    place = np.array([rows.left[middle], rows.across[middle]])
    divided = divided_at(sections, rows, place)
    assert len(divided.top) == 2 and divided.bottom.tolist() == [middle, len(rows.row) - 1]
    (first, second), *none = routes(rows, divided, between, place)
    assert not none and (first.section, first.end) == (0, 1)  # from the middle up, then on down from there
    assert second.section == 1 and second.way[0] == (0, 0)


@pytest.mark.parametrize("name", SHAPES)
def test_travel_stays_on_the_rows_that_it_passes(name):
    region, rows, sections, between = ground_of(name)
    members = [np.flatnonzero(sections.section == nth) for nth in range(len(sections.top))]
    roads = roads_of(rows, sections, members, between)
    steps = [step for legs in routes(rows, sections, between, None) for step in pairwise(legs)]
    for before, leg in steps:
        stretch = members[before.section][-1 if before.end == 0 else 0]
        at = np.array([(rows.left[stretch] + rows.right[stretch]) / 2, rows.across[stretch]])
        path = rows.frame.places(roads.travel(leg.way, at))
        assert shapely.distance(shapely.points(path), region).max(initial=0.0) < 0.05
