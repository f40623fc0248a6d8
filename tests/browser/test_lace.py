"""From a picture to lace in a real browser: traced, filled with motifs, put on a net, proved after the rinse."""

import re

from PIL import Image, ImageDraw
from playwright.sync_api import expect

from browser.pages import drawn, to_stage, violations


def shell(path):
    """A picture of a shell, dark on white."""
    image = Image.new("RGB", (420, 340), "white")
    brush = ImageDraw.Draw(image)
    brush.pieslice((20, 20, 400, 400), 200, 340, fill="#7a2f2a")
    brush.ellipse((180, 170, 240, 250), fill="#7a2f2a")
    image.save(path)


def test_from_a_traced_picture_to_lace_that_holds(page, tmp_path):
    shell(tmp_path / "shell.png")
    page.goto("/jobs/new/")
    page.get_by_role("textbox", name="Name").fill("Shell ornament")
    page.get_by_label("Sewn on").select_option("none")
    page.get_by_label("Artwork").set_input_files(tmp_path / "shell.png")
    page.get_by_role("button", name="Begin").click()
    take = page.locator("#take")
    expect(take).to_have_text(re.compile(r"Bring in \d+ shape"))
    expect(take).to_be_enabled()
    take.click()
    expect(page.locator("#shapes path")).not_to_have_count(0)

    to_stage(page, "3")
    drawn(page)
    page.locator(".sewn-as summary").first.click()
    page.get_by_text("Motif fill", exact=True).click()
    expect(page.locator("#values")).to_contain_text("Row shift")
    page.locator("details.motifs summary").first.click()
    page.locator("details.motifs").first.get_by_text("Ring", exact=True).click()
    expect(page.locator("details.motifs summary").first).to_contain_text("Ring")
    assert violations(page) == []
    page.get_by_text("Add a ground, border or patch").click()
    page.get_by_role("button", name="Lace ground").click()
    expect(page.locator(".stack-head .name").last).to_have_text("Lace ground")

    to_stage(page, "4")
    page.get_by_role("link", name="After the rinse").click()
    expect(page.locator(".held-by")).to_contain_text("one part")
    expect(page.locator(".lace-thread")).to_have_count(1)
    expect(page.locator(".held-by li.held", has_text="Rinse")).to_have_count(1)
    assert violations(page) == []
    assert page.faults == []
