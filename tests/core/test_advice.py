"""What a base asks for, cautions of every kind with what ends them, and density."""

import dataclasses

import numpy as np
import pytest
import shapely

from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.job.document import Brief, brief_for, change, check_brief
from velamen.core.materials.library import library_with, shipped, shipped_rows
from velamen.core.values.advice import Density, Sewn, advice, brief_cautions, density_of
from velamen.core.values.cautions import cautions

ASKED = [
    # base, stabilizer, topping, knockdown, hooping, held by, needle
    ("light_woven", "tear_away", "none", "no", "hooped", "none", "sharp_75"),
    ("firm_woven", "tear_away", "none", "no", "hooped", "none", "sharp_80"),
    ("jersey", "cut_away", "none", "no", "hooped", "none", "ball_75"),
    ("pique", "cut_away", "film", "no", "hooped", "none", "ball_75"),
    ("sweatshirt", "cut_away", "film", "no", "hooped", "none", "ball_80"),
    ("fleece", "cut_away", "film", "advised", "hooped", "basting", "ball_80"),
    ("terry", "wash_away", "film", "needed", "hooped", "basting", "sharp_80"),
    ("plush", "cut_away", "film", "needed", "hooped", "basting", "ball_80"),
    ("fur", "cut_away", "film", "close", "floated", "basting", "sharp_80"),
    ("velvet", "cut_away", "film", "no", "floated", "adhesive", "sharp_80"),
    ("felt", "tear_away", "none", "no", "hooped", "none", "sharp_80"),
    ("leather", "cut_away", "none", "no", "floated", "adhesive", "leather_80"),
    ("sheer", "wash_away", "none", "no", "hooped", "none", "sharp_65"),
    ("cap", "cap_backing", "none", "no", "hooped", "none", "sharp_80"),
]


@pytest.mark.parametrize(("base", "stabilizer", "topping", "knockdown", "hooping", "held", "needle"), ASKED)
def test_what_each_base_asks_for(base, stabilizer, topping, knockdown, hooping, held, needle):
    found = advice(brief_for(base), shipped())
    assert found["advised_stabilizer"].value == stabilizer and found["advised_topping"].value == topping
    assert found["advised_knockdown"].value == knockdown and found["advised_hooping"].value == hooping
    assert found["advised_hold"].value == held and found["needle"].value == needle
    assert all(value.reasons for value in found.values())


def test_a_dry_base_gets_no_wash_away_and_metallic_thread_a_large_eye():
    wool = {"bases": {"terry": {**shipped_rows()["bases"]["terry"], "may_wet": False}}}
    found = advice(brief_for("terry"), library_with(wool))
    assert found["advised_stabilizer"].value == "cut_away" and found["advised_topping"].value == "heat_film"
    wool["bases"]["terry"]["takes_heat"] = False
    assert advice(brief_for("terry"), library_with(wool))["advised_topping"].value == "none"
    metallic = change(brief_for("firm_woven"), thread="161")
    assert advice(metallic, shipped())["needle"].value == "eye_90"
    assert advice(change(brief_for("leather"), thread="161"), shipped())["needle"].value == "leather_80"


# brief (changes on what the base asks for), what is sewn -> code, severity
TROUBLE = [
    ("leather", {"stabilizer": "wash_away"}, Sewn(), "wash_under_dry", "error"),
    ("leather", {"topping": "film"}, Sewn(), "wash_topping_dry", "error"),
    ("leather", {"topping": "heat_film"}, Sewn(), "heat_topping", "error"),
    ("plush", {"stabilizer": "heat_away"}, Sewn(), "heat_under", "error"),
    ("plush", {"topping": "heat_film"}, Sewn(), "heat_topping", "error"),
    ("firm_woven", {}, Sewn(opening=True), "opening_torn", "warning"),
    ("fleece", {"topping": "heat_film"}, Sewn(foam=True), "heat_foam", "error"),
    ("fleece", {"stabilizer": "heat_away"}, Sewn(foam=True), "heat_foam", "error"),
    ("leather", {"hold": "basting"}, Sewn(), "basting_marks", "error"),
    ("velvet", {"hold": "basting"}, Sewn(), "basting_marks", "error"),
    ("fleece", {"hooping": "floated"}, Sewn(), "floated_loose", "error"),
    ("leather", {"hold": "none"}, Sewn(), "floated_loose", "error"),
    (
        "fleece",
        {"hooping": "floated", "hold": "basting", "stabilizer_layers": 0},
        Sewn(),
        "floated_on_nothing",
        "error",
    ),
    ("fleece", {"stabilizer": "none"}, Sewn(), "no_stabilizer", "warning"),
    ("none", {"stabilizer": "tear_away"}, Sewn(), "lace_ground", "error"),
    ("fleece", {"topping": "none"}, Sewn(), "pile_open", "warning"),
    ("velvet", {"hooping": "hooped", "hold": "none"}, Sewn(), "hoop_marks", "warning"),
    ("jersey", {"stabilizer": "tear_away"}, Sewn(), "stretch_unheld", "warning"),
    ("firm_woven", {}, Sewn(density=Density(260.0, 0, 0)), "layers_few", "warning"),
    ("firm_woven", {}, Sewn(density=Density(900.0, 0, 0)), "layers_few", "warning"),
    ("cap", {}, Sewn(), "cap_field", "warning"),
    ("terry", {}, Sewn(), "pile_returns", "info"),
    ("leather", {}, Sewn(), "holes_stay", "info"),
    ("velvet", {}, Sewn(), "wet_velvet", "info"),
]


@pytest.mark.parametrize(("base", "fields", "sewn", "code", "severity"), TROUBLE)
def test_cautions_and_what_ends_them(base, fields, sewn, code, severity):
    brief = change(brief_for(base), **fields)
    told = [one for one in brief_cautions(brief, shipped(), sewn) if one.code == code]
    assert [one.severity for one in told] == [severity]
    assert "{" not in told[0].message and told[0].message.endswith(".")
    if told[0].fix:
        fix = {key: int(value) if key == "stabilizer_layers" else value for key, value in told[0].fix.items()}
        mended = check_brief(change(brief, **fix), shipped())
        assert code not in {one.code for one in brief_cautions(mended, shipped(), sewn)} and told[0].label


def test_every_caution_is_reached_by_these_cases():
    reached = {(code, severity) for *_, code, severity in TROUBLE}
    assert {(one.code, one.severity) for one in cautions()} == reached


@pytest.mark.parametrize("base", sorted(set(shipped_rows()["bases"]) - {"cap"}))
def test_what_a_base_asks_for_works(base):
    told = brief_cautions(brief_for(base), shipped())
    assert not [one for one in told if one.severity != "info"]


def test_knockdown_answers_pile():
    bare = change(brief_for("terry"), topping="none")
    assert not [one for one in brief_cautions(bare, shipped(), Sewn(knockdown=True)) if one.code.startswith("pile")]


def test_density_is_counted_in_the_densest_square():
    rng = np.random.default_rng(3)
    loose = rng.uniform(-80, 80, (800, 2))
    tight = rng.uniform((30, 30), (40, 40), (600, 2))
    found = density_of(np.concatenate([loose, tight]))
    assert 150 <= found.densest <= 165 and abs(found.x - 35) <= 10 and abs(found.y - 35) <= 10
    assert density_of(np.empty((0, 2))) is None


def findings(job):
    return {finding.code: finding for finding in build_job(job).findings}


def test_findings_of_a_job_have_place_reason_and_fix():
    job = job_of(shapely.box(-190, -20, 40, 20), base="leather", own={"cover_spacing": 0.3})
    job = change(job, brief=change(job.brief, hold="basting", stabilizer="wash_away"))
    found = findings(job)
    assert {"outside_field", "basting_marks", "wash_under_dry", "holes_close", "holes_stay"} <= found.keys()
    assert found["outside_field"].at and "no hoop of the library holds it" in found["outside_field"].message
    assert found["holes_close"].piece == "p1" and found["holes_close"].fix == {"cover_spacing": 0.5}
    order = [finding.severity for finding in build_job(job).findings if not finding.piece]
    assert order == sorted(order, key=["error", "warning", "info"].index)


def test_too_few_layers_for_the_stitches_name_the_place_and_add_some():
    stacked = [shapely.box(-8, -8, 8, 8) for _ in range(6)]
    job = job_of(*stacked, base="firm_woven")
    told = findings(job)["layers_few"]
    assert told.at and "stitches a cm²" in told.message and told.brief["stabilizer_layers"] >= 2
    mended = change(
        job.brief,
        stabilizer=told.brief.get("stabilizer", "tear_away"),
        stabilizer_layers=int(told.brief["stabilizer_layers"]),
    )
    assert "layers_few" not in findings(change(job, brief=mended))


def test_an_ordinary_applique_is_held_by_what_the_base_asks_for():
    for base in ("firm_woven", "jersey", "fleece", "terry"):
        assert "layers_few" not in findings(job_of(shapely.box(-30, -30, 30, 30), base=base))


def test_the_next_hoop_that_fits_is_offered():
    job = job_of(shapely.box(-60, -30, 60, 30), base="firm_woven", hoop="h100x100")
    told = findings(job)["outside_field"]
    assert told.brief == {"hoop": "h130x180"} and "the 130 × 180 field holds it" in told.message
    assert "outside_field" not in findings(change(job, brief=change(job.brief, **told.brief)))


def test_foam_under_heat_is_found_in_a_job():
    job = job_of(shapely.box(-20, -20, 20, 20), base="fleece", own={"padding": "foam_2"})
    job = change(job, brief=change(job.brief, topping="heat_film"))
    assert findings(job)["heat_foam"].brief == {"topping": "film"}


def test_basting_is_sewn_first_within_the_field():
    job = job_of(shapely.box(-46, -46, 46, 46), base="firm_woven", hoop="h100x100")
    plan = build_job(change(job, brief=change(job.brief, hold="basting"))).plan
    block = plan.blocks[0]
    line = plan.stitches(block)
    assert block.role == "basting" and np.abs(line).max() <= 49.0 + 1e-6
    steps = np.linalg.norm(np.diff(line, axis=0), axis=1)
    assert np.median(steps) > 4.5 and steps.max() <= 6.01 and (steps < 1).sum() <= 4
    assert [one.role for one in plan.blocks].count("basting") == 1
    assert all(one.role != "basting" for one in build_job(job).plan.blocks)


def test_advice_asks_for_layers_by_density():
    dense = advice(Brief("firm_woven", "tear_away", 1), shipped(), Sewn(density=Density(320.0, 0, 0)))
    assert dense["advised_layers"].value == 3 and "320 stitches" in dense["advised_layers"].reasons[-1]
    assert dataclasses.asdict(Sewn())["density"] is None
