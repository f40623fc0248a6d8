"""Edits of the stack: moving with refusals, grounds, freezing, name pieces, cloth out of fills, copied values."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import done_of, edge_cover_of, job_of, order_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.works import check_pieces
from velamen.core.edits.shapes.live_shapes import with_maker
from velamen.core.edits.stack import grounds
from velamen.core.edits.stack import pieces as stack_pieces
from velamen.core.edits.stack.own_values import with_own
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.job.reading import check_job
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Text
from velamen.core.materials.colour import nearest_thread


def ids(job):
    return [piece.id for piece in job.pieces]


def face():
    """A big cloth, a small one on it, and one beside them."""
    return job_of(box(-40, -30, 20, 30), box(-10, -10, 10, 10), box(40, -10, 60, 10), base="fleece")


def test_a_piece_moves_and_its_stitches_with_it():
    job = stack_pieces.moved_piece(face(), "p3", 0)
    assert ids(job) == ["p3", "p1", "p2"] and build_job(job).plan.blocks[0].piece == "p3"
    assert ids(stack_pieces.moved_piece(job, "p3", 99)) == ["p1", "p2", "p3"]


def test_moves_that_cannot_be_say_why():
    job = grounds.with_ground(face(), "knockdown")
    ground = job.pieces[0].id
    with pytest.raises(BadInput, match="Knockdown is sewn before what it goes round: piece 1 would lie under it"):
        stack_pieces.moved_piece(job, ground, 2)
    with pytest.raises(BadInput, match="piece 2 would lie wholly under the cloth of piece 1"):
        stack_pieces.moved_piece(job, "p2", 1)
    with pytest.raises(BadInput, match="no longer in the job"):
        stack_pieces.moved_piece(job, "gone", 1)


def test_a_pass_moves_and_its_cover_never_before_its_tack_down():
    job = face()
    keys = order_of(build_job(job))
    later = stack_pieces.moved_operation(job, "p1:cover", 0)
    assert order_of(build_job(later)) == keys
    with pytest.raises(BadInput, match="Cover cannot come before the tack-down of the same piece: piece 3"):
        stack_pieces.moved_operation(job, "p3:cover", -2)
    with pytest.raises(BadInput, match="Cover of piece 1 cannot come after piece 2 is laid"):
        stack_pieces.moved_operation(job, "p1:cover", 3)
    moved = stack_pieces.moved_operation(job, "p3:placement", -1)
    assert order_of(build_job(moved))[-6:-4] == ["p3:placement", "p2:cover"]


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
    cloth = stack_pieces.as_cloth(job, "p1")
    assert cloth.pieces[0].construct == "applique" and cloth.pieces[0].own == {}
    region = region_of(cloth.shapes[0])
    assert [round(shapely.Polygon(hole).area) for hole in region.interiors] == [452]
    assert all(block.role != "decoration" for block in build_job(cloth).plan.blocks)


def test_own_values_are_copied_as_far_as_they_are_known():
    job = face()
    job = change(job, pieces=[change(job.pieces[0], own={"cover_width": 4.0}), job.pieces[1],
                              change(job.pieces[2], construct="fill", own={"fill_spacing": 0.6})])  # fmt: skip
    copied = stack_pieces.with_values_of(job, ["p2", "p3"], "p1")
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


def test_several_shapes_become_one_embossed_motif():
    job = job_of(box(-30, -10, -10, 10), box(0, -10, 20, 10), Point(40, 0).buffer(3), base="terry")
    made = grounds.as_motif(job, "emboss", ["p1", "p2"])
    kinds = [(piece.construct, piece.shape, piece.around) for piece in made.pieces]
    assert kinds == [("emboss", "", ["s1", "s2"]), ("applique", "s3", [])] and check_pieces(check_job(made))
    assert made.pieces[0].thread == grounds.base_thread(job)
    ground = build_job(made).pieces[0].work.region
    assert not shapely.intersects(ground, box(-28, -8, -12, 8)) and shapely.contains(ground, Point(-5, 0))
    every = grounds.as_motif(job, "emboss")
    assert [piece.construct for piece in every.pieces] == ["emboss"] and len(every.pieces[0].around) == 3
    wide = change(made, shapes=[change(made.shapes[0], rings=[[(x - 5, y) for x, y in made.shapes[0].rings[0]]]),
                                *made.shapes[1:]])  # fmt: skip
    assert build_job(wide).pieces[0].work.region.bounds[0] == pytest.approx(ground.bounds[0] - 5, abs=0.1)
    with pytest.raises(BadInput, match="Choose the shapes first"):
        grounds.as_motif(grounds.with_ground(job, "knockdown"), "emboss", ["p4"])


def test_what_goes_round_nothing_any_more_sews_nothing_and_says_so():
    job = grounds.with_ground(job_of(box(-20, -10, 20, 10), base="terry"), "contrast")
    alone = grounds.as_motif(job, "emboss", ["p1"])  # the border goes round all pieces, of which a ground is none
    build = build_job(alone)
    assert [one.piece for one in build.findings if one.code == "nothing_sewn"] == [job.pieces[0].id]
    with pytest.raises(BadInput, match="nothing that knockdown could go round"):
        grounds.with_ground(stack_pieces.removed(alone, [job.pieces[0].id]), "knockdown")


def test_a_cloth_under_a_panel_takes_over_its_border():
    job = job_of(box(-30, -20, 30, 20), base="terry")
    panel = change(job, pieces=[change(job.pieces[0], construct="panel")])
    made = grounds.with_cloth_under(panel, "p1")
    cloth, above = made.pieces
    assert (cloth.construct, cloth.shape, above.on) == ("applique", "s1", cloth.id)
    build = build_job(made)
    assert order_of(build) == [
        f"{cloth.id}:placement", f"{cloth.id}:lay", f"{cloth.id}:tack", f"{cloth.id}:trim", "p1:ground",
        f"{cloth.id}:cover",
    ]  # fmt: skip
    assert edge_cover_of(build.piece(cloth.id)).held and not [
        one for one in build.findings if one.severity == "error"
    ]
    with pytest.raises(BadInput, match="There is a cloth under"):
        grounds.with_cloth_under(made, "p1")
    with pytest.raises(BadInput, match="Only a panel"):
        grounds.with_cloth_under(job, "p1")
    bare = grounds.without_cloth_under(made, "p1")
    assert bare.pieces == panel.pieces and grounds.cloth_under(bare, bare.pieces[0]) is None
    with pytest.raises(BadInput, match="There is no cloth"):
        grounds.without_cloth_under(bare, "p1")


def test_grounds_follow_the_colour_of_another_base():
    job = grounds.with_ground(face(), "knockdown")
    other = change(job, brief=change(job.brief, base="felt"))
    after = grounds.rethreaded(job, other)
    assert after.pieces[0].thread == grounds.base_thread(other) != job.pieces[0].thread
    assert [one.thread for one in after.pieces[1:]] == [one.thread for one in job.pieces[1:]]
    chosen = change(job, pieces=[change(job.pieces[0], thread="140"), *job.pieces[1:]])
    assert grounds.rethreaded(chosen, change(chosen, brief=other.brief)).pieces[0].thread == "140"


def test_a_die_piece_let_go_is_trimmed():
    job = job_of(box(-20, -20, 20, 20))
    die = change(job, shapes=[change(job.shapes[0], die="star_60")])
    kinds = [getattr(step, "part", "") for step in done_of(build_job(stack_pieces.let_go(die, "p1")).pieces[0])]
    assert "trim" in kinds and "trim" not in [getattr(one, "part", "") for one in done_of(build_job(die).pieces[0])]
    with pytest.raises(BadInput, match="cut by no die"):
        stack_pieces.let_go(job, "p1")


def test_values_are_set_on_several_pieces_at_once():
    job = face()
    fill = change(job, pieces=[*job.pieces[:2], change(job.pieces[2], construct="fill")])
    made = with_own(fill, ids(fill), "cover_width", "4.2")
    assert [piece.own for piece in made.pieces] == [{"cover_width": 4.2}, {"cover_width": 4.2}, {}]
    assert with_own(made, ids(made), "cover_width", None).pieces == fill.pieces
    matched = build_job(fill).pieces[0].values["cover_width"].shown
    assert (
        with_own(fill, ids(fill), "cover_width", matched).pieces == fill.pieces
    )  # what matching says is not one's own
    with pytest.raises(BadInput, match="out of bounds"):
        with_own(fill, ids(fill), "cover_width", "40")
    with pytest.raises(BadInput, match="no value"):
        with_own(fill, ["p3"], "cover_width", "4")


def test_pieces_are_removed_with_the_shapes_that_nothing_else_uses():
    job = grounds.with_ground(grounds.as_motif(face(), "emboss", ["p2", "p3"]), "basting")
    emboss = next(piece.id for piece in job.pieces if piece.construct == "emboss")
    after = stack_pieces.removed(job, [emboss])
    assert [shape.id for shape in after.shapes] == ["s1", "s2", "s3"] and emboss not in ids(after)
    gone = stack_pieces.removed(job, ["p1"])
    assert "s1" not in [shape.id for shape in gone.shapes] and check_job(gone)


def test_a_pass_takes_the_place_of_another():
    job = job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), base="fleece")
    moved = stack_pieces.moved_operation(job, "p1:cover", onto="p2:cover")
    assert order_of(build_job(moved))[-2:] == ["p2:cover", "p1:cover"]
    back = stack_pieces.moved_operation(moved, "p1:cover", onto="p2:placement")
    assert order_of(build_job(back)) == order_of(build_job(job))
    with pytest.raises(BadInput, match="no longer in the job"):
        stack_pieces.moved_operation(job, "p1:cover", onto="p9:cover")
