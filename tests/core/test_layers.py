"""Layers and effects: what an area is sewn on after laying, cutting, taking away, opening, slitting and pressing."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.matched import matched_job
from velamen.core.timeline.effects import CutsBack, Lays, Means, Opens, Presses, Slits, TakesAway, after
from velamen.core.timeline.layers import Layer, parted, worst

TOWEL = Layer("base", "terry", "terry towel", 2.2, 4.0, "low", 0.40, 0.40, "double_zigzag")
FILM = Layer("topping", "film", "film", 0.05)
COTTON = Layer("cloth", "red", "red cotton", 0.3, 0.0, "none", 0.15, 0.40, "centre_run", owners=("p1",))
FOAM = Layer("foam", "foam_2", "foam", 2.0, owners=("p1",))


def cotton(region, owner="p1", key="red"):
    return Layer(
        "cloth", key, f"{key} cotton", 0.3, 0.0, "none", 0.15, 0.40, "centre_run", owners=(owner,), region=region
    )


def lying(*effects):
    """Layers after effects, one after another."""
    layers = []
    for effect in effects:
        layers = after(layers, effect)
    return layers


def laid(*layers):
    return Lays(tuple(layers))


def shares(unders):
    return {under.surface.key: round(under.share, 4) for under in unders}


def test_a_cover_half_on_cloth_knows_it():
    layers = [TOWEL, cotton(box(0, 0, 50, 50))]
    assert shares(parted(layers, box(-3, 0, 3, 50))) == {"red": 0.5, "terry": 0.5}
    assert shares(parted(layers, box(-3, 0, 1, 50))) == {"terry": 0.75, "red": 0.25}
    assert shares(parted(layers[:1], box(-3, 0, 3, 50))) == {"terry": 1.0}
    assert parted(layers, shapely.Polygon()) == ()


def test_a_trim_changes_the_answer():
    layers = lying(laid(TOWEL), laid(cotton(box(-10, -10, 60, 60))))
    edge = box(-2, 10, 2, 40)
    assert shares(parted(layers, edge)) == {"red": 1.0}
    assert shares(parted(after(layers, CutsBack("p1", box(0, 0, 50, 50))), edge)) == {"red": 0.5, "terry": 0.5}


def test_only_what_its_own_piece_laid_is_trimmed():
    layers = lying(laid(TOWEL), laid(cotton(box(0, 0, 90, 90), "p1", "red")),
                   laid(cotton(box(0, 0, 90, 90), "p2", "blue")), CutsBack("p2", box(0, 0, 45, 90)))  # fmt: skip
    assert shares(parted(layers, box(0, 0, 90, 90))) == {"blue": 0.5, "red": 0.5}


def test_a_tear_away_changes_the_answer():
    layers = lying(laid(TOWEL), laid(FOAM))
    torn = after(layers, TakesAway("foam", ("p1",)))
    before, without = (parted(one, box(0, 0, 9, 9))[0] for one in (layers, torn))
    assert (before.surface.key, before.foam) == ("foam_2", 2.0)
    assert (without.surface.key, without.foam) == ("terry", 0.0)
    assert after(layers, TakesAway("foam", ("p9",)))[-1] is FOAM
    sheet = Layer("stabilizer", "wash_away", "wash-away fabric", 0.3)
    assert lying(laid(sheet, sheet), TakesAway("stabilizer", means=Means.WATER)) == []


def test_foam_is_torn_away_outside_what_covers_it():
    column = box(0, 0, 20, 4)
    layers = lying(laid(TOWEL), laid(FOAM), TakesAway("foam", ("p1",), box(-30, -30, 50, 30).difference(column)))
    assert [(one.surface.key, one.foam) for one in parted(layers, box(2, 1, 18, 3))] == [("foam_2", 2.0)]
    assert [(one.surface.key, one.foam) for one in parted(layers, box(0, 10, 9, 20))] == [("terry", 0.0)]


def test_an_opening_leaves_the_stabilizer_and_then_nothing():
    sheet, window = Layer("stabilizer", "wash_away", "wash-away fabric", 0.3), box(-10, -10, 10, 10)
    open_ = lying(laid(sheet, TOWEL), laid(cotton(box(-40, -40, 0, 40))), Opens(window))
    bars = box(-5, -5, 5, 5)
    assert shares(parted(open_, bars)) == {"wash_away": 1.0}
    assert shares(parted(open_, box(-20, -5, -10, 5))) == {"red": 1.0}
    rinsed = after(open_, TakesAway("stabilizer", means=Means.WATER))
    assert parted(rinsed, bars)[0].surface is None
    told = worst(parted(rinsed, bars))
    assert told["under_words"] == "nothing at all" and told["under_pull"] == 0.0
    assert worst(parted(rinsed, box(5, -5, 15, 5)))["under_words"] == "50 % terry towel + 50 % nothing at all"


def test_several_layers_laid_at_once_are_slit_but_for_the_lowest():
    gauze = tuple(cotton(box(0, 0, 50, 50), "p1", f"gauze_{nth}") for nth in range(3))
    layers = lying(laid(TOWEL), Lays(gauze), Slits("p1", "cloth", box(5, 5, 45, 8)))
    assert [one.slit is not None for one in layers] == [False, False, True, True]
    assert shares(parted(layers, box(10, 10, 20, 20))) == {"gauze_2": 1.0}


def test_pile_is_known_to_be_pressed_where_it_is():
    layers = lying(laid(TOWEL), Presses(box(0, 0, 50, 50)), laid(cotton(box(0, 0, 20, 50))))
    found = parted(layers, box(-10, 0, 30, 50))
    assert [(one.surface.key, one.pressed, round(one.share, 2)) for one in found] == [
        ("red", False, 0.5), ("terry", True, 0.25), ("terry", False, 0.25)]  # fmt: skip
    assert worst(parted(layers, box(25, 0, 30, 9)))["under_pressed"] is True
    assert worst(found)["under_pressed"] is False


def test_film_under_later_cloth_is_trapped_unless_it_is_washed_out():
    layers = lying(laid(TOWEL), laid(FILM), laid(cotton(box(0, 0, 50, 50))))
    torn = after(layers, TakesAway("topping"))
    assert [(one.key, one.trapped) for one in torn] == [("terry", False), ("film", True), ("red", False)]
    assert torn[1].region.equals(box(0, 0, 50, 50))
    assert [one.key for one in after(layers, TakesAway("topping", means=Means.WATER))] == ["terry", "red"]


def test_a_topping_takes_pile_down_to_a_third_while_it_is_there():
    layers = lying(laid(TOWEL), laid(FILM), laid(cotton(box(0, 0, 50, 50))))
    with_film = {under.surface.key: under for under in parted(layers, box(-5, 0, 5, 50))}
    assert with_film["terry"].topped and with_film["terry"].pile == pytest.approx(4 / 3)
    assert not with_film["red"].topped and with_film["red"].pile == 0.0
    assert worst(tuple(with_film.values()))["under_pile"] == pytest.approx(4 / 3)
    without = parted(after(layers, TakesAway("topping", means=Means.WATER)), box(-5, 0, 5, 50))
    assert worst(without)["under_pile"] == 4.0


def test_a_topping_that_is_gone_in_a_part_tops_only_the_rest():
    layers = lying(laid(TOWEL), laid(FILM), TakesAway("topping", region=box(0, -50, 50, 50)))
    found = parted(layers, box(-10, 0, 10, 10))
    assert sorted((one.topped, round(one.share, 2)) for one in found) == [(False, 0.5), (True, 0.5)]


def test_foam_counts_under_cloth_too():
    (under,) = parted([TOWEL, FOAM, COTTON], box(0, 0, 9, 9))
    assert under.surface.key == "red" and under.foam == 2.0
    assert worst([under])["under_foam"] == 2.0 and "over foam" in worst([under])["under_words"]


def test_the_worse_of_two_says_so_and_slivers_do_not_count():
    layers = [TOWEL, cotton(box(0, 0, 50, 50))]
    found = worst(parted(layers, box(-3, 0, 2, 50)))
    assert found["under_pull"] == 0.40 and found["under_underlay"] == "double_zigzag" and found["under_kinds"] == 2
    assert found["under_words"] == "60 % terry towel + 40 % red cotton"
    sliver = worst(parted(layers, box(-0.5, 0, 49.5, 50)))
    assert sliver["under_words"] == "red cotton" and sliver["under_pull"] == 0.15
    assert worst(()) == {}


@settings(max_examples=50)
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
    layers = [TOWEL, cotton(box(0, 0, 50, 50))]
    first = parted(layers, box(-3, 0, 3, 50))
    parted(layers, box(0, 0, 5, 5))
    assert parted(layers, box(-3, 0, 3, 50)) == first


@pytest.mark.parametrize("name", SHAPES)
def test_ugly_shapes_are_weighed(name):
    bones, (one,), _ = matched_job(job_of(SHAPES[name], base="terry"))
    kind, known = one.framed.kind, {key: value.value for key, value in one.values.items()}

    def under(part):
        return worst(parted(bones.layers[f"p1:{part}"], kind.stands_on(one.work, part, known)))

    cover = under("cover")
    assert cover["under_kinds"] == 2 and cover["under_pile"] == pytest.approx(4 / 3)
    assert under("tack")["under_words"] == "sail red cotton"
