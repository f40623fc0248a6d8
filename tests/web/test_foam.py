"""Foam over the web: caps one by one on Build, the glitter recipe, what the run sheet says, the demo jobs."""

import pytest
from django.urls import reverse
from shapely import box

from core.jobs import job_of
from core.test_puff import BAR, puffed
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.web.demo.foam import starfish_document, tide_document
from velamen.web.jobs import history


@pytest.fixture
def bar(shop, maren):
    return history.create(shop, maren, puffed(BAR))


def places(client, job):
    page = client.get(reverse("piece", args=[job.pk, "p1"]), {"open": "places"}).content.decode()
    return page, page.count("data-line=")


def set_local(client, job, **sent):
    return client.post(
        reverse("set-local", args=[job.pk, "p1"]), {"revision": job.head.number, "open": "places", **sent}
    )


def test_caps_are_listed_set_one_by_one_and_taken_back(signed_in, bar):
    page, count = places(signed_in, bar)
    assert count == 2 and "Caps, one by one" in page
    assert signed_in.get(reverse("piece", args=[bar.pk, "p1"])).content.decode().count("data-line=") == 0
    assert set_local(signed_in, bar, at="14.8,0.5", key="cap_on", cap_on="no").status_code == 200
    bar.refresh_from_db()
    (local,) = bar.head.read().pieces[0].local
    assert local.own == {"cap_on": False} and bar.head.label == "cap on no"
    assert 'data-off="yes"' in places(signed_in, bar)[0]
    answer = set_local(signed_in, bar, at="14.8,0.5", key="cap_width", cap_width="99")
    assert answer.status_code == 422 and "use 0 to 20 mm" in answer.content.decode()
    set_local(signed_in, bar, at="14.8,0.5")
    bar.refresh_from_db()
    assert bar.head.read().pieces[0].local == []


@pytest.mark.parametrize(
    "sent", [{"at": "here"}, {}, {"at": "1,2,3"}, {"at": "1,2", "key": "cover_width", "cover_width": "3"}]
)
def test_a_place_or_value_that_is_none_is_told(signed_in, bar, sent):
    assert set_local(signed_in, bar, **sent).status_code == 422
    bar.refresh_from_db()
    assert bar.head.number == 1


def test_the_glitter_recipe_makes_three_pieces_of_a_shape(signed_in, shop, maren):
    job = job_of(box(-20, -15, 20, 15), hoop="h200x300")
    job = history.create(shop, maren, change(job, pieces=[change(job.pieces[0], construct="fill")]))
    sent = {"do": "recipe", "by": "glitter_foam", "piece": "p1", "revision": 1}
    assert signed_in.post(reverse("edit-stack", args=[job.pk]), sent).status_code == 200
    job.refresh_from_db()
    assert [one.construct for one in job.head.read().pieces] == ["laid_foam", "echo", "foam_border"]


@pytest.mark.parametrize("document", [tide_document, starfish_document])
def test_the_demo_jobs_of_foam_are_sewn_without_a_finding(document):
    build = build_job(document())
    assert build.findings == () and not build.lost
    assert all(proof.held for one in build.pieces for proof in one.proofs.values())
    assert {one.step.kind for one in build.plan.stops} == {"lay", "tear_foam"}
