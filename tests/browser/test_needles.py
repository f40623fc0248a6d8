"""Needle points chosen and edited on Build, in a real browser."""

import re

import pytest
from playwright.sync_api import expect
from shapely import box

from browser.pages import drawn, stitches, undone, until, violations
from core.jobs import job_of
from velamen.core.edits.stack.needle_points import as_needle_points
from velamen.core.job.document import change
from velamen.web.jobs import history


@pytest.fixture
def cloth(page, shop, maren):
    """Build with the needle points of a fill open, and where a place of the design lies on the screen."""
    document = job_of(box(-30, -15, 30, 15), base="firm_woven", hoop="h130x180", name="Mesh")
    document = change(document, pieces=[change(one, construct="run") for one in document.pieces])
    job = history.create(shop, maren, as_needle_points(document, "p1"))
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.get_by_text("Needle points", exact=False).locator("xpath=ancestor-or-self::summary").last.click()
    expect(page.locator("#needles-chosen")).to_have_text("None chosen")
    expect(page.locator("[data-look=needle]")).to_have_attribute("aria-pressed", "true")
    around = page.locator("#cloth").bounding_box()
    scale = min((around["width"] - 52) / 140, (around["height"] - 68) / 190)

    def at(x, y):
        return around["x"] + around["width"] / 2 + scale * x, around["y"] + around["height"] / 2 + scale * y

    return at


def dragged(page, *places):
    page.mouse.move(*places[0])
    page.mouse.down()
    for place in places[1:]:
        page.mouse.move(*place, steps=3)
    page.mouse.up()


def test_points_are_chosen_dragged_nudged_deleted_and_undone(page, cloth):
    whole = stitches(page)
    told = page.locator("#needles-chosen")
    dragged(page, cloth(-34, -19), cloth(34, -11))
    expect(told).to_contain_text(re.compile(r"\d+ chosen"))
    top = int(told.inner_text().split()[0])
    assert top >= 20 and violations(page) == []
    with page.expect_response(re.compile("/needles/")) as answer:
        dragged(page, cloth(0, -15), cloth(0, -21))
    assert answer.value.ok
    expect(told).to_have_text(f"{top} chosen")
    expect(page.locator("[data-key=undo]")).to_have_attribute("title", re.compile("Needle points moved"))
    page.locator("#cloth").focus()
    with page.expect_response(re.compile("/needles/")):
        page.keyboard.press("Shift+ArrowUp")
    page.get_by_role("button", name="Lasso").click()
    dragged(page, cloth(-34, 11), cloth(34, 11), cloth(34, 19), cloth(-34, 19))
    expect(told).to_contain_text(re.compile(r"\d+ chosen"))
    page.locator("#cloth").focus()
    with page.expect_response(re.compile("/needles/")):
        page.keyboard.press("Delete")
    expect(told).to_have_text("None chosen")
    until(page, f"() => Number(document.body.dataset.plan) < {whole}")
    undone(page)
    drawn(page)
    assert page.faults == []


def test_threads_ranges_and_numbers(page, cloth):
    told = page.locator("#needles-chosen")
    page.mouse.click(*cloth(-30, -15))
    expect(told).to_contain_text(re.compile(r"\d+ chosen"))
    page.get_by_role("button", name="Thread", exact=True).click()
    every = int(page.locator("#needles-chosen").inner_text().split()[0])
    assert every > 60
    page.locator("#cloth").focus()
    page.keyboard.press("Escape")
    expect(told).to_have_text("None chosen")
    page.keyboard.press("Home")
    for _ in range(6):
        page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="From needle").click()
    page.locator("#cloth").focus()
    page.keyboard.press("Escape")
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    page.get_by_role("button", name="Up to needle").click()
    expect(told).to_have_text("5 chosen")
    page.locator("[data-by=dx]").fill("0")
    page.locator("[data-by=dy]").fill("12")
    with page.expect_response(re.compile("/needles/")):
        page.get_by_role("button", name="Duplicate").click()
    until(page, f"() => Number(document.body.dataset.plan) > {every}")
    expect(told).not_to_have_text("5 chosen")
    assert page.faults == []


def test_a_fill_is_turned_into_needle_points(page, shop, maren):
    document = job_of(box(-20, -15, 20, 15), base="firm_woven", hoop="h130x180", name="Mesh")
    document = change(document, pieces=[change(one, construct="fill") for one in document.pieces])
    job = history.create(shop, maren, document)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    before = stitches(page)
    page.locator("details.needles summary").click()
    page.get_by_role("button", name="Turn into needle points").click()
    expect(page.locator(".sewn-as .name").first).to_have_text("Needle points")
    drawn(page)
    assert stitches(page) == before
    expect(page.get_by_role("button", name="Thin out")).to_be_visible()
    assert page.faults == []
