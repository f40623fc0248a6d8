"""Matching: expected values and reasons by material, precedence, and own values."""

import random

import pytest

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building import brief_traits, build_job, values_of
from velamen.core.constructions import construction, constructions
from velamen.core.errors import BadInput
from velamen.core.job import Brief, Piece, brief_for
from velamen.core.matching.engine import Rule, in_order, match, rules
from velamen.core.matching.settings import Setting
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.library import bases, threads

EXPECTED = [
    # base, spacing, pull, underlay
    ("light_woven", 0.40, 0.15, "centre_run"),
    ("firm_woven", 0.40, 0.15, "centre_run"),
    ("jersey", 0.42, 0.35, "edge_run"),
    ("fleece", 0.40, 0.40, "edge_run"),
    ("terry", 0.40, 0.40, "edge_run"),
    ("plush", 0.38, 0.45, "edge_run"),
    ("velvet", 0.40, 0.30, "edge_run"),
    ("leather", 0.50, 0.15, "centre_run"),
    ("sheer", 0.45, 0.15, "centre_run"),
]


def matched(brief, own=None):
    return values_of(Piece("p1", "Piece", "s1", own=own or {}), brief)


@pytest.mark.parametrize(("base", "spacing", "pull", "underlay"), EXPECTED)
def test_values_follow_the_base(base, spacing, pull, underlay):
    values = matched(brief_for(base))
    assert values["cover_spacing"].value == spacing
    assert values["cover_pull"].value == pytest.approx(pull)
    assert values["cover_underlay"].value == underlay
    assert bases()[base].name.lower() in values["cover_spacing"].reasons[0]
    assert values["cover_width"].value == 3.0 and values["cover_share"].value == 60
    assert all(value.reasons for value in values.values())


def test_stretch_without_cut_away_adds_pull_and_says_so():
    values = matched(Brief("jersey", "tear_away", 1, "none"))
    assert values["cover_pull"].value == pytest.approx(0.45)
    assert "without cut-away" in values["cover_pull"].reasons[-1]
    mesh = matched(Brief("jersey", "mesh", 1, "none"))
    assert mesh["cover_pull"].value == pytest.approx(0.35)


def test_two_layers_take_pull_off():
    values = matched(Brief("firm_woven", "tear_away", 2, "none"))
    assert values["cover_pull"].value == pytest.approx(0.10)
    assert "two layers" in values["cover_pull"].reasons[-1]


def test_precut_turns_the_share_round():
    values = matched(brief_for("terry"), {"precut": True})
    assert values["cover_share"].value == 40
    assert values["precut"].source == "own" and values["precut"].matched is False


def test_tack_down_stays_under_the_cover():
    assert matched(brief_for("terry"))["tack_width"].value == pytest.approx(1.0)
    wide = matched(brief_for("terry"), {"cover_width": 8.0})["tack_width"]
    assert wide.value == 2.5 and wide.reasons == ("2.5: start value of a zigzag tack-down",)


def test_own_value_keeps_what_matching_would_say():
    value = matched(brief_for("terry"), {"cover_spacing": 0.36})["cover_spacing"]
    assert (value.value, value.matched, value.source) == (0.36, 0.40, "own")


@pytest.mark.parametrize("text", ["0", "99", "nan", "inf", "wide", "", "-3"])
def test_out_of_bounds_names_value_and_bounds(text):
    with pytest.raises(BadInput, match=r"Width .*use 1 to 10 mm\."):
        construction("applique").setting("cover_width").read(text)


def test_numbers_are_read_as_people_type_them():
    width = construction("applique").setting("cover_width")
    assert width.read("3,5") == width.read(" 3.5 mm ") == width.read("3.5") == 3.5


def test_rule_order_is_not_file_order():
    traits = {**brief_traits(Brief("jersey", "tear_away", 2, "none")), "construct": "applique"}
    kind = construction("applique")
    wanted = match(kind.settings, traits, {}, kind.derive)
    for seed in range(5):
        table = list(rules())
        random.Random(seed).shuffle(table)
        assert match(kind.settings, traits, {}, kind.derive, in_order(tuple(table))) == wanted


def test_precedence_of_what_rules_do():
    setting = Setting("width", "Width", "Cover", "", low=0, high=9)
    does = [("at_most", 4.0), ("add", 1.0), ("set", 2.0), ("multiply", 2.0), ("at_least", 1.0)]
    table = tuple(Rule(f"r{n}", "width", (), what, worth, "{amount}") for n, (what, worth) in enumerate(does))
    value = match((setting,), {}, {}, lambda known: {}, in_order(table))["width"]
    assert value.value == 4.0 and value.reasons == ("2.0", "2.0", "1.0", "4.0")


def test_every_rule_names_a_setting_and_every_setting_has_a_rule():
    keys = {setting.key for kind in constructions().values() for setting in kind.settings}
    assert {rule.key for rule in rules()} == keys


def test_values_are_the_same_in_build():
    built = build_job(job_of(SHAPES["square"])).pieces[0]
    assert built.values == matched(brief_for("terry", "h200x300"))


def test_nearest_thread_of_a_thread_is_itself():
    assert all(nearest_thread(thread.colour).key == thread.key for thread in threads().values())
    assert nearest_thread("#fefefe").name == "Signal white"
