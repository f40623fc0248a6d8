"""From artwork to six patches and their files, in a real browser; the hooping on the cloth, and recipes by picture."""

import csv
import io
import re

from playwright.sync_api import expect

from browser.pages import drawn, stitches, to_stage, until, violations

ART = """<svg xmlns="http://www.w3.org/2000/svg" width="44mm" height="40mm" viewBox="0 0 44 40">
<path id="Hull" d="M4 26 L40 26 L34 36 L10 36 Z"/><path id="Sail" d="M22 2 L22 23 L6 23 Z"/></svg>"""


def test_from_artwork_to_six_patches_and_their_files(page, tmp_path):
    (tmp_path / "boat.svg").write_text(ART)
    page.goto("/jobs/new/")
    assert violations(page) == []
    page.get_by_label("Badge on film").check(force=True)
    expect(page.get_by_label("Sewn on")).to_be_hidden()
    page.get_by_role("textbox", name="Name").fill("Boat badge")
    page.get_by_label("Artwork").set_input_files(tmp_path / "boat.svg")
    page.get_by_role("button", name="Begin").click()
    drawn(page)
    alone = stitches(page)
    page.locator('.stack-head:has-text("Badge")').click()
    expect(page.locator("#values")).to_contain_text("Edge cover held")
    outline = page.locator('select[name="patch_outline"]')
    expect(outline).to_have_value("circle")

    to_stage(page, "5")
    page.get_by_label("Columns").fill("2")
    page.get_by_label("Rows").fill("3")
    page.get_by_role("button", name="Repeat", exact=True).click()
    expect(page.locator("main")).to_contain_text("6 together")
    page.get_by_label("Pieces wanted").fill("20")
    page.get_by_role("button", name="What they need").click()
    expect(page.locator("table.needs")).to_contain_text("4 hoopings of 6, the last with 2")
    assert violations(page) == []
    with page.expect_download() as got:
        page.get_by_role("link", name="stitches.csv").click()
    rows = list(csv.DictReader(io.StringIO(got.value.path().read_text())))
    assert sum(row["command"] == "stitch" for row in rows) == 6 * alone
    with page.expect_download() as got:
        page.get_by_role("link", name="cut.svg").click()
    assert len(re.findall('id="cut-', got.value.path().read_text())) >= 6

    to_stage(page, "3")
    drawn(page, 6 * alone)
    expect(page.locator("#at")).to_contain_text("Badge")
    expect(page.locator("#sum")).to_contain_text("6 ×")
    box = page.locator("#cloth").bounding_box()
    scale = min((box["width"] - 52) / 210, (box["height"] - 68) / 310)
    seen = set()
    for side in (-1, 1):
        for row in (-1, 0, 1):
            at = {"x": box["width"] / 2 + scale * side * 33, "y": box["height"] / 2 + scale * row * 66 + scale * 11}
            page.locator("#cloth").click(position=at)
            until(page, "() => !document.querySelector('.htmx-request')")
            seen.add(page.locator("#values .piece-name").input_value())
    assert seen <= {"Hull", "Sail", "Badge"} and len(seen) < 3  # the same place of every copy
    page.locator("#cloth").focus()
    page.keyboard.press("h")
    drawn(page, alone)
    page.keyboard.press("h")
    drawn(page, 6 * alone)
    page.keyboard.press("Home")
    page.keyboard.press("PageDown")
    expect(page.locator("#hands")).to_contain_text("Stop 1")
    assert page.faults == []


def test_a_build_is_kept_and_put_round_other_pieces(page, shop, maren, job):
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.get_by_text("Add a ground, border or patch").click()
    page.get_by_role("button", name="Make a patch of it").click()
    expect(page.locator(".stack-head .name").last).to_have_text("Patch")
    page.get_by_text("Add a ground, border or patch").click()  # it has folded away, so that the Stack is seen
    page.get_by_label("Name of the recipe").fill("Crew patch")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("status").filter(has_text="Kept as")).to_contain_text("Crew patch")
    page.goto("/library/recipes/")
    expect(page.get_by_role("heading", name="Crew patch")).to_be_visible()
    assert violations(page) == []
    page.get_by_role("button", name="Remove Crew patch").click()
    expect(page.get_by_role("heading", name="Crew patch")).to_have_count(0)
    assert page.faults == []
