"""People see and touch only their own shop's jobs; visitors see nothing."""

import pytest
from django.urls import get_resolver, reverse

from velamen.web import urls

GET = ["brief", "artwork", "build", "prove", "density", "hand-over", "plan", "picture", "section"]
POST = ["brief", "brief-follows", "fix-brief", "artwork", "undo", "redo"]


def job_addresses(job):
    """Every address of a job, with arguments filled in."""
    for pattern in urls.job_patterns:
        kwargs = {"job_id": job.pk}
        for name in pattern.pattern.converters:
            kwargs[name] = {"piece": "p1", "number": 1, "name": "stitches.csv", "key": "a1", "token": "t", "nth": 0}[
                name
            ]
        yield reverse(pattern.name, kwargs=kwargs)


def test_every_address_of_another_shop_answers_404(client, job, stranger):
    client.force_login(stranger)
    addresses = list(job_addresses(job))
    assert len(addresses) == len(urls.job_patterns) >= 15
    for address in addresses:
        assert client.get(address).status_code in (404, 405), address
        assert client.post(address, {"revision": 1, "key": "cover_width", "cover_width": "4"}).status_code in (
            404,
            405,
        )
    assert [client.get(reverse(name, args=[job.pk])).status_code for name in GET] == [404] * len(GET)
    assert [client.post(reverse(name, args=[job.pk])).status_code for name in POST] == [404] * len(POST)
    job.refresh_from_db()
    assert job.head.number == 1 and job.revisions.count() == 1


def test_board_shows_only_own_jobs(client, job, stranger, signed_in):
    assert "Buoy towel" in signed_in.get("/").content.decode()
    client.force_login(stranger)
    page = client.get("/").content.decode()
    assert "Buoy towel" not in page and "No jobs yet" in page


def test_visitors_are_sent_to_sign_in(client, job):
    for address in ["/", "/jobs/new/", "/library/", "/library/rules/", "/library/bases/terry/", *job_addresses(job)]:
        answer = client.get(address)
        assert answer.status_code in (302, 405)
        if answer.status_code == 302:
            assert answer["Location"].startswith("/sign-in/?next=")


def test_a_person_without_a_shop_is_told_so(client, django_user_model, db):
    client.force_login(django_user_model.objects.create_user("nils"))
    answer = client.get("/")
    assert answer.status_code == 403


def test_no_address_is_left_out_of_these_tests():
    names = {name for name in get_resolver().reverse_dict if isinstance(name, str)}
    others = {"board", "new-job", "sign-in", "sign-out", "set-unit", "healthz", "under-way"}
    people = {  # tests/web/test_people.py
        "people", "invite", "take-back", "set-role", "remove-person", "account", "end-session", "end-others", "join", "sign-up",
        "reset", "reset-sent", "reset-set", "reset-done", "put-shop-in-bin", "shop-back", "export-shop",
    }  # fmt: skip
    shelves = {"library", "row", "restore-row", "presets", "remove-preset", "rules"}  # tests/web/test_library.py
    shelves |= {"recipes", "recipe-picture", "remove-recipe"}  # tests/web/test_recipes.py
    shelves |= {"typefaces", "typefaces-judged", "remove-typeface"}  # tests/web/test_typefaces.py
    bins = {"bin", "put-back", "delete-job"}  # tests/web/test_bin.py
    assert names - {pattern.name for pattern in urls.job_patterns} == others | people | shelves | bins


@pytest.mark.parametrize(
    "address",
    [
        "/",
        "/sign-in/",
        "/jobs/new/",
        "/library/",
        "/library/recipes/",
        "/library/threads/?near=%23aa3322",
        "/library/rules/",
    ],
)
def test_pages_carry_a_strict_policy(signed_in, address):
    answer = signed_in.get(address, follow=True)
    policy = answer["Content-Security-Policy"]
    assert "script-src 'self'" in policy and "unsafe" not in policy and "default-src 'none'" in policy
    page = answer.content.decode()
    assert "<script>" not in page and " onclick=" not in page and ' style="' not in page
    assert answer["X-Frame-Options"] == "DENY" and answer["X-Content-Type-Options"] == "nosniff"


def test_forms_need_their_token(job, maren):
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(maren)
    for name in ("undo", "artwork", "brief"):
        assert client.post(reverse(name, args=[job.pk]), {"revision": 1}).status_code == 403
