"""Cutwork: an opening cut before its bars, bars anchored past the edge and sewn back as satin, and their proof."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.core.outputs.report import report
from velamen.core.proofs.bars import prove_bars
from velamen.core.stitching.bars import across, sewn_bars
from velamen.core.stitching.roles import CODE

WINDOW = box(-20, -16, 20, 16)
HELD = ["square", "ring", "neck", "leaf", "slit_3", "spiral", "comb"]


def cutwork(region, **own):
    job = job_of(region, base="firm_woven", hoop="h360x200", own=own)
    build = build_job(change(job, pieces=[change(one, construct="cutwork") for one in job.pieces]))
    return build, build.pieces[0]


def bars_of(piece):
    return [each for one in piece.sewn if one.role == "bar" for each in one.strands]


def test_nothing_but_the_outline_is_sewn_before_the_opening_is_cut_and_bars_lie_on_stabilizer_alone():
    build, _ = cutwork(WINDOW)
    assert order_of(build) == [f"p1:{part}" for part in ("cut_outline", "cut", "bar", "border")]
    assert "leave the stabilizer" in build.plan.stops[0].step.text
    under = [one.kind for one in build.layers["p1:bar"] if one.gone is None or not one.gone.covers(WINDOW.buffer(-1))]
    assert under == ["stabilizer"]


@pytest.mark.parametrize(("own", "count"), [({}, 4), ({"bar_spacing": 5.0}, 6), ({"bar_count": 3}, 3)])
def test_bars_come_by_spacing_or_by_number_each_run_over_and_back_in_one_thread(own, count):
    _, piece = cutwork(WINDOW, **own)
    (one,) = bars_of(piece)
    middle = one.xy[(np.abs(one.xy[:, 0]) < 15) & (one.role == CODE["bar"])]
    levels = np.unique(np.round(middle[:, 1] / 2.0))
    assert piece.proofs["bars"].about.startswith(f"{count} bars") and len(levels) >= count
    lines = across(
        WINDOW, float(piece.values["bar_spacing"].value), round(float(piece.values["bar_count"].value)), 0.0
    )
    for line in lines:
        near = np.abs(one.xy[:, 1] - line[0, 1]) < 1.0
        assert np.ptp(one.xy[near, 1]) == pytest.approx(1.6, abs=0.1)  # as wide as asked
        assert (one.xy[near, 0].min(), one.xy[near, 0].max()) == pytest.approx((-21.3, 21.3), abs=0.1)


@pytest.mark.parametrize(
    ("name", "degrees"),
    [*((one, 0.0) for one in HELD), *((one, 30.0) for one in ("square", "ring", "leaf", "spiral"))],
)
def test_bars_are_anchored_on_both_sides_and_the_thread_never_lies_across_the_opening_but_as_a_bar(name, degrees):
    region = SHAPES[name]
    lines = across(region, 8.0, 0, np.radians(degrees))
    proof = prove_bars(region, lines, 1.6)
    assert proof.count == len(lines) > 1 and not proof.loose
    for line in lines:
        assert min(shapely.distance(region, shapely.points(line))) >= 1.0
    for one in sewn_bars(region, lines, 1.6):
        travel = np.flatnonzero(np.isin(one.role, [CODE["travel"]]))
        stitches = shapely.linestrings(np.stack([one.xy[travel - 1], one.xy[travel]], axis=1))
        assert shapely.length(shapely.intersection(stitches, region.buffer(-0.3))).sum() < 1.0
        assert np.linalg.norm(np.diff(one.xy, axis=0), axis=1).max() <= 12.1


def test_an_opening_with_too_few_bars_is_not_held_and_long_bars_are_told_to_sag():
    build, piece = cutwork(WINDOW, bar_count=1)
    proof = piece.proofs["bars"]
    assert not proof.held and len(proof.spots) == 2 and "have no bar" in proof.fails
    assert any(one.code == "bars_loose" for one in build.findings)
    found = report(build)["proofs"]["bars"]
    assert not found["held"] and found["loose"] == [] and [one["length_mm"] for one in found["sagging"]] == [40.0]
    good, _ = cutwork(Point(0, 0).buffer(11))
    assert report(good)["proofs"]["bars"]["held"] and report(good)["proofs"]["bars"]["sagging"] == []


@pytest.mark.parametrize("name", ["coast", "two_holes", "notch", "slit_01", "needles"])
def test_ragged_and_narrow_openings_are_sewn_and_what_is_loose_is_told(name):
    build, piece = cutwork(SHAPES[name], bar_angle=20)
    assert not build.lost and piece.sewn
    proof = piece.proofs["bars"]
    assert proof.held == (not proof.spots) and all(np.isfinite(one.xy).all() for one in bars_of(piece))


def test_a_bar_that_ends_short_of_the_cloth_is_loose():
    lines = across(WINDOW, 8.0, 0, 0.0)
    short = [lines[0] * [0.95, 1.0], *lines[1:]]
    assert not prove_bars(WINDOW, lines, 1.6).loose
    (loose,) = prove_bars(WINDOW, short, 1.6).loose
    assert loose.at == pytest.approx((0.0, lines[0][0, 1]), abs=0.01)


def test_an_island_is_reached_from_outside():
    region = box(-25, -25, 25, 25).difference(box(-9, -9, 9, 9))
    (one,) = sewn_bars(region, across(region, 8.0, 0, 0.0), 1.6)
    island = one.xy[shapely.covers(box(-9, -9, 9, 9), shapely.points(one.xy))]
    assert len(island) and np.abs(island[:, 0]).min() > 6.5
