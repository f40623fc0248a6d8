"""A shop from its first day, in a browser: begun, joined, password forgotten, a job in the bin; progress and its end."""

import re

import pytest
from django.core import mail
from playwright.sync_api import expect

from browser.pages import drawn, violations
from velamen.web.jobs.models import Job
from velamen.web.stages import plans
from velamen.web.work import outside
from web import outside_tasks as own

FOREVER = 600.0  # seconds


def fill(page, **fields):
    for name, value in fields.items():
        page.locator(f"#id_{name}").fill(value)


def test_a_shop_is_begun_joined_and_a_password_set_anew(chromium, live_server, db):
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=live_server.url)
    page = context.new_page()
    page.goto("/")
    page.get_by_role("link", name="Begin a shop").click()
    assert violations(page) == []
    fill(page, shop="Quay Nine", username="ivo", email="ivo@quay-nine.example", password="tide-and-thread")
    page.get_by_role("button", name="Begin").click()
    expect(page.locator("main")).to_contain_text("No jobs yet")

    page.get_by_role("link", name="People").click()
    page.locator("#id_role").select_option("machine")
    page.get_by_role("button", name="Invite", exact=True).click()
    link = page.get_by_label("Link of the invitation").input_value()
    assert violations(page) == []

    other = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=live_server.url)
    runa = other.new_page()
    runa.goto(link)
    assert violations(runa) == []
    fill(runa, username="runa", email="runa@quay-nine.example", password="harbour-4-lights")
    runa.get_by_role("button", name="Join").click()
    expect(runa.locator("main")).to_contain_text("No jobs yet")
    expect(runa.get_by_role("link", name="New job")).to_have_count(0)
    page.reload()
    expect(page.locator(".people").first).to_contain_text("runa@quay-nine.example")

    runa.get_by_role("button", name="Sign out").click()
    runa.get_by_role("link", name="New password").click()
    fill(runa, email="runa@quay-nine.example")
    runa.get_by_role("button", name="Send the link").click()
    expect(runa.locator("main")).to_contain_text("Look into your mail")
    runa.goto(re.search(r"http://\S+/password/\S+", mail.outbox[-1].body)[0])
    fill(runa, new_password1="seven-knots-9", new_password2="seven-knots-9")
    runa.get_by_role("button", name="Set it").click()
    runa.get_by_role("link", name="Sign in").click()
    fill(runa, username="runa", password="seven-knots-9")
    runa.get_by_role("button", name="Sign in").click()
    runa.get_by_role("link", name="runa").click()
    expect(runa.locator("main")).to_contain_text("Machine side at Quay Nine")
    assert violations(runa) == []
    context.close()
    other.close()


def test_a_job_goes_into_the_bin_and_comes_back(page, job):
    page.goto("/")
    page.wait_for_load_state("networkidle")  # the picture of a job in the bin is not to be had
    page.get_by_role("button", name="Put Buoy towel into the bin").click()
    expect(page.locator("main")).to_contain_text("No jobs yet")
    page.get_by_role("link", name="Bin").click()
    page.get_by_role("button", name="Put back").click()
    page.goto("/")
    expect(page.locator(".card-job")).to_have_count(1)
    assert page.faults == []


def test_who_looks_finds_edits_switched_off(page, job, shop):
    shop.members.update(role="machine")
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    expect(page.locator("#v-cover_width")).to_be_disabled()
    page.goto(f"/jobs/{job.pk}/hand-over/")
    page.get_by_placeholder("Order, customer").fill("Order 3")
    page.get_by_role("button", name="Hand this version over").click()
    expect(page.locator(".versions")).to_contain_text("Version 1")
    expect(page.locator(".versions")).to_contain_text("the same stitches")
    assert violations(page) == []
    assert page.faults == []


@pytest.fixture
def endless(settings, monkeypatch):
    """Once it is called, builds never come to an end by themselves; nothing is left of them for the next test."""
    whole = outside.outside
    monkeypatch.setattr(outside, "_not_again", {})

    def begin():
        monkeypatch.setattr(plans, "_kept", lambda *_: None)  # nor are there any from before
        monkeypatch.setattr(plans, "is_little", lambda *_: False)
        monkeypatch.setattr(outside, "SECONDS", FOREVER)
        monkeypatch.setattr(
            plans, "outside", lambda what, task, *args, once="": whole(what, own.slow, FOREVER, once=once)
        )
        settings.WORK_OUTSIDE = True
        plans._builds.clear()

    yield begin
    for work in list(outside._works.values()):
        work.end()
        assert work.answer.exception(timeout=FOREVER)


def test_what_takes_long_says_how_far_it_is_and_is_ended(page, job, endless):
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.wait_for_load_state("networkidle")  # nothing of the job as it was is on its way
    endless()
    page.locator("#v-cover_width").fill("4")
    page.locator("#v-cover_width").press("Enter")
    bar = page.locator("#under-way")
    expect(bar).to_be_visible()
    expect(bar).to_contain_text("Building Buoy towel")
    expect(bar).to_contain_text("halfway")
    assert bar.locator("progress").get_attribute("value") == "0.5"
    assert violations(page) == []
    bar.get_by_role("button", name="End it").click()
    expect(page.locator("#waiting")).to_contain_text("Building Buoy towel was ended. Nothing was changed.")
    expect(bar).to_be_hidden()
    assert Job.objects.get(pk=job.pk).head.number == 2  # the edit itself is saved


def test_a_page_that_takes_long_is_told_on_the_one_before(page, job, endless):
    page.goto(f"/jobs/{job.pk}/artwork/")
    page.wait_for_load_state("networkidle")  # nothing that was asked for before is on its way
    endless()
    with page.expect_request(re.compile("under-way")):
        page.get_by_role("link", name="Build").click(no_wait_after=True)
    (work,) = outside._works.values()
    work.end()
    expect(page.locator("main")).to_contain_text("Building Buoy towel was ended")
