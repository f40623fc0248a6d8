"""Proofs of a whole build, both ways: they fail on one broken on purpose and hold on the mended one."""

import json

import pytest
import shapely
from shapely import box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.whole_proofs import order_broken, prove_access, prove_density
from velamen.core.job.document import change
from velamen.core.outputs.report import report_json


def told(job):
    return json.loads(report_json(build_job(job)))["proofs"]


def test_every_stop_of_a_plain_job_can_be_reached():
    build = build_job(job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), base="firm_woven"))
    stops = prove_access(build)
    assert [(one.stop, one.kind, one.held) for one in stops] == [
        (1, "lay", True), (2, "trim", True), (3, "lay", True), (4, "trim", True)]  # fmt: skip
    assert order_broken(build) == [] and prove_density(build).held


def test_sewing_over_the_waste_fails_the_trimming_alone_and_its_own_order_holds():
    job = job_of(box(-60, -20, -20, 20), box(-18, -20, 20, 20), base="firm_woven")
    blocked = change(job, order=[f"p1:{kind}" for kind in ("placement", "lay", "tack")]
                     + [f"p2:{kind}" for kind in ("placement", "lay", "tack", "trim", "cover")]
                     + ["p1:trim", "p1:cover"])  # fmt: skip
    stops = prove_access(build_job(blocked))
    assert {(one.kind, one.pieces, one.held) for one in stops} == {
        ("lay", ("p1",), True), ("lay", ("p2",), True), ("trim", ("p2",), True), ("trim", ("p1",), False)}  # fmt: skip
    found = told(blocked)["access"]
    assert not found["held"] and "sewn down before it is trimmed" in found["stops"][-1]["against"][0]
    assert told(job)["access"]["held"]


def test_a_slit_that_scissors_do_not_enter_fails_unless_the_cloth_comes_cut():
    job = job_of(SHAPES["slit_3"], base="firm_woven")
    assert [one.held for one in prove_access(build_job(job))] == [True, False]
    precut = change(job, pieces=[change(job.pieces[0], own={"precut": True})])
    assert [(one.kind, one.held) for one in prove_access(build_job(precut))] == [("lay", True)]


@pytest.mark.parametrize(("first", "why"), [
    ("placement lay cover tack trim", "Cover cannot come before the tack-down"),
    ("lay placement tack trim cover", "Laying cannot come before the placement line"),
    ("placement lay trim tack cover", "Trimming cannot come before the tack-down"),
    ("placement tack lay trim cover", "Tack-down cannot come before the laying"),
])  # fmt: skip
def test_a_step_before_what_it_needs_breaks_the_order(first, why):
    job, first = job_of(box(-20, -20, 20, 20), base="firm_woven"), [f"p1:{kind}" for kind in first.split()]
    wrong = order_broken(build_job(change(job, order=first)))
    assert wrong and any(why in one.message for one in wrong)
    assert not told(change(job, order=first))["order"]["held"] and told(job)["order"]["held"]


def test_too_many_needle_points_fail_the_density_and_opening_them_mends_it():
    job = job_of(box(-20, -20, 20, 20), base="leather", own={"cover_spacing": 0.2})
    thick = change(job, shapes=[*job.shapes, change(job.shapes[0], id="s2", name="again")],
                   pieces=[*job.pieces, change(job.pieces[0], id="p2", shape="s2")])  # fmt: skip
    proof = prove_density(build_job(thick))
    assert not proof.held and proof.most > proof.limit and told(thick)["density"]["most_per_mm2"] > proof.limit
    mended = change(job, pieces=[change(job.pieces[0], own={})])
    assert prove_density(build_job(mended)).held


def test_cloths_of_many_shapes_are_all_asked_for():
    regions = [
        shapely.affinity.translate(SHAPES[name], 70 * nth) for nth, name in enumerate(("ring", "star", "neck"))
    ]
    build = build_job(job_of(*regions, base="firm_woven", hoop="h360x200"))
    assert len(prove_access(build)) == 6 == build.figures.stops
