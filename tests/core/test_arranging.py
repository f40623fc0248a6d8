"""Groups, locks, dies, open lines, and shapes copied between jobs."""

import numpy as np
import pytest
from shapely import LineString, Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.artwork.pen import freehand_line, open_line
from velamen.core.edits.shapes import arranging, copying, curve_nodes, drawing, shape_points
from velamen.core.edits.shapes.dies import die_region, draw_die
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, brief_for, change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.job.regions import region_of
from velamen.core.materials.library import library_with, shipped
from velamen.core.materials.records import Die

THREE = job_of(box(0, 0, 10, 10), box(20, 0, 30, 10), box(60, 0, 66, 10))


def lefts(job):
    return [round(region_of(shape).bounds[0], 2) for shape in job.shapes]


def test_groups_line_up_and_spread_as_one():
    job = arranging.grouped(THREE, ["s1", "s2"], True)
    assert job.shapes[0].group == job.shapes[1].group != ""
    assert lefts(arranging.aligned(job, ["s1", "s2", "s3"], "right")) == [36, 56, 60]
    assert lefts(arranging.aligned(job, ["s1", "s2"], "centre")) == [
        -15,
        5,
        60,
    ]  # one group alone: to the field's middle
    with pytest.raises(BadInput, match="at least 3 shapes or groups"):
        arranging.distributed(job, ["s1", "s2", "s3"], "sideways")
    assert not any(shape.group for shape in arranging.grouped(job, ["s1", "s2"], False).shapes)
    with pytest.raises(BadInput, match="at least 2"):
        arranging.grouped(job, ["s1"], True)


def test_copies_of_a_group_are_a_group_of_their_own():
    job = arranging.duplicated(arranging.grouped(THREE, ["s1", "s2"], True), ["s1", "s2", "s3"])
    groups = [shape.group for shape in job.shapes]
    assert groups[0] == groups[1] != groups[3] == groups[4] != "" and groups[5] == ""
    word = drawing.draw_text(Job(), drawing.Text("", "EBB", "rubik", 20.0))
    twice = arranging.duplicated(word, [shape.id for shape in word.shapes])
    assert len(twice.makers) == 2 and {shape.maker for shape in twice.shapes[3:]} == {"m2"} and check_job(twice)
    part = arranging.duplicated(word, [shape.id for shape in word.shapes[:2]])
    assert len({shape.group for shape in part.shapes[3:]} - {""}) == 1 and part.shapes[3].maker == ""


def test_locked_shapes_refuse_every_change_but_unlocking():
    job = arranging.held(THREE, ["s1"], "locked", True)
    for edit in (
        lambda: arranging.moved(job, ["s1", "s2"], np.eye(2), np.ones(2)),
        lambda: arranging.turned(job, ["s1"], 10),
        lambda: arranging.removed(job, ["s1"]),
        lambda: drawing.combined(job, ["s1", "s2"], "union"),
        lambda: drawing.mended(job, ["s1"], lambda region: [region]),
        lambda: shape_points.points_moved(job, "s1", [(0, 0)], (1, 1), 0),
        lambda: curve_nodes.curved(job, ["s1"], 0.1),
    ):
        with pytest.raises(BadInput, match="'shape 1' is locked: unlock it first"):
            edit()
    assert len(drawing.offset(job, ["s1"], [4.0], False, 0, 0, True).shapes) == 4  # looked at only
    assert not arranging.duplicated(job, ["s1"]).shapes[-1].locked
    assert arranging.removed(arranging.held(job, ["s1"], "locked", False), ["s1"])
    assert arranging.held(job, ["s2"], "hidden", True).shapes[1].hidden


@pytest.mark.parametrize("key", shipped().dies)
def test_every_die_cuts_one_shape_that_can_be_laid(key):
    die = shipped().dies[key]
    region = die_region(die)
    assert region.is_valid and region.area > 120 and region.centroid.distance(Point(0, 0)) < 12
    size = float(die.name.rsplit(" ", 1)[1])
    left, top, right, bottom = region.bounds
    assert size in (pytest.approx(right - left, abs=0.6), pytest.approx(bottom - top, abs=0.6))
    assert check_job(draw_die(Job(brief=brief_for("felt")), key)).shapes[0].die == key


def test_a_die_fixes_outline_and_size():
    job = draw_die(THREE, "hull_90")
    (die,) = [shape.id for shape in job.shapes if shape.die]
    assert arranging.turned(job, [die], 40).shapes[-1].die == "hull_90"
    for edit in (
        lambda: arranging.sized(job, [die], 50.0, None),
        lambda: arranging.fitted(job, [die]),
        lambda: arranging.mirrored(job, [die], "sideways"),
        lambda: drawing.combined(job, [die, "s1"], "union"),
        lambda: shape_points.points_removed(job, die, [(0, 0)]),
    ):
        with pytest.raises(BadInput, match="cut with a die, so its outline and size are fixed"):
            edit()
    free = arranging.freed(job, [die])
    assert arranging.sized(free, [die], 50.0, None)


@pytest.mark.parametrize("outline", ["", "M0 0", "M0,0L9,9<script>", "M-9,-9H-1V-1H-9ZM1,1H9V9H1Z"])
def test_an_outline_that_no_die_can_cut_is_told(outline):
    with pytest.raises(BadInput):
        die_region(Die("x", "Odd", outline))


def test_shapes_of_one_die_keep_its_size_in_their_names():
    job = draw_die(draw_die(draw_die(job_of(), "porthole_70"), "porthole_70", (5.0, 0.0)), "disc_60")
    assert [shape.name for shape in job.shapes] == ["Porthole 70", "Porthole 70, 2", "Disc 60"]
    assert {shape.die for shape in job.shapes} == {"porthole_70", "disc_60"}


def test_a_shops_own_die_goes_with_its_job():
    own = {"dies": {"flag": {"name": "Flag 40", "outline": "M-20,-10H20V10H-20Z"}}}
    job = change(THREE, materials=own)
    drawn = draw_die(job, "flag")
    clip = read_job(write_job(copying.clip_of(drawn, [drawn.shapes[-1].id])))
    taken = copying.copied_from(Job(brief=brief_for("felt")), clip, shipped())
    assert taken.shapes[0].die == "flag" and "flag" in taken.library.dies


def test_shapes_are_copied_with_pieces_cloths_and_curves():
    own = {"cloths": {"mended_sail": {**library_with({}).fields("cloths", "sail_red"), "name": "Mended sail"}}}
    job = change(curve_nodes.curved(THREE, ["s1"], 0.1), materials=own)
    job = change(job, pieces=[change(job.pieces[0], cloth="mended_sail", own={"cover_width": 4.0}), *job.pieces[1:]])
    job = arranging.grouped(job, ["s1", "s2"], True)
    clip = read_job(write_job(copying.clip_of(job, ["s1", "s2"])))
    other = arranging.grouped(job_of(box(0, 0, 5, 5), box(9, 9, 15, 15)), ["s1", "s2"], True)
    taken = check_job(copying.copied_from(other, clip, shipped()))
    assert len(taken.shapes) == len(taken.pieces) == 4 and len({shape.id for shape in taken.shapes}) == 4
    assert taken.pieces[2].own == {"cover_width": 4.0} and taken.pieces[2].cloth == "mended_sail"
    assert taken.library.cloths["mended_sail"].name == "Mended sail" and taken.shapes[2].nodes
    assert taken.shapes[2].group == taken.shapes[3].group != taken.shapes[0].group


CURVE = open_line(np.array([[-40.0, 0], [0, 20], [40, 0]]), [False, True, False])


def test_open_lines_keep_their_ends_and_pass_their_points():
    assert CURVE[0].tolist() == [-40, 0] and CURVE[-1].tolist() == [40, 0]
    assert LineString(CURVE).distance(Point(0, 20)) < 0.01 and len(CURVE) > 20
    shake = np.stack([np.linspace(-30, 30, 200), np.random.default_rng(1).normal(0, 0.1, 200)], axis=1)
    calm = freehand_line(shake, 1.0)
    assert calm[0] == pytest.approx(shake[0]) and calm[-1] == pytest.approx(shake[-1])
    for points in (np.zeros((1, 2)), np.zeros((5, 2))):
        with pytest.raises(BadInput, match="at least two points"):
            open_line(points, [False] * len(points))


def test_a_line_is_a_shape_without_a_piece_that_divides_and_widens():
    job = drawing.draw_line(job_of(box(-20, -20, 20, 30)), CURVE)
    line = job.shapes[-1]
    assert line.open and len(job.pieces) == 1 and check_job(read_job(write_job(job)))
    parted = drawing.combined(job, ["s1", line.id], "divide")
    assert len(parted.shapes) == 2 and sum(region_of(shape).area for shape in parted.shapes) == pytest.approx(
        2000, abs=1
    )
    wide = drawing.widened(job, [line.id], 3.0)
    assert region_of(wide.shapes[-1]).area == pytest.approx(LineString(CURVE).length * 3 + np.pi * 2.25, rel=0.01)
    with pytest.raises(BadInput, match="is an open line"):
        drawing.combined(job, ["s1", line.id], "union")
    with pytest.raises(BadInput, match="open lines have no outline"):
        drawing.offset(job, [line.id], [3.0], False, 0, 0, True)
    assert region_of(change(arranging.moved(job, [line.id], np.eye(2), np.ones(2)).shapes[0])).area == 2000


def test_lines_are_joined_at_their_nearest_ends_or_closed():
    job = drawing.draw_line(Job(brief=brief_for("felt")), CURVE)
    job = drawing.draw_line(job, np.array([[41.0, -1], [40, -40], [-40, -40], [-41, -1]]))
    ids = [shape.id for shape in job.shapes]
    joined = drawing.joined_lines(job, ids)
    assert len(joined.shapes) == 1 and joined.shapes[0].open
    closed = drawing.joined_lines(joined, [joined.shapes[0].id])
    assert len(closed.pieces) == 1 and region_of(closed.shapes[0]).area > 3200
    far = drawing.draw_line(job, np.array([[200.0, 200], [220, 220]]))
    with pytest.raises(BadInput, match="mm apart: bring them within"):
        drawing.joined_lines(far, [far.shapes[0].id, far.shapes[2].id])


def test_direction_and_guide_lines_go_with_their_shape():
    job = drawing.draw_line(THREE, np.array([[-2.0, 5], [12, 5]]), "direction", "s1")
    job = drawing.draw_line(job, np.array([[5.0, -2], [5, 12]]), "guide", "s1")
    job = drawing.draw_line(job, np.array([[4.0, -2], [4, 12]]), "guide", "s1")
    assert [line.kind for line in job.shapes[0].lines] == ["direction", "guide"]  # one guide at a time
    moved = arranging.moved(job, ["s1"], np.eye(2), np.array([10.0, 0.0]))
    assert moved.shapes[0].lines[0].points == [(8.0, 5.0), (22.0, 5.0)]
    assert drawing.lines_cleared(job, ["s1"]).shapes[0].lines == []
    with pytest.raises(BadInput, match="does not cross"):
        drawing.draw_line(THREE, np.array([[90.0, 90], [99, 99]]), "guide", "s1")


def test_breaking_up_gives_the_outline_and_what_its_holes_showed():
    job = drawing.broken_up(job_of(SHAPES["two_holes"]), ["s1"])
    whole = region_of(job.shapes[0])
    assert not whole.interiors and len(job.shapes) == 1 + len(SHAPES["two_holes"].interiors)
    assert whole.area - sum(region_of(one).area for one in job.shapes[1:]) == pytest.approx(SHAPES["two_holes"].area)
    with pytest.raises(BadInput, match="is one part already"):
        drawing.broken_up(THREE, ["s1"])
