"""Needle points edited by hand: what was not chosen stays, threads that are cut are tied, nothing gets too long."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.constructions import constructions
from velamen.core.edits.shapes import arranging
from velamen.core.edits.stack.needle_points import (
    EDITS,
    as_needle_points,
    edited,
    hand_changes_let_go,
    mask_of,
    points_of_piece,
    ranges_of,
)
from velamen.core.errors import BadInput
from velamen.core.job.document import ByHand, change
from velamen.core.job.needles import Strands
from velamen.core.job.reading import read_job, write_job
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.stitching import needle_edits
from velamen.core.stitching.needle_strands import ROLES, TIED
from velamen.core.stitching.strand import LONGEST

BY = {"dx": 3.0, "dy": -2.0, "degrees": 30.0, "least": 2.0}


def strands(*lengths, step=2.0):
    """Level runs under one another, tied at neither end."""
    xy = [
        np.stack([np.arange(count) * step, np.full(count, 10.0 * nth)], axis=1) for nth, count in enumerate(lengths)
    ]
    total = sum(lengths)
    return Strands(np.concatenate(xy), np.zeros(total, dtype=np.uint8), ROLES, np.array(lengths))


def mask(of, *points):
    found = np.zeros(len(of.xy), dtype=bool)
    found[list(points)] = True
    return found


def sewn(job):
    plan = build_job(job).plan
    return plan.xy[plan.command == STITCH]


def job_with(shape, construct, **own):
    whole = max(shapely.get_parts(SHAPES[shape]), key=lambda part: part.area)
    job = job_of(whole, base="felt", hoop="h360x200", own=own)
    return change(job, pieces=[change(one, construct=construct) for one in job.pieces])


@pytest.fixture(scope="module")
def listed():
    """A job whose one piece is needle points."""
    return as_needle_points(job_with("star", "satin_border"), "p1")


def test_points_move_and_the_others_stay():
    one = strands(10, 5)
    after = needle_edits.transformed(one, mask(one, 3, 4), np.eye(2), np.array([1.0, 2.0]))
    assert np.array_equal(after.strands.xy[3:5], one.xy[3:5] + np.array([1.0, 2.0]))
    assert np.array_equal(np.delete(after.strands.xy, [3, 4], axis=0), np.delete(one.xy, [3, 4], axis=0))


def test_points_turn_and_are_mirrored_about_their_middle():
    one = strands(6)
    turned = EDITS["turn"](one, mask(one, *range(6)), {**BY, "degrees": 90.0}).strands.xy
    assert np.allclose(turned[:, 0], 5.0) and np.allclose(np.sort(turned[:, 1]), np.arange(-5.0, 6.0, 2.0))
    assert np.allclose(EDITS["sideways"](one, mask(one, *range(6)), BY).strands.xy, one.xy[::-1])


def test_a_thread_closes_up_over_a_point_and_is_cut_and_tied_over_more():
    one = strands(12, step=1.0)
    closed = needle_edits.deleted(one, mask(one, 5)).strands
    assert closed.counts.tolist() == [11] and not (closed.role == TIED).any()
    cut = needle_edits.deleted(one, mask(one, *range(4, 8))).strands
    assert len(cut.counts) == 2
    first = cut.role[: cut.counts[0]]
    assert (first[-4:] == TIED).all() and not (first[:4] == TIED).any() and cut.role[cut.counts[0]] == TIED
    ahead = needle_edits.deleted(one, mask(one, 0, 1, 2)).strands
    assert ahead.role[0] == TIED and np.array_equal(ahead.xy[0], one.xy[3])
    for most in (11, 12):
        with pytest.raises(BadInput, match="remove the piece"):
            needle_edits.deleted(one, mask(one, *range(most)))


def test_stretches_are_duplicated_as_threads_of_their_own():
    one = strands(12, 6)
    after = needle_edits.copied(one, mask(one, 3, 4, 5, 13, 14, 9), np.array([0.0, 30.0]))
    assert after.strands.counts.tolist()[:2] == [12, 6] and len(after.strands.counts) == 4
    assert np.array_equal(after.strands.xy[:18], one.xy) and (after.strands.xy[after.chosen][:, 1] >= 30.0).all()
    with pytest.raises(BadInput, match="two needle points"):
        needle_edits.copied(one, mask(one, 3), np.zeros(2))


def test_thinning_out_leaves_stitches_as_long_as_asked_and_ends_where_they_were():
    one = strands(41, step=0.5)
    after = needle_edits.thinned(one, mask(one, *range(41)), 2.0).strands
    step = np.linalg.norm(np.diff(after.xy, axis=0), axis=1)
    assert step[:-1].min() >= 2.0 - 1e-9 and step.max() <= 4.0
    assert np.array_equal(after.xy[[0, -1]], one.xy[[0, -1]])
    with pytest.raises(BadInput, match="shorter"):
        needle_edits.thinned(strands(9), mask(strands(9), *range(9)), 1.0)


def test_points_are_put_in_the_middle_of_stitches():
    one = strands(6)
    after = needle_edits.filled_in(one, mask(one, 1, 2, 3))
    assert after.strands.counts.tolist() == [8] and np.allclose(after.strands.xy[after.chosen][:, 0], [3.0, 5.0])


def test_threads_are_cut_and_joined_again():
    one = strands(11)
    two = needle_edits.cut(one, mask(one, 5)).strands
    assert len(two.counts) == 2 and (two.role == TIED).sum() >= 8
    ends = mask(two, int(two.counts[0]) - 1, int(two.counts[0]))
    again = needle_edits.joined(two, ends).strands
    assert len(again.counts) == 1 and not (again.role == TIED).any()
    assert np.allclose(np.unique(again.xy[:, 0]), one.xy[:, 0])
    with pytest.raises(BadInput, match="an end of another"):
        needle_edits.joined(two, mask(two, 0))


def test_threads_are_joined_end_to_end_beginning_to_beginning_and_leave_others_alone():
    three = strands(4, 5, 6)
    for chosen, length in (((3, 4), 9), ((0, 4), 9), ((3, 8), 9), ((3, 14), 10)):
        after = needle_edits.joined(three, mask(three, *chosen)).strands
        joined_to = np.linalg.norm(np.diff(after.xy, axis=0), axis=1)
        assert sorted(after.counts.tolist())[-1] >= length and len(after.counts) == 2, chosen
        assert joined_to.size


def test_what_gets_longer_than_a_machine_sews_is_divided():
    one = strands(6)
    after = needle_edits.transformed(one, mask(one, 3), np.eye(2), np.array([0.0, 40.0]))
    step = np.linalg.norm(np.diff(after.strands.xy, axis=0), axis=1)
    assert step.max() <= LONGEST and len(after.strands.xy) > 6


@settings(max_examples=60)
@given(st.sampled_from(sorted(EDITS)), st.lists(st.integers(2, 30), min_size=1, max_size=5), st.data())
def test_whatever_is_chosen_the_strands_stay_strands(do, lengths, data):
    one = strands(*lengths)
    points = data.draw(st.sets(st.integers(0, len(one.xy) - 1), max_size=len(one.xy)))
    try:
        after = EDITS[do](one, mask(one, *points), BY)
    except BadInput:
        return
    assert after.strands.counts.sum() == len(after.strands.xy) == len(after.strands.role) == len(after.chosen)
    assert after.strands.counts.min() >= 2 and np.isfinite(after.strands.xy).all()
    inner = np.ones(len(after.strands.xy), dtype=bool)
    inner[after.strands.first] = False
    step = np.linalg.norm(np.diff(after.strands.xy, axis=0, prepend=after.strands.xy[:1]), axis=1)[inner]
    assert step.max() <= LONGEST + 1e-9


def test_ranges_and_masks_say_the_same():
    for points in ([], [0], [0, 1, 2, 5, 8, 9], [9]):
        found = np.isin(np.arange(10), points)
        assert np.array_equal(mask_of(ranges_of(found), 10), found)
    for wrong in ([(0, 10)], [(-1, 2)], [(5, 3)]):
        with pytest.raises(BadInput, match="others by now"):
            mask_of(wrong, 10)


@pytest.mark.parametrize(
    "construct", ["fill", "satin_border", "column", "run", "blend", "motif_fill", "net", "stipple"]
)
def test_any_piece_without_hand_work_becomes_needle_points_that_sew_the_same(construct):
    job = job_with("star", construct)
    after = as_needle_points(job, "p1")
    assert all(constructions()[one.construct].needles for one in after.pieces)
    assert np.abs(sewn(after) - sewn(job)).max() < 1e-3 and read_job(write_job(after)) == after
    assert after.pieces[0].id == "p1" and after.pieces[0].shape == "s1"


def test_what_hands_work_on_does_not_become_needle_points():
    with pytest.raises(BadInput, match="by hand between its passes"):
        as_needle_points(job_with("square", "applique"), "p1")


def test_points_are_edited_where_a_piece_was_moved_and_turned_to(listed):
    moved = arranging.turned(arranging.moved(listed, ["s1"], np.eye(2), np.array([4.0, 9.0])), ["s1"], 30.0)
    points = points_of_piece(build_job(moved).pieces[0])
    after, chosen = edited(moved, "p1", "move", [(10, 19)], BY)
    new = points_of_piece(build_job(after).pieces[0])
    assert np.allclose(new.xy[10:20], points.xy[10:20] + np.array([3.0, -2.0]), atol=2e-3) and chosen == [(10, 19)]
    assert np.allclose(np.delete(new.xy, np.s_[10:20], axis=0), np.delete(points.xy, np.s_[10:20], axis=0), atol=2e-3)
    assert moved.needles.keys() < after.needles.keys() and after.shapes[0].placed == moved.shapes[0].placed


def test_a_matched_piece_keeps_points_changed_by_hand_as_long_as_it_has_the_same():
    job = job_with("square", "run")
    before = sewn(job)
    after, chosen = edited(job, "p1", "move", [(5, 6)], BY)
    assert chosen == [(5, 6)] and after.pieces[0].by_hand[0].moved == {"5": (3.0, -2.0), "6": (3.0, -2.0)}
    again, _ = edited(after, "p1", "move", [(6, 6)], BY)
    assert (np.abs(sewn(again) - before).max(axis=1) > 1.0).sum() == 2
    fewer, _ = edited(again, "p1", "delete", [(9, 9)], BY)
    assert len(sewn(fewer)) == len(before) - 1
    twice, _ = edited(fewer, "p1", "delete", [(9, 9)], BY)  # the next one, by now the ninth
    assert twice.pieces[0].by_hand[0].gone == [9, 10] and len(sewn(twice)) == len(before) - 2
    # through an edit that leaves the pass its points, and one that does not
    moved = arranging.moved(twice, ["s1"], np.eye(2), np.array([1.0, 0.0]))
    assert len(sewn(moved)) == len(before) - 2 and "by_hand_lost" not in codes(moved)
    turned = arranging.turned(fewer, ["s1"], 90.0).pieces[0].by_hand[0]
    assert turned.moved["5"] == (2.0, 3.0) and turned.gone == [9]
    other = change(twice, pieces=[change(twice.pieces[0], own={"run_length": 1.7})])
    assert "by_hand_lost" in codes(other)
    assert "by_hand_lost" not in codes(hand_changes_let_go(other, "p1"))
    assert read_job(write_job(twice)) == twice


def codes(job):
    return [one.code for one in build_job(job).findings]


@pytest.mark.parametrize("do", sorted(set(EDITS) - {"move", "delete"}))
def test_a_matched_piece_takes_no_other_edits(do):
    with pytest.raises(BadInput, match="turn it into needle points"):
        edited(job_with("square", "run"), "p1", do, [(5, 8)], BY)


def test_hand_changes_that_cannot_be_are_passed_over():
    job = job_with("square", "run")
    count = len(points_of_piece(build_job(job).pieces[0]).xy)
    odd = ByHand("outline", count, {"99999": (1.0, 1.0), "x": (2.0, 2.0)}, [-4, 10**6])
    for by_hand in (odd, ByHand("nowhere", 3), ByHand("outline", 1)):
        build = build_job(change(job, pieces=[change(job.pieces[0], by_hand=[by_hand])]))
        assert not build.lost and len(build.plan.xy) == len(build_job(job).plan.xy)
