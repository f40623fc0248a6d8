"""A construction that the program has never heard of, on every page: Build and its Stack, Prove, Hand over."""

import json

import pytest
from django.urls import reverse
from shapely import box

from core.jobs import job_of
from velamen.core.job.document import change
from velamen.web.jobs import history


@pytest.fixture
def raised(made_up, shop, maren):
    document = job_of(box(-40, -15, -10, 15), box(10, -15, 40, 15), base="terry", name="Raised")
    pieces = [change(one, construct="raised", own={"raised_length": 4.0}) for one in document.pieces]
    return history.create(shop, maren, change(document, pieces=pieces))


def test_build_lists_its_steps_its_settings_and_what_it_lays(signed_in, raised):
    page = signed_in.get(reverse("build", args=[raised.pk])).content.decode()
    for words in (
        "Seam, run",
        "Tear foam 2 mm away",
        "Raised cloth",
        "Foam 2 mm",
        "Sail red cotton",
        "Seam too open",
    ):
        assert words in page, words
    assert 'stroke-dasharray="1 3"' in page  # its role says how its cord is drawn
    assert 'name="cloth"' in page and "clear of the edge" in page
    panel = signed_in.get(
        reverse("piece", args=[raised.pk, "p1"]) + "?rows=sewn&open=sewing,stitches"
    ).content.decode()
    assert "Seam line" in panel and 'value="raised" checked' in panel
    assert panel.index("Stop 4") < panel.index("Stop 1")  # last sewn on top


def test_its_order_is_moved_and_refused_by_name(signed_in, raised):
    answer = signed_in.post(reverse("edit-stack", args=[raised.pk]), {
        "revision": raised.head.number, "do": "move-pass", "unit": "p1:tear", "by": "-1"}, HTTP_HX_REQUEST="true")  # fmt: skip
    assert answer.status_code == 422
    assert "Tearing the foam away cannot come before the seam line of the same piece" in answer.content.decode()


def test_prove_tells_its_proof_and_takes_its_fix(signed_in, raised):
    page = signed_in.get(reverse("prove", args=[raised.pk])).content.decode()
    assert "A seam of up to 3 mm holds." in page and "The foam comes out." in page and "an open seam" in page
    assert "Seam</strong> not held" in page and "0 of 2 pieces" in page
    signed_in.post(reverse("apply-fix", args=[raised.pk, "p1"]), {
        "revision": raised.head.number, "values": json.dumps({"raised_length": 2.5})})  # fmt: skip
    assert "1 of 2 pieces" in signed_in.get(reverse("prove", args=[raised.pk])).content.decode()


def test_hand_over_tells_its_steps_in_order(signed_in, raised):
    page = signed_in.get(reverse("hand-over", args=[raised.pk])).content.decode()
    places = [page.index(one) for one in (
        "Lay wash-away topping", "Lay foam 2 mm, then sail red cotton, for piece 1.", "Thread 140",
        "Tear the foam away round piece 1.", "Slit piece 1 along the seam.", "wash the rest out",
    )]  # fmt: skip
    assert places == sorted(places)
    report = signed_in.get(reverse("file", args=[raised.pk, "report.json"]))
    assert len(json.loads(report.content)["proofs"]["seam"]) == 2
    plan = signed_in.get(reverse("plan", args=[raised.pk]))
    assert plan.status_code == 200 and b'"piece":"p2"' in plan.content
