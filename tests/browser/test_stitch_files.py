"""From an old stitch file to a new construction and its cut file, in a real browser."""

import re
from importlib.resources import files

from playwright.sync_api import expect

from browser.pages import drawn, violations
from core.jobs import job_of
from velamen.core.job.document import Job as Document
from velamen.core.job.document import brief_for
from velamen.web.jobs import history

BADGE = files("velamen.web.demo").joinpath("old-rope-badge.csv").read_bytes()


def test_an_old_badge_becomes_chenille_under_its_own_rope_with_a_cut_file(page, shop, maren):
    job = history.create(shop, maren, Document(name="Rope", brief=brief_for("felt", "h130x180")))
    page.goto(f"/jobs/{job.pk}/artwork/")
    page.get_by_label("Bring in artwork or a picture").set_input_files(
        {"name": "badge.csv", "mimeType": "text/csv", "buffer": BADGE}
    )
    page.get_by_role("button", name="Bring in", exact=True).click()
    drawn(page, 4987)
    assert violations(page) == []
    parts = page.locator(".stitch-list li")
    expect(parts).to_have_count(34)
    expect(parts.nth(0)).to_contain_text("in the appliqué")
    # on the cloth, then in the list, then all of the appliqué
    place = page.locator("#stitched").bounding_box()
    page.mouse.click(place["x"] + place["width"] / 2, place["y"] + place["height"] / 2 + 20)
    expect(page.locator("#parts-chosen")).to_have_text("1 part")
    expect(parts.nth(33)).to_have_class("chosen")
    page.get_by_role("button", name="Outline", exact=True).click()
    expect(page.get_by_label("Part 34 becomes")).to_have_value("outline")
    page.keyboard.press("Escape")
    expect(page.locator("#parts-chosen")).to_have_text("No part chosen")
    page.get_by_label("Part 4", exact=True).check()
    page.get_by_role("button", name="Drop").click()
    expect(parts.nth(3)).to_have_class(re.compile("dropped"))
    page.get_by_role("button", name="show its parts").click()
    expect(page.locator("#parts-chosen")).to_have_text("3 parts")
    for nth in (1, 2):
        page.get_by_label(f"Part {nth}", exact=True).uncheck()
    with page.expect_download() as cut:
        page.get_by_role("link", name="Cut line SVG").click()
    assert "<path" in cut.value.path().read_text()
    # replay: from the beginning, a part on
    page.locator("#stitched").focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowLeft")
    page.locator("[data-sew=stitch-on]").click()
    expect(page.locator("#sewline")).not_to_have_attribute("aria-valuenow", "4987")
    page.locator("#file-threads summary").click()
    page.get_by_label("Thread of colour 1").select_option("118")
    page.get_by_role("button", name="All in the first one's thread").click()
    expect(page.get_by_label("Thread of colour 3")).to_have_value("118")
    page.get_by_label("Chenille").check()
    page.get_by_role("button", name="Bring in", exact=True).click()
    expect(page.locator(".shape-list li")).to_have_count(3)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    expect(page.locator(".stack-piece")).to_have_count(3)
    expect(page.locator("#stack")).to_contain_text("Cloth")
    page.goto(f"/jobs/{job.pk}/hand-over/")
    with page.expect_download() as cut:
        page.get_by_role("link", name=re.compile("cut.svg|Cut file", re.IGNORECASE)).first.click()
    assert "<path" in cut.value.path().read_text()
    assert page.faults == []


def test_one_repeat_is_cut_at_lines_that_are_dragged(page, shop, maren):
    job = history.create(shop, maren, job_of())
    page.goto(f"/jobs/{job.pk}/artwork/")
    page.get_by_label("Bring in artwork or a picture").set_input_files(
        {"name": "lace.csv", "mimeType": "text/csv", "buffer": BADGE}
    )
    page.get_by_role("button", name="Bring in", exact=True).click()
    drawn(page)
    page.get_by_text("One repeat of a strip").click()
    first = page.get_by_label("From")
    expect(first).not_to_have_value("")
    before = float(first.input_value())
    place = page.locator("#stitched").bounding_box()
    scale = min((place["width"] - 48) / 79, (place["height"] - 48) / 79)
    at = place["x"] + place["width"] / 2 + before * scale, place["y"] + 60
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] - 40, at[1], steps=4)
    page.mouse.up()
    assert float(first.input_value()) < before - 2.0
    page.get_by_role("button", name="Bring in one repeat").click()
    expect(page.locator(".shape-list li").first).to_contain_text("Repeat")
    assert page.faults == []
