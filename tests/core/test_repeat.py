"""Copies in the hoop: the stops of one, the stitches of all, inside the field, in the order asked for."""

import io
import json
from itertools import pairwise

import numpy as np
import pytest
import shapely
from pypdf import PdfReader
from shapely import Point, box

from core.jobs import job_of
from velamen.core.building.build import build_job, section_of
from velamen.core.building.needs import needs_of
from velamen.core.edits.stack.copies import filled, with_wanted
from velamen.core.errors import BadInput
from velamen.core.job.document import Repeat, change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.outputs.cut_sheet import cuts_of
from velamen.core.outputs.gcode import gcode
from velamen.core.outputs.laid import sheets_of
from velamen.core.outputs.plan_binary import plan_binary
from velamen.core.outputs.report import report
from velamen.core.outputs.run_sheet import run_sheet
from velamen.core.outputs.stitch_list import stitch_list
from velamen.core.plan.figures import figures_of
from velamen.core.plan.repeat import Grid, fitting
from velamen.core.plan.stitch_plan import COLOR, JUMP, STITCH, STOP


def badge(repeat=None, hoop="h360x200"):
    job = job_of(Point(40, 10).buffer(22), box(33, 3, 47, 17), base="none", hoop=hoop)
    host, inner = job.pieces
    pieces = [change(host, construct="patch"), change(inner, construct="fill", thread="103", on=host.id)]
    return change(job, pieces=pieces, repeat=repeat)


ONE = build_job(badge())
SIX = {order: build_job(badge(Repeat(3, 2, 6.0, order))) for order in ("step", "copy")}


@pytest.mark.parametrize("order", SIX)
def test_a_repeat_has_the_stitches_of_all_copies(order):
    one, six = figures_of(ONE.plan), figures_of(SIX[order].hooping)
    assert six.stitches == 6 * one.stitches
    assert six.stops == one.stops * (1 if order == "step" else 6)
    # a copy ends with the thread with which the next begins
    assert six.changes == one.changes * (1 if order == "step" else 6)
    assert SIX[order].plan.xy.tobytes() == ONE.plan.xy.tobytes()  # edits stay on the one design
    wide, high = SIX[order].grid.size
    assert (six.width, six.height) == pytest.approx((wide, high), abs=0.02)


def test_without_a_repeat_the_machine_sews_the_design():
    assert ONE.grid is None and ONE.hooping is ONE.plan and report(ONE)["repeat"] is None
    assert build_job(badge(Repeat(1, 1))).grid is None


def copies_of(build):
    """The design's own plan found again at every copy: which one each stitch of the hooping belongs to."""
    plan, moves = build.hooping, build.grid.moves()
    left, top, right, bottom = build.grid.box
    boxes = shapely.box(left + moves[:, 0], top + moves[:, 1], right + moves[:, 0], bottom + moves[:, 1])
    points = shapely.points(plan.xy[plan.command == STITCH])
    nth, copy = shapely.STRtree(boxes).query(points, predicate="dwithin", distance=0.01)
    assert (nth == np.arange(len(points))).all()  # each in just one
    return copy


@pytest.mark.parametrize("order", SIX)
def test_every_copy_is_the_design_to_a_thousandth(order):
    build = SIX[order]
    copy, plan = copies_of(build), build.hooping
    sewn = plan.xy[plan.command == STITCH]
    design = ONE.plan.xy[ONE.plan.command == STITCH]
    for nth, move in enumerate(build.grid.moves()):
        assert np.abs(sewn[copy == nth] - move - design).max() < 0.0021


def test_step_by_step_each_thread_goes_once_round_all_copies_to_and_fro():
    copy, plan = copies_of(SIX["step"]), SIX["step"].hooping
    rows = np.flatnonzero(plan.command == STITCH)
    breaks = np.flatnonzero((plan.command == STOP) | (plan.command == COLOR))
    stretch = np.searchsorted(breaks, rows)
    seen = []
    for nth in np.unique(stretch):
        mine = copy[stretch == nth]
        turns = mine[np.append(True, np.diff(mine) != 0)]
        assert sorted(turns.tolist()) == list(range(6))  # each copy once
        seen.append(turns.tolist())
    assert all(one in ([0, 1, 2, 3, 4, 5], [5, 4, 3, 2, 1, 0]) for one in seen)
    assert all(one != other for one, other in pairwise(seen))
    jumps = np.flatnonzero(plan.command == JUMP)
    assert np.linalg.norm(plan.xy[jumps] - plan.xy[jumps - 1], axis=1)[1:].max() < 1.6 * (44 + 6)


def test_copy_by_copy_one_is_finished_before_the_next_begins():
    copy = copies_of(SIX["copy"])
    assert (np.diff(copy) >= 0).all()


def test_all_files_show_the_hooping():
    build = SIX["step"]
    rows = stitch_list(build.hooping).splitlines()
    told = report(build)
    assert sum(",stitch," in one for one in rows) == told["stitches"] == 6 * ONE.figures.stitches
    assert gcode(build).count("\nG1 ") == told["stitches"]
    assert told["repeat"]["copies"] == 6 and told["repeat"]["one"]["stitches"] == ONE.figures.stitches
    cuts = cuts_of(build)
    assert len(cuts) == 6 and len({one.copy for one in cuts}) == 6
    areas = [shapely.Polygon(one.rings[0]) for one in cuts]
    apart = min(one.distance(other) for nth, one in enumerate(areas) for other in areas[:nth])
    left, _, right, _ = build.grid.box
    assert apart == pytest.approx(right - left + 6.0 - 44.0, abs=0.02)  # borders lie in the gap between cloths


def test_copies_that_leave_the_field_are_told_with_how_many_fit():
    found = {one.code: one for one in build_job(badge(Repeat(4, 2), hoop="h130x180")).findings}
    assert "copies leave the sewing field" in found["repeat_outside"].message
    assert "2 x 3 fit" in found["repeat_outside"].message
    assert not [one for one in SIX["step"].findings if one.code == "repeat_outside"]


def test_as_many_as_fit():
    field = (-100.0, -150.0, 100.0, 150.0)
    assert fitting((0, 0, 80, 80), 6.0, 0.0, field) == (2, 3)
    assert fitting((0, 0, 80, 80), 6.0, 10.0, field) == (2, 3)
    assert fitting((0, 0, 80, 80), 6.0, 20.0, field) == (1, 3)
    assert fitting((0, 0, 300, 80), 6.0, 0.0, field) == (0, 3)
    grid = Grid(2, 3, 6.0, (10.0, 20.0, 90.0, 100.0))
    middles = grid.moves() + np.array([50.0, 60.0])
    assert np.abs(middles.mean(axis=0)).max() < 1e-9 and grid.size == (166.0, 252.0)


@pytest.mark.parametrize(("repeat", "says"), [
    (Repeat(0, 2), "columns of a repeat cannot be 0"), (Repeat(500, 2), "cannot be 500"),
    (Repeat(20, 20), "too many for one hoop"), (Repeat(2, 2, -6.0), "gap between copies cannot be -6"),
    (Repeat(2, 2, float("nan")), "cannot be nan"), (Repeat(2, 2, 6.0, "spiral"), "order of copies"),
])  # fmt: skip
def test_a_repeat_that_cannot_be_is_refused(repeat, says):
    with pytest.raises(BadInput, match=says):
        check_job(badge(repeat))


def test_a_repeat_is_saved_with_its_job():
    job = badge(Repeat(3, 2))
    assert read_job(write_job(job)).repeat == Repeat(3, 2)


def plan_depths(build):
    """mm of stabilizer and of cloth in a build."""
    library, brief = build.library, build.job.brief
    sheet = library.stabilizers[brief.stabilizer].thickness * brief.stabilizer_layers
    return sheet, library.like(library.cloths[build.job.pieces[0].cloth]).thickness


def test_pieces_wanted_are_told_on_the_run_sheet_and_in_the_report():
    build = build_job(read_job(write_job(with_wanted(badge(Repeat(3, 2)), 20))))
    told = report(build)["needs"]
    assert (told["pieces"], told["hoopings"], told["last"]) == (20, 4, 2) and report(ONE)["needs"] is None
    words = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(run_sheet(build))).pages)
    assert "For 20 pieces" in words and "4 of 6, the last with 2" in words
    for metres in told["threads_m"].values():
        assert f"{metres:.1f} m" in words
    with pytest.raises(BadInput, match="number of pieces"):
        with_wanted(badge(), -1)
    with pytest.raises(BadInput, match="number of pieces"):
        check_job(change(badge(), wanted=10**7))


def test_what_a_number_of_pieces_needs():
    build = SIX["step"]
    needs = needs_of(build, 20)
    assert (needs.copies, needs.hoopings, needs.left) == (6, 4, 2)
    full, last = figures_of(build.hooping).seconds, figures_of(build.hooping_of(2)).seconds
    assert needs.seconds == pytest.approx(3 * full + last, abs=0.2) and needs.each < ONE.figures.seconds
    assert figures_of(build.hooping_of(2)).stitches == 2 * ONE.figures.stitches
    plan = ONE.plan
    sewn = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)[plan.command[1:] == STITCH].sum() / 1000
    sheet, cloth = plan_depths(ONE)
    placed = sum(len(plan.stitches(one)) for one in plan.blocks if one.role == "placement")
    deep = 2 * (sheet * plan.sewn.sum() + cloth * (plan.sewn.sum() - placed)) / 1000
    assert sum(needs.threads.values()) == pytest.approx(20 * (1.15 * sewn + deep), rel=0.01)
    assert sum(needs.threads.values()) / 3 < needs.bobbin < sum(needs.threads.values())
    (cloth,) = needs.cloths
    assert (cloth.pieces, cloth.width, cloth.height) == (20, pytest.approx(44, abs=0.1), pytest.approx(44, abs=0.1))
    assert needs.stabilizer == pytest.approx(4 * 2 * 0.41 * 0.25, abs=1e-3)
    alone = needs_of(ONE, 3)
    assert (alone.hoopings, alone.seconds) == (3, pytest.approx(3 * ONE.figures.seconds, abs=0.2))
    for wrong in (0, -2, 10**9):
        with pytest.raises(BadInput, match="number of pieces"):
            needs_of(ONE, wrong)


def test_what_a_person_follows_has_the_numbers_of_the_machine():
    step, copy = (SIX[order] for order in ("step", "copy"))
    assert step.followed is step.hooping and copy.followed is copy.plan
    assert [one.step.kind for one in step.followed.stops] == [one.step.kind for one in step.plan.stops]
    sewn = [int(build.followed.sewn[: build.followed.stops[0].row].sum()) for build in (ONE, step, copy)]
    assert sewn[1] == 6 * sewn[0] and sewn[2] == sewn[0]
    words = "".join(page.extract_text() for page in PdfReader(io.BytesIO(run_sheet(step))).pages)
    assert f"After stitch {sewn[1]}" in words.replace("\xa0", " ") and "6: 3 x 2" in words


def test_as_many_as_fit_of_any_size_and_in_any_field():
    assert filled(badge(), 6.0, "step").repeat == Repeat(6, 3, 6.0, "step")
    in_a_ring = filled(badge(hoop="r160"), 2.0, "copy")  # its box would hold 3 x 3
    assert (in_a_ring.repeat.columns, in_a_ring.repeat.rows) == (2, 2)
    assert not [one for one in build_job(in_a_ring).findings if one.code == "repeat_outside"]
    dot = job_of(box(0, 0, 2, 2), base="none", hoop="h360x200")
    dot = change(dot, pieces=[change(dot.pieces[0], construct="run")])
    many = filled(dot, 0.0, "step").repeat
    assert 150 < many.columns * many.rows <= 200
    with pytest.raises(BadInput, match="holds no copy"):
        filled(job_of(box(0, 0, 300, 300), base="none", hoop="h100x100"), 6.0, "step")
    with pytest.raises(BadInput, match="Nothing is sewn"):
        filled(change(dot, pieces=[]), 6.0, "step")
    with pytest.raises(BadInput, match="gap between copies"):
        filled(dot, -6.0, "step")
    assert filled(dot, -5.0, "step").repeat.columns < 40  # dots overlap by a part of themselves alone


@pytest.mark.parametrize("order", SIX)
def test_what_is_drawn_of_a_hooping_has_every_copy_as_it_lies(order):
    build = SIX[order]
    shown = build.hooped
    assert shown.plan is build.hooping and ONE.hooped is ONE
    sheets = sheets_of(shown)
    assert {one.piece for one in sheets} == {"p1"} and len(sheets) == (1 if order == "step" else 6)
    end = shapely.union_all([one.states[-1][1] for one in sheets])
    cloths = build.grid.laid(build.piece("p1").outline)
    assert end.symmetric_difference(shapely.union_all(cloths)).area < 1e-6
    first = min(one.laid for one in sheets)
    assert all((one.laid > first) is (nth > 0) for nth, one in enumerate(sheets))
    for move in build.grid.moves():
        cut = section_of(shown, (float(40 + move[0]), float(10 + move[1])), 0.0, 20.0)
        assert "cloth" in {one.laid.layer.kind for one in cut.sheets} and len(cut.threads.row)
    between = section_of(shown, (0.0, float(build.grid.moves()[0][1] + 10)), np.pi / 2, 4.0)
    assert "cloth" not in {one.laid.layer.kind for one in between.sheets} or len(between.threads.row)


def header_of(data):
    return json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])


def test_the_browser_gets_the_hooping_or_the_one_design():
    for build, copies in ((SIX["step"], 6), (SIX["copy"], 6)):
        one, every = header_of(plan_binary(build)), header_of(plan_binary(build, hooping=True))
        assert one["copies"] == [] and len(every["copies"]) == copies
        assert every["stitches"] == copies * one["stitches"]
        for before, after in zip(one["pieces"], every["pieces"], strict=True):
            assert len(after["rings"]) == copies * len(before["rings"])
        assert {key for stop in every["stops"] for key in stop["keys"]} == {"p1:lay"}
    assert header_of(plan_binary(ONE, hooping=True))["copies"] == []


def test_copies_are_turned_where_more_of_them_fit_so():
    bar = job_of(box(0, 0, 70, 20), base="none", hoop="h130x180")
    job = filled(bar, 6.0, "step")
    assert (job.repeat.columns, job.repeat.rows, job.repeat.turned) == (4, 2, True)
    assert not filled(change(bar, brief=change(bar.brief, hoop="h360x200")), 6.0, "step").repeat.turned
    build = build_job(job)
    assert not [one for one in build.findings if one.code == "repeat_outside"]
    one, every = build.plan, build.hooping
    assert every.sewn.sum() == 8 * one.sewn.sum()
    first = every.xy[every.sewn][:50]
    matrix, move = build.grid.matrix, build.grid.moves()[0]
    np.testing.assert_allclose(first[:20], (one.xy[one.sewn] @ matrix + move)[:20], atol=1e-9)
    wide, high = np.ptp(every.xy[every.sewn], axis=0)
    assert (wide, high) == pytest.approx(build.grid.size, abs=0.1)
    cuts = cuts_of(build)
    assert len(cuts) == 8 and all(np.ptp(one.rings[0], axis=0) == pytest.approx((20, 70)) for one in cuts)
    assert read_job(write_job(job)).repeat.turned


def test_what_hands_do_out_of_the_hoop_is_done_for_every_copy():
    (one,), (six,) = ([step for step in report(build)["steps"] if step.get("when") == "after"
                       and step["kind"] == "poke_out"] for build in (ONE, SIX["step"]))  # fmt: skip
    assert one["seconds"] < six["seconds"] <= 6 * one["seconds"]
    assert six["seconds"] == pytest.approx(6 * one["seconds"] - 5 * 5.0)  # what doing it again at once spares


def test_every_copy_of_a_hooping_lies_on_what_the_brief_lays():
    kinds = [one.layer.kind for one in ONE.laid if one.layer.region is None]
    for build in SIX.values():
        hooped = build.hooped.laid
        assert [one.layer.kind for one in hooped if one.layer.region is None] == kinds and "stabilizer" in kinds
