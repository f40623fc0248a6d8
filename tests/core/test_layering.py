"""What lies beneath a pass at its moment: by area, after trims, tear-aways and toppings."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building import matched
from velamen.core.building.build import build_job
from velamen.core.building.matched import matched_job
from velamen.core.constructions import constructions
from velamen.core.constructions.base import HandStep, Pass
from velamen.core.timeline.layers import Lay, Layer, Remove, Sew, Trim, beneath, lying, parted, worst

TOWEL = Layer("base", "terry", "terry towel", 2.2, 4.0, "low", 0.40, 0.40, "double_zigzag")
FILM = Layer("topping", "film", "film", 0.05)
COTTON = Layer("cloth", "red", "red cotton", 0.3, 0.0, "none", 0.15, 0.40, "centre_run", owner="p1")
FOAM = Layer("foam", "foam_2", "foam", 2.0, owner="p1")


def cotton(region, owner="p1", key="red"):
    return Layer(
        "cloth", key, f"{key} cotton", 0.3, 0.0, "none", 0.15, 0.40, "centre_run", owner=owner, region=region
    )


def shares(unders):
    return {under.surface.key: round(under.share, 4) for under in unders}


def test_a_cover_half_on_cloth_knows_it():
    events = [Lay(TOWEL), Lay(cotton(box(0, 0, 50, 50)))]
    assert shares(beneath(events, 2, box(-3, 0, 3, 50))) == {"red": 0.5, "terry": 0.5}
    assert shares(beneath(events, 2, box(-3, 0, 1, 50))) == {"terry": 0.75, "red": 0.25}
    assert shares(beneath(events, 1, box(-3, 0, 3, 50))) == {"terry": 1.0}
    assert beneath(events, 2, shapely.Polygon()) == ()


def test_a_trim_changes_the_answer():
    laid = [Lay(TOWEL), Lay(cotton(box(-10, -10, 60, 60))), Sew("tack", "p1"), Trim("p1", box(0, 0, 50, 50))]
    edge = box(-2, 10, 2, 40)
    assert shares(beneath(laid, 3, edge)) == {"red": 1.0}
    assert shares(beneath(laid, 4, edge)) == {"red": 0.5, "terry": 0.5}


def test_only_what_its_own_piece_laid_is_trimmed():
    events = [Lay(TOWEL), Lay(cotton(box(0, 0, 90, 90), "p1", "red")), Lay(cotton(box(0, 0, 90, 90), "p2", "blue")),
              Trim("p2", box(0, 0, 45, 90))]  # fmt: skip
    assert shares(beneath(events, 4, box(0, 0, 90, 90))) == {"blue": 0.5, "red": 0.5}


def test_a_tear_away_changes_the_answer():
    foam = [Lay(TOWEL), Lay(FOAM), Sew("cover", "p1"), Remove("foam", "p1")]
    before, after = (beneath(foam, position, box(0, 0, 9, 9))[0] for position in (2, 4))
    assert (before.surface.key, before.foam) == ("foam_2", 2.0)
    assert (after.surface.key, after.foam) == ("terry", 0.0)
    assert lying([*foam, Lay(FOAM), Remove("foam", "p9")], 6)[-1] is FOAM
    sheet = Layer("stabilizer", "wash_away", "wash-away fabric", 0.3)
    lace = [Lay(sheet), Lay(sheet), Remove("stabilizer")]
    assert len(lying(lace, 2)) == 2 and lying(lace, 3) == ()


def test_a_topping_takes_pile_down_to_a_third_while_it_is_there():
    events = [Lay(TOWEL), Lay(FILM), Lay(cotton(box(0, 0, 50, 50))), Remove("topping")]
    with_film = {under.surface.key: under for under in beneath(events, 3, box(-5, 0, 5, 50))}
    assert with_film["terry"].topped and with_film["terry"].pile == pytest.approx(4 / 3)
    assert not with_film["red"].topped and with_film["red"].pile == 0.0
    assert worst(tuple(with_film.values()))["under_pile"] == pytest.approx(4 / 3)
    without = beneath(events, 4, box(-5, 0, 5, 50))
    assert worst(without)["under_pile"] == 4.0


def test_foam_counts_under_cloth_too():
    events = [Lay(TOWEL), Lay(FOAM), Lay(COTTON)]
    (under,) = beneath(events, 3, box(0, 0, 9, 9))
    assert under.surface.key == "red" and under.foam == 2.0
    assert worst([under])["under_foam"] == 2.0 and "over foam" in worst([under])["under_words"]


def test_the_worse_of_two_says_so_and_slivers_do_not_count():
    events = [Lay(TOWEL), Lay(cotton(box(0, 0, 50, 50)))]
    found = worst(beneath(events, 2, box(-3, 0, 2, 50)))
    assert found["under_pull"] == 0.40 and found["under_underlay"] == "double_zigzag" and found["under_kinds"] == 2
    assert found["under_words"] == "60 % terry towel + 40 % red cotton"
    sliver = worst(beneath(events, 2, box(-0.5, 0, 49.5, 50)))
    assert sliver["under_words"] == "red cotton" and sliver["under_pull"] == 0.15
    assert worst(()) == {}


@settings(max_examples=50, deadline=None)
@given(st.lists(st.tuples(st.floats(-30, 30), st.floats(-30, 30), st.floats(1, 25)), max_size=5), st.integers(0, 9))
def test_shares_are_those_of_a_count_of_points(discs, seed):
    layers = [TOWEL, *(cotton(Point(x, y).buffer(r), f"p{n}", f"c{n}") for n, (x, y, r) in enumerate(discs))]
    area = box(-20, -20, 20, 20)
    unders = parted(layers, area)
    assert math.isclose(sum(under.share for under in unders), 1.0, abs_tol=1e-9)
    points = np.random.default_rng(seed).uniform(-20, 20, (4000, 2))
    top = np.zeros(len(points), dtype=int)
    for nth, layer in enumerate(layers[1:], 1):
        top[shapely.contains_xy(layer.region, points)] = nth
    for nth, layer in enumerate(layers):
        share = sum(under.share for under in unders if under.surface is layer)
        assert abs(share - np.mean(top == nth)) < 0.05


def test_shares_do_not_depend_on_what_else_is_asked():
    events = [Lay(TOWEL), Lay(cotton(box(0, 0, 50, 50)))]
    first = beneath(events, 2, box(-3, 0, 3, 50))
    beneath(events, 2, box(0, 0, 5, 5))
    assert beneath(events, 2, box(-3, 0, 3, 50)) == first


@pytest.mark.parametrize("name", SHAPES)
def test_ugly_shapes_are_weighed(name):
    (one,) = matched_job(job_of(SHAPES[name], base="terry"))
    kind = constructions()["applique"]
    known = {key: value.value for key, value in one.values.items()}

    def under(role):
        return matched.beneath(kind, one.work, one.below, role, kind.footprint(one.work, role, known), known)

    cover = under("cover")
    assert cover["under_kinds"] == 2 and cover["under_pile"] == pytest.approx(4 / 3)
    tack = under("tack")
    assert tack["under_words"] == "sail red cotton"


@pytest.mark.parametrize("own", [{}, {"precut": True}, {"padding": "foam_2"}, {"padding": "foam_3", "precut": True}])
def test_events_tell_the_same_course_as_the_steps(own):
    """What a construction says is laid, cut and sewn is what it then has people and machine do."""
    (built,) = build_job(job_of(SHAPES["ring"], own=own)).pieces
    known = {key: value.value for key, value in built.values.items()}
    events = constructions()["applique"].events(built.work, known)
    told = []
    for event in events:
        name = {Sew: lambda one: one.role, Lay: lambda one: "lay", Trim: lambda one: "trim"}[type(event)](event)
        if told[-1:] != ["lay"] or name != "lay":
            told.append(name)
    done = [step.role if isinstance(step, Pass) else step.kind for step in built.steps]
    assert told == done
    foam = [step.foam for step in built.steps if isinstance(step, HandStep) and step.foam]
    assert bool(foam) == ("padding" in own)
