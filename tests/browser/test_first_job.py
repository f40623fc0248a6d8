"""The main job in a real browser: sign in, bring in an outline, decide, sew, prove, hand over."""

import csv
import io
import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from browser.pages import drawn, stitches, to_stage, undone, violations


def begin(page, tmp_path, art):
    file = tmp_path / "buoy.svg"
    file.write_text(art)
    page.goto("/")
    page.get_by_role("link", name="New job").click()
    page.get_by_role("textbox", name="Name").fill("Buoy towel")
    page.get_by_label("Sewn on").select_option("firm_woven")
    page.get_by_label("Artwork").set_input_files(file)
    page.get_by_role("button", name="Begin").click()
    drawn(page)


def inked(page):
    """How many points of the cloth canvas carry thread of the piece's own red."""
    return page.evaluate(
        """() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => {
            const canvas = document.getElementById('cloth');
            const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data;
            let count = 0;
            for (let at = 0; at < data.length; at += 4) if (data[at] > 140 && data[at + 1] < 95 && data[at + 2] < 95) count++;
            done(count);
        })))"""
    )


def test_from_outline_to_files(page, tmp_path, art):
    begin(page, tmp_path, art)
    values = page.locator("#values")
    expect(values).to_contain_text("% firm woven")
    before = stitches(page)

    to_stage(page, "1")
    page.get_by_label("Sewn on").select_option("terry")
    page.get_by_role("button", name="Save as the base asks").click()
    expect(page.locator("main")).to_contain_text("What the new brief would change")
    page.get_by_role("button", name="Change all").click()
    expect(page.locator("main")).not_to_contain_text("What the new brief would change")
    expect(page.locator("#brief")).to_be_visible()
    to_stage(page, "3")
    drawn(page)
    expect(values).to_contain_text("% terry towel")
    assert stitches(page) != before

    page.locator("#cloth").focus()
    page.keyboard.press("Home")
    assert inked(page) == 0
    page.keyboard.press("PageDown")
    expect(page.locator("#hands")).to_contain_text("Stop 1: Lay sail red cotton")
    page.keyboard.press("PageDown")
    expect(page.locator("#hands")).to_contain_text("Stop 2: Trim sail red cotton")
    expect(page.locator(".stack-row.now")).to_contain_text("Trim")
    untrimmed = inked(page)
    page.keyboard.press("ArrowRight")
    trimmed = inked(page)
    assert untrimmed > 1.1 * trimmed > 2000  # larger than its shape until the hands have trimmed it
    page.keyboard.press("End")
    expect(page.locator("#hands")).to_be_hidden()
    expect(page.locator("#at")).to_contain_text("Cover, satin 3.0")

    page.get_by_role("link", name="Hand over").click()
    with page.expect_download() as stitch_file:
        page.get_by_role("link", name="stitches.csv").click()
    with page.expect_download() as cut_file:
        page.get_by_role("link", name="cut.svg").click()
    rows = list(csv.DictReader(io.StringIO(Path(stitch_file.value.path()).read_text())))
    assert stitch_file.value.suggested_filename == "buoy-towel-stitches.csv"
    assert sum(row["command"] == "stitch" for row in rows) == stitches_of_report(page)
    assert [row["note"].split()[0] for row in rows if row["command"] == "stop"] == ["Lay", "Trim"]
    assert 'id="cut-p1"' in Path(cut_file.value.path()).read_text()
    assert page.faults == []


def stitches_of_report(page):
    text = page.locator(".facts div", has_text="Stitches").locator("dd").inner_text()
    return int("".join(char for char in text if char.isdigit()))


def test_values_undo_and_conflict(page, tmp_path, art):
    begin(page, tmp_path, art)
    first = stitches(page)
    width = page.locator("#v-cover_width")
    width.fill("4.5")
    width.press("Tab")
    expect(page.locator("#values")).to_contain_text("matched would be 3.0 mm")
    expect(page.locator("body")).not_to_have_attribute("data-plan", str(first))
    page.locator("#v-cover_spacing").fill("99")
    page.locator("#v-cover_spacing").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Spacing 99 is out of bounds: use 0.15 to 3 mm.")

    page.locator("#cloth").focus()
    undone(page)
    expect(page.locator("#v-cover_width")).to_have_value("3.0")
    drawn(page, first)
    undone(page, "Control+Shift+z")
    expect(page.locator("#v-cover_width")).to_have_value("4.5")

    other = page.context.new_page()
    other.goto(page.url)
    other.locator("#v-cover_share").fill("50")
    other.locator("#v-cover_share").press("Tab")
    expect(other.locator("#values")).to_contain_text("matched would be 60")
    page.locator("#v-cover_width").fill("4.0")
    page.locator("#v-cover_width").press("Tab")
    told = page.locator("#told")
    expect(told).to_contain_text("Somebody saved this job in between.")
    told.get_by_role("button", name="Go back to version").click()
    expect(page.locator("#v-cover_width")).to_have_value("4.0")
    expect(page.locator("#v-cover_share")).to_have_value("60")


def test_sewing_looks_and_view(page, tmp_path, art):
    begin(page, tmp_path, art)
    page.locator("#cloth").focus()
    page.keyboard.press("Home")
    page.get_by_label("Speed").select_option("100×")
    page.get_by_role("button", name="Sew or pause").click()
    expect(page.locator("#hands")).to_contain_text("Stop 1")  # it waits where hands are needed
    expect(page.locator(".play")).not_to_have_class("play on")
    at = page.locator("#at").inner_text()
    page.get_by_role("button", name="Stitch on").click()
    assert page.locator("#at").inner_text() != at
    line = page.locator("#sewline")
    box = line.bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.6, box["y"] + 30)
    total = int(line.get_attribute("aria-valuemax"))
    assert abs(int(line.get_attribute("aria-valuenow")) - 0.6 * total) <= 0.02 * total

    page.get_by_role("button", name="Thread look").click()
    expect(page.get_by_role("button", name="Thread look")).to_have_attribute("aria-pressed", "true")
    scale = "() => document.getElementById('cloth').getContext('2d').getTransform().a"
    near = page.evaluate(scale)
    page.get_by_role("button", name="Zoom in").click()
    page.keyboard.press("End")
    assert inked(page) > 1000
    assert near > 0
    assert page.faults == []


@pytest.mark.parametrize("stage", ["brief", "artwork", "build", "prove", "hand-over"])
def test_stages_pass_accessibility_checks(page, job, stage):
    page.goto(f"/jobs/{job.pk}/{stage}/")
    if stage == "build":
        drawn(page)
    found = violations(page)
    assert found == []


def test_board_and_forms_pass_accessibility_checks(page, job):
    for address in ("/", "/jobs/new/"):
        page.goto(address)
        assert violations(page) == [], address


def colour_at(page, x, y):
    """Colour of the cloth canvas at a place in mm, as red, green, blue."""
    return page.evaluate(
        """([x, y]) => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => {
            const canvas = document.getElementById('cloth');
            const box = canvas.getBoundingClientRect();
            const scale = Math.min((box.width - 52) / 110, (box.height - 68) / 110);
            const ratio = canvas.width / box.width;
            const at = [(box.width / 2 + x * scale) * ratio, (box.height / 2 + y * scale) * ratio];
            done([...canvas.getContext('2d').getImageData(...at.map(Math.round), 1, 1).data].slice(0, 3));
        })))""",
        [x, y],
    )


def two_layers(shop, maren):
    """A big red piece with a smaller blue one on its edge, in a 100 x 100 field."""
    from velamen.core.artwork.svg import read_svg
    from velamen.core.edits.shapes.bring_in import bring_in
    from velamen.core.job.document import Job, brief_for, change
    from velamen.web.jobs import history

    text = (
        '<svg xmlns="http://www.w3.org/2000/svg" width="80mm" height="60mm" viewBox="0 0 80 60">'
        '<rect id="Deck" width="60" height="60"/><circle id="Buoy" cx="60" cy="30" r="20"/></svg>'
    )
    document = bring_in(Job(name="Layers", brief=brief_for("terry", "h100x100")), read_svg(text.encode()), "applique")
    deck, buoy = document.pieces
    buoy = change(buoy, cloth="harbour_blue", thread="119")
    return history.create(shop, maren, change(document, pieces=[deck, buoy]))


def test_cloth_hides_what_was_sewn_before_it(page, shop, maren):
    job = two_layers(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator("#cloth").focus()
    page.keyboard.press("Home")
    for _ in range(3):  # past laying and trimming of the deck, to the laying of the buoy
        page.keyboard.press("PageDown")
    expect(page.locator("#hands")).to_contain_text("Stop 3: Lay harbour blue")
    red, _, blue = colour_at(page, 20, 8)
    page.keyboard.press("End")
    after = colour_at(page, 20, 8)  # on the deck's cover, under the buoy
    assert after[2] > after[0] + 30, (after, red, blue)
    assert colour_at(page, -20, 8)[0] > 150  # the deck itself stays red
    assert page.faults == []


def test_the_stack_leads_to_each_step(page, shop, maren):
    job = two_layers(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.get_by_role("button", name=re.compile("^Deck")).click()
    expect(page.locator("#piece-name")).to_have_value("Deck")
    page.locator(".stack-row", has_text="Trim sail red").click()
    expect(page.locator("#hands")).to_contain_text("Stop 2: Trim sail red cotton for Deck")
    page.locator(".stack-piece.open .stack-row", has_text="Cover").click()
    expect(page.locator("#at")).to_contain_text("Cover, satin 3.0 · Deck")
    page.locator("#piece-thread").select_option("133")
    expect(page.locator("#values")).to_contain_text("133 Lamp")
    expect(page.locator("#piece-name")).to_have_value("Deck")
    page.keyboard.press("Escape")


def test_a_bad_upload_is_told_and_the_form_stays(page, tmp_path):
    file = tmp_path / "bow.svg"
    file.write_text('<svg xmlns="http://www.w3.org/2000/svg"><path id="bow" d="M0 0L90 90 L90"/></svg>')
    page.goto("/")
    page.get_by_role("link", name="New job").click()
    page.get_by_role("textbox", name="Name").fill("Bow")
    page.get_by_label("Artwork").set_input_files(file)
    page.get_by_role("button", name="Begin").click()
    expect(page.locator("main")).to_contain_text("The outline 'bow' cannot be read")
    expect(page.get_by_role("textbox", name="Name")).to_have_value("Bow")


def test_signing_out_and_other_shops(page, job, stranger):
    page.goto("/")
    page.get_by_role("button", name="Sign out").click()
    page.get_by_label("Username").fill("ivo")
    page.get_by_label("Password").fill("tide-and-thread")
    page.get_by_role("button", name="Sign in").click()
    expect(page.locator("main")).to_contain_text("No jobs yet")
    answer = page.goto(f"/jobs/{job.pk}/build/")
    assert answer.status == 404
    expect(page.locator("main")).to_contain_text("Nothing is here")
