"""The order of steps: the stack's own, another that is asked for, what cannot be, and shared stops."""

import pytest
from shapely import Point, box

from core.jobs import job_of, order_of
from velamen.core.building.build import build_job
from velamen.core.edits.stack.shared_stops import savings, shared, taken_apart
from velamen.core.job.document import Piece, change
from velamen.core.timeline.order import in_order
from velamen.core.timeline.refusals import violations


def crew(**own):
    """Three pieces of one cloth apart from one another, and one of them with another cloth on it."""
    job = job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), box(60, -20, 90, 20), box(-50, -10, -30, 10), own=own)
    return change(job, pieces=[*job.pieces[:3], change(job.pieces[3], cloth="night_ink")])


def test_pieces_follow_one_another_and_what_is_left_for_later_comes_last():
    build = build_job(crew(cover_kind="raw", trim_when="after"))
    assert order_of(build)[:4] == ["p1:placement", "p1:lay", "p1:tack", "p1:raw_edge"]
    assert order_of(build)[-4:] == ["p1:trim", "p2:trim", "p3:trim", "p4:trim"]


def test_decoration_of_a_cloth_comes_between_its_tack_down_and_its_cover():
    job = job_of(box(-20, -20, 20, 20), Point(0, 0).buffer(6))
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill", on="p1")])
    assert order_of(build_job(job)) == ["p1:placement", "p1:lay", "p1:tack", "p1:trim", "p2:decoration", "p1:cover"]
    sheer = change(job, pieces=[change(job.pieces[0], own={"shadow": True}), job.pieces[1]])
    order = order_of(build_job(sheer))
    assert order[:3] == ["p1:placement", "p2:decoration", "p1:lay"] and order[-1] == "p1:cover"


def test_cloth_on_cloth_and_cloths_that_decorate_one_another_lose_no_stitch():
    job = job_of(box(-30, -30, 30, 30), box(-20, -20, 20, 20), Point(0, 0).buffer(5))
    one, two, three = job.pieces
    every = set(order_of(build_job(job)))
    for hosts in (("", "p1", "p2"), ("p2", "p1", "p1"), ("p1", "", "p3"), ("p2", "p3", "p1"), ("gone", "", "p2")):
        pieces = [change(piece, on=on) for piece, on in zip((one, two, three), hosts, strict=True)]
        assert set(order_of(build_job(change(job, pieces=pieces)))) == every, hosts
    nested = build_job(change(job, pieces=[one, change(two, on="p1"), change(three, on="p2")]))
    assert [key for key in order_of(nested) if key.endswith("cover")] == ["p3:cover", "p2:cover", "p1:cover"]


def test_names_with_braces_are_told_as_they_are():
    job = crew()
    job = change(job, pieces=[change(piece, name="{0} {names}") for piece in job.pieces])
    assert "{0} {names}" in build_job(job).plan.stops[0].step.text


def test_an_asked_order_is_sewn_and_new_steps_keep_behind_the_one_they_follow():
    job = job_of(box(-40, -10, -20, 10), box(20, -10, 40, 10))
    own = order_of(build_job(job))
    asked = [*own[:4], *own[5:9], own[4], own[9]]  # the cover of the first before that of the second
    moved = build_job(change(job, order=asked))
    assert order_of(moved) == asked and not [one for one in moved.findings if one.code == "order_wrong"]
    more = change(job, order=asked, pieces=[change(job.pieces[0], own={"second_tack": "run"}), job.pieces[1]])
    assert order_of(build_job(more))[4:6] == ["p1:second_tack", "p1:tidy"]


@pytest.mark.parametrize(("swap", "why"), [
    (("p1:cover", "p1:tack"), "Cover cannot come before the tack-down of the same piece: piece 1."),
    (("p1:lay", "p1:placement"), "Laying cannot come before the placement line of the same piece"),
    (("p1:trim", "p1:tack"), "Trimming cannot come before the tack-down"),
    (("p2:lay", "p1:cover"), "Cover of piece 1 cannot come after piece 2 is laid"),
    (("p1:placement", "k:knockdown"), "Knockdown is sewn before what it goes round: piece 1"),
    (("p3:decoration", "p2:tack"), "piece 3 decorates the cloth of piece 2: it cannot be sewn before"),
])  # fmt: skip
def test_what_cannot_be_is_found_and_said_and_the_right_order_is_not(swap, why):
    job = job_of(box(-40, -20, 0, 20), box(-10, -10, 30, 10), Point(10, 0).buffer(4))
    ground = Piece("k", "Ground", "", "knockdown", "sail_red", "140", around=["*"])
    pieces = [ground, *job.pieces[:2], change(job.pieces[2], construct="fill", on="p2")]
    job = change(job, pieces=pieces)
    right = build_job(job)
    assert not [one for one in right.findings if one.code == "order_wrong"]
    order = order_of(right)
    late, early = swap
    order.remove(late)
    order.insert(order.index(early), late)
    wrong = build_job(change(job, order=order))
    assert order_of(wrong) == order
    assert any(one.message.startswith(why) and one.severity == "error" for one in wrong.findings), [
        one.message for one in wrong.findings
    ]


def test_pieces_of_one_cloth_apart_share_their_stops_and_are_taken_apart_again():
    job = crew()
    saved = savings(build_job(job))
    assert saved.stops == 4 and saved.seconds > 100
    together = shared(job)
    build, before = build_job(together), build_job(job)
    assert before.figures.stops - build.figures.stops == saved.stops
    assert before.figures.seconds - build.figures.seconds == pytest.approx(saved.seconds, abs=0.2)
    assert not violations(build.placed, build.operations)
    texts = [stop.step.text for stop in build.plan.stops]
    assert "for piece 1, piece 2 and piece 3" in texts[0] and "piece 1, piece 2 and piece 3" in texts[1]
    assert taken_apart(together) == job and savings(build) is None


def test_pieces_that_touch_never_share_and_a_cloth_on_top_stays_on_top():
    job = job_of(box(-40, -10, 0, 10), box(-2, -10, 40, 10))
    assert savings(build_job(job)) is None
    stacked = shared(crew())
    order = order_of(build_job(stacked))
    assert order.index("p1:cover") < order.index("p4:placement")


def test_order_of_nothing_is_nothing():
    assert in_order(()) == [] and violations((), []) == []
