"""The drawing board in a real browser: draw, choose, drag, size, turn, combine, nudge, undo."""

import math
import re

from playwright.sync_api import expect

from browser.pages import violations


def board(page, job):
    page.goto(f"/jobs/{job.pk}/artwork/")
    expect(page.locator("#shapes path")).to_have_count(len(job.head.read().shapes))


def draw(page, title):
    page.locator(".basics summary", has_text=title).click()
    page.locator(".basics details[open]").get_by_role("button", name="Draw").click()
    expect(page.locator('[role=option][aria-selected="true"]')).to_contain_text(title)


def box(page, nth=-1):
    return [float(one) for one in page.locator("#shapes path").nth(nth).get_attribute("data-box").split()]


def middle(page, selector):
    found = page.locator(selector).bounding_box()
    return found["x"] + found["width"] / 2, found["y"] + found["height"] / 2


def drag(page, begin, end):
    page.mouse.move(*begin)
    page.mouse.down()
    page.mouse.move(*end, steps=6)
    with page.expect_response(re.compile("artwork/edit")):
        page.mouse.up()


def test_a_shape_is_drawn_dragged_sized_and_turned(page, job):
    board(page, job)
    draw(page, "Star")
    assert violations(page) == []
    left, _, right, _ = box(page)
    x, y = middle(page, "#board")
    drag(page, (x, y), (x + 100, y + 40))
    expect(page.locator("#shapes path").nth(-1)).not_to_have_attribute("data-box", re.compile(f"^{left}"))
    moved = box(page)
    assert moved[0] > left + 5 and moved[2] - moved[0] == right - left
    handle = page.locator('[data-grip="size"]').nth(2).bounding_box()
    drag(page, (handle["x"] + 5, handle["y"] + 5), (handle["x"] + 45, handle["y"] + 45))
    expect(page.locator("#shapes path").nth(-1)).not_to_have_attribute(
        "data-box", " ".join(f"{one:g}" for one in moved)
    )
    assert box(page)[2] - box(page)[0] > right - left + 3
    knob = page.locator('[data-grip="turn"]').bounding_box()
    before = box(page)
    drag(page, (knob["x"] + 6, knob["y"] + 6), (knob["x"] + 90, knob["y"] + 60))
    expect(page.locator("#shapes path").nth(-1)).not_to_have_attribute(
        "data-box", " ".join(f"{one:g}" for one in before)
    )
    assert page.faults == []


def test_choosing_combining_and_undoing(page, job):
    board(page, job)
    draw(page, "Circle")
    expect(page.get_by_role("button", name="Join")).to_be_disabled()
    page.locator("[role=option]", has_text="Buoy").click(modifiers=["Shift"])
    expect(page.locator("#chosen-title")).to_have_text("2 shapes")
    page.get_by_role("button", name="Join").click()
    expect(page.locator("#shapes path")).to_have_count(1)
    page.locator("#board").focus()
    page.keyboard.press("Control+z")
    expect(page.locator("#shapes path")).to_have_count(2)
    page.locator("#board").focus()
    page.keyboard.press("a")
    expect(page.locator("#chosen-title")).to_have_text("2 shapes")
    page.keyboard.press("Escape")
    expect(page.locator("#chosen-title")).to_be_hidden()


def test_box_choosing_and_nudging(page, job):
    board(page, job)
    frame = page.locator("#board").bounding_box()
    page.mouse.move(frame["x"] + 8, frame["y"] + 8)
    page.mouse.down()
    page.mouse.move(frame["x"] + frame["width"] - 8, frame["y"] + frame["height"] - 8, steps=4)
    page.mouse.up()
    expect(page.locator('[role=option][aria-selected="true"]')).to_have_count(1)
    left = box(page)[0]
    page.locator("#board").focus()
    with page.expect_response(re.compile("artwork/edit")):
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#shapes path")).to_have_attribute("data-box", re.compile(rf"^{left + 13:g}(\.0)? "))
    page.locator("#board").focus()
    page.keyboard.press("Delete")
    expect(page.locator("main")).to_contain_text("No shapes yet")


def test_sizes_by_number_outlines_and_sentences(page, job):
    board(page, job)
    page.locator("[role=option]").click()
    page.locator("#shape-width").fill("2 in")
    page.locator("#shape-width").press("Enter")
    expect(page.locator("[role=option]")).to_contain_text("50.8 × 50.8 mm")
    page.locator("summary", has_text="Even outline").click()
    page.get_by_role("button", name="Draw outline").click()
    expect(page.locator("#shapes path")).to_have_count(2)
    expect(page.locator('[role=option][aria-selected="true"]')).to_contain_text("58.8 × 58.8 mm")
    page.locator("summary", has_text="Even outline").click()
    page.get_by_label("Distance").fill("wide")
    page.get_by_role("button", name="Draw outline").click()
    expect(page.get_by_role("alert")).to_contain_text("Distance cannot be 'wide': use -60 to 60 mm.")
    page.keyboard.press("3")
    expect(page.locator("#stack")).to_contain_text("Buoy outline")


def test_points_are_dragged_added_and_removed(page, job):
    board(page, job)
    page.locator("[role=option]").click()
    page.locator("#board").focus()
    page.keyboard.press("p")
    points = page.locator("[data-point]")
    expect(points).to_have_count(8)  # the outline's four and the cut-out's
    expect(page.get_by_role("button", name="Straighten")).to_be_disabled()
    assert violations(page) == []
    x, y = middle(page, '[data-point="0.2"]')
    drag(page, (x, y), (x + 30, y + 30))
    expect(page.locator("#shapes path")).to_have_attribute("data-box", re.compile(r"^-25(\.0)? -25(\.0)? (2[6-9]|3)"))
    expect(page.locator("#point-count")).to_contain_text("1 of 8 chosen")
    left, _ = middle(page, '[data-point="0.0"]')
    top = middle(page, '[data-point="0.0"]')[1]
    right = middle(page, '[data-point="0.1"]')[0]
    with page.expect_response(re.compile("artwork/edit")):
        page.mouse.click((left + right) / 2, top)
    expect(page.locator("[data-point]")).to_have_count(9)
    page.locator('[data-point="0.1"]').click()
    with page.expect_response(re.compile("artwork/edit")):
        page.keyboard.press("Delete")
    expect(page.locator("[data-point]")).to_have_count(8)
    page.locator('[data-point="1.0"]').click()
    page.get_by_role("button", name="Hole to a shape").click()
    expect(page.locator("#shapes path")).to_have_count(2)
    assert page.faults == []


def test_the_pen_draws_corners_curves_and_freehand(page, job):
    board(page, job)
    frame = page.locator("#board").bounding_box()
    x, y = frame["x"] + 60, frame["y"] + 120
    page.locator("#board").focus()
    page.keyboard.press("n")
    expect(page.get_by_role("button", name="Pen", exact=True)).to_have_attribute("aria-pressed", "true")
    page.mouse.click(x, y)
    page.mouse.click(x + 90, y)
    page.keyboard.down("Shift")
    page.mouse.click(x + 90, y + 90)
    page.keyboard.up("Shift")
    page.mouse.click(x + 10, y + 140)
    page.keyboard.press("Backspace")
    with page.expect_response(re.compile("artwork/edit")):
        page.keyboard.press("Enter")
    expect(page.locator("#shapes path")).to_have_count(2)
    expect(page.locator('[role=option][aria-selected="true"]')).to_contain_text("Outline")
    page.locator("#board").focus()
    page.keyboard.press("d")
    expect(page.locator("#shapes path")).to_have_count(3)

    page.locator("[role=option]", has_text="Buoy").click()
    page.get_by_role("button", name="Cut-out pen").click()
    cx, cy = middle(page, '#shapes path[data-name="Buoy"]')
    page.mouse.move(cx + 95, cy)
    page.mouse.down()
    for step in range(24):
        page.mouse.move(cx + 85 + 14 * math.cos(step / 4), cy + 14 * math.sin(step / 4))
    with page.expect_response(re.compile("artwork/edit")) as drawn:
        page.mouse.up()
    assert drawn.value.ok
    expect(page.locator("[role=option]", has_text="Buoy")).to_contain_text("2 cut-outs")
    assert violations(page) == [] and page.faults == []


def test_the_sheet_of_keys(page, job):
    board(page, job)
    page.locator("#board").focus()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    page.keyboard.press("a")  # nothing happens behind the sheet
    assert violations(page) == []
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog", name="Keys")).to_be_hidden()
    expect(page.locator('[role=option][aria-selected="true"]')).to_have_count(0)
    page.get_by_role("button", name="Keys").click()
    page.get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog", name="Keys")).to_be_hidden()


def test_text_is_set(page, job):
    board(page, job)
    page.locator("#letters").fill("TIDE")
    page.locator('[name="letter_arch"]').fill("8")
    page.get_by_role("button", name="Set text").click()
    expect(page.locator("#shapes path")).to_have_count(5)
    expect(page.locator("#chosen-title")).to_have_text("4 shapes")
    page.keyboard.press("3")
    expect(page.locator("#stack")).to_contain_text("Trim")
    assert page.faults == []
