"""The Stack in a real browser: moved by keys and by hand, refused, a ground that follows, a run sheet."""

import re

from playwright.sync_api import expect
from shapely import box

from browser.pages import drawn, stitches, until, violations
from core.jobs import job_of
from velamen.core.job import change
from velamen.web.jobs import history


def blanket(shop, maren):
    document = job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), box(-50, -10, -30, 10), base="fleece", name="Crew")
    pieces = [change(one, name=name) for one, name in zip(document.pieces, ("Sail", "Keel", "Mark"), strict=True)]
    return history.create(shop, maren, change(document, pieces=pieces))


def names(page):
    return page.locator(".stack-head .name").all_inner_texts()


def test_pieces_are_reordered_by_keys_and_by_hand_and_a_refusal_says_why(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    assert names(page) == ["Mark", "Keel", "Sail"] and violations(page) == []
    page.locator('.stack-head[data-piece="p2"]').focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.locator(".stack-head .name").nth(1)).to_have_text("Sail")
    assert names(page) == ["Mark", "Sail", "Keel"]
    until(page, "() => document.activeElement.dataset.piece === 'p2'")
    page.locator('.stack-head[data-piece="p3"]').drag_to(page.locator('.stack-head[data-piece="p2"]'))
    expect(page.get_by_role("alert")).to_contain_text("Mark would lie wholly under the cloth of Sail")
    assert names(page) == ["Mark", "Sail", "Keel"]
    page.locator('.stack-head[data-piece="p2"]').drag_to(page.locator('.stack-head[data-piece="p3"]'))
    expect(page.locator(".stack-head .name").first).to_have_text("Keel")
    page.locator('.stack-head[data-piece="p1"]').click()
    expect(page.locator(".values .piece-name")).to_have_value("Sail")
    page.locator('[data-unit="p1:cover"]').focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.get_by_role("alert")).to_contain_text("of the same piece: Sail")
    assert [one for one in page.faults if "422" not in one] == []


def test_a_knockdown_is_put_under_and_follows_an_edit(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    before = stitches(page)
    page.get_by_text("Add a ground").click()
    page.get_by_role("button", name="Knockdown").click()
    expect(page.locator(".stack-head .name").last).to_have_text("Knockdown")
    until(page, "(count) => Number(document.body.dataset.plan) > count", before)
    expect(page.locator("#values")).to_contain_text("of pile lean in from the side")
    first = page.locator(".side-title span").last.inner_text()
    page.goto(f"/jobs/{job.pk}/artwork/")
    page.locator("[role=option]", has_text="shape 2").click()
    page.locator("#board").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#revision")).not_to_have_value("2")
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator(".stack-head", has_text="Knockdown").click()
    expect(page.locator(".values .side-title")).to_contain_text("Knockdown")
    second = page.locator(".values .side-title span").inner_text()
    width = [float(re.match(r"[\d.]+", one).group()) for one in (first, second)]
    assert abs(width[1] - width[0] - 10) < 0.2
    assert violations(page) == [] and page.faults == []


def test_pieces_are_hidden_and_shown_alone(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.wait_for_timeout(300)
    picture = "document.getElementById('cloth').toDataURL()"
    whole = page.evaluate(picture)
    page.get_by_role("button", name="Show Keel alone").click()
    expect(page.get_by_role("button", name="Show Keel alone")).to_have_attribute("aria-pressed", "true")
    page.wait_for_timeout(200)
    assert page.evaluate(picture) != whole
    page.get_by_role("button", name="Show Keel alone").click()
    page.wait_for_timeout(200)
    assert page.evaluate(picture) == whole
    assert page.faults == []


def test_stops_are_shared_and_the_run_sheet_is_fetched(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    expect(page.locator(".stack-saves")).to_contain_text("2 stops")
    page.get_by_role("button", name="Share stops").click()
    expect(page.locator("#sum")).to_contain_text("4 stops")
    page.goto(f"/jobs/{job.pk}/hand-over/")
    expect(page.locator("table")).to_contain_text("for Sail and Keel")
    with page.expect_download() as got:
        page.get_by_role("link", name="runsheet.pdf").click()
    assert got.value.suggested_filename == "crew-runsheet.pdf" and page.faults == []
