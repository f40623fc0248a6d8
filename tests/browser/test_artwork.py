"""The drawing board in a real browser: draw, choose, drag, size, turn, combine, nudge, undo."""

import math
import re

from playwright.sync_api import expect

from browser.pages import edited, to_stage, undone, violations


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
    with edited(page):
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
    sent = page.request.get(page.url).text()  # what is painted first is where it stays
    assert f'viewBox="{page.locator("#board").get_attribute("viewBox")}"' in sent
    draw(page, "Circle")
    expect(page.get_by_role("button", name="Join")).to_be_disabled()
    page.locator("[role=option]", has_text="Buoy").click(modifiers=["Shift"])
    expect(page.locator("#chosen-title")).to_have_text("2 shapes")
    page.get_by_role("button", name="Join").click()
    expect(page.locator("#shapes path")).to_have_count(1)
    page.locator("#board").focus()
    undone(page)
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
    with edited(page):
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
    page.locator('form[data-do="offset"] [name="distance"]').fill("wide")
    page.get_by_role("button", name="Draw outline").click()
    expect(page.get_by_role("alert")).to_contain_text("Distance cannot be 'wide': use -60 to 60 mm.")
    expect(page.locator('form[data-do="offset"] [name="distance"]')).to_have_value("wide")
    to_stage(page, "3")
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
    expect(page.locator(".point-count:visible")).to_contain_text("1 of 8 chosen")
    left, _ = middle(page, '[data-point="0.0"]')
    top = middle(page, '[data-point="0.0"]')[1]
    right = middle(page, '[data-point="0.1"]')[0]
    with edited(page):
        page.mouse.click((left + right) / 2, top)
    expect(page.locator("[data-point]")).to_have_count(9)
    page.locator('[data-point="0.1"]').click()
    with edited(page):
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
    with edited(page):
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


def test_text_stays_live_and_a_letter_is_kerned(page, job):
    board(page, job)
    form = page.locator('form[data-do="text"]')
    form.locator("textarea").fill("TIDE")
    form.get_by_label("Height").fill("5")
    expect(form.locator(".least-height")).to_contain_text("Strokes under 1 mm")
    form.get_by_label("Height").fill("20")
    form.get_by_role("button", name="Set text").click()
    expect(page.locator("#chosen-title")).to_have_text("4 shapes")
    expect(page.locator(".live-title:visible")).to_have_text("Live text")
    assert violations(page) == []
    page.locator("#board").focus()
    page.keyboard.press("Escape")
    before = [box(page, nth) for nth in (-4, -3, -2)]
    x, y = middle(page, '#shapes path[data-name="I"]')
    page.mouse.dblclick(x, y)
    expect(page.locator("#chosen-title")).to_have_text("Shape")
    drag(page, (x, y), (x + 40, y))
    expect(page.locator('[role=option][aria-selected="true"]')).to_contain_text("I")
    after = [box(page, nth) for nth in (-4, -3, -2)]
    assert abs(after[0][0] - before[0][0]) < 0.01
    assert after[1][0] - before[1][0] > 5 and abs(after[2][0] - before[2][0] - (after[1][0] - before[1][0])) < 0.01
    page.reload()
    undone(page)
    expect(page.locator('#shapes path[data-name="I"]')).to_have_attribute(
        "data-box", re.compile(f"^{before[1][0]:g}")
    )
    page.locator("#board").focus()
    page.keyboard.press("a")
    page.locator("[role=option]", has_text="Buoy").click(modifiers=["Shift"])
    live = page.locator('form[data-do="retype"]')
    expect(live.locator("textarea")).to_have_value("TIDE")
    live.locator("textarea").fill("EBB")
    live.get_by_role("button", name="Change text").click()
    expect(page.locator("#chosen-title")).to_have_text("3 shapes")
    page.get_by_role("button", name="Turn into shapes").click()
    expect(page.locator(".live-title:visible")).to_have_count(0)
    assert page.faults == []


def test_an_outline_follows_what_it_goes_round_until_it_is_frozen(page, job):
    board(page, job)
    page.locator("[role=option]").click()
    page.locator("summary", has_text="Even outline").click()
    page.get_by_role("button", name="Draw outline").click()
    expect(page.locator(".live-title:visible")).to_have_text("Outline that follows")
    outline = box(page, 0)
    page.locator("[role=option]", has_text=re.compile("^Buoy(?! outline)")).last.click()
    page.locator("#shape-width").fill("30")
    page.locator("#shape-width").press("Enter")
    expect(page.locator("#shapes path").first).not_to_have_attribute("data-box", re.compile(f"^{outline[0]:g}"))
    assert abs(box(page, 0)[0] - (box(page, 1)[0] - 4)) < 0.02
    page.locator("[role=option]", has_text="Buoy outline").click()
    page.get_by_role("button", name="Freeze").click()
    expect(page.locator(".mark")).to_have_count(0)
    assert violations(page) == [] and page.faults == []


def test_curve_points_are_bent_by_their_handles(page, job):
    board(page, job)
    draw(page, "Circle")
    page.locator("summary", has_text="Mend").click()
    curves = page.locator('form[data-do="curves"]')
    curves.locator("input").fill("0.2")
    expect(page.locator("#after")).to_have_count(1)
    expect(page.locator("#mend-told")).to_contain_text(re.compile(r"\d+ points before, [2-9] after"))
    with edited(page):
        curves.get_by_role("button").click()
    expect(page.locator("#shapes path[data-nodes]")).to_have_count(1)
    page.locator("#board").focus()
    page.keyboard.press("p")
    page.locator('[data-grip="point"]').first.click()
    expect(page.locator('[data-grip="handle"]')).to_have_count(2)
    assert violations(page) == []
    before = page.locator("#shapes path[data-nodes]").get_attribute("data-nodes")
    x, y = middle(page, '[data-side="after"]')
    drag(page, (x, y), (x + 20, y + 24))
    expect(page.locator("#shapes path[data-nodes]")).not_to_have_attribute("data-nodes", before)
    page.get_by_role("button", name="Corner", exact=True).click()
    expect(page.locator("#chosen rect[data-grip=point]")).to_have_count(1)
    assert page.faults == []


def test_a_picture_is_traced_and_taken(page, job):
    from importlib.resources import files

    crab = str(files("velamen.web.demo").joinpath("crab-cushion.png"))
    board(page, job)
    page.locator("#id_artwork").set_input_files(crab)
    page.get_by_role("button", name="Bring in", exact=True).click()
    take = page.locator("#take")
    expect(take).to_have_text(re.compile(r"Bring in \d+ shapes"))
    expect(page.locator("#trace-colours tr")).to_have_count(5)
    page.locator('[name="colours"]').fill("6")
    expect(page.locator("#trace-colours tr")).to_have_count(6)
    expect(take).to_be_enabled()
    count = page.locator("#trace-regions path").count()
    page.locator("#trace-colours select").nth(2).select_option("1")  # the dark red is made the red
    expect(page.locator("#trace-regions path")).not_to_have_count(count)
    expect(take).to_be_enabled()
    assert violations(page) == []
    page.locator("#trace-regions path").nth(1).click()
    count = page.locator("#trace-regions path:not(.left-out)").count()
    expect(take).to_have_text(f"Bring in {count} shapes")
    take.click()
    expect(page.locator("#shapes path")).to_have_count(count + 1)
    expect(page.locator("#shapes path[data-nodes]")).to_have_count(count)
    expect(page.locator("#backdrop")).to_have_count(1)
    page.reload()
    undone(page)
    expect(page.locator("#shapes path")).to_have_count(1)
    page.locator('form[data-do="backdrop"] [name="opacity"]').fill("20")
    page.locator('form[data-do="backdrop"] [name="opacity"]').press("Tab")
    expect(page.locator("#backdrop")).to_have_attribute("opacity", "0.2")
    page.get_by_role("button", name="Remove picture").click()
    expect(page.locator("#backdrop")).to_have_count(0)
    assert page.faults == []


def test_parts_of_artwork_are_chosen_before_they_come_in(page, job, tmp_path):
    art = tmp_path / "three.svg"
    boxes = "".join(f'<rect id="deck {nth}" x="{30 * nth}" width="20" height="20"/>' for nth in range(3))
    art.write_text(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="20mm" viewBox="0 0 100 20">{boxes}</svg>'
    )
    board(page, job)
    page.locator("#id_artwork").set_input_files(str(art))
    page.get_by_role("button", name="Bring in", exact=True).click()
    expect(page.locator("#take-parts")).to_have_text("Bring in 3 parts")
    page.get_by_text("Single parts").click()
    page.get_by_label("deck 1", exact=True).uncheck()
    page.get_by_label("deck 0 comes in as").select_option("fill")
    assert violations(page) == []
    page.get_by_label("Width together").fill("100")
    page.locator("#take-parts").click()
    expect(page.locator("#shapes path")).to_have_count(3)
    assert box(page, 1)[0] == -50 and box(page, 2)[2] == 50 and page.faults == []


def test_copying_to_another_job_locking_hiding_and_grouping(page, job, shop):
    from velamen.core.job.document import Job, brief_for
    from velamen.web.jobs import history

    other = history.create(shop, None, Job(name="Empty deck", brief=brief_for("felt")))
    board(page, job)
    draw(page, "Heart")
    page.keyboard.press("Escape")
    page.locator("#board").focus()
    page.keyboard.press("a")
    page.keyboard.press("g")
    expect(page.locator("#shapes path[data-group]")).to_have_count(2)
    with page.expect_response(re.compile("artwork/copy")):
        page.keyboard.press("c")
    page.keyboard.press("k")
    expect(page.locator(".mark", has_text="locked")).to_have_count(2)
    page.keyboard.press("Delete")
    expect(page.get_by_role("alert")).to_contain_text("is locked: unlock it first.")
    page.keyboard.press("h")
    expect(page.locator("#shapes path[data-hidden]")).to_have_count(2)
    page.goto(f"/jobs/{other.pk}/artwork/")
    page.locator("#board").focus()
    page.keyboard.press("v")
    expect(page.locator("#shapes path[data-group]")).to_have_count(2)
    assert page.locator("#shapes path").count() == 2


def test_dragging_snaps_and_measuring_tells(page, job):
    board(page, job)
    draw(page, "Circle")
    page.keyboard.press("Escape")
    page.locator("[role=option]", has_text="Circle").click()
    page.locator("summary", has_text="Place and line up").click()
    move = page.locator('form[data-do="move"]')
    move.get_by_label("Right").fill("7.3")
    move.get_by_role("button", name="Move").click()
    expect(page.locator("#board-at")).to_contain_text("Middle → 7.3")
    scale = page.evaluate("document.querySelector('#board').getScreenCTM().a")
    x, y = middle(page, '#shapes path[data-name="Circle"]')
    drag(page, (x, y), (x - 6.1 * scale, y))  # a little short of the middle: it goes there
    expect(page.locator("#board-at")).to_contain_text("Middle → 0.0")
    page.keyboard.press("m")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30 * scale, y, steps=3)
    expect(page.locator("#board-at")).to_contain_text(re.compile(r"^\d+\.\d mm · →"))
    page.mouse.up()
    assert page.faults == []


def test_open_lines_dies_and_direction_lines(page, job):
    board(page, job)
    page.locator("summary", has_text="Cutting dies").click()
    page.get_by_role("button", name="Hull 90").click()
    expect(page.locator('[data-hint="stamp"]')).to_be_visible()
    with edited(page):
        page.mouse.click(*middle(page, "#board"))
    with edited(page):  # the die is still in hand
        page.mouse.click(middle(page, "#board")[0], middle(page, "#board")[1] - 60)
    expect(page.locator("#shapes path[data-die]")).to_have_count(2)
    expect(page.get_by_role("button", name="Hull 90")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Escape")
    with edited(page):
        page.keyboard.press("Delete")
    with edited(page):  # by a key a die comes into the middle at once
        page.locator("#board").focus()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Oval 80").press("Enter")
    with edited(page):
        page.keyboard.press("Delete")
    page.get_by_role("option", name="Hull 90").click()
    expect(page.locator("#shape-width")).to_be_disabled()
    page.get_by_role("button", name="Fit to field").click()
    expect(page.get_by_role("alert")).to_contain_text("is cut with a die, so its outline and size are fixed")
    page.locator("summary", has_text="Stitch lines").click()
    page.get_by_role("button", name="Direction").click()
    x, y = middle(page, '#shapes path[data-name="Hull 90"]')
    page.mouse.click(x - 60, y)
    page.mouse.click(x + 60, y + 4)
    page.keyboard.press("Enter")
    expect(page.locator(".line-direction")).to_have_count(1)
    page.locator("#board").focus()
    page.keyboard.press("o")
    page.mouse.click(x - 60, y - 90)
    page.mouse.click(x, y - 110)
    page.mouse.click(x + 60, y - 90)
    page.keyboard.press("Enter")
    expect(page.locator("#shapes path[data-open]")).to_have_count(1)
    page.get_by_role("button", name="To a shape").click()
    expect(page.locator("#shapes path[data-open]")).to_have_count(0)
    expect(page.locator("#shapes path")).to_have_count(3)
    assert violations(page) == [] and len(page.faults) == 1  # the refusal


def test_holes_are_drawn_one_after_another_over_what_shows_through(page, job):
    board(page, job)
    draw(page, "Circle")
    x, y = middle(page, "#board")
    page.get_by_role("button", name="Cut-out pen").click()
    expect(page.locator('[data-hint="cut"]')).to_be_visible()
    for nth in (-1, 1):
        for dx, dy in ((-12, -10), (12, -10), (0, 14)):
            page.mouse.click(x + 34 * nth + dx, y + dy)
        with edited(page):
            page.keyboard.press("Enter")
    expect(page.locator('#shapes path[data-name="Circle"]')).to_have_css("fill-opacity", "0.28")
    expect(page.get_by_role("option", name="Circle")).to_contain_text("2 cut-outs")
    page.keyboard.down("Shift")  # curve points: the line is bent while they are placed
    for dx, dy in ((-10, 40), (20, 60)):
        page.mouse.click(x + dx, y + dy)
    page.mouse.move(x + 60, y + 20)
    expect(page.locator("#pen path").first).to_have_attribute("d", re.compile("C"))
    bent = page.locator("#pen path").first.bounding_box()
    page.keyboard.up("Shift")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.locator("main")).not_to_have_class(re.compile("see-through"))
    page.keyboard.press("n")
    for dx, dy in ((-150, 90), (-50, 190), (-50, 90), (-150, 190)):
        page.mouse.click(x + dx, y + dy)
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("crosses itself")
    expect(page.locator("#pen rect")).to_have_count(4)  # in hand again, to be mended
    page.keyboard.press("Backspace")
    with edited(page):
        page.keyboard.press("Enter")
    assert bent["height"] > 20 and len(page.faults) == 1  # the refusal
