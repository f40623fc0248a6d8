"""Saving by revisions: undo, redo, and two tabs on one job."""

import pytest
from django.urls import reverse

from velamen.core.job.document import change
from velamen.web.jobs import history
from velamen.web.jobs.models import Revision


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
    assert "Your edit is kept as version 3" in text and "Take version 3 instead" in text
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
