"""Answers that come late: an edit is of what was chosen when it was asked for, and nothing under a hand is taken away."""

import re

from playwright.sync_api import expect
from shapely import box

from browser.pages import drawn, until
from core.jobs import job_of
from velamen.core.job.document import change
from velamen.core.job.regions import region_of
from velamen.web.jobs import history
from velamen.web.library.models import Preset


def three(shop, maren):
    document = job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), box(-60, 40, -20, 80), base="felt", name="Three")
    pieces = [change(one, name=name) for one, name in zip(document.pieces, ("Sail", "Keel", "Mark"), strict=True)]
    shapes = [change(one, name=name) for one, name in zip(document.shapes, ("Sail", "Keel", "Mark"), strict=True)]
    return history.create(shop, maren, change(document, pieces=pieces, shapes=shapes))


class Held:
    """Answers of the server to some requests, made at once and handed on when asked for."""

    def __init__(self, page, address, method):
        self.page, self.method, self.answers, self.on = page, method, [], True
        page.route(re.compile(address), self.hold)

    def hold(self, route):
        if not self.on or route.request.method != self.method:
            return route.continue_()
        return self.answers.append((route, route.fetch()))

    def come(self, count=1):
        until_held(self, count)
        for _ in range(count):
            route, answer = self.answers.pop(0)
            route.fulfill(response=answer)

    def end(self):
        self.on = False
        self.come(len(self.answers))


def until_held(held, count):
    for _ in range(400):
        if len(held.answers) >= count:
            return
        held.page.wait_for_timeout(50)
    raise AssertionError(f"{len(held.answers)} of {count} answers came")


def artwork(page, job):
    page.goto(f"/jobs/{job.pk}/artwork/")
    expect(page.locator("#shapes path")).to_have_count(3)
    return lambda name: page.locator("[role=option]", has_text=name)


def revision(page, number):
    expect(page.locator("#revision")).to_have_value(str(number))
    until(page, "() => !document.querySelector('.htmx-swapping, .htmx-settling, .htmx-request')")


def lefts(job):
    job.refresh_from_db()
    return {shape.name: round(region_of(shape).bounds[0], 2) for shape in job.head.read().shapes}


def test_a_nudge_is_of_what_was_chosen_when_the_key_was_pressed(page, shop, maren):
    job = three(shop, maren)
    option = artwork(page, job)
    option("Sail").click()
    page.locator("#board").focus()
    page.keyboard.press("ArrowRight")
    option("Keel").click()
    revision(page, 2)
    assert lefts(job) == {"Sail": -59.0, "Keel": 0.0, "Mark": -60.0}
    expect(option("Keel")).to_have_attribute("aria-selected", "true")


def test_what_is_chosen_while_an_edit_is_on_its_way_stays_chosen(page, shop, maren):
    job = three(shop, maren)
    option = artwork(page, job)
    held = Held(page, "artwork/edit/", "POST")
    option("Sail").click()
    page.locator('[data-do="mirror"]').first.click()
    option("Keel").click()
    page.locator("#board").focus()
    page.keyboard.press("Delete")
    option("Mark").click()
    held.come()
    held.come()
    held.end()
    revision(page, 3)
    assert set(lefts(job)) == {"Sail", "Mark"}
    expect(option("Mark")).to_have_attribute("aria-selected", "true")
    assert page.faults == []


def test_what_follows_an_edit_at_once_is_of_what_that_leaves_chosen(page, shop, maren):
    job = three(shop, maren)
    option = artwork(page, job)
    held = Held(page, "artwork/edit/", "POST")
    option("Sail").click()
    page.locator("#board").focus()
    page.keyboard.press("d")
    page.keyboard.press("Shift+ArrowRight")
    held.come()
    held.come()
    held.end()
    revision(page, 3)
    assert lefts(job) == {"Sail": -60.0, "Keel": 0.0, "Mark": -60.0, "Sail 2": -44.0}


def build(page, job):
    page.goto(f"/jobs/{job.pk}/build/?piece=p1")
    drawn(page)
    expect(page.locator("#piece-name")).to_have_value("Sail")


def width(page, value):
    page.locator("#v-cover_width").fill(value)
    page.keyboard.press("Enter")


def panels_on_their_way(page, shop, maren):
    """A job on Build whose cover was made 4 mm wide, and the panels that follow, which are held."""
    job = three(shop, maren)
    build(page, job)
    held = Held(page, "pieces/p1/", "GET")
    width(page, "4")
    until_held(held, 1)
    return job, held


def test_panels_from_before_an_edit_do_not_turn_the_revision_back(page, shop, maren):
    job = three(shop, maren)
    build(page, job)
    held = Held(page, "pieces/p2/", "GET")
    page.locator('.stack-head[data-piece="p2"]').click()
    until_held(held, 1)
    width(page, "4")
    expect(page.locator("#revision")).to_have_value("2")
    held.come()
    held.end()
    expect(page.locator("#piece-name")).to_have_value("Keel")
    expect(page.locator("#revision")).to_have_value("2")
    width(page, "3.5")
    expect(page.locator("#revision")).to_have_value("3")
    job.refresh_from_db()
    assert [one.own for one in job.head.read().pieces] == [{"cover_width": 4.0}, {"cover_width": 3.5}, {}]
    assert page.faults == []


def test_a_press_during_which_panels_arrive_is_a_click(page, shop, maren):
    _, held = panels_on_their_way(page, shop, maren)
    page.locator(".presets summary").scroll_into_view_if_needed()
    summary = page.locator(".presets summary").bounding_box()
    page.mouse.move(summary["x"] + 20, summary["y"] + 8)
    page.mouse.down()
    held.come()
    held.on = False
    page.wait_for_load_state("networkidle")
    page.mouse.up()
    expect(page.locator("#preset-name")).to_be_visible()
    expect(page.locator("#v-cover_width")).to_have_value("4.0")
    expect(page.locator(".value.own")).to_have_count(1)  # the panels that waited are there


def test_a_preset_picked_while_panels_are_on_their_way_is_the_one_that_is_set(page, shop, maren):
    job = three(shop, maren)
    for name, wide in (("Broad", 5.0), ("Middling", 4.0), ("Slim", 2.5)):
        Preset.objects.create(shop=shop, name=name, construct="applique", base="felt", values={"cover_width": wide})
    build(page, job)
    page.locator(".presets summary").click()
    expect(page.locator("#preset")).to_be_visible()
    until(page, "() => !document.querySelector('.htmx-swapping, .htmx-settling, .htmx-request')")
    held = Held(page, "pieces/p1/", "GET")
    page.locator("#v-cut_back").select_option("no")
    until_held(held, 1)
    page.locator("#preset").select_option("Slim", force=True)
    held.come()
    held.end()
    expect(page.locator(".value.own")).to_have_count(1)
    expect(page.locator("#preset option:checked")).to_have_text("Slim")
    page.locator(".presets").get_by_role("button", name="Set").click()
    expect(page.locator("#v-cover_width")).to_have_value("2.5")


def test_a_list_that_is_open_is_not_taken_away(page, shop, maren):
    job, held = panels_on_their_way(page, shop, maren)
    choice = page.locator("#v-cover_kind")
    choice.dispatch_event("pointerdown")
    page.evaluate("window.list = document.getElementById('v-cover_kind')")
    held.come()
    held.on = False
    page.wait_for_load_state("networkidle")
    assert page.evaluate("window.list.isConnected")
    choice.select_option("estitch")
    expect(page.locator("#revision")).to_have_value("3")
    job.refresh_from_db()
    assert job.head.read().pieces[0].own == {"cover_width": 4.0, "cover_kind": "estitch"}


def test_undo_comes_after_the_edits_before_it(page, shop, maren):
    job = three(shop, maren)
    option = artwork(page, job)
    option("Sail").click()
    page.locator("#board").focus()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("Control+z")
    expect(page.locator('[data-key="redo"]')).to_be_enabled()
    expect(page.locator("#revision")).to_have_value("1")
    assert lefts(job) == {"Sail": -60.0, "Keel": 0.0, "Mark": -60.0}
    assert job.revisions.count() == 2 and page.faults == []
    page.locator("#board").focus()
    page.keyboard.press("Control+Shift+z")
    expect(page.locator("#revision")).to_have_value("2")
    assert lefts(job)["Sail"] == -50.0


def test_what_is_being_typed_while_panels_are_on_their_way_is_sent(page, shop, maren):
    job, held = panels_on_their_way(page, shop, maren)
    page.locator("#v-cover_spacing").fill("0.5")
    page.evaluate("window.field = document.getElementById('v-cover_spacing')")
    held.come()
    held.on = False
    page.wait_for_load_state("networkidle")
    assert page.evaluate("window.field.isConnected && window.field.value === '0.5'")
    page.keyboard.press("Tab")
    expect(page.locator("#revision")).to_have_value("3")
    job.refresh_from_db()
    assert job.head.read().pieces[0].own == {"cover_width": 4.0, "cover_spacing": 0.5} and page.faults == []
