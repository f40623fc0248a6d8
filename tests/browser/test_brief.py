"""Changing the base with preview, inches, the library and the Section view, in a real browser."""

import re

import pytest
from playwright.sync_api import expect

from browser.pages import comes, drawn, stitches, to_stage, undone, violations
from velamen.core.job.document import change
from velamen.web.jobs import history


def brief(page, job):
    page.goto(f"/jobs/{job.pk}/brief/")
    expect(page.locator("#follows")).to_contain_text("What the base asks for")


def test_changing_the_base_with_preview(page, job):
    brief(page, job)
    page.get_by_label("Sewn on").select_option("jersey")
    follows = page.locator("#follows")
    expect(follows).to_contain_text("Not saved yet. Saving would change 2 values")
    expect(follows).to_contain_text("does not stay: the design will wave in wear")
    follows.locator("tr", has_text="Topping").get_by_role("button", name="Use").click()
    expect(page.get_by_label("Topping")).to_have_value("none")
    expect(follows.locator("tr", has_text="Topping")).to_contain_text("taken")
    page.get_by_role("button", name="Save brief").click()

    expect(page.locator("h1")).to_have_text("What the new brief would change")
    row = page.locator("tr", has_text="Cover: pull")
    expect(row).to_contain_text("0.40 mm")
    expect(row).to_contain_text("a stretch knit without cut-away under it")
    expect(page.locator("#take-some")).to_have_text("Change ticked (2)")
    assert violations(page) == []
    row.get_by_role("checkbox").uncheck()
    expect(page.locator("#take-some")).to_have_text("Change ticked (1)")
    assert page.locator("[data-all]").evaluate("box => box.indeterminate")
    page.locator("[data-all]").check()
    row.get_by_role("checkbox").uncheck()
    page.locator("#take-some").click()

    expect(page.get_by_label("Sewn on")).to_have_value("jersey")
    to_stage(page, "3")
    drawn(page)
    expect(page.locator("#values")).to_contain_text("own value · matched would be 0.45 mm")
    page.locator("#cloth").focus()
    undone(page)
    expect(page.locator("#values")).to_contain_text("% terry towel")
    expect(page.locator("#values")).not_to_contain_text("matched would be")
    assert page.faults == []


def test_preview_can_be_left_without_a_trace(page, job):
    brief(page, job)
    page.get_by_label("Sewn on").select_option("fur")
    page.get_by_role("button", name="Save brief").click()
    page.get_by_role("link", name="Back, change nothing").click()
    expect(page.get_by_label("Sewn on")).to_have_value("terry")
    job.refresh_from_db()
    assert job.revisions.count() == 1


def test_inches_and_millimetres(page, job):
    brief(page, job)
    width = page.get_by_label("Finished width")
    width.fill('2 1/2"')
    page.get_by_role("button", name="Save brief").click()
    expect(width).to_have_value("63.5")
    expect(page.locator("#follows")).to_contain_text("The design sews 63.5 ×")
    page.get_by_role("button", name="mm · in").click()
    expect(width).to_have_value("2.50")
    expect(page.locator("#follows")).to_contain_text("The design sews 2.50 × 2.50 in")
    width.fill("3")
    page.get_by_role("button", name="Save brief").click()
    expect(width).to_have_value("3.00")
    width.fill("76.2 mm")
    page.get_by_role("button", name="Save brief").click()
    expect(width).to_have_value("3.00")
    width.fill("a hand")
    page.get_by_role("button", name="Save brief").click()
    expect(page.get_by_role("alert")).to_contain_text("is no length: write it like 63.5, 2.5 in or 2 1/2")
    expect(width).to_have_value("a hand")
    page.goto(f"/jobs/{job.pk}/hand-over/")
    expect(page.locator("main")).to_contain_text("3.00 × 3.00 in")
    page.goto(f"/jobs/{job.pk}/artwork/")
    expect(page.locator(".list-foot")).to_contain_text("outlines 2.83 × 2.83 in")
    assert not [fault for fault in page.faults if "422" not in fault]


def test_section_follows_the_needle_and_can_be_placed(page, job):
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    section = page.locator("#section")
    told = re.compile("wash-away fabric, terry towel, sail red")  # the topping is gone once all is sewn
    expect(section).to_have_attribute("aria-label", told)
    page.locator("#cloth").focus()
    page.keyboard.press("Home")
    expect(section).to_have_attribute("aria-label", re.compile("wash-away topping; 0 stitches cross it"))
    page.keyboard.press("PageDown")
    page.keyboard.press("PageDown")
    expect(section).to_have_attribute("aria-label", re.compile("sail red cotton; [1-9]"))
    before = section.evaluate("canvas => canvas.toDataURL()")
    expect(page.locator("#section-where")).to_have_text("Section at the needle")

    page.get_by_role("button", name="Section line").click()
    expect(page.locator("#section-where")).to_have_text("Section along the cut")
    page.keyboard.press("End")
    page.keyboard.press("Alt+ArrowLeft")
    page.keyboard.press(".")
    drawing = "document.getElementById('section').toDataURL()"
    assert comes(page, drawing, lambda now: now != before) != before
    box = page.locator("#cloth").bounding_box()
    with page.expect_response(re.compile("section.json")) as asked:
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.locator("#cloth").focus()
        page.keyboard.press("Alt+ArrowDown")
    assert asked.value.ok
    with page.expect_response(re.compile("section.json")):  # back to the needle at once
        page.keyboard.press("c")
    expect(page.locator("#section-where")).to_have_text("Section at the needle")
    assert page.faults == []


def test_dragging_the_cut(page, job):
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator("#cloth").focus()
    page.keyboard.press("Home")  # the cut lies in the middle of the field
    page.get_by_role("button", name="Section line").click()
    box = page.locator("#cloth").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    with page.expect_response(re.compile(r"section.json\?x=(?!0\.000)")) as moved:
        page.mouse.move(x + 60, y, steps=4)
    page.mouse.up()
    assert moved.value.ok
    page.mouse.move(x + 60 + 46, y)
    page.mouse.down()
    with page.expect_response(re.compile(r"angle=1\.5")) as turned:
        page.mouse.move(x + 60, y + 46, steps=6)
    page.mouse.up()
    assert turned.value.ok and page.faults == []


@pytest.mark.parametrize(
    "address", ["bases/", "threads/?near=%23b0362f", "cloths/", "bases/terry/", "presets/", "rules/"]
)
def test_the_library_passes_accessibility_checks(page, address):
    page.goto(f"/library/{address}")
    assert violations(page) == []


def test_a_row_changed_in_the_library_reaches_a_job_by_its_brief(page, job):
    page.goto("/library/bases/")
    page.get_by_role("link", name="Terry towel").click()
    page.get_by_label("Pull, per side").fill("0.55")
    page.get_by_role("button", name="Save").click()
    expect(page.locator("#told")).to_contain_text("Terry towel saved.")
    brief(page, job)
    expect(page.locator("main")).to_contain_text("Changed in the library since this job took it: Terry towel.")
    page.get_by_role("button", name="Save brief").click()
    expect(page.locator("tr", has_text="Cover: pull")).to_contain_text("0.55")
    page.get_by_role("button", name="Change all").click()
    expect(page.locator("main")).not_to_contain_text("Changed in the library")


def test_the_rule_table_is_narrowed_by_words(page):
    page.goto("/library/rules/")
    rows = page.locator(".rule-table tbody tr:visible")
    every = rows.count()
    page.get_by_label("Search rules").fill("foam spacing")
    assert 0 < rows.count() < every
    expect(rows.first).to_contain_text("foam")
    page.get_by_label("Search rules").fill("no such thing")
    expect(page.locator("#no-rule")).to_be_visible()


def test_presets_and_foam_in_build(page, job, shop, maren):
    document = job.head.read()
    piece = change(document.pieces[0], own={"padding": "foam_2"})
    history.save(job, 1, maren, change(document, pieces=[piece]), "foam")
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    expect(page.locator("#stack")).to_contain_text("Foam 2 mm")
    expect(page.locator("#values")).to_contain_text("half of 0.40, because 2 mm foam lies under it")
    first = stitches(page)
    page.get_by_text("Presets, motif", exact=True).click()
    page.get_by_label("Name of the preset").fill("Raised edge")
    page.locator(".presets").get_by_role("button", name="Save").click()
    expect(page.locator(".said")).to_have_text("Saved as Raised edge.")
    expect(page.locator(".htmx-added")).to_have_count(0)  # the swapped panel listens
    page.locator("#v-padding").select_option("none")
    expect(page.locator("body")).not_to_have_attribute("data-plan", str(first))
    page.get_by_label("Preset", exact=True).select_option(label="Raised edge")
    page.locator(".presets").get_by_role("button", name="Set").click()
    drawn(page, first)
    assert page.faults == []
