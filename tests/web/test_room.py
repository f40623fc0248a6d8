"""A full disk: edits are refused in a sentence, pages open, and what makes room is still done."""

from collections import namedtuple

import pytest
from django.urls import reverse

from velamen.web.jobs.models import Job
from velamen.web.stages import room


@pytest.fixture
def full(monkeypatch):
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(room.shutil, "disk_usage", lambda _: usage(10**9, 10**9, room.LEAST - 1))


@pytest.mark.parametrize("part", [True, False])
def test_an_edit_is_refused_in_a_sentence_and_nothing_is_lost(signed_in, job, full, part):
    data = {"revision": 1, "key": "cover_width", "cover_width": "4"}
    headers = {"HX-Request": "true"} if part else {}
    answer = signed_in.post(reverse("set-value", args=[job.pk, "p1"]), data, headers=headers)
    assert answer.status_code == 507 and "The disk is full" in answer.content.decode()
    assert Job.objects.get(pk=job.pk).head.number == 1
    assert signed_in.get(reverse("build", args=[job.pk])).status_code == 200


def test_room_can_be_made_and_people_come_in(client, signed_in, job, full):
    Job.objects.filter(pk=job.pk).update(binned="2026-01-01T00:00:00Z")
    assert signed_in.post(reverse("delete-job", args=[job.pk])).status_code == 302
    assert not Job.objects.exists()
    client.logout()
    assert client.post("/sign-in/", {"username": "maren", "password": "tide-and-thread"}).status_code == 302


def test_a_disk_that_cannot_be_asked_refuses_nothing(signed_in, job, monkeypatch):
    def unknown(_):
        raise OSError

    monkeypatch.setattr(room.shutil, "disk_usage", unknown)
    assert room.is_room()
