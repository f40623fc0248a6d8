"""From a typed word to the files of a puff cap in a real browser: a typeface judged, caps moved, the foam torn."""

import csv
import io
import json
import re

from playwright.sync_api import expect

from browser.pages import drawn, edited, stitches, to_stage, undone, until, violations
from velamen.core.job.document import Job, brief_for
from velamen.web.jobs import history


def test_a_word_is_typed_judged_sewn_over_foam_its_caps_set_and_handed_over(page, shop, maren):
    job = history.create(shop, maren, Job(name="Tide cap", brief=brief_for("cap", "cap130x60")))
    page.goto(f"/jobs/{job.pk}/artwork/")
    form = page.locator('form.lettering[data-do="text"]')
    form.get_by_role("textbox", name="Text").fill("TIDE")
    form.get_by_label("Sewn as").select_option("puff")
    form.get_by_label("Typeface").select_option("graduate")
    told = form.locator(".judged-told")
    expect(told).to_contain_text("3 of 4 fall short (T, D, E)")
    form.get_by_label("Typeface").select_option("rubik")
    expect(told).to_contain_text("fits, strokes 5.7")
    assert violations(page) == []
    with edited(page):
        form.get_by_role("button", name="Set text").click()

    to_stage(page, "3")
    drawn(page)
    before = stitches(page)
    expect(page.locator("#values")).to_contain_text("Foam tears clean")
    page.get_by_text("Caps, one by one").click()
    rows = page.locator("details.places tbody tr")
    expect(rows).to_have_count(5)  # of the E
    assert violations(page) == []
    rows.first.get_by_label("Cap 1").select_option("no")
    expect(page.locator("#values")).to_contain_text("Foam does not tear clean")
    until(page, "count => Number(document.body.dataset.plan) < count", before)
    rows.first.get_by_role("button", name="Number 1 as it was found").click()
    expect(page.locator("#values")).to_contain_text("Foam tears clean")
    drawn(page, before)

    page.locator("details.places tbody tr").nth(1).hover()  # its handles show; its number is dragged along the edge
    x, y = (float(one) for one in rows.nth(1).get_attribute("data-line").split(" ")[3].split(","))
    box = page.locator("#cloth").bounding_box()
    scale = min((box["width"] - 52) / 140, (box["height"] - 68) / 70)  # as cloth.js fits a hoop of 130 x 60
    at = (box["x"] + box["width"] / 2 + scale * x, box["y"] + box["height"] / 2 + scale * y)
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 1.0 * scale, at[1], steps=4)
    page.mouse.up()
    expect(page.locator("[data-key=undo]")).to_have_attribute("title", re.compile(r"cap shift -?(0\.[89]|1\.[012])"))
    undone(page)
    drawn(page, before)

    to_stage(page, "5")
    with page.expect_download() as got:
        page.get_by_role("link", name="stitches.csv").click()
    sewn = list(csv.DictReader(io.StringIO(got.value.path().read_text())))
    assert {"cap", "column"} <= {row["role"] for row in sewn}
    assert sum(row["command"] == "stitch" for row in sewn) == before
    with page.expect_download() as got:
        page.get_by_role("link", name="report.json").click()
    report = json.loads(got.value.path().read_text())
    assert report["proofs"]["foam_tear"]["held"]
    assert [one["kind"] for one in report["steps"] if one["kind"] != "look"][:2] == ["lay", "tear_foam"]
    assert page.faults == []
