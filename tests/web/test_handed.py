"""Handing over freezes: files stay byte for byte, orders repeat them, a later build says what differs."""

import pytest
from django.urls import reverse

from velamen.core.job.document import change
from velamen.web.handover.views import KINDS
from velamen.web.jobs import bin as bin_
from velamen.web.jobs.handed import HandedOver, Order
from velamen.web.jobs.models import Job
from velamen.web.stages import plans
from velamen.web.work import kept


def text(answer):
    return answer.content.decode()


@pytest.fixture
def offered(signed_in, job):
    """The files as they are offered before a version is handed over."""
    return {name: signed_in.get(reverse("file", args=[job.pk, name])).content for name in KINDS}


@pytest.fixture
def handed(signed_in, job):
    """A version handed over for an order."""
    answer = signed_in.post(reverse("freeze", args=[job.pk]), {"note": "Order 14"}, follow=True)
    assert "Handed over as version 1" in text(answer) and "Order 14" in text(answer)


def frozen(client, job, name, number=1):
    return client.get(reverse("frozen-file", args=[job.pk, number, name])).content


def widen(client, job, width="5.0"):
    data = {"revision": Job.objects.get(pk=job.pk).head.number, "key": "cover_width", "cover_width": width}
    return client.post(reverse("set-value", args=[job.pk, "p1"]), data, headers={"HX-Request": "true"})


def test_files_stay_byte_for_byte_through_edits_and_upgrades(signed_in, job, offered, handed, monkeypatch):
    kinds = [name for name in KINDS if name not in ("runsheet.pdf", "cut.dxf")]  # they tell when they were written
    as_handed = {name: frozen(signed_in, job, name) for name in KINDS}
    assert {name: as_handed[name] for name in kinds} == {name: offered[name] for name in kinds}
    assert as_handed["runsheet.pdf"].startswith(b"%PDF")
    widen(signed_in, job)
    monkeypatch.setattr(kept, "version", lambda: "another")
    plans._builds.clear()
    assert signed_in.get(reverse("file", args=[job.pk, "stitches.csv"])).content != offered["stitches.csv"]
    assert {name: frozen(signed_in, job, name) for name in KINDS} == as_handed


def test_a_later_build_says_what_differs(signed_in, job, handed):
    address = reverse("differs", args=[job.pk, 1])
    assert "the same stitches and the same cut file" in text(signed_in.get(address))
    widen(signed_in, job)
    said = text(signed_in.get(address))
    assert "Buoy sewn otherwise" in said and "stitches" in said
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": Job.objects.get(pk=job.pk).head.number})
    assert "the same stitches" in text(signed_in.get(address))


def test_an_order_repeats_a_version_and_nothing_is_written_anew(signed_in, job, handed):
    widen(signed_in, job)
    signed_in.post(reverse("freeze", args=[job.pk]), {"again": "1", "note": "Order 20"})
    assert HandedOver.objects.count() == 1
    assert [one.note for one in Order.objects.all()] == ["Order 20", "Order 14"]
    for number in ("2", "x", "9" * 40):
        assert signed_in.post(reverse("freeze", args=[job.pk]), {"again": number}).status_code == 404


def test_the_same_version_handed_over_twice_is_one_and_a_changed_one_the_next(signed_in, job, handed):
    signed_in.post(reverse("freeze", args=[job.pk]), {"note": "Order 15"})
    assert HandedOver.objects.count() == 1
    widen(signed_in, job)
    signed_in.post(reverse("freeze", args=[job.pk]), {})
    assert [one.number for one in HandedOver.objects.all()] == [2, 1]
    assert frozen(signed_in, job, "stitches.csv", 1) != frozen(signed_in, job, "stitches.csv", 2)


def test_the_machine_side_hands_over(client, runa, job):
    client.force_login(runa)
    assert client.post(reverse("freeze", args=[job.pk]), {"note": "At night"}).status_code == 302
    assert Order.objects.get().author == runa


def test_a_job_without_pieces_is_not_handed_over(signed_in, job, shop, maren):
    from velamen.web.jobs import history

    empty = history.create(shop, maren, change(job.head.read(), pieces=[], shapes=[]))
    assert signed_in.post(reverse("freeze", args=[empty.pk])).status_code == 422


def test_a_job_with_versions_goes_with_its_bin(signed_in, job, handed):
    bin_.delete(Job.objects.filter(pk=job.pk))
    assert not Job.objects.exists() and not HandedOver.objects.exists()
