"""Cutwork: an opening cut before its bars, bars anchored past the edge and sewn back as satin, and their proof."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import job_of, order_of
from core.openings import GUIDES, OPENINGS, guide
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.whole_proofs import prove_access
from velamen.core.fixes.job_fixes import mends
from velamen.core.job.document import change
from velamen.core.outputs.report import report
from velamen.core.proofs.bars import prove_bars
from velamen.core.stitching.bar_lines import Bar, meeting
from velamen.core.stitching.bar_plan import Wanted, plan_bars
from velamen.core.stitching.bars import sewn_bars
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import strand

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
    for each in sewn(WINDOW, spacing=float(piece.values["bar_spacing"].value), count=own.get("bar_count", 0))[0]:
        near = np.abs(one.xy[:, 1] - each.line[0, 1]) < 1.0
        assert np.ptp(one.xy[near, 1]) == pytest.approx(1.6, abs=0.1)  # as wide as asked
        assert (one.xy[near, 0].min(), one.xy[near, 0].max()) == pytest.approx((-21.3, 21.3), abs=0.1)


def sewn(region, *guides, **wanted):
    bars = plan_bars(region, guides, Wanted(**{"spacing": 8.0, "count": 0, "angle": 0.0, "width": 1.6} | wanted))
    return bars, sewn_bars(region, bars, 1.6)


def over_the_opening(region, strands):
    """mm of travel across an opening, and of the longest stitch."""
    travel, longest = 0.0, 0.0
    for one in strands:
        ways = np.flatnonzero(np.isin(one.role[1:], [CODE["travel"]])) + 1
        stitches = shapely.linestrings(np.stack([one.xy[ways - 1], one.xy[ways]], axis=1))
        travel += shapely.length(shapely.intersection(stitches, region.buffer(-0.3))).sum()
        longest = max(longest, np.linalg.norm(np.diff(one.xy, axis=0), axis=1).max())
    return travel, longest


@pytest.mark.parametrize(
    ("name", "degrees"),
    [*((one, 0.0) for one in HELD), *((one, 30.0) for one in ("square", "ring", "leaf", "spiral"))],
)
def test_bars_are_anchored_on_both_sides_and_the_thread_never_lies_across_the_opening_but_as_a_bar(name, degrees):
    region = SHAPES[name]
    bars, strands = sewn(region, angle=np.radians(degrees))
    proof = prove_bars(region, strands)
    assert proof.count == len(bars) > 1 and not proof.loose and not proof.crossing
    travel, longest = over_the_opening(region, strands)
    assert travel < 1.0 and longest <= 12.1


@pytest.mark.parametrize("kind", GUIDES)
@pytest.mark.parametrize("name", OPENINGS)
def test_bars_along_a_guide_hold_any_opening_in_one_thread(name, kind):
    region = OPENINGS[name]
    bars, strands = sewn(region, guide(region, kind))
    proof = prove_bars(region, strands)
    assert proof.held and proof.count == len(bars), proof.bad
    assert len(strands) == 1
    travel, longest = over_the_opening(region, strands)
    assert travel < 1.0 and longest <= 12.1
    over = [shapely.intersection(shapely.LineString(one.line), region) for one in bars if not one.over]
    plain = np.array([shapely.get_coordinates(one)[[0, -1]] for one in over if one.geom_type == "LineString"])
    assert not len(meeting(plain, 1.6))  # as wide as a bar: none lies on another


@pytest.mark.parametrize("name", OPENINGS)
def test_cross_bars_end_sagging_and_are_needled_to_every_bar_they_cross(name):
    region = OPENINGS[name]
    _, strands = sewn(region, guide(region, "wave"))
    before = prove_bars(region, strands)
    bars, strands = sewn(region, guide(region, "wave"), crossed=True)
    after = prove_bars(region, strands)
    assert after.held and not after.sagging and len(strands) == 1
    assert any(len(one.line) > 2 for one in bars) == bool(before.sagging)


def test_bars_stand_square_to_their_guide_and_follow_it():
    bars, _ = sewn(WINDOW, guide(WINDOW, "line"))
    assert {round(abs(float(np.ptp(one.line[:, 0]))), 1) for one in bars} == {0.0}
    leaning = np.array([[-20.0, -4.0], [20.0, 4.0]])
    ways = [one.line[-1] - one.line[0] for one in sewn(WINDOW, leaning)[0]]
    off = [abs(way @ np.array([5.0, 1.0])) / np.linalg.norm(way) / np.sqrt(26.0) for way in ways]
    assert np.median(off) < 1e-6 and max(off) < 0.1  # feet in a corner are led aside
    assert len(sewn(WINDOW, leaning, count=3)[0]) == 3
    ring = OPENINGS["ring"]
    spokes = [one.line for one in sewn(ring, guide(ring, "round"))[0]]
    ways = [line[-1] - line[0] for line in spokes]
    off = [abs(way[0] * line[0, 1] - way[1] * line[0, 0]) / np.linalg.norm(way)
           for way, line in zip(ways, spokes, strict=True)]  # fmt: skip
    assert np.mean(np.array(off) < 3.0) > 0.8  # they lead to the middle, but where the guide does not close


def test_two_guides_lead_a_group_of_bars_each():
    region = box(-40, -14, 40, 14)
    left, right = np.array([[-36.0, 0.0], [-6.0, 0.0]]), np.array([[20.0, -12.0], [20.0, 12.0]])
    bars, strands = sewn(region, left, right)
    level = [abs(one.line[-1] - one.line[0])[1] < 1.0 for one in bars]
    middle = [one.line.mean(axis=0)[0] for one in bars]
    assert 2 <= sum(level) < len(bars) - 2
    assert min(x for x, flat in zip(middle, level, strict=True) if flat) > -6.0
    assert prove_bars(region, strands).held


def test_the_edge_hides_and_catches_the_cut_edge_and_too_narrow_a_one_is_told_with_its_width():
    build, piece = cutwork(WINDOW)
    bare = {"cut_width": 2.4, "cut_share": 70}
    assert piece.proofs["edge_cover"].held and report(build)["proofs"]["edge_cover"][0]["trim_error_mm"] == 1.0
    _, narrow = cutwork(WINDOW, **bare)
    proof = narrow.proofs["edge_cover"]
    assert not proof.held and proof.fixes
    assert (
        cutwork(WINDOW, cut_width=2.0, **proof.fixes[0].values)[1].proofs["edge_cover"].share_told != "0.0 % hidden"
    )
    _, mended = cutwork(WINDOW, **{"cut_width": 2.0, **proof.fixes[-1].values})
    assert mended.proofs["edge_cover"].held


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


def test_long_bars_are_offered_cross_bars_and_too_few_a_spacing_each_of_which_ends_it():
    build, _ = cutwork(WINDOW)
    (told,) = [one for one in build.findings if one.code == "bars_sag"]
    (way,) = mends(build, told)
    after = build_job(way.job)
    assert way.label == "Add cross bars"
    assert not any(one.code == "bars_sag" for one in after.findings)
    assert report(after)["proofs"]["bars"]["sagging"] == []
    _, few = cutwork(WINDOW, bar_count=1)
    for fix in few.proofs["bars"].fixes:
        assert cutwork(WINDOW, **{"bar_count": 1, **fix.values})[1].proofs["bars"].held


def test_a_bar_that_ends_short_of_the_cloth_is_loose():
    bars, strands = sewn(WINDOW)
    assert not prove_bars(WINDOW, strands).loose
    short = [replace(bars[0], line=bars[0].line * [0.9, 1.0]), *bars[1:]]
    (loose,) = prove_bars(WINDOW, sewn_bars(WINDOW, short, 1.6)).loose
    assert loose.at == pytest.approx((0.0, bars[0].line[0, 1]), abs=0.2)


def test_bars_that_cross_without_a_needle_point_in_one_another_are_told():
    level = np.array([[-21.3, 0.0], [21.3, 0.0]])
    across = sewn_bars(WINDOW, [Bar(level)], 1.6)[0]
    far = strand(np.array([[0.0, -18.0], [0.0, -4.0], [0.0, 4.0], [0.0, 18.0]]), "bar")
    assert len(prove_bars(WINDOW, [across, far]).crossing) == 1
    assert not prove_bars(WINDOW, sewn(WINDOW, crossed=True)[1]).crossing


def test_an_island_that_hangs_on_one_bar_falls():
    ring = OPENINGS["ring"]
    bars, strands = sewn(ring, guide(ring, "round"))
    assert not prove_bars(ring, strands).islands
    (falls,) = prove_bars(ring, sewn_bars(ring, bars[:1], 1.6)).islands
    assert falls.at == pytest.approx((0.0, 0.0), abs=1.0)


def test_an_island_is_reached_from_outside_and_its_own_bars_are_sewn_on_the_way():
    middle = box(-9, -9, 9, 9)
    region = box(-25, -25, 25, 25).difference(middle)
    (one,) = sewn(region)[1]
    island = one.xy[shapely.covers(middle, shapely.points(one.xy))]
    assert len(island) and np.abs(island).max(axis=1).min() > 6.5
    apart = box(-30, -12, 30, 12).difference(box(-18, -4, -10, 4)).difference(box(10, -4, 18, 4))
    assert len(sewn(apart, spacing=4.0)[1]) == 1  # bars from island to island among them


def test_what_is_sewn_across_an_opening_before_its_cut_is_told_and_what_comes_after_lies_on_stabilizer():
    def over(*constructs):
        regions = {"cutwork": box(-25, -15, 25, 15), "fill": box(-10, -8, 10, 8)}
        job = job_of(*(regions[one] for one in constructs), base="fleece", hoop="h360x200")
        pieces = [change(one, construct=kind) for one, kind in zip(job.pieces, constructs, strict=True)]
        return build_job(change(job, pieces=pieces))

    before, after = over("fill", "cutwork"), over("cutwork", "fill")
    (told,) = [one for one in before.findings if one.code == "opening_sewn"]
    assert told.severity == "error" and "before it is cut" in told.message
    (stop,) = [one for one in prove_access(before) if one.kind == "cut_opening"]
    assert not stop.held and all(one.held for one in prove_access(after))
    assert not any(one.code == "opening_sewn" for one in after.findings)
    reasons = [" ".join(one.values["fill_pull"].reasons) for one in after.pieces if one.piece.construct == "fill"]
    assert "cut-away" in reasons[0] and "fleece" not in reasons[0]
    edge = after.pieces[0].values["cut_pull"]
    assert "fleece" in " ".join(edge.reasons) and edge.value > 0.2  # half on the cloth, as the worse of both


@pytest.mark.parametrize("name", [*OPENINGS, *HELD])
def test_bars_too_short_or_too_few_are_found_on_every_opening(name):
    region = OPENINGS.get(name, SHAPES.get(name))
    bars, strands = sewn(region)
    assert not prove_bars(region, strands).loose
    short = []
    for one in bars:
        way = (one.line[-1] - one.line[0]) / max(np.linalg.norm(one.line[-1] - one.line[0]), 1e-9)
        short.append(
            replace(one, line=np.concatenate([one.line[:1] + 2.2 * way, one.line[1:-1], one.line[-1:] - 2.2 * way]))
        )
    long = [one for one in short if np.linalg.norm(one.line[-1] - one.line[0]) > 4.0]
    found = prove_bars(region, sewn_bars(region, long, 1.6))
    assert not found.held and len(found.loose) > 0.6 * found.count
    wide = shapely.maximum_inscribed_circle(region, tolerance=0.1).length * 2
    if wide > 13.0:
        assert prove_bars(region, sewn(region, count=1)[1]).free or wide < 26.0


def test_islands_are_held_by_two_bars_on_different_sides_however_few_bars_are_asked_for():
    holes = [Point(x, y).buffer(4) for x in (-22, 0, 22) for y in (-9, 9)]
    region = box(-35, -20, 35, 20).difference(shapely.union_all(holes))
    bars, strands = sewn(region, count=1)
    assert len(strands) == 1 and not prove_bars(region, strands).islands and len(bars) > 6
    for hole in holes:
        ends = [end for one in bars for end in (one.line[0], one.line[-1]) if hole.covers(Point(end))]
        ways = [np.arctan2(*(end - hole.centroid.coords[0])[::-1]) for end in ends]
        assert len(ends) >= 2 and np.ptp(np.cos(ways)) + np.ptp(np.sin(ways)) > 0.5
    tiny = box(-20, -12, 20, 12).difference(Point(3, 2).buffer(0.6))
    assert len(prove_bars(tiny, sewn(tiny)[1]).islands) == 1  # no room for a foot: told
