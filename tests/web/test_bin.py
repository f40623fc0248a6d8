"""Jobs put into the bin, put back and deleted; revisions that cost what changed; a board that reads no document."""

import json
from datetime import timedelta

import numpy as np
import pytest
from django.db import connection
from django.urls import reverse
from django.utils import timezone

from velamen.core.job.document import change
from velamen.core.job.shape import Shape
from velamen.web.accounts.models import Member, Shop
from velamen.web.jobs import bin as bin_
from velamen.web.jobs import history
from velamen.web.jobs.models import Job, Revision, Source
from velamen.web.jobs.packing import difference, unpacked, whole


def in_bin(client, job):
    return client.post(reverse("put-in-bin", args=[job.pk]), follow=True).content.decode()


def test_a_job_goes_into_the_bin_and_comes_back_as_it_was(signed_in, job):
    before = job.head.data
    page = in_bin(signed_in, job)
    assert "Buoy towel is in the bin, for 30 days" in page and reverse("build", args=[job.pk]) not in page
    assert signed_in.get(reverse("build", args=[job.pk])).status_code == 404
    listed = signed_in.get(reverse("bin")).content.decode()
    assert "Buoy towel" in listed and "Terry towel" in listed
    assert "is back on the board" in signed_in.post(reverse("put-back", args=[job.pk]), follow=True).content.decode()
    assert signed_in.get(reverse("build", args=[job.pk])).status_code == 200
    job.refresh_from_db()
    assert job.head.data == before


def test_a_job_in_the_bin_is_deleted_for_good_with_all_its_versions(signed_in, job, maren):
    for name in ("Two", "Three"):
        job.refresh_from_db()
        history.save(job, job.head.number, maren, change(job.head.read(), name=name), name)
    assert signed_in.post(reverse("delete-job", args=[job.pk])).status_code == 404  # not while it is on the board
    in_bin(signed_in, job)
    page = signed_in.post(reverse("delete-job", args=[job.pk]), follow=True).content.decode()
    assert "is deleted" in page and "The bin is empty" in page
    assert not Job.objects.exists() and not Revision.objects.exists()


def test_the_bin_empties_itself_after_thirty_days(signed_in, job, shop, maren):
    young = history.create(shop, maren, job.head.read())
    in_bin(signed_in, job)
    in_bin(signed_in, young)
    Job.objects.filter(pk=job.pk).update(binned=timezone.now() - bin_.DAYS_IN_BIN - timedelta(minutes=1))
    Job.objects.filter(pk=young.pk).update(binned=timezone.now() - bin_.DAYS_IN_BIN + timedelta(minutes=1))
    signed_in.get(reverse("bin"))
    assert list(Job.objects.values_list("pk", flat=True)) == [young.pk]


@pytest.mark.parametrize("name", ["put-in-bin", "put-back", "delete-job"])
def test_nobody_touches_the_bin_of_another_shop(client, signed_in, job, stranger, name):
    if name != "put-in-bin":
        in_bin(signed_in, job)
    client.force_login(stranger)
    assert "Buoy towel" not in client.get(reverse("bin")).content.decode()
    assert client.post(reverse(name, args=[job.pk])).status_code == 404
    assert Job.objects.filter(pk=job.pk, binned__isnull=name == "put-in-bin").exists()


def test_a_shop_is_deleted_with_all_that_is_its(job, shop, stranger, maren):
    history.save(job, 1, maren, change(job.head.read(), name="Two"), "two")
    Source.objects.create(shop=shop, key="k", name="art.svg", kind="vector", data=b"<svg/>")
    bin_.delete_shop(shop)
    assert not Job.objects.exists() and not Revision.objects.exists() and not Source.objects.exists()
    assert Shop.objects.get() == Member.objects.get(user=stranger).shop


def test_what_is_saved_is_read_again_to_the_byte(job, maren):
    wanted = {1: job.head.data}
    for nth in range(2, 40):
        job.refresh_from_db()
        document = job.head.read()
        piece = change(document.pieces[0], own={"cover_width": 2.0 + nth / 50})
        job = history.save(job, job.head.number, maren, change(document, pieces=[piece]), "value")
        wanted[nth] = history.write_job(change(document, pieces=[piece]))
    rows = {one.number: one for one in job.revisions.all()}
    assert {number: one.data for number, one in rows.items()} == wanted
    assert all(json.loads(one.data) for one in rows.values())


def large(seed=0):
    """Shapes of about a megabyte."""
    chance = np.random.default_rng(seed)
    return [
        Shape(
            f"s{nth}", f"Shape {nth}", [[tuple(row) for row in chance.uniform(-99, 99, (250, 2)).round(4).tolist()]]
        )
        for nth in range(200)
    ]


def test_a_thousand_edits_of_a_large_job_cost_what_they_change(job, maren):
    """Twenty edits of a megabyte job, half of them of a value, half moving a shape: under 30 kB each on average."""
    job = history.save(job, 1, maren, change(job.head.read(), shapes=[*job.head.read().shapes, *large()]), "large")
    first = len(job.head.packed)
    assert len(job.head.data) > 900_000
    for nth in range(20):
        document = job.head.read()
        if nth % 2:
            shapes = [
                change(one, rings=[[(x + 1.5, y) for x, y in one.rings[0]]]) if one.id == f"s{nth * 7}" else one
                for one in document.shapes
            ]
            document = change(document, shapes=shapes)
        else:
            piece = change(document.pieces[0], own={"cover_width": 3.0 + nth / 40})
            document = change(document, pieces=[piece])
        job = history.save(job, job.head.number, maren, document, "edit")
    sizes = [len(one.packed) for one in job.revisions.filter(number__gt=2)]
    assert len(sizes) == 20 and sum(sizes) + first < 20 * 30_000
    assert job.revisions.filter(number__gt=2, base=None).count() <= 1


def test_a_document_that_differs_in_all_is_packed_whole():
    one, other = (json.dumps([list(map(list, shape.rings[0])) for shape in large(seed)]).encode() for seed in (1, 2))
    assert difference(other, one, len(whole(one))) is None
    less = difference(one[:500_000] + b"[7]," + one[500_000:], one, len(whole(one)))
    assert len(less) < 400 and unpacked(less, one) == one[:500_000] + b"[7]," + one[500_000:]


def test_the_board_reads_no_document(signed_in, shop, maren, job, django_assert_max_num_queries):
    for _ in range(20):
        history.create(shop, maren, job.head.read())
    with django_assert_max_num_queries(6) as asked:
        page = signed_in.get("/").content.decode()
    assert page.count("card-job") == 21 and "Terry towel · 1 piece" in page
    assert not any("packed" in one["sql"] for one in asked.captured_queries)
    picture = reverse("picture", args=[job.pk])
    first = signed_in.get(picture).content
    job.refresh_from_db()
    assert job.thumb_of == job.head.digest and signed_in.get(picture).content == first


def test_models_and_migrations_agree(db):
    from django.core.management import call_command

    call_command("makemigrations", check=True, dry_run=True, verbosity=0)
    assert "jobs_revision" in connection.introspection.table_names()
