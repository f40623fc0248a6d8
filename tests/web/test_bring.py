"""Pictures and parts brought in: kept for the shop, previewed, taken, refused with a sentence."""

import json
from importlib.resources import files

import pytest
from django.urls import reverse
from PIL import Image
from shapely import Point, box

from core.pictures import encoded, painted
from velamen.web.jobs.models import Source

CRAB = files("velamen.web.demo").joinpath("crab-cushion.png").read_bytes()
BUOY = encoded(painted([(Point(0, 0).buffer(20), "#b8453c"), (box(-5, -5, 5, 5), "#2b5d7d")], (300, 300), 0.2))
START = {"colours": "0", "specks": "2", "smoothing": "0.1"}
THREE = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="20mm" viewBox="0 0 100 20">'
    + "".join(f'<rect id="deck {nth}" x="{30 * nth}" width="20" height="20"/>' for nth in range(3))
    + '<line x2="9" y2="9" stroke="red"/></svg>'
)


def bring(client, job, upload, data, revision=1, **more):
    sent = {"revision": revision, "artwork": upload(data, "buoy.png"), **more}
    return client.post(reverse("artwork", args=[job.pk]), sent)


def preview(client, job, **changed):
    answer = client.post(reverse("trace-preview", args=[job.pk]), {**START, **changed})
    return [json.loads(line) for line in b"".join(answer.streaming_content).decode().splitlines()]


@pytest.fixture
def traced(signed_in, job, upload):
    bring(signed_in, job, upload, BUOY)
    return job


def test_a_picture_goes_behind_the_shapes_and_is_kept_once(signed_in, job, upload, shop):
    answer = bring(signed_in, job, upload, BUOY)
    assert answer["Location"] == reverse("trace", args=[job.pk])
    job.refresh_from_db()
    lies = job.head.read().backdrop
    assert (lies.x, lies.y, lies.shown) == (0, 0, True) and lies.width <= 100
    bring(signed_in, job, upload, BUOY, 2)
    assert Source.objects.filter(shop=shop).count() == 1
    page = signed_in.get(reverse("artwork", args=[job.pk])).content.decode()
    assert 'id="backdrop"' in page and "buoy.png" in page
    image = signed_in.get(reverse("source-image", args=[job.pk, lies.picture]))
    assert image["Content-Type"] == "image/webp" and image.content[8:12] == b"WEBP"


def test_the_preview_tells_steps_colours_and_regions(signed_in, traced):
    steps = preview(signed_in, traced)
    assert [step["share"] for step in steps] == sorted(step["share"] for step in steps) and len(steps) > 4
    last = steps[-1]
    assert [one["out"] for one in last["colours"]] == [True, False, False] and last["points"] < 20
    assert [last["colours"][one["colour"]]["colour"] for one in last["regions"]] == ["#b8453c", "#2b5d7d"]
    assert all(one["path"].startswith("M") and one["path"].endswith("Z") for one in last["regions"])
    kept = preview(signed_in, traced, states="keep,keep,1")[-1]
    assert len(kept["regions"]) == 2  # the blue is made the red, the ground is kept
    wrong = preview(signed_in, traced, states="out,out,out")[-1]
    assert "Nothing is left" in wrong["wrong"] and len(wrong["colours"]) == 3


def test_regions_are_taken_in_one_revision_where_the_picture_lies(signed_in, traced):
    edit = {"do": "backdrop", "ids": "", "x": "10", "revision": 2}
    signed_in.post(reverse("edit-shapes", args=[traced.pk]), edit)
    sent = {**START, "revision": 3, "states": "", "skipped": "1"}
    answer = signed_in.post(reverse("take-trace", args=[traced.pk]), sent)
    assert answer["Location"] == reverse("artwork", args=[traced.pk])
    traced.refresh_from_db()
    document = traced.head.read()
    assert traced.head.number == 4 and len(document.shapes) == 2 and document.shapes[1].nodes
    xs = [x for x, _ in document.shapes[1].rings[0]]
    assert (min(xs) + max(xs)) / 2 == pytest.approx(10, abs=0.2)
    page = signed_in.get(reverse("artwork", args=[traced.pk]))
    assert [row["chosen"] for row in page.context["rows"]] == [False, True]


def test_tracing_without_a_picture_and_bad_numbers_are_told(signed_in, job, traced):
    for changed in ({"specks": "-4"}, {"colours": "many"}, {"smoothing": "nan"}):
        answer = signed_in.post(reverse("trace-preview", args=[job.pk]), {**START, **changed})
        assert answer.status_code == 422
    away = {"do": "backdrop", "ids": "", "away": "1", "revision": 2}
    signed_in.post(reverse("edit-shapes", args=[job.pk]), away)
    assert signed_in.get(reverse("trace", args=[job.pk]))["Location"] == reverse("artwork", args=[job.pk])
    assert signed_in.post(reverse("trace-preview", args=[job.pk]), START).status_code == 422
    taken = signed_in.post(reverse("take-trace", args=[job.pk]), {**START, "revision": 3})
    assert taken.status_code == 422


def test_what_another_shop_has_brought_in_is_not_there(client, traced, stranger, job, shop):
    from velamen.core.job.document import Job, brief_for
    from velamen.web.accounts.models import Member
    from velamen.web.jobs import history

    key = Source.objects.get().key
    theirs = history.create(Member.objects.get(user=stranger).shop, stranger, Job(brief=brief_for("felt")))
    client.force_login(stranger)
    assert client.get(reverse("source-image", args=[theirs.pk, key])).status_code == 404
    assert client.get(reverse("parts", args=[theirs.pk, key])).status_code == 404


def test_a_new_job_may_begin_with_a_picture(signed_in, upload):
    sent = {"name": "Crab pillow", "base": "felt", "artwork": upload(CRAB, "crab.png")}
    answer = signed_in.post(reverse("new-job"), sent)
    page = signed_in.get(answer["Location"])
    assert page.status_code == 200 and "crab.png" in page.content.decode()


def test_a_bomb_is_refused_before_it_is_unpacked(signed_in, job, upload):
    from core.test_tracing import bomb

    answer = bring(signed_in, job, upload, bomb())
    assert answer.status_code == 422 and "million pixels" in answer.content.decode()
    four = encoded(Image.new("CMYK", (60, 60), (0, 200, 200, 0)), "JPEG")
    assert bring(signed_in, job, upload, four).status_code == 302
    assert "printing colours" in signed_in.get(reverse("trace", args=[job.pk])).content.decode()


def test_parts_are_chosen_sized_and_fitted(signed_in, job, upload):
    answer = bring(signed_in, job, upload, THREE, choose="yes")
    page = signed_in.get(answer["Location"])
    assert [part["name"] for part in page.context["parts"]] == ["deck 0", "deck 1", "deck 2"]
    assert "1 open line came in as a line" in page.content.decode()
    for sent, words in (
        ({"parts": "", "width": ""}, "choose at least one"),
        ({"parts": "0 1", "width": "0.2"}, "too small"),
        ({"parts": "0 1", "width": "wide"}, "Width cannot be"),
    ):
        wrong = signed_in.post(answer["Location"], {"revision": 1, **sent})
        assert wrong.status_code == 422 and words in wrong.content.decode()
    signed_in.post(answer["Location"], {"revision": 1, "parts": "0 2", "width": "60", "ways": "0:fill 9:run x:y"})
    job.refresh_from_db()
    xs = [[x for x, _ in shape.rings[0]] for shape in job.head.read().shapes[1:]]
    assert [one.construct for one in job.head.read().pieces[1:]] == ["fill", "fill"]
    assert (min(map(min, xs)), max(map(max, xs))) == pytest.approx((-30, 30), abs=0.01) and len(xs) == 2
    signed_in.post(answer["Location"], {"revision": 2, "parts": "0 1 2", "width": "", "fit": "yes"})
    job.refresh_from_db()
    xs = [x for shape in job.head.read().shapes[3:] for x, _ in shape.rings[0]]
    assert max(xs) - min(xs) == pytest.approx(92, abs=0.1)


def test_mending_is_shown_beforehand_and_copied_shapes_go_to_another_job(signed_in, job, shop):
    from velamen.core.job.document import Job, brief_for
    from velamen.web.jobs import history

    address = reverse("shapes-after", args=[job.pk])
    shown = signed_in.get(address, {"do": "curves", "ids": "s1", "tolerance": "0.1"}).json()
    assert shown["path"].startswith("M") and shown["before"] == shown["after"] == 8
    assert signed_in.get(address, {"do": "simplify", "ids": "s1", "tolerance": "x"}).status_code == 422
    assert "Only mending" in signed_in.get(address, {"do": "remove", "ids": "s1"}).json()["wrong"]
    clip = signed_in.get(reverse("copy-shapes", args=[job.pk]), {"ids": "s1"}).content.decode()
    other = history.create(shop, None, Job(name="Other", brief=brief_for("felt")))
    sent = {"do": "paste", "ids": "", "clip": clip, "revision": 1}
    signed_in.post(reverse("edit-shapes", args=[other.pk]), sent)
    other.refresh_from_db()
    assert (
        other.head.label == "Shapes put in" and other.head.read().pieces[0].cloth == job.head.read().pieces[0].cloth
    )
