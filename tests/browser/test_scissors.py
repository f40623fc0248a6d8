"""What is finished with scissors, in a real browser: a guide dragged with its bars, an appliqué made chenille."""

import json
import re

from playwright.sync_api import expect
from shapely import Point, box

from browser.pages import drawn, stitches, to_stage, undone, until, violations
from core.jobs import job_of
from velamen.core.job.document import change
from velamen.web.jobs import history


def test_a_guide_is_laid_dragged_with_its_bars_moved_by_keys_and_undone(page, shop, maren):
    document = job_of(box(-30, -15, 30, 15), base="firm_woven", hoop="h130x180", name="Napkin")
    pieces = [change(one, construct="cutwork") for one in document.pieces]
    job = history.create(shop, maren, change(document, pieces=pieces))
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.get_by_text("Guide lines").click()
    page.get_by_role("button", name="Lay a guide line").click()
    row = page.locator("form.guide")
    expect(row).to_have_count(1)
    assert violations(page) == []
    until(page, "() => Number(document.body.dataset.plan) > 0")
    line = [tuple(map(float, one.split(","))) for one in row.get_attribute("data-line").split(" ")]
    box_ = page.locator("#cloth").bounding_box()
    scale = min((box_["width"] - 52) / 140, (box_["height"] - 68) / 190)  # as cloth.js fits a hoop of 130 x 180
    x, y = line[len(line) // 2]
    at = (box_["x"] + box_["width"] / 2 + scale * x, box_["y"] + box_["height"] / 2 + scale * y)
    page.mouse.move(*at)
    page.mouse.down()
    with page.expect_response(re.compile("/led/")) as told:
        page.mouse.move(at[0], at[1] - 9 * scale, steps=3)
    assert len(json.loads(told.value.body())["lines"]) >= 4  # bars come while it is held
    page.mouse.up()
    expect(page.locator("[data-key=undo]")).to_have_attribute("title", re.compile("Guide line bent"))
    points = [tuple(map(float, one.split(","))) for one in row.get_attribute("data-line").split(" ")]
    assert abs(points[len(points) // 2][1] - (y - 9)) < 0.6 and abs(points[0][1] - line[0][1]) < 0.1
    page.get_by_role("button", name="Bend line 1").click()
    for _ in range(3):
        page.keyboard.press("ArrowDown")
    with page.expect_response(re.compile("/guide/")):
        page.keyboard.press("Enter")
    expect(row).to_have_attribute("data-line", re.compile(rf"^-30\.00,{line[0][1] + 3:.2f} "))
    expect(page.locator("#values")).to_contain_text("Bars hold the opening")
    undone(page)
    drawn(page)
    assert page.faults == []


def test_an_applique_with_a_face_is_made_chenille_and_handed_over(page, shop, maren):
    document = job_of(box(-30, -25, 30, 25), Point(0, 0).buffer(8), base="felt", hoop="h130x180", name="Cushion")
    cloth, face = document.pieces
    document = change(document, pieces=[cloth, change(face, construct="fill", on=cloth.id)])
    job = history.create(shop, maren, document)
    page.goto(f"/jobs/{job.pk}/build/?piece=p1")
    drawn(page)
    before = stitches(page)
    page.get_by_text("Threads, start and end").click()
    expect(page.locator("#values")).to_contain_text("second tack-down, cover and their values are dropped")
    page.get_by_role("button", name="Make it chenille").click()
    until(page, "count => Number(document.body.dataset.plan) !== count", before)
    expect(page.locator("#values")).to_contain_text("Channels can be cut")
    expect(page.locator("#stack")).to_contain_text("Channels 6.5")
    expect(page.locator("#stack")).not_to_contain_text("Cover")
    to_stage(page, "4")
    expect(page.locator("main")).to_contain_text("m to cut, about")
    to_stage(page, "5")
    with page.expect_download() as got:
        page.get_by_role("link", name="report.json").click()
    report = json.loads(got.value.path().read_text())
    assert report["proofs"]["channels"]["held"]
    assert [one["kind"] for one in report["steps"]][-4:] == ["lay", "slit", "trim", "brush"]
    assert page.faults == []
