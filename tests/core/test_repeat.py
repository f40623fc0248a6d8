"""Copies in the hoop: the stops of one, the stitches of all, inside the field, in the order asked for."""

import io
from itertools import pairwise

import numpy as np
import pytest
import shapely
from pypdf import PdfReader
from shapely import Point, box

from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.building.needs import needs_of
from velamen.core.edits.stack.copies import filled
from velamen.core.errors import BadInput
from velamen.core.job.document import Repeat, change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.outputs.cut_sheet import cuts_of
from velamen.core.outputs.gcode import gcode
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
    (Repeat(20, 20), "too many for one hoop"), (Repeat(2, 2, -1.0), "gap between copies cannot be -1"),
    (Repeat(2, 2, float("nan")), "cannot be nan"), (Repeat(2, 2, 6.0, "spiral"), "order of copies"),
])  # fmt: skip
def test_a_repeat_that_cannot_be_is_refused(repeat, says):
    with pytest.raises(BadInput, match=says):
        check_job(badge(repeat))


def test_a_repeat_is_saved_with_its_job():
    job = badge(Repeat(3, 2))
    assert read_job(write_job(job)).repeat == Repeat(3, 2)


def test_what_a_number_of_pieces_needs():
    build = SIX["step"]
    needs = needs_of(build, 20)
    assert (needs.copies, needs.hoopings, needs.left) == (6, 4, 2)
    full, last = figures_of(build.hooping).seconds, figures_of(build.hooping_of(2)).seconds
    assert needs.seconds == pytest.approx(3 * full + last, abs=0.2) and needs.each < ONE.figures.seconds
    assert figures_of(build.hooping_of(2)).stitches == 2 * ONE.figures.stitches
    plan = ONE.plan
    sewn = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)[plan.command[1:] == STITCH].sum() / 1000
    assert sum(needs.threads.values()) == pytest.approx(20 * 1.15 * sewn, rel=0.01)  # on nothing but the stabilizer
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
        filled(dot, -5.0, "step")
