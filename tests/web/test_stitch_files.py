"""Stitch files brought in: kept, taken apart on a page, taken by their parts, refused with a sentence."""

from importlib.resources import files

import pytest
from django.urls import reverse

from velamen.core.job.reading import needles_named, read_job
from velamen.core.outputs.plan_binary import COMMANDS
from velamen.web.demo.rope import rope_document
from velamen.web.jobs import history
from velamen.web.jobs.export import exported
from velamen.web.jobs.models import Job, Revision, Source
from velamen.web.jobs.needle_lists import NeedleList
from velamen.web.stages.sources import keep_stitches, stitches_of

BADGE = files("velamen.web.demo").joinpath("old-rope-badge.csv").read_bytes()
PLAIN = b"a;b\n" + b"".join(b"%d;%d\n" % (20 * nth, nth % 2 * 10) for nth in range(40))
MILLING = b"G21 G90\nM3 S1000\nG0 X0 Y0\nG1 Z-2\nG1 X20 Y0\n"


def bring(client, job, upload, data, name="old.csv", revision=1, **more):
    return client.post(
        reverse("artwork", args=[job.pk]), {"revision": revision, "artwork": upload(data, name), **more}
    )


@pytest.fixture
def page(signed_in, job, upload):
    """The address of the parts of the old badge."""
    answer = bring(signed_in, job, upload, BADGE)
    assert answer.status_code == 302
    return answer["Location"]


def test_a_new_job_begins_with_a_stitch_file(signed_in, upload, shop):
    sent = {"name": "Old badge", "base": "felt", "artwork": upload(BADGE, "old.csv")}
    answer = signed_in.post(reverse("new-job"), sent)
    assert answer.status_code == 302 and "/artwork/stitches/" in answer["Location"]
    assert "Appliqué found" in signed_in.get(answer["Location"]).content.decode()
    count = Job.objects.count()
    refused = signed_in.post(reverse("new-job"), sent | {"artwork": upload(MILLING, "old.nc")})
    assert refused.status_code == 200 and "milling" in refused.content.decode() and Job.objects.count() == count


def take(client, job, page, **more):
    job.refresh_from_db()
    return client.post(page, {"revision": job.head.number, "threads": "121 108 103", **more})


def test_a_stitch_file_is_kept_and_its_parts_are_listed(signed_in, page, shop):
    source = Source.objects.get(shop=shop, kind="stitches")
    assert bytes(source.data) == BADGE
    told = signed_in.get(page).content.decode()
    assert told.count("data-nth=") == 34 and "Appliqué found" in told and "31 parts on top" in told
    assert "x,y,do,colour in 0.1mm" in told
    rows = signed_in.get(reverse("stitch-rows", args=[page.split("/")[2], source.key]))
    assert rows.status_code == 200 and len(rows.content) > 9 * 4900 and len(COMMANDS) == 6


def test_parts_are_taken_and_the_file_stays_with_the_job(signed_in, job, page):
    before = len(job.head.read().pieces)
    answer = take(signed_in, job, page, ways="137:outline", cloths="0:cloth")
    assert answer["Location"] == reverse("artwork", args=[job.pk])
    job.refresh_from_db()
    document = job.head.read()
    assert [one.construct for one in document.pieces[before:]] == ["applique", "fill"]
    assert [one.thread for one in document.pieces[before:]] == ["121", "103"]
    assert document.files[0].name == "old.csv" and page in signed_in.get(answer["Location"]).content.decode()
    chenille = take(signed_in, job, page, ways="", cloths="0:chenille")
    assert chenille.status_code == 302
    job.refresh_from_db()
    assert job.head.read().pieces[-1].construct == "chenille"
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": job.head.number, "stage": "artwork"})
    job.refresh_from_db()
    assert job.head.read() == document


def test_one_repeat_is_cut_out(signed_in, job, page):
    answer = take(signed_in, job, page, repeat="yes", repeat_from="-10", repeat_to="10")
    assert answer.status_code == 302
    job.refresh_from_db()
    new = [one for one in job.head.read().shapes if one.needles]
    assert new and max(abs(x) for one in new for x, _ in one.rings[0]) < 11.0
    wrong = take(signed_in, job, page, repeat="yes", repeat_from="10", repeat_to="")
    assert wrong.status_code == 422 and "both of its lines" in wrong.content.decode()


@pytest.mark.parametrize("more", [
    {}, {"ways": "0:keep"}, {"ways": "137:inner"}, {"ways": "x:keep 99999:keep"}, {"cloths": "7:cloth"},
    {"cloths": "0:nothing"}, {"ways": "137:outline", "threads": "121"}, {"ways": "137:outline", "threads": "121 0 zz"},
])  # fmt: skip
def test_what_cannot_be_taken_is_told_and_nothing_is_saved(signed_in, job, page, more):
    count = Revision.objects.count()
    answer = take(signed_in, job, page, **more)
    assert answer.status_code == 422 and 'role="alert"' in answer.content.decode()
    assert Revision.objects.count() == count


def test_the_cut_line_of_a_satin_is_a_file(signed_in, job, page, shop):
    key = Source.objects.get(shop=shop, kind="stitches").key
    found = stitches_of(Source.objects.get(key=key), "", "")
    cover = found.proposals[0].drops[-1]
    for name, start in (("svg", b"<?xml"), ("dxf", b"  0\nSECTION")):
        answer = signed_in.get(reverse(f"parts-cut-{name}", args=[job.pk, key]) + f"?parts={cover}")
        assert answer.status_code == 200 and answer.content.startswith(start)
        assert f'old-cut.{name}"' in answer["Content-Disposition"]
    for parts in ("", "0", "137", "99999", "x"):
        answer = signed_in.get(reverse("parts-cut-svg", args=[job.pk, key]) + f"?parts={parts}")
        assert answer.status_code in (400, 422), parts


@pytest.mark.parametrize(("data", "name", "word"), [
    (b"n,x,y\nred,blue,green\n", "a.csv", "number"), (MILLING, "a.nc", "milling"), (b"x,y\n1,nan\n2,3\n", "a.csv", "number"),
    (b"", "a.csv", ""), (b"G0 X0 Y0\nG2 X9 Y9 I1 J1\n", "a.gcode", "arc"), (b"x,y\n0,0\n", "a.txt", ""),
    (b"\x00\x01\x02" * 50, "a.csv", "no text"),
])  # fmt: skip
def test_bad_stitch_files_are_one_sentence_and_nothing_is_kept(signed_in, job, upload, data, name, word):
    answer = bring(signed_in, job, upload, data, name)
    assert answer.status_code == 422 and word in answer.content.decode()
    assert not Source.objects.filter(kind="stitches").exists() and Revision.objects.filter(job=job).count() == 1


def test_columns_and_unit_can_be_told_where_they_are_not_found(signed_in, job, upload):
    refused = bring(signed_in, job, upload, b"a,b,c\nred,0,0\n" + b"red,1,2\n" * 3, columns="x,y")
    assert refused.status_code == 422 and 'name="columns"' in refused.content.decode()
    answer = bring(signed_in, job, upload, PLAIN, columns="a,b", unit="0.1mm")
    assert (
        "columns=a%2Cb" in answer["Location"]
        and "columns a,b in 0.1mm" in signed_in.get(answer["Location"]).content.decode()
    )
    wrong = signed_in.get(answer["Location"].split("?")[0] + "?columns=nowhere")
    assert (
        wrong.status_code == 422 and "no column" in wrong.content.decode() and "Read again" in wrong.content.decode()
    )


@pytest.fixture
def rope(shop, maren):
    """The demo job, as it is kept."""
    source = keep_stitches(shop, "old.csv", BADGE, "", "")
    return history.create(shop, maren, rope_document(source.key, stitches_of(source, "", "")))


def test_needle_points_lie_in_a_table_of_their_own_once_by_content(rope, shop, maren):
    document = Revision.objects.get(pk=rope.head.pk).read()
    (key,) = needles_named(document)
    assert key.encode() in rope.head.data and len(rope.head.data) < 40_000 < len(rope.head.whole)
    assert list(document.needles) == [key] and NeedleList.objects.filter(shop=shop).count() == 1
    again = history.create(shop, maren, document)
    assert NeedleList.objects.filter(shop=shop).count() == 1 and again.head.read() == document


def test_needle_points_go_along_where_a_job_leaves_the_shop(signed_in, rope, shop):
    whole = signed_in.get(reverse("file", args=[rope.pk, "job.json"])).content
    assert read_job(whole).needles
    assert b"needles" in exported(shop).read(10) or exported(shop).read()[:2] == b"PK"


def test_a_job_whose_needle_points_are_gone_opens_and_says_so(signed_in, rope):
    from velamen.web.jobs import needle_lists

    NeedleList.objects.all().delete()
    needle_lists._known.clear()
    page = signed_in.get(reverse("prove", args=[rope.pk])).content.decode()
    assert "bring their stitch file in again" in page
    assert Job.objects.get(pk=rope.pk).head.read().pieces
