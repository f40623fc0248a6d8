"""The stack cut along a line: materials at their heights, stitches on what lies under them."""

import json

import numpy as np
import pytest
import shapely

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job, section_of
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.outputs.laid import presses_of
from velamen.core.outputs.section_json import section_json
from velamen.core.plan.section import STEP, THREAD_WIDE
from velamen.core.plan.stitch_plan import STITCH

TOWEL = build_job(job_of(shapely.box(-20, -20, 20, 20), base="terry"))


def cut(build=TOWEL, x=20.0, y=0.0, angle=0.0, length=16.0):
    return section_of(build, (x, y), angle, length)


def sheets(found, row):
    return [one for one in found.sheets if one.laid.from_row <= row < one.laid.to_row and one.there.any()]


def test_materials_lie_on_each_other_at_true_thickness():
    found = cut()
    ground = sheets(found, 0)
    assert [one.laid.layer.kind for one in ground] == ["stabilizer", "base", "topping"]
    stabilizer, base, film = ground
    assert np.allclose(stabilizer.bottom, 0) and np.allclose(base.bottom, 0.3)
    assert np.allclose(film.bottom, 0.3 + 2.2 + 4.0 / 3)
    assert len(base.bottom) == round(16.0 / STEP) and base.there.all()


def test_cloth_is_there_from_its_stop_and_trimmed_at_the_next():
    found = cut()
    lay, trim = TOWEL.plan.stops
    cloth = lambda row: [one for one in sheets(found, row) if one.laid.layer.kind == "cloth"]  # noqa: E731
    assert not cloth(lay.row + 1) and len(cloth(lay.row + 2)) == 1
    (untrimmed,), (trimmed,) = cloth(trim.row + 1), cloth(trim.row + 2)
    assert untrimmed.there.all()
    columns = (np.arange(len(trimmed.there)) + 0.5) * STEP - 8.0
    assert (trimmed.there == (columns < 0)).all()  # the cut goes square over the edge at x = 20
    assert untrimmed.bottom.min() > 0.3 + 2.2


def test_every_stitch_that_crosses_is_met_once():
    found = cut(x=3.0, y=20.0, angle=np.pi / 2, length=12.0)
    plan = TOWEL.plan
    line = shapely.LineString([(3.0, 14.0), (3.0, 26.0)])
    rows = [
        row for row in np.flatnonzero(plan.command == STITCH)
        if shapely.crosses(line, shapely.LineString(plan.xy[row - 1 : row + 1]))
    ]  # fmt: skip
    assert len(rows) > 4 and set(rows) <= set(found.threads.row.tolist())
    assert (np.diff(found.threads.row) > 0).all()
    assert (np.diff(found.threads.span, axis=1) >= THREAD_WIDE - 1e-9).all()


def test_stitches_lie_on_what_is_under_them_and_never_climb_their_own_pass():
    found = cut(x=0.0, y=20.0, angle=0.0, length=30.0)  # along the edge, across every stitch
    roles = TOWEL.plan.role[found.threads.row]
    heights = found.threads.height
    assert np.ptp(heights[roles == roles[-1]]) < 1.2
    assert heights.min() > 0.3 + 2.2 and heights.max() < 0.3 + 2.2 + 4.0 + 2.0
    over = cut(x=0.0, y=20.0, angle=np.pi / 2)
    block = TOWEL.plan.block[over.threads.row]
    cover, placement = (over.threads.height[block == nth] for nth in (len(TOWEL.plan.blocks) - 1, 0))
    assert cover.max() > placement.max() > 0.3 + 2.2


def test_foam_raises_the_cover():
    padded = build_job(job_of(shapely.box(-20, -20, 20, 20), base="terry", own={"padding": "foam_3"}))
    flat, high = (cut(one).threads.height.max() for one in (TOWEL, padded))
    assert 2.0 < high - flat < 3.6
    kinds = [one.laid.layer.kind for one in sheets(cut(padded), padded.plan.stops[0].row + 2)]
    assert kinds[-2:] == ["foam", "cloth"]


def test_nothing_is_crossed_off_the_design():
    found = cut(x=90.0, y=90.0)
    assert len(found.threads.row) == 0 and [one.laid.layer.kind for one in sheets(found, 10**9)][-1] == "topping"


@pytest.mark.parametrize("name", SHAPES)
def test_any_shape_can_be_cut_anywhere(name):
    build = build_job(job_of(SHAPES[name], base="fleece"))
    left, top, right, bottom = SHAPES[name].bounds
    for share, angle in ((0.0, 0.3), (0.5, 1.2), (1.0, 2.9)):
        found = section_of(build, (left + share * (right - left), 0.5 * (top + bottom)), angle, 40.0)
        assert np.isfinite(found.threads.height).all() and all(np.isfinite(one.bottom).all() for one in found.sheets)


def test_the_cut_as_json_says_what_is_drawn():
    data = json.loads(section_json(TOWEL, (20.0, 0.0), 0.0, 16.0))
    assert data["step"] == STEP and [one["kind"] for one in data["sheets"]][:3] == ["stabilizer", "base", "topping"]
    trimmed = data["sheets"][-1]
    assert trimmed["spans"] == [[0, 80]] and trimmed["to"] is None and len(trimmed["bottom"]) == 160
    film = data["sheets"][2]
    assert (
        film["pile_left"] == pytest.approx(1 / 3) and film["place"] > data["sheets"][1]["place"]
    )  # it lies over the pile
    threads = data["threads"]
    assert len(threads["span"]) == len(threads["height"]) == len(threads["row"]) == len(threads["block"]) > 0
    for wrong in ((np.nan, 0.0), (5000.0, 0.0)):
        with pytest.raises(BadInput, match="move it back"):
            section_json(TOWEL, wrong, 0.0, 16.0)
    for length in (0.1, 4000.0):
        with pytest.raises(BadInput, match="out of bounds"):
            section_json(TOWEL, (0.0, 0.0), 0.0, length)


def test_an_empty_job_is_cut_too():
    empty = build_job(change(job_of(base="fleece"), pieces=[], shapes=[]))
    assert len(section_of(empty, (0.0, 0.0), 0.0, 10.0).threads.row) == 0


def test_pile_is_pressed_where_a_ground_presses_it_and_stands_beside_it():
    job = job_of(shapely.box(-20, -20, 20, 20), base="terry", own={"emboss_outline": "none"})
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="emboss")]))
    data = json.loads(section_json(build, (20.0, 0.0), 0.0, 16.0))  # 8 mm of the motif, 8 mm of its ground
    (press,) = data["presses"]
    assert press["spans"] == [[80, 160]] and press["from"] == build.plan.blocks[0].first
    (motif,) = json.loads(section_json(build, (0.0, 0.0), 0.0, 16.0))["presses"]
    assert motif["spans"] == []


def test_a_cloth_laid_on_pressed_pile_lies_lower_than_on_standing_pile():
    job = job_of(shapely.box(-20, -20, 20, 20), base="terry")
    plain, pressed = build_job(job), build_job(with_ground(job, "knockdown"))
    presses = [(one.row, one.region) for one in presses_of(pressed)]

    def lies(build, presses=()):
        found = section_of(build, (0.0, 0.0), 0.0, 16.0, presses)
        return np.median([one.bottom for one in found.sheets if one.laid.layer.kind == "cloth"][-1])

    assert presses and 0.0 < lies(plain) - lies(pressed, presses) < 4.0
    assert lies(pressed, presses) < lies(pressed)
