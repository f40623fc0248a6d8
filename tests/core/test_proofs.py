"""Access and density: both fail on a build broken on purpose and hold on the mended one."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.job.document import brief_for, change
from velamen.core.outputs.report import report
from velamen.core.proofs.density import density_limit, density_map


def codes(build, *wanted):
    return [one.code for one in build.findings if one.code in wanted]


def test_waste_sewn_down_before_it_is_trimmed_is_found_and_the_right_order_holds():
    job = job_of(box(-30, -20, 10, 20), Point(12, 0).buffer(8), base="felt")
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill")])
    right = build_job(job)
    assert codes(right, "trim_blocked") == []
    keys = order_of(right)
    keys.remove("p2:decoration")
    keys.insert(keys.index("p1:trim"), "p2:decoration")
    wrong = build_job(change(job, order=keys))
    (finding,) = [one for one in wrong.findings if one.code == "trim_blocked"]
    assert finding.severity == "error" and finding.at
    waste = shapely.buffer(job_region(right), 4.1).difference(shapely.buffer(job_region(right), 0.4))
    assert shapely.contains(waste, shapely.points(finding.at)).all()


def job_region(build):
    return build.piece("p1").outline


@pytest.mark.parametrize(("name", "found"), [
    ("slit_3", 1), ("slit_01", 1), ("square", 0), ("ring", 0), ("leaf", 0), ("comb", 0), ("notch", 0),
])  # fmt: skip
def test_notches_too_narrow_for_scissors_are_found(name, found):
    build = build_job(job_of(SHAPES[name], base="felt"))
    assert len(codes(build, "notch_narrow")) == found
    precut = build_job(job_of(SHAPES[name], base="felt", own={"precut": True}))
    assert codes(precut, "notch_narrow") == []


def test_cloth_over_a_loose_margin_cannot_lie_flat():
    own = {"cover_kind": "raw", "trim_when": "after"}
    beside = build_job(job_of(box(-30, -20, 0, 20), box(2, -10, 30, 10), base="felt", own=own))
    assert codes(beside, "lay_not_flat") == ["lay_not_flat"]
    apart = build_job(job_of(box(-30, -20, 0, 20), box(20, -10, 40, 10), base="felt", own=own))
    now = build_job(job_of(box(-30, -20, 0, 20), box(2, -10, 30, 10), base="felt", own={"cover_kind": "raw"}))
    assert codes(apart, "lay_not_flat") == codes(now, "lay_not_flat") == []


def test_density_counts_needle_points_where_they_are():
    grid = np.stack(np.meshgrid(np.arange(0, 20, 0.5), np.arange(0, 20, 0.5)), axis=-1).reshape(-1, 2)
    found = density_map(grid)
    middle = found.values[int((10 - found.top) / 0.5), int((10 - found.left) / 0.5)]
    assert middle == pytest.approx(4.0, rel=0.05)
    assert found.values.sum() * 0.25 == pytest.approx(len(grid), rel=0.01)
    assert density_map(np.zeros((0, 2))).values.max() == 0.0


@pytest.mark.parametrize("base", ["light_woven", "jersey", "terry", "felt"])
def test_too_dense_is_found_stiff_where_wide_and_matched_values_hold(base):
    job = job_of(box(-25, -15, 25, 15), base=base)
    fill = change(job, pieces=[change(job.pieces[0], construct="fill")])
    assert codes(build_job(fill), "density_high", "density_stiff") == []
    dense = change(fill, pieces=[change(fill.pieces[0], own={"fill_spacing": 0.2, "fill_length": 1.5}),
                                 change(fill.pieces[0], id="p2", own={"fill_spacing": 0.2, "fill_length": 1.5})])  # fmt: skip
    assert codes(build_job(dense), "density_high", "density_stiff") == ["density_stiff"]
    told = report(build_job(dense))["proofs"]["density"]
    assert told["most_per_mm2"] > told["limit_per_mm2"] and told["reasons"]
    for base, words in (("felt", "that felt bears"), ("none", "that the stabilizer alone bears")):
        findings = build_job(change(dense, brief=brief_for(base))).findings
        assert [words in one.message for one in findings if one.code.startswith("density_")] == [True]


def test_what_a_base_bears_follows_its_kind():
    job = job_of(box(0, 0, 9, 9))
    limits = [
        density_limit(brief_for(base), job.library).value for base in ("felt", "light_woven", "fleece", "leather")
    ]
    assert limits == [6.0, 5.0, 5.5, 4.0]
