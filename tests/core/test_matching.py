"""Matching: expected values and reasons by material and construction, precedence, and own values."""

import random

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from core.jobs import job_of, why_lost
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.matched import lone_values, matched_job, sample_values
from velamen.core.building.works import work_of
from velamen.core.constructions import construction, constructions
from velamen.core.errors import BadInput
from velamen.core.job.document import Brief, Piece, brief_for, change
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.library import library_with, shipped, shipped_rows
from velamen.core.setting import Setting
from velamen.core.timeline.hooping import ground_layers
from velamen.core.timeline.layers import RANKS
from velamen.core.values.advice import SETTINGS as ADVICE
from velamen.core.values.engine import Rule, in_order, match, rules

PLAIN = shapely.box(-25, -25, 25, 25)


def matched(brief, own=None, cloth="sail_red", thread="140", region=PLAIN, library=None):
    library = library or shipped()
    piece = Piece("p1", "Piece", "s1", cloth=cloth, thread=thread, own=own or {})
    return lone_values(piece, work_of(piece, region, library), brief, library)


# An appliqué of cotton on every base with what the base asks for: spacing, pull, underlay, width,
# and what the reasons of pull must say.
BY_BASE = [
    ("light_woven", 0.40, 0.15, "centre_run", 3.0, "light woven"),
    ("firm_woven", 0.40, 0.15, "edge_run", 3.0, "firm woven"),
    ("jersey", 0.40, 0.35, "edge_run_zigzag", 3.0, "jersey knit"),
    ("pique", 0.40, 0.30, "edge_run_zigzag", 3.0, "piqué knit"),
    ("sweatshirt", 0.40, 0.35, "edge_run_zigzag", 3.0, "sweatshirt"),
    ("fleece", 0.40, 0.40, "edge_run_zigzag", 3.0, "polar fleece"),
    ("terry", 0.40, 0.40, "double_zigzag", 3.0, "terry towel"),
    ("plush", 0.38, 0.45, "double_zigzag", 3.0, "plush, minky"),
    ("fur", 0.38, 0.50, "double_zigzag", 3.5, "long-pile fur"),
    ("velvet", 0.40, 0.30, "edge_run", 3.0, "velvet, corduroy"),
    ("felt", 0.40, 0.15, "edge_run", 3.0, "felt"),
    ("leather", 0.50, 0.15, "edge_run", 3.0, "leather, vinyl"),
    ("sheer", 0.40, 0.15, "centre_run", 3.0, "sheer"),
    ("cap", 0.38, 0.25, "edge_run_zigzag", 3.0, "structured cap"),
    ("none", 0.40, 0.20, "edge_run", 3.0, "the stabilizer alone"),
]


@pytest.mark.parametrize(("base", "spacing", "pull", "underlay", "width", "words"), BY_BASE)
def test_cotton_applique_on_every_base(base, spacing, pull, underlay, width, words):
    values = matched(brief_for(base))
    assert values["cover_spacing"].value == spacing
    assert values["cover_pull"].value == pytest.approx(pull)
    assert values["cover_underlay"].value == underlay
    assert values["cover_width"].value == width and values["cover_share"].value == 60
    assert words in values["cover_pull"].reasons[0]
    assert all(value.reasons for value in values.values())


# Other cloths: what the cloth brings counts as much as the base.
BY_CLOTH = [
    ("firm_woven", "seal_plush", 0.38, 0.45, "double_zigzag"),
    ("firm_woven", "moor_felt", 0.40, 0.15, "edge_run"),
    ("firm_woven", "galley_check", 0.40, 0.15, "edge_run"),
    ("jersey", "moor_felt", 0.42, 0.35, "edge_run_zigzag"),
    ("jersey", "seal_plush", 0.38, 0.45, "double_zigzag"),
    ("leather", "moor_felt", 0.50, 0.15, "edge_run"),
    ("leather", "seal_plush", 0.50, 0.45, "edge_run"),
    ("sheer", "moor_felt", 0.42, 0.15, "edge_run"),
    ("terry", "seal_plush", 0.38, 0.45, "double_zigzag"),
    ("light_woven", "tide_stripe", 0.40, 0.15, "centre_run"),
]


@pytest.mark.parametrize(("base", "cloth", "spacing", "pull", "underlay"), BY_CLOTH)
def test_the_cloth_counts_as_well_as_the_base(base, cloth, spacing, pull, underlay):
    values = matched(brief_for(base), cloth=cloth)
    assert values["cover_spacing"].value == pytest.approx(spacing)
    assert values["cover_pull"].value == pytest.approx(pull)
    assert values["cover_underlay"].value == underlay


# Stabilizer and topping: (base, stabilizer, layers, topping) -> key, value, words of the last reason.
BY_BRIEF = [
    (("jersey", "tear_away", 1, "none"), "cover_pull", 0.45, "without cut-away"),
    (("jersey", "mesh", 1, "none"), "cover_pull", 0.35, "jersey knit"),
    (("jersey", "cut_away", 2, "none"), "cover_pull", 0.30, "two layers"),
    (("jersey", "tear_away", 2, "none"), "cover_pull", 0.40, "without cut-away"),
    (("fleece", "tear_away", 1, "film"), "cover_pull", 0.50, "without cut-away"),
    (("plush", "wash_away", 1, "film"), "cover_pull", 0.55, "without cut-away"),
    (("firm_woven", "tear_away", 2, "none"), "cover_pull", 0.10, "two layers"),
    (("firm_woven", "tear_away", 4, "none"), "cover_pull", 0.10, "two layers"),
    (("light_woven", "none", 3, "none"), "cover_pull", 0.15, "light woven"),
    (("none", "wash_away", 2, "none"), "cover_pull", 0.20, "the stabilizer alone"),
    (("terry", "wash_away", 1, "none"), "cover_width", 3.5, "4.0 mm of pile stand up beside the edge"),
    (("terry", "wash_away", 1, "film"), "cover_width", 3.0, "start value"),
    (("terry", "wash_away", 1, "heat_film"), "cover_width", 3.0, "start value"),
    (("plush", "cut_away", 1, "none"), "cover_width", 3.5, "pile stand up"),
    (("fur", "cut_away", 1, "film"), "cover_width", 3.5, "4.0 mm of pile"),
    (("fur", "cut_away", 1, "none"), "cover_width", 3.5, "12.0 mm of pile"),
    (("fleece", "cut_away", 1, "none"), "cover_underlay", "double_zigzag", "2.0 mm of pile stand up here"),
    (("fleece", "cut_away", 1, "film"), "cover_underlay", "edge_run_zigzag", "stronger recipe"),
    (("sweatshirt", "cut_away", 1, "none"), "cover_underlay", "edge_run_zigzag", "stronger recipe"),
    (("velvet", "cut_away", 1, "none"), "cover_underlay", "edge_run", "recipe"),
]


@pytest.mark.parametrize(("brief", "key", "wanted", "words"), BY_BRIEF)
def test_stabilizer_and_topping_change_the_numbers(brief, key, wanted, words):
    value = matched(Brief(*brief))[key]
    assert value.value == (wanted if isinstance(wanted, str) else pytest.approx(wanted))
    assert words in value.reasons[-1]


# What a piece is made of: (base, own values, thread) -> key, value, words of the last reason.
BY_PIECE = [
    (
        "firm_woven",
        {"padding": "foam_2"},
        "140",
        "cover_spacing",
        0.20,
        "half of 0.40, because 2 mm foam lies under it",
    ),
    ("firm_woven", {"padding": "foam_3"}, "140", "cover_spacing", 0.16, "two fifths of 0.40, because 3 mm foam"),
    ("leather", {"padding": "foam_2"}, "140", "cover_spacing", 0.50, "at least 0.50: needle holes stay"),
    ("terry", {"padding": "foam_2"}, "140", "cover_underlay", "edge_run", "perforates the 2 mm foam"),
    ("leather", {"padding": "foam_2"}, "140", "cover_underlay", "edge_run", "needle holes stay"),
    ("firm_woven", {"padding": "foam_2"}, "140", "cover_width", 3.5, "go round it"),
    ("firm_woven", {"padding": "foam_2"}, "140", "tack_spacing", 2.5, "a loose hold"),
    ("firm_woven", {"padding": "foam_3", "tack_kind": "run"}, "140", "tack_length", 4.0, "a loose hold"),
    ("firm_woven", {}, "165", "cover_spacing", 0.34, "60 weight thread is finer"),
    ("firm_woven", {}, "161", "cover_spacing", 0.44, "metallic thread frets"),
    ("leather", {}, "165", "cover_spacing", 0.50, "needle holes stay"),
    ("firm_woven", {"precut": True}, "140", "cover_share", 40, "cut exactly"),
    ("firm_woven", {"precut": True}, "140", "tack_width", 1.6, "the cover hides 1.80 inside the edge"),
    ("terry", {}, "140", "tack_width", 1.0, "the cover hides 1.20 inside the edge"),
    ("terry", {"cover_width": 8.0}, "140", "tack_width", 2.5, "start value"),
    ("terry", {"cover_share": 40}, "140", "tack_width", 1.6, "the cover hides 1.80"),
    ("terry", {"cover_width": 1.5}, "140", "tack_width", 0.6, "kept within 0.6 to 4 mm"),
    ("terry", {"tack_kind": "run"}, "140", "tack_inset", 0.8, "start value"),
    ("terry", {"tack_kind": "run", "cover_width": 2.0}, "140", "tack_inset", 0.6, "the cover hides 0.80"),
    ("terry", {}, "140", "placement_length", 2.5, "start value"),
]


@pytest.mark.parametrize(("base", "own", "thread", "key", "wanted", "words"), BY_PIECE)
def test_piece_and_thread_change_the_numbers(base, own, thread, key, wanted, words):
    value = matched(brief_for(base), own, thread=thread)[key]
    assert value.value == (wanted if isinstance(wanted, str) else pytest.approx(wanted))
    assert words in value.reasons[-1]


@pytest.mark.parametrize(
    ("size", "key", "wanted"),
    [
        (7.0, "tack_width", 1.0),
        (4.0, "tack_width", 0.8),
        (6.0, "placement_length", 1.2),
        (9.0, "placement_length", 1.8),
    ],
)
def test_small_pieces_get_small_numbers(size, key, wanted):
    assert matched(brief_for("firm_woven"), region=shapely.box(0, 0, size, 30))[key].value == pytest.approx(wanted)


def test_a_piece_on_another_cloth_knows_it_and_one_half_over_it_too():
    job = job_of(shapely.box(0, 0, 60, 60), shapely.box(20, 20, 40, 40), shapely.box(30, 50, 50, 90), base="terry")
    low, inside, half = (one.values["cover_pull"] for one in matched_job(job).pieces)
    assert low.value == 0.40 and "terry towel" in low.reasons[0]
    assert inside.value == 0.15 and inside.reasons == ("0.15: pull of sail red cotton",)
    assert half.value == 0.40 and "terry towel" in half.reasons[0] and "the worse of them" in half.reasons[0]


def test_own_value_keeps_what_matching_would_say():
    value = matched(brief_for("terry"), {"cover_spacing": 0.36})["cover_spacing"]
    assert (value.value, value.matched, value.source) == (0.36, 0.40, "own")


@pytest.mark.parametrize("text", ["0", "99", "nan", "inf", "wide", "", "-3", "1/0", '2 1/2"'])
def test_out_of_bounds_names_value_and_bounds(text):
    with pytest.raises(BadInput, match=r"Width .*use 1 to 10 mm\."):
        construction("applique").setting("cover_width").read(text)


def test_numbers_are_read_as_people_type_them():
    width = construction("applique").setting("cover_width")
    assert width.read("3,5") == width.read(" 3.5 mm ") == width.read("3.5") == 3.5
    assert width.read('1/8"') == width.read("0.125 in") == 3.175


def test_rule_order_is_not_file_order():
    briefs = [Brief("jersey", "tear_away", 2, "none"), brief_for("leather"), Brief("fur", "cut_away", 1, "none")]
    kind, work = construction("applique"), matched_job(job_of(SHAPES["square"])).pieces[0].work
    for brief in briefs:
        traits = {**_traits(brief), "construct": "applique"}
        wanted = match(kind.settings, traits, {}, lambda known, setting: kind.derive(work, known))
        for seed in range(8):
            table = list(rules().rules)
            random.Random(seed).shuffle(table)
            again = match(kind.settings, traits, {}, lambda known, setting: kind.derive(work, known), in_order(table))
            assert again == wanted


def _traits(brief):
    """Every trait that rules ask for, as on a plain stack."""
    from velamen.core.timeline.layers import parted, worst
    from velamen.core.values.traits import brief_traits

    under = worst(parted(ground_layers(brief, shipped()), PLAIN))
    return {
        **brief_traits(brief, shipped()),
        **under,
        "thread_weight": 40.0,
        "thread_finish": "matte",
        "piece_size": 50.0,
    }


def test_precedence_of_what_rules_do():
    setting = Setting("width", "Width", "Cover", "", low=0, high=9, measure="span")
    does = [("at_most", 4.0), ("add", 1.0), ("set", 2.0), ("multiply", 2.0), ("at_least", 1.0)]
    table = [Rule(f"r{n}", "width", "", (), what, worth, "{amount}") for n, (what, worth) in enumerate(does)]
    value = match((setting,), {}, {}, lambda known, setting: {}, in_order(table))["width"]
    assert value.value == 4.0 and value.reasons == ("2.0", "2.0", "1.0", "4.0")


def test_precedence_among_rules_that_set():
    setting = Setting("width", "Width", "Cover", "", low=0, high=9, measure="span")
    when = (("base", "terry"),)
    table = [
        Rule("a-firm", "", "span", (), "set", 5.0, "firm", firm=True),
        Rule("b-three", "", "span", (*when, ("pile_from", 1), ("pile_under", 9)), "set", 4.0, "three"),
        Rule("c-key", "width", "", when, "set", 3.0, "key"),
        Rule("d-one", "", "span", when, "set", 2.0, "one"),
        Rule("e-none", "", "span", (), "set", 1.0, "none"),
        Rule("f-other", "", "reach", (), "set", 9.0, "other"),
    ]
    traits = {"base": "terry", "pile": 4.0}
    for gone in range(5):
        # taking away the strongest leaves the next one, whatever the order they are written in
        left = table[gone:]
        value = match((setting,), traits, {}, lambda known, setting: {}, in_order(left[::-1]))["width"]
        assert value.value == 5.0 - gone


def test_every_rule_is_for_something_and_every_setting_has_a_rule():
    every = [setting for kind in constructions().values() for setting in kind.settings] + list(ADVICE)
    keys, measures = {one.key for one in every}, {one.measure for one in every}
    for rule in rules().rules:
        assert rule.key in keys or rule.measure in measures, rule.id
        assert rule.reason and rule.source, rule.id
    assert len({rule.id for rule in rules().rules}) == len(rules().rules)
    assert all(rules().of(setting) for setting in every)


def test_values_are_the_same_in_build_and_in_its_report():
    from velamen.core.outputs.report import report

    job = job_of(SHAPES["square"])
    built = build_job(job)
    assert built.pieces[0].values == matched_job(job).pieces[0].values
    rows = {row["key"]: row for row in report(built)["values"]}
    assert rows.keys() == built.pieces[0].values.keys() and all(row["reasons"] for row in rows.values())


def test_an_unknown_own_value_is_told():
    job = job_of(SHAPES["square"], own={"glitter": 3.0})
    assert "a value 'glitter' that Appliqué does not know" in why_lost(job)


@settings(max_examples=60)
@given(
    base=st.sampled_from(sorted(set(shipped_rows()["bases"]) - {"none"})),
    more=st.floats(0.1, 20.0),
    topping=st.sampled_from(["none", "film"]),
    layers=st.integers(0, 4),
    foam=st.sampled_from(["none", "foam_2", "foam_3"]),
)
def test_more_pile_never_asks_for_less_cover(base, more, topping, layers, foam):
    fields = dict(shipped_rows()["bases"][base])
    taller = library_with({"bases": {base: {**fields, "pile": min(fields["pile"] + more, 40.0)}}})
    brief = change(brief_for(base), topping=topping, stabilizer_layers=layers)
    low = matched(brief, {"padding": foam})
    high = matched(brief, {"padding": foam}, library=taller)
    for key in ("cover_width", "cover_pull"):
        assert high[key].value >= low[key].value
    assert high["cover_spacing"].value <= low["cover_spacing"].value
    rank = RANKS["underlay"].index
    assert rank(high["cover_underlay"].value) >= rank(low["cover_underlay"].value)


@settings(max_examples=40)
@given(st.sampled_from(sorted(shipped_rows()["bases"])), st.integers(0, 4), st.sampled_from(["none", "film", "heat_film"]),
       st.sampled_from(sorted(shipped_rows()["stabilizers"])))  # fmt: skip
def test_any_brief_gives_values_within_bounds_with_reasons(base, layers, topping, stabilizer):
    for value in sample_values(Brief(base, stabilizer, layers, topping), shipped()).values():
        assert value.reasons and "{" not in " ".join(value.reasons)
        if value.setting.kind == "number":
            assert value.setting.low <= value.value <= value.setting.high


def test_nearest_thread_of_a_thread_is_itself():
    usual = [one for one in shipped().threads.values() if one.finish == "matte" and one.weight == 40]
    assert len(usual) == 60 and all(nearest_thread(one.colour, shipped()).key == one.key for one in usual)
    assert nearest_thread("#fefefe", shipped()).name == "Signal white"
    assert nearest_thread(shipped().threads["161"].colour, shipped()).finish == "matte"
