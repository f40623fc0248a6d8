"""The five stages: what they show, what they change, and how they answer bad input."""

import csv
import io
import json
from collections import OrderedDict

import pytest
from django.urls import reverse

from core.hostile import star, svg
from velamen.core.artwork.svg import MAX_BYTES
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.core.job.reading import stored_job
from velamen.web.jobs import models
from velamen.web.jobs.models import Job
from velamen.web.stages import plans


def post(client, job, name, data, *more):
    return client.post(reverse(name, args=[job.pk, *more]), data)


def value(client, job, key, text, revision=1, **more):
    data = {"revision": revision, "key": key, key: text, **more}
    return client.post(reverse("set-value", args=[job.pk, "p1"]), data, headers={"HX-Request": "true"})


def test_new_job_with_artwork_becomes_an_applique(signed_in, upload, shop):
    answer = signed_in.post("/jobs/new/", {"name": "Gull towel", "base": "terry", "artwork": upload()})
    made = Job.objects.get(shop=shop, name="Gull towel")
    assert answer["Location"] == reverse("build", args=[made.pk])
    document = made.head.read()
    assert document.brief.base == "terry" and document.brief.hoop == "h100x100"
    assert [piece.construct for piece in document.pieces] == ["applique"]
    page = signed_in.get(answer["Location"]).content.decode()
    assert "% terry towel" in page and "% sail red cotton: the worse of them" in page
    assert "Trim sail red cotton" in page and "Lay sail red cotton" in page


def test_a_new_job_too_heavy_to_build_opens_on_artwork_and_says_so(signed_in, upload, shop, monkeypatch):
    from velamen.web.stages import plans
    from velamen.web.work.outside import TooHeavy

    def refused(*asked, **more):
        raise TooHeavy("Building Gull towel took more than 30 seconds and was ended.")

    monkeypatch.setattr(plans, "is_little", lambda *jobs: False)
    monkeypatch.setattr(plans, "outside", refused)
    monkeypatch.setattr(plans, "_builds", OrderedDict())
    sent = {"name": "Gull towel", "base": "terry", "artwork": upload()}
    answer = signed_in.post("/jobs/new/", sent, follow=True)
    made = Job.objects.get(shop=shop, name="Gull towel")
    assert answer.request["PATH_INFO"] == reverse("artwork", args=[made.pk])
    assert "took more than 30 seconds" in answer.content.decode()


@pytest.mark.parametrize("stage", ["brief", "artwork", "build", "prove", "hand-over"])
def test_stages_stand_with_and_without_pieces(signed_in, job, stage, shop, maren):
    from velamen.core.job.document import Job as Document
    from velamen.web.jobs import history

    empty = history.create(shop, maren, Document(name="Empty"))
    assert signed_in.get(reverse(stage, args=[job.pk])).status_code == 200
    assert signed_in.get(reverse(stage, args=[empty.pk])).status_code == 200
    assert signed_in.get(reverse("plan", args=[empty.pk])).status_code == 200


BAD_UPLOADS = {
    "broken": (b"<svg", "not well-formed"),
    "empty": (b"", "empty"),
    "text": (b'<svg xmlns="http://www.w3.org/2000/svg"><text>x</text></svg>', "only text"),
    "bomb": (
        b'<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"><text>&a;</text></svg>',
        "entities",
    ),
    "crossing": (
        svg(star(301)),
        "crosses itself in more than 5,000 places",
    ),
    "large": (b"<svg>" + b" " * MAX_BYTES + b"</svg>", "at most 10 MB"),
    "picture": (b"\x89PNG\r\n\x1a\n" + bytes(400), "no picture that is read"),
}


@pytest.mark.parametrize("name", BAD_UPLOADS)
def test_bad_uploads_are_told_and_save_nothing(signed_in, job, upload, name, shop):
    data, words = BAD_UPLOADS[name]
    answer = post(signed_in, job, "artwork", {"revision": 1, "artwork": upload(data)})
    assert answer.status_code == 422 and words in answer.content.decode()
    new = signed_in.post("/jobs/new/", {"name": "Never", "base": "terry", "artwork": upload(data)})
    assert words in new.content.decode()
    job.refresh_from_db()
    assert job.head.number == 1 and Job.objects.filter(shop=shop).count() == 1


def test_more_artwork_is_added_and_can_be_taken_out(signed_in, job, upload):
    post(signed_in, job, "artwork", {"revision": 1, "artwork": upload()})
    job.refresh_from_db()
    assert [piece.id for piece in job.head.read().pieces] == ["p1", "p2"]
    post(signed_in, job, "edit-stack", {"revision": 2, "do": "remove", "piece": "p1"})
    job.refresh_from_db()
    document = job.head.read()
    assert [piece.id for piece in document.pieces] == ["p2"] and [shape.id for shape in document.shapes] == ["s2"]


def test_own_and_matched_values(signed_in, job):
    answer = value(signed_in, job, "cover_spacing", "0,36")
    panel = reverse("piece", args=[job.pk, "p1"])
    assert json.loads(answer["X-Edited"]) == {"piece": "p1", "alone": False}
    assert "matched would be 0.40" in signed_in.get(panel).content.decode()
    value(signed_in, job, "cover_spacing", "", 2, matched="1")
    back = signed_in.get(panel).content.decode()
    assert "matched would be" not in back and "sail red cotton: the closer of them" in back
    job.refresh_from_db()
    assert job.head.read().pieces[0].own == {}


def test_a_value_out_of_bounds_is_told_at_its_field(signed_in, job):
    answer = value(signed_in, job, "cover_width", "40")
    text = answer.content.decode()
    assert answer.status_code == 422 and "Width 40 is out of bounds: use 1 to 10 mm." in text
    assert 'value="40"' in text
    for key, typed in (("nonsense", "1"), ("cover_width", "nan"), ("precut", "perhaps"), ("tack_kind", "glue")):
        assert value(signed_in, job, key, typed).status_code == 422
    job.refresh_from_db()
    assert job.head.number == 1


def test_typing_the_same_value_saves_nothing(signed_in, job):
    value(signed_in, job, "cover_width", "3.0")
    job.refresh_from_db()
    assert job.head.number == 1


def test_cloth_and_thread_by_nearest_colour(signed_in, job):
    address = reverse("set-makeup", args=[job.pk, "p1"])
    data = {"revision": 1, "name": "Deck buoy", "cloth": "harbour_blue", "thread": "nearest"}
    signed_in.post(address, data)
    job.refresh_from_db()
    piece = job.head.read().pieces[0]
    assert (piece.name, piece.cloth, piece.thread) == ("Deck buoy", "harbour_blue", "119")
    assert signed_in.post(address, {**data, "revision": 2, "cloth": "tinfoil"}).status_code == 422


def test_plan_has_an_etag_that_follows_the_edit(signed_in, job):
    address = reverse("plan", args=[job.pk])
    first = signed_in.get(address)
    assert signed_in.get(address, headers={"If-None-Match": first["ETag"]}).status_code == 304
    value(signed_in, job, "cover_width", "4")
    second = signed_in.get(address, headers={"If-None-Match": first["ETag"]})
    assert second.status_code == 200 and second["ETag"] != first["ETag"] and second.content != first.content


def test_prove_offers_a_fix_that_holds(signed_in, job):
    value(signed_in, job, "cover_width", "1.6")
    page = signed_in.get(reverse("prove", args=[job.pk]))
    (row,) = page.context["rows"]
    assert not row["proof"].held and "mm of edge can show" in page.content.decode()
    best = max(row["fixes"], key=lambda fix: float(fix["share"]))
    post(signed_in, job, "apply-fix", {"revision": 2, "values": best["values"]}, "p1")
    (row,) = signed_in.get(reverse("prove", args=[job.pk])).context["rows"]
    assert row["proof"].held
    for broken in ("", "[]", "{", '{"cover_width": "x"}', '{"cover_width": 400}'):
        assert post(signed_in, job, "apply-fix", {"revision": 3, "values": broken}, "p1").status_code == 422


def test_files_are_those_of_the_core_with_safe_names(signed_in, job):
    from velamen.core.job.document import change
    from velamen.web.jobs import history

    history.save(job, 1, None, change(job.head.read(), name='Tide/../"x"\r\nq: ä'), "renamed")
    answer = signed_in.get(reverse("file", args=[job.pk, "stitches.csv"]))
    assert answer["Content-Disposition"] == 'attachment; filename="tidex-q-a-stitches.csv"'
    rows = list(csv.DictReader(io.StringIO(answer.content.decode())))
    report = json.loads(signed_in.get(reverse("file", args=[job.pk, "report.json"])).content)
    assert sum(row["command"] == "stitch" for row in rows) == report["stitches"]
    assert signed_in.get(reverse("file", args=[job.pk, "cut.svg"]))["Content-Type"] == "image/svg+xml"
    for name in ("settings.py", "..", "job.bin"):
        assert signed_in.get(f"/jobs/{job.pk}/files/{name}").status_code == 404


def test_names_cannot_smuggle_markup(signed_in, job):
    address = reverse("set-makeup", args=[job.pk, "p1"])
    data = {"revision": 1, "name": '<img src=x onerror="a">', "cloth": "sail_red", "thread": "140"}
    signed_in.post(address, data)
    for stage in ("artwork", "build", "prove", "hand-over", "picture"):
        assert "<img src=x" not in signed_in.get(reverse(stage, args=[job.pk])).content.decode()


def test_board_search(signed_in, job):
    assert "Buoy towel" in signed_in.get("/?q=buoy").content.decode()
    assert "No job is called" in signed_in.get("/?q=whale").content.decode()


def test_board_costs_the_same_queries_for_many_jobs(signed_in, job, shop, maren, django_assert_max_num_queries):
    from velamen.web.jobs import history

    for nth in range(12):
        history.create(shop, maren, job.head.read(), f"copy {nth}")
    with django_assert_max_num_queries(6):
        signed_in.get("/")


def test_demo_loads_once(db):
    from velamen.web.demo.load import BADGE, JOBS, load_demo

    assert load_demo("a-password") == [
        "Ormsel Loft",
        "Crab cushion",
        "Boat-shed pennant",
        *(demo.name for demo in JOBS),
        BADGE.name,
        "Coral fan ornament",
        "Scallop edging",
        "TIDE cap",
        "Starfish bag",
        "Sail-window napkin",
        "Old rope badge",
    ]
    rope = build_job(Job.objects.get(name="Old rope badge").head.read())
    assert [one.piece.construct for one in rope.pieces] == ["applique", "stitches", "fill"] and not rope.lost
    assert not [one for one in rope.findings if one.severity == "error"]
    fan, edging = (Job.objects.get(name=name).head.read() for name in ("Coral fan ornament", "Scallop edging"))
    for document in (fan, edging):
        build = build_job(document)
        assert build.rinse.held and not [one for one in build.findings if one.severity == "error"]
        assert build.figures.trims <= 5 and len(build.plan.threads) == 1
    assert build.wanted == 80 and build.grid.gap == -1.5  # 2.4 m gathered in by half, repeats that overlap
    crab, napkin = (
        build_job(Job.objects.get(name=name).head.read()) for name in ("Crab cushion", "Sail-window napkin")
    )
    for build in (crab, napkin):
        assert not [one for one in build.findings if one.severity == "error"] and not build.lost
        assert all(proof.held for one in build.pieces for proof in one.proofs.values())
    assert [one.piece.construct for one in crab.pieces].count("chenille") == 3 and crab.job.backdrop is not None
    assert [one.piece.construct for one in napkin.pieces].count("cutwork") == 3
    assert [len(one.work.guides) for one in napkin.pieces] == [1, 0, 1, 0, 0]
    gone = change(fan, pieces=[one for one in fan.pieces if "border" not in one.name])
    assert len(build_job(gone).rinse.parts) > 1  # its parts hang together by their borders
    assert load_demo("a-password") == []
    blanket = Job.objects.get(name="Otter crew blanket").head.read()
    assert len({piece.cloth for piece in blanket.pieces}) >= 2 and blanket.pieces[0].construct == "knockdown"
    assert any(len(shape.rings) > 1 for shape in blanket.shapes)


def test_a_piece_is_sewn_as_another_construction_and_back(signed_in, job):
    address = reverse("set-makeup", args=[job.pk, "p1"])
    value(signed_in, job, "cover_width", "4")
    data = {"revision": 2, "name": "Buoy", "cloth": "sail_red", "thread": "140", "construct": "fill"}
    assert signed_in.post(address, data).status_code == 200
    text = signed_in.get(reverse("piece", args=[job.pk, "p1"])).content.decode()
    assert "fill spacing for" in text and "Edge cover" not in text and 'id="piece-cloth"' not in text
    job.refresh_from_db()
    assert (job.head.read().pieces[0].construct, job.head.read().pieces[0].own) == ("fill", {})
    for name in ("prove", "hand-over", "artwork", "build"):
        assert signed_in.get(reverse(name, args=[job.pk])).status_code == 200
    assert signed_in.get(reverse("plan", args=[job.pk])).status_code == 200
    assert signed_in.post(address, {**data, "revision": 3, "construct": "applique"}).status_code == 200
    assert "Edge cover" in signed_in.get(reverse("piece", args=[job.pk, "p1"])).content.decode()
    assert signed_in.post(address, {**data, "revision": 4, "construct": "tatting"}).status_code == 422


@pytest.mark.parametrize("name", ["brief", "artwork", "build", "prove", "hand-over", "plan", "picture"])
def test_a_page_reads_one_document_once(signed_in, job, monkeypatch, name):
    read = []

    def counted(data):
        read.append(data)
        return stored_job(data)

    monkeypatch.setattr(models, "stored_job", counted)
    plans._builds.clear()
    assert signed_in.get(reverse(name, args=[job.pk])).status_code == 200
    assert len(read) == 1


def test_an_edit_reads_what_it_changes_and_what_comes_of_it_once_each(signed_in, job, monkeypatch):
    read = []

    def counted(data):
        read.append(data)
        return stored_job(data)

    monkeypatch.setattr(models, "stored_job", counted)
    data = {"revision": 1, "do": "move", "ids": "s1", "dx": "1", "dy": "0"}
    assert (
        signed_in.post(reverse("edit-shapes", args=[job.pk]), data, headers={"HX-Request": "true"}).status_code == 200
    )
    assert len(read) == len(set(read)) == 2
