"""What can run long runs elsewhere: within limits, in turn between shops, once for all, ended by who asked."""

import os
import time
from concurrent.futures import ThreadPoolExecutor
from threading import Thread
from urllib.parse import urlencode

import numpy as np
import pytest
from django.http import QueryDict
from django.urls import reverse
from shapely import Polygon

from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.building.packed import opened, packed
from velamen.core.edits.shapes.bring_in import with_region
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.errors import BadInput
from velamen.core.outputs.plan_binary import plan_binary
from velamen.web.stages import plans, reshaping, shapes
from velamen.web.work import kept, outside, tasks
from velamen.web.work.turns import Full, Turns
from web import outside_tasks as own

MAREN = outside.Asker(1, 1, 7)


@pytest.fixture(autouse=True)
def _outside(settings, monkeypatch):
    settings.WORK_OUTSIDE = True
    monkeypatch.setattr(outside, "_not_again", {})
    outside.ask_for(MAREN)


def until(holds, seconds=10.0):
    last = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < last
        time.sleep(0.02)


def aside(do):
    """What is done meanwhile, for the same person."""

    def asked():
        outside.ask_for(MAREN)
        return do()

    return ThreadPoolExecutor(1).submit(asked)


def test_a_task_is_done_by_another_process():
    assert outside.outside("Resting", own.slow, 0.0) != os.getpid()


def test_what_it_refuses_is_told_as_it_says():
    with pytest.raises(BadInput, match=r"Not like that\."):
        outside.outside("Resting", own.refused)


def test_one_that_takes_too_long_is_ended_told_and_not_tried_again_at_once(monkeypatch):
    monkeypatch.setattr(outside, "SECONDS", 0.3)
    with pytest.raises(outside.TooHeavy, match="Resting took more than 30 seconds"):
        outside.outside("Resting", own.slow, 60.0, once="rest")
    before = time.monotonic()
    with pytest.raises(outside.TooHeavy):
        outside.outside("Resting", own.slow, 60.0, once="rest")
    assert time.monotonic() - before < 0.1


def test_one_that_needs_too_much_memory_is_ended_and_told():
    with pytest.raises(outside.TooHeavy, match="2 GB"):
        outside.outside("Filling", own.large, 2 * outside.MEMORY)
    assert outside.outside("Filling", own.large, 1000) == 1000


def test_one_whose_process_dies_is_told():
    with pytest.raises(outside.TooHeavy):
        outside.outside("Falling", own.dies)


def test_it_says_how_far_it_is_and_is_ended_by_who_asked():
    answer = aside(lambda: outside.outside("Resting", own.slow, 60.0))
    until(lambda: [one.share for one in outside.works_of(MAREN)] == [(0.5, "halfway")])
    assert outside.works_of(outside.Asker(2, 2, 7)) == []
    outside.works_of(MAREN)[0].end()
    with pytest.raises(outside.Ended, match=r"Resting was ended\. Nothing was changed"):
        answer.result(timeout=10)
    assert outside.works_of(MAREN) == []


def test_all_who_ask_for_the_same_wait_for_one_answer():
    answers = [aside(lambda: outside.outside("Resting", own.slow, 0.5, once="same")) for _ in range(4)]
    assert len({one.result(timeout=10) for one in answers}) == 1


def test_who_waits_for_what_another_asked_for_sees_it_and_leaves_it_to_them():
    """One person ends it for themselves alone; it is ended once nobody waits."""
    ines = outside.Asker(1, 2, 7)

    def asked(who):
        outside.ask_for(who)
        return outside.outside("Resting", own.slow, 60.0, once="shared")

    first, second = (ThreadPoolExecutor(1).submit(asked, who) for who in (MAREN, ines))
    until(lambda: [len(outside.works_of(who)) for who in (MAREN, ines)] == [1, 1])
    (work,) = outside.works_of(ines)
    work.left(MAREN)
    with pytest.raises(outside.Ended):
        first.result(timeout=10)
    assert outside.works_of(MAREN) == [] and outside.works_of(ines) == [work] and not work.ended
    work.left(ines)
    with pytest.raises(outside.Ended):
        second.result(timeout=10)
    until(lambda: not outside._works)


def test_steps_are_told_while_it_goes_on():
    steps = list(outside.stepwise("Resting", own.slow, 0.5, "done"))
    assert (0.5, "halfway", None) in steps and steps[-1] == (1.0, "", "done")


def test_shops_take_turns():
    turns, order = Turns(1, 20), []

    def does(shop):
        with turns.place(shop):
            order.append(shop)
            time.sleep(0.01)

    with turns.place(9):
        waiting = []
        for shop in [1] * 6 + [2] * 2:
            waiting.append(Thread(target=does, args=(shop,)))
            waiting[-1].start()
            until(lambda: sum(len(line) for line in turns._waiting.values()) == len(waiting))
    for one in waiting:
        one.join()
    assert order == [1, 2, 1, 2, 1, 1, 1, 1]


def test_a_shop_cannot_have_all_wait():
    turns = Turns(1, 1)
    with turns.place(1):
        waits = Thread(target=lambda: turns.place(1).__enter__(), daemon=True)
        waits.start()
        until(lambda: turns._waiting)
        with pytest.raises(Full), turns.place(1):
            pass


def test_a_build_is_the_same_through_another_process_and_after_a_restart(job, settings, tmp_path, monkeypatch):
    settings.KEPT_FOLDER = tmp_path
    document = job.head.read()
    plans._builds.clear()
    monkeypatch.setattr(plans, "is_little", lambda *_: False)
    there = plans.build_of(job.head)
    assert plan_binary(there) == plan_binary(build_job(document)) and "findings" in vars(there)
    plans._builds.clear()
    monkeypatch.setattr(plans, "outside", None)  # not asked again
    assert plan_binary(plans.build_of(job.head)) == plan_binary(there)


def test_what_is_kept_has_a_limit(settings, tmp_path):
    settings.KEPT_FOLDER, settings.KEPT_SIZE = tmp_path / "kept", 1_000_000
    for nth in range(60):
        kept.keep(f"build {nth}", os.urandom(40_000))
    assert kept.read("build 59") is not None and kept.read("build 0") is None
    assert sum(one.stat().st_size for one in (tmp_path / "kept").rglob("*")) < 2_500_000
    assert (tmp_path / "kept").stat().st_mode & 0o077 == 0


def test_a_place_that_cannot_be_written_ends_nothing(settings):
    settings.KEPT_FOLDER = "/proc/none"
    kept.keep("build 1", b"some")
    assert kept.read("build 1") is None


def test_a_build_too_heavy_leaves_a_page_with_ways_out(signed_in, job, monkeypatch):
    def never(*_args, **_named):
        raise outside.TooHeavy("Building took more than 30 seconds and was ended.")

    plans._builds.clear()
    plans._last.clear()
    monkeypatch.setattr(plans, "is_little", lambda *_: False)
    monkeypatch.setattr(plans, "outside", never)
    answer = signed_in.get(reverse("build", args=[job.pk]))
    assert answer.status_code == 422
    assert "took more than 30 seconds" in answer.content.decode()
    assert reverse("artwork", args=[job.pk]) in answer.content.decode()
    assert signed_in.get(reverse("artwork", args=[job.pk])).status_code == 200


def test_what_is_under_way_is_told_to_who_asked_alone(signed_in, job, maren, stranger):
    outside.ask_for(outside.Asker(job.shop_id, maren.pk, job.pk))
    answer = ThreadPoolExecutor(1).submit(
        lambda: (
            outside.ask_for(outside.Asker(job.shop_id, maren.pk, job.pk)),
            outside.outside("Resting", own.slow, 60.0),
        )
    )
    address = reverse("job-under-way", args=[job.pk])
    until(lambda: [one["share"] for one in signed_in.get(address).json()["works"]] == [0.5])
    assert (
        len(signed_in.get(reverse("under-way")).json()["works"]) == 1
    )  # a page that leads to a new job tells it too
    signed_in.force_login(stranger)
    assert signed_in.get(reverse("under-way")).json() == {"works": []}
    signed_in.force_login(maren)
    assert signed_in.post(address).status_code == 204
    with pytest.raises(outside.Ended):
        answer.result(timeout=10)


def test_tasks_of_the_core_give_what_the_core_gives(job, art):
    from velamen.core.job.reading import write_job
    from velamen.core.outputs.folder import file_of

    document = job.head.read()
    build = build_job(document)
    there = outside.outside("Writing", tasks.file, packed(build), "cut.svg")
    assert there == file_of(build, "cut.svg")
    text, notes = outside.outside("Bringing in", tasks.brought_in, write_job(document), art.encode(), False, "")
    assert text.count(b'"Buoy"') > write_job(document).count(b'"Buoy"') and notes == []
    assert opened(packed(build)).figures == build.figures


def test_edits_of_long_outlines_are_worked_out_there_with_what_follows_them(monkeypatch):
    angles = np.linspace(0, 2 * np.pi, 1500, endpoint=False)
    ring = (40 + np.sin(60 * angles))[:, None] * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    job = with_region(job_of(Polygon(ring)), "Small", Polygon([(0, 0), (9, 0), (9, 9), (0, 9)]))
    wave, small = (shape.id for shape in job.shapes)
    done, asked = [], {"ids": wave, "distance": "2", "close": "0", "calm": "0", "live": "1"}
    monkeypatch.setattr(reshaping, "outside", lambda *task: done.append(task[0]) or outside.outside(*task))
    form = QueryDict(urlencode(asked | {"do": "offset"}))
    outlined, label, chosen = reshaping.reshaped(job, form, "mm", job.library)
    assert label == "Outline drawn" and chosen == [outlined.shapes[-1].id] and done == ["Changing the shapes"]
    assert outlined == shapes.edited(job, asked | {"do": "offset"}, "mm", job.library)[0]
    shift = {"do": "move", "dx": "3", "dy": "0"}
    moved, _, _ = reshaping.reshaped(outlined, shift | {"ids": wave}, "mm", job.library)
    assert moved == followed(moved) != outlined and len(done) == 2  # its outline follows, there too
    reshaping.reshaped(outlined, shift | {"ids": small}, "mm", job.library)
    assert len(done) == 2
    found = reshaping.previewed(job, {"do": "simplify", "ids": wave, "tolerance": "0.5"}, "mm")
    assert found["before"] == 1500 > found["after"] and done[2:] == ["Trying it on the outlines"]
    with pytest.raises(BadInput, match="Tolerance"):
        reshaping.reshaped(job, {"do": "simplify", "ids": wave, "tolerance": "-1"}, "mm", job.library)


def test_sentences_of_the_core_come_through_whole():
    """A DXF that says no unit is asked for it: by its kind of sentence, from another process too."""
    from velamen.core.artwork.dxf import NoUnit

    with pytest.raises(NoUnit):
        outside.outside("Reading", own.unitless)
