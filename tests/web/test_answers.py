"""Requests that cannot be taken get a sentence and a way on: signed out, too large, unreadable, at the wrong address."""

import pytest
from django.conf import settings
from django.test import Client
from django.urls import reverse

HTMX = {"HX-Request": "true", "HX-Current-URL": "http://testserver/jobs/1/build/?piece=p1"}


def test_an_edit_after_the_session_ended_leads_back_to_the_page(client, job):
    address = reverse("edit-stack", args=[job.pk])
    answer = client.post(address, {"do": "apart", "revision": 1}, headers=HTMX)
    assert answer.status_code == 401
    assert answer["HX-Redirect"] == "/sign-in/?next=/jobs/1/build/%3Fpiece%3Dp1"
    form = client.post(address, {"do": "apart"}, headers={"Referer": "http://testserver/jobs/1/prove/"})
    assert form.status_code == 302 and form.url == "/sign-in/?next=/jobs/1/prove/"
    page = client.get(reverse("build", args=[job.pk]))
    assert page.status_code == 302 and page.url == f"/sign-in/?next=/jobs/{job.pk}/build/"


@pytest.mark.parametrize("was_on", ["http://elsewhere.example/x", "//elsewhere.example", "javascript:alert(1)", ""])
def test_nobody_is_led_away_by_signing_in(client, job, was_on):
    headers = {**HTMX, "HX-Current-URL": was_on}
    answer = client.post(reverse("edit-stack", args=[job.pk]), headers=headers)
    assert answer["HX-Redirect"] == "/sign-in/?next=/"


def test_an_address_of_edits_says_so_when_it_is_opened(signed_in, job):
    answer = signed_in.get(reverse("edit-shapes", args=[job.pk]))
    assert answer.status_code == 405 and "takes edits only" in answer.content.decode()
    assert "To the job board" in answer.content.decode() and answer["Allow"] == "POST"


def test_an_edit_too_large_is_told(signed_in, job):
    much = "0 0," * (settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 4)
    data = {"do": "pen", "outline": much, "revision": 1}
    answer = signed_in.post(reverse("edit-shapes", args=[job.pk]), data, headers=HTMX)
    assert answer.status_code == 422 or (answer.status_code == 413 and "larger than 12 MB" in answer.content.decode())
    data = "outline=" + "0" * settings.DATA_UPLOAD_MAX_MEMORY_SIZE
    answer = signed_in.post(
        reverse("edit-shapes", args=[job.pk]), data, content_type="application/x-www-form-urlencoded", headers=HTMX
    )
    assert answer.status_code == 413 and answer["HX-Retarget"] == "#told"
    assert "larger than 12 MB: choose fewer shapes" in answer.content.decode()


def test_a_form_of_too_many_fields_is_told(signed_in, job):
    answer = signed_in.post(
        reverse("edit-shapes", args=[job.pk]), {f"f{nth}": "1" for nth in range(500)}, headers=HTMX
    )
    assert answer.status_code == 400 and "cannot be read: reload" in answer.content.decode()


def test_a_page_from_before_signing_in_is_told(maren, job):
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(maren)
    answer = strict.post(reverse("edit-stack", args=[job.pk]), {"do": "apart", "revision": 1}, headers=HTMX)
    assert answer.status_code == 403 and "reload it" in answer.content.decode()


NESTED = "[" * 100_000


@pytest.mark.parametrize(
    "values", ["", "7", "[1]", "{", NESTED, '{"a":' * 5000, '{"cover_width": 1e400}', '{"a": {}}']
)
def test_a_fix_that_cannot_be_read_is_told(signed_in, job, values):
    answer = signed_in.post(reverse("apply-fix", args=[job.pk, "p1"]), {"values": values, "revision": 1})
    assert answer.status_code == 422


DIGITS = "9" * 400


@pytest.mark.parametrize(
    ("page", "data"),
    [
        ("edit-shapes", {"do": "move", "ids": "s1", "dx": DIGITS, "dy": "1"}),
        ("edit-shapes", {"do": "size", "ids": "s1", "width": f"{DIGITS}/{DIGITS}"}),
        ("edit-shapes", {"do": "repeat", "ids": "s1", "columns": DIGITS, "rows": "1", "gap": "1"}),
        ("edit-shapes", {"do": "remove-points", "ids": "s1", "points": f"0.{DIGITS}"}),
        ("edit-shapes", {"do": "pen", "outline": f"{DIGITS} 0 c,0 0"}),
        ("edit-stack", {"do": "move", "piece": "p1", "place": DIGITS}),
        ("edit-stack", {"do": "move-pass", "unit": "p1:cover", "by": DIGITS}),
        ("set-value p1", {"key": "cover_width", "cover_width": DIGITS}),
        ("set-route p1", {"do": "ends", "start": f"{DIGITS},1", "end": ""}),
        ("set-sewing p1", {"start": f"{DIGITS},1", "end": ""}),
        ("take-preset p1", {"preset": DIGITS}),
    ],
)
def test_numbers_without_end_are_told(signed_in, job, page, data):
    name, *more = page.split()
    answer = signed_in.post(reverse(name, args=[job.pk, *more]), {**data, "revision": 1}, headers=HTMX)
    assert answer.status_code == 422, answer.content.decode()[:300]
