"""Saving by revisions: undo, redo, and two tabs on one job."""

from datetime import timedelta

import numpy as np
import pytest
from django.urls import reverse
from django.utils import timezone

from velamen.core.job.document import Job as Document
from velamen.core.job.document import Piece, brief_for, change
from velamen.core.job.shape import Shape, plain
from velamen.web.jobs import history
from velamen.web.jobs.models import Job, Revision


def renamed(job, name):
    return change(job.head.read(), name=name)


def set_value(client, job, revision, value, key="cover_width"):
    address = reverse("set-value", args=[job.pk, "p1"])
    return client.post(address, {"revision": revision, "key": key, key: value}, headers={"HX-Request": "true"})


def own(job):
    job.refresh_from_db()
    return dict(job.head.read().pieces[0].own)


def test_undo_and_redo_walk_the_revisions(job, maren):
    history.save(job, 1, maren, renamed(job, "Two"), "two")
    job.refresh_from_db()
    history.save(job, 2, maren, renamed(job, "Three"), "three")
    assert history.undo(job, 3).name == "Two"
    assert history.undo(job, 2).name == "Buoy towel"
    assert history.undo(job, 1).head.number == 1
    assert history.redo(job, 1).name == "Two"
    assert history.redo(job, 2).name == "Three"
    assert history.redo(job, 3).head.number == 3
    assert job.revisions.count() == 3


def test_an_edit_after_undo_begins_a_new_line(job, maren):
    history.save(job, 1, maren, renamed(job, "Two"), "two")
    history.undo(job, 2)
    job.refresh_from_db()
    history.save(job, 1, maren, renamed(job, "Other"), "other")
    job.refresh_from_db()
    assert (job.name, job.head.number) == ("Other", 3)
    assert history.following(job.head) is None
    assert Revision.objects.get(job=job, number=2).read().name == "Two"
    history.undo(job, 3)
    assert history.redo(job, 1).name == "Other"


def test_a_conflict_keeps_both_versions(job, maren):
    history.save(job, 1, maren, renamed(job, "Theirs"), "theirs")
    with pytest.raises(history.Conflict) as told:
        history.save(job, 1, maren, renamed(job, "Mine"), "mine")
    job.refresh_from_db()
    assert job.name == "Theirs" and told.value.kept.read().name == "Mine" and told.value.kept.aside
    assert history.following(told.value.kept.parent).read().name == "Theirs"
    taken = history.take(job, told.value.kept.number, maren)
    assert taken.name == "Mine" and taken.head.parent.read().name == "Theirs"


def test_two_tabs(signed_in, job):
    assert set_value(signed_in, job, 1, "4").status_code == 200
    second = set_value(signed_in, job, 1, "3.5")
    text = second.content.decode()
    assert second.status_code == 409 and second["HX-Retarget"] == "#told"
    assert "Your edit is kept as version 3" in text and "Go back to version 3" in text
    assert own(job) == {"cover_width": 4.0}
    signed_in.post(reverse("take", args=[job.pk, 3]))
    assert own(job) == {"cover_width": 3.5}
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": 4})
    assert own(job) == {"cover_width": 4.0}


def test_undo_from_a_stale_tab_changes_nothing(signed_in, job):
    set_value(signed_in, job, 1, "4")
    answer = signed_in.post(reverse("undo", args=[job.pk]), {"revision": 1})
    assert answer.status_code == 409 and "Nothing was changed" in answer.content.decode()
    assert own(job) == {"cover_width": 4.0}


def test_forms_without_a_version_are_refused(signed_in, job):
    for revision in ("", "x", "9" * 30):
        assert set_value(signed_in, job, revision, "4").status_code == 422
    assert own(job) == {}


def test_revisions_never_change(signed_in, job):
    before = {row.number: row.data for row in job.revisions.all()}
    set_value(signed_in, job, 1, "4")
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": 2})
    set_value(signed_in, job, 1, "2.5")
    after = {row.number: row.data for row in job.revisions.all()}
    assert before.items() <= after.items() and len(after) == 3


def nudge(client, job, number, ids="s1", x="0.5"):
    data = {"revision": number, "do": "move", "ids": ids, "dx": x, "dy": "0"}
    assert client.post(reverse("edit-shapes", args=[job.pk]), data, headers={"HX-Request": "true"}).status_code == 200
    return Job.objects.get(pk=job.pk)


@pytest.fixture
def patient(monkeypatch):
    """A machine may be slow: what is quick is within a minute."""
    monkeypatch.setattr(history, "QUICK", timedelta(minutes=1))


def test_a_burst_of_nudges_is_one_step(signed_in, job, patient):
    was = job.head.read()
    for _ in range(4):
        job = nudge(signed_in, job, job.head.number)
    assert job.revisions.count() == 2 and job.head.number == 5
    moved = job.head.read().shapes[0].rings[0][0][0] - was.shapes[0].rings[0][0][0]
    assert moved == pytest.approx(2.0)
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": 5})
    assert Job.objects.get(pk=job.pk).head.read() == was
    signed_in.post(reverse("redo", args=[job.pk]), {"revision": 1})
    assert Job.objects.get(pk=job.pk).head.number == 5


def test_a_burst_ends_with_a_pause_another_person_or_what_holds_on_to_it(signed_in, job, patient):
    job = nudge(signed_in, job, 1)
    job.revisions.filter(number=2).update(created=timezone.now() - timedelta(seconds=61))
    job = nudge(signed_in, job, 2)
    assert job.revisions.count() == 3
    job.revisions.filter(number=3).update(author=None)
    job = nudge(signed_in, job, 3)
    assert job.revisions.count() == 4
    signed_in.post(reverse("freeze", args=[job.pk]))
    job = nudge(signed_in, job, 4)
    assert job.revisions.count() == 5


def test_a_thousand_edits_of_a_large_job_stay_small(shop, maren):
    """30 MB for 1,000 edits of 1 MB are asked for: told of one in fifty, with the whole ones that come between."""
    rng = np.random.default_rng(3)
    turns = np.linspace(0, 2 * np.pi, 900, endpoint=False)
    shapes, pieces = [], []
    for nth in range(36):
        reach = 8 + rng.normal(0, 0.3, len(turns))
        ring = np.column_stack((reach * np.cos(turns) + 20 * (nth % 6), reach * np.sin(turns) + 20 * (nth // 6)))
        shapes.append(Shape(f"s{nth}", f"Coast {nth}", plain([ring])))
        pieces.append(Piece(f"p{nth}", f"Coast {nth}", f"s{nth}", "applique", "sail_red", "140"))
    document = Document(name="Coasts", brief=brief_for("fleece"), shapes=shapes, pieces=pieces)
    job = history.create(shop, maren, document)
    assert len(job.head.data) > 500_000
    for nth in range(20):
        changed = change(document.pieces[nth], own={"cover_width": 3.0 + nth / 50})
        document = change(document, pieces=[changed if one.id == changed.id else one for one in document.pieces])
        job = history.save(job, job.head.number, maren, document, "wider")
    sizes = [len(one.packed) for one in job.revisions.all()]
    assert sizes[0] + 50 * sum(sizes[1:]) < 30_000_000 * len(job.revisions.first().data) / 1_000_000
    assert [one.read().pieces[0].own for one in (job.revisions.first(), job.head)] == [{}, {"cover_width": 3.0}]
