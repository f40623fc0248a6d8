"""Edits of the stack: moving with refusals, grounds, freezing, name pieces, cloth out of fills, copied values."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core import grounds, stacking
from velamen.core.building import build_job
from velamen.core.errors import BadInput
from velamen.core.job import change, check_job
from velamen.core.making import with_maker
from velamen.core.matched import check_pieces, region_of
from velamen.core.materials.colour import nearest_thread
from velamen.core.shape import Text


def ids(job):
    return [piece.id for piece in job.pieces]


def face():
    """A big cloth, a small one on it, and one beside them."""
    return job_of(box(-40, -30, 20, 30), box(-10, -10, 10, 10), box(40, -10, 60, 10), base="fleece")


def test_a_piece_moves_and_its_stitches_with_it():
    job = stacking.moved_piece(face(), "p3", 0)
    assert ids(job) == ["p3", "p1", "p2"] and build_job(job).plan.blocks[0].piece == "p3"
    assert ids(stacking.moved_piece(job, "p3", 99)) == ["p1", "p2", "p3"]


def test_moves_that_cannot_be_say_why():
    job = grounds.with_ground(face(), "knockdown")
    ground = job.pieces[0].id
    with pytest.raises(BadInput, match="Knockdown is sewn before what it goes round: piece 1 would lie under it"):
        stacking.moved_piece(job, ground, 2)
    with pytest.raises(BadInput, match="piece 2 would lie wholly under the cloth of piece 1"):
        stacking.moved_piece(job, "p2", 1)
    with pytest.raises(BadInput, match="no longer in the job"):
        stacking.moved_piece(job, "gone", 1)


def test_a_pass_moves_and_its_cover_never_before_its_tack_down():
    job = face()
    keys = [unit.key for unit in build_job(job).units]
    later = stacking.moved_unit(job, "p1:cover", 0)
    assert [unit.key for unit in build_job(later).units] == keys
    with pytest.raises(BadInput, match="Cover cannot come before the tack-down of the same piece: piece 3"):
        stacking.moved_unit(job, "p3:cover", -2)
    with pytest.raises(BadInput, match="Cover of piece 1 cannot come after piece 2 is laid"):
        stacking.moved_unit(job, "p1:cover", 3)
    moved = stacking.moved_unit(job, "p3:placement", -1)
    assert [unit.key for unit in build_job(moved).units][-6:-4] == ["p3:placement", "p2:cover"]


def test_a_ground_is_put_first_after_basting_in_thread_like_the_base():
    job = grounds.with_ground(grounds.with_ground(face(), "basting"), "knockdown")
    kinds = [piece.construct for piece in job.pieces]
    assert kinds[:2] == ["basting", "knockdown"] and check_pieces(check_job(job))
    base = job.library.bases["fleece"].colour
    assert job.pieces[1].thread == nearest_thread(base, job.library).key != job.pieces[2].thread
    assert [block.role for block in build_job(job).plan.blocks[:2]] == ["basting", "knockdown"]
    with pytest.raises(BadInput, match="does not go round"):
        grounds.with_ground(face(), "fill")


def test_a_frozen_ground_stays_where_it_was():
    job = grounds.with_ground(face(), "knockdown")
    before = build_job(job).pieces[0].work.region
    still = grounds.frozen(job, job.pieces[0].id)
    assert all(piece.shape for piece in still.pieces)
    after = shapely.union_all(
        [one.work.region for one in build_job(still).pieces if one.piece.construct == "knockdown"]
    )
    assert shapely.hausdorff_distance(before, after) < 0.05
    shifted = change(still, shapes=[change(one, rings=[[(x + 9, y) for x, y in ring] for ring in one.rings])
                                    if one.id == "s3" else one for one in still.shapes])  # fmt: skip
    left = [one.work.region for one in build_job(shifted).pieces if one.piece.construct == "knockdown"]
    assert shapely.union_all(left).equals_exact(after, 0.001)
    with pytest.raises(BadInput, match="Only a piece that goes round others"):
        grounds.frozen(job, "p1")


def test_a_name_piece_is_calm_cloth_round_lettering_sewn_before_it():
    job = with_maker(job_of(base="felt"), Text("m1", "TIDE", "rubik", 24.0))
    letters = [shape.id for shape in job.shapes]
    named = grounds.with_name_piece(job, letters)
    cloth = region_of(next(shape for shape in named.shapes if shape.maker == "m2"))
    words = shapely.union_all([region_of(shape) for shape in named.shapes if shape.id in letters])
    assert named.pieces[0].shape not in letters and not cloth.interiors
    away = shapely.distance(shapely.points(shapely.get_coordinates(cloth.exterior)), words)
    assert away.min() >= 19.0 and np.percentile(away, 90) <= 26.0
    with pytest.raises(BadInput, match="Choose the letters"):
        grounds.with_name_piece(job, [])


def test_a_filled_piece_made_cloth_loses_its_fill_and_unwanted_holes():
    body = box(-40, -40, 40, 40).difference(Point(-20, 0).buffer(3)).difference(Point(20, 0).buffer(12))
    body = body.difference(box(-6, -30, 6, -18))
    job = job_of(body, box(-6, -30, 6, -18))
    job = change(job, pieces=[change(job.pieces[0], construct="fill", own={"fill_spacing": 0.5}), job.pieces[1]])
    cloth = stacking.as_applique(job, "p1")
    assert cloth.pieces[0].construct == "applique" and cloth.pieces[0].own == {}
    region = region_of(cloth.shapes[0])
    assert [round(shapely.Polygon(hole).area) for hole in region.interiors] == [452]
    assert all(block.role != "decoration" for block in build_job(cloth).plan.blocks)


def test_own_values_are_copied_as_far_as_they_are_known():
    job = face()
    job = change(job, pieces=[change(job.pieces[0], own={"cover_width": 4.0}), job.pieces[1],
                              change(job.pieces[2], construct="fill", own={"fill_spacing": 0.6})])  # fmt: skip
    copied = stacking.with_values_of(job, ["p2", "p3"], "p1")
    assert copied.pieces[1].own == {"cover_width": 4.0} and copied.pieces[2].own == {"fill_spacing": 0.6}


def test_passes_may_have_threads_of_their_own():
    job = face()
    job = change(job, pieces=[change(job.pieces[0], threads={"placement": "118"}), *job.pieces[1:]])
    blocks = build_job(check_job(job)).plan.blocks
    assert [block.thread for block in blocks if block.piece == "p1"] == ["118", "140", "140"]


@pytest.mark.parametrize("name", ["ring", "star", "comb", "coast"])
def test_a_ground_follows_every_edit_of_what_it_serves(name):
    job = grounds.with_ground(job_of(SHAPES[name], base="terry"), "knockdown")
    wide = change(job, shapes=[change(job.shapes[0], rings=[[(1.3 * x, y) for x, y in ring]
                                                            for ring in job.shapes[0].rings])])  # fmt: skip
    before, after = (build_job(one).pieces[0].work.region.bounds for one in (job, wide))
    assert after[2] - after[0] > 1.15 * (before[2] - before[0]) and abs(after[3] - before[3]) < 1.0
