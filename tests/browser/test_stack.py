"""The Stack in a real browser: moved by keys and by hand, refused, a ground that follows, a run sheet."""

import re

import shapely
from playwright.sync_api import expect
from shapely import box

from browser.pages import CLOTH, comes, drawn, settled, stitches, until, violations
from core.jobs import done_of, job_of
from velamen.core.job.document import change
from velamen.web.jobs import history


def colour_at(page, x, y):
    """Colour of the cloth canvas, fitted to a 200 x 300 field, at a place in mm: red, green, blue."""
    return page.evaluate(
        """([x, y]) => {
            const canvas = document.getElementById('cloth'), box = canvas.getBoundingClientRect();
            const scale = Math.min((box.width - 52) / 210, (box.height - 68) / 310), ratio = canvas.width / box.width;
            const at = [(box.width / 2 + x * scale) * ratio, (box.height / 2 + y * scale) * ratio];
            return [...canvas.getContext('2d').getImageData(...at.map(Math.round), 1, 1).data].slice(0, 3);
        }""",
        [x, y],
    )


def blanket(shop, maren):
    document = job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), box(-50, -10, -30, 10), base="fleece", name="Crew")
    pieces = [change(one, name=name) for one, name in zip(document.pieces, ("Sail", "Keel", "Mark"), strict=True)]
    return history.create(shop, maren, change(document, pieces=pieces))


def names(page):
    return page.locator(".stack-head .name").all_inner_texts()


def test_pieces_are_reordered_by_keys_and_by_hand_and_a_refusal_says_why(page, shop, maren):
    job = blanket(shop, maren)
    page.set_viewport_size({"width": 1280, "height": 1000})  # all of the Stack in sight, so that nothing scrolls
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    assert names(page) == ["Mark", "Keel", "Sail"] and violations(page) == []
    page.locator('.stack-head[data-piece="p2"]').focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.locator(".stack-head .name").nth(1)).to_have_text("Sail")
    assert names(page) == ["Mark", "Sail", "Keel"]
    until(page, "() => document.activeElement.dataset.piece === 'p2'")
    page.locator('.stack-head[data-piece="p3"]').drag_to(page.locator('.stack-head[data-piece="p2"]'))
    expect(page.get_by_role("alert")).to_contain_text("Mark would lie wholly under the cloth of Sail")
    assert names(page) == ["Mark", "Sail", "Keel"]
    expect(page.locator(".stack-saves")).to_contain_text("stops")  # nothing moves any more under the hand
    page.locator('.stack-head[data-piece="p2"]').drag_to(page.locator('.stack-head[data-piece="p3"]'))
    expect(page.locator(".stack-head .name").first).to_have_text("Keel")
    page.locator('.stack-head[data-piece="p1"]').click()
    expect(page.locator(".values .piece-name")).to_have_value("Sail")
    page.locator('[data-unit="p1:cover"]').focus()
    page.keyboard.press("Alt+ArrowDown")
    expect(page.get_by_role("alert")).to_contain_text("of the same piece: Sail")
    assert [one for one in page.faults if "422" not in one] == []


def test_a_knockdown_is_put_under_and_follows_an_edit(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    before = stitches(page)
    page.get_by_text("Add a ground").click()
    page.get_by_role("button", name="Knockdown").click()
    expect(page.locator(".stack-head .name").last).to_have_text("Knockdown")
    until(page, "(count) => Number(document.body.dataset.plan) > count", before)
    expect(page.locator("#values")).to_contain_text("of pile lean in from the side")
    first = page.locator(".side-title span").last.inner_text()
    page.goto(f"/jobs/{job.pk}/artwork/")
    page.locator("[role=option]", has_text="shape 2").click()
    page.locator("#board").focus()
    page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#revision")).not_to_have_value("2")
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator(".stack-head", has_text="Knockdown").click()
    expect(page.locator(".values .side-title")).to_contain_text("Knockdown")
    second = page.locator(".values .side-title span").inner_text()
    width = [float(re.match(r"[\d.]+", one).group()) for one in (first, second)]
    assert abs(width[1] - width[0] - 10) < 0.2
    assert violations(page) == [] and page.faults == []


def test_pieces_are_hidden_and_shown_alone(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    whole = settled(page)
    page.get_by_role("button", name="Show Keel alone").click()
    expect(page.get_by_role("button", name="Show Keel alone")).to_have_attribute("aria-pressed", "true")
    assert comes(page, CLOTH, lambda now: now != whole) != whole
    page.get_by_role("button", name="Show Keel alone").click()
    assert comes(page, CLOTH, lambda now: now == whole) == whole
    assert page.faults == []


def test_stops_are_shared_and_the_run_sheet_is_fetched(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    expect(page.locator(".stack-saves")).to_contain_text("2 stops")
    page.get_by_role("button", name="Share stops").click()
    expect(page.locator("#sum")).to_contain_text("4 stops")
    drawn(page)
    settled(page)
    for x in (-40, 20):  # both cloths laid at one stop are there, on the pale fleece
        red, green, _ = colour_at(page, x, -14)
        assert red > green + 60, (x, red, green)
    page.goto(f"/jobs/{job.pk}/hand-over/")
    expect(page.locator("table")).to_contain_text("for Sail and Keel")
    with page.expect_download() as got:
        page.get_by_role("link", name="runsheet.pdf").click()
    assert got.value.suggested_filename == "crew-runsheet.pdf" and page.faults == []


def test_several_pieces_are_chosen_and_set_together(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    before = stitches(page)
    page.locator('.stack-head[data-piece="p1"]').click()
    expect(page.locator(".values .piece-name")).to_have_value("Sail")
    page.locator('.stack-head[data-piece="p2"]').click(modifiers=["Control"])
    expect(page.locator(".values .side-title")).to_contain_text("2 pieces")
    page.locator('.stack-head[data-piece="p3"]').focus()
    page.keyboard.press("Control+Enter")
    expect(page.locator(".values .side-title")).to_contain_text("3 pieces")
    page.keyboard.press("Control+Enter")
    expect(page.locator(".values .side-title")).to_contain_text("2 pieces")
    page.locator("#v-cover_width").fill("4.2")
    page.locator("#v-cover_width").press("Enter")
    until(page, "(count) => Number(document.body.dataset.plan) !== count", before)
    expect(page.locator(".values .side-title")).to_contain_text("2 pieces")
    expect(page.locator("#v-cover_width")).to_have_value("4.2")
    page.wait_for_timeout(800)  # the panels that follow the edit are in, so that nothing changes under the check
    assert violations(page) == []
    page.locator("#cloth").focus()
    page.keyboard.press("Escape")
    expect(page.locator(".values .piece-name")).to_have_value("Sail")
    job.refresh_from_db()
    assert [one.own for one in job.head.read().pieces] == [{"cover_width": 4.2}] * 2 + [{}]
    page.locator("#v-cover_width").fill("3.5")
    page.locator("#v-cover_width").press("Enter")
    expect(page.locator(".value.own .number").first).to_have_value("3.5")
    page.locator("#cloth").focus()
    page.keyboard.press("a")
    expect(page.locator(".value.differs", has_text="Width").first).to_contain_text("3.5 · 3.0 · 4.2")
    assert page.faults == []


def test_passes_are_dragged_in_the_stack_as_it_is_sewn(page, shop, maren):
    job = blanket(shop, maren)
    page.set_viewport_size({"width": 1280, "height": 1200})
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.get_by_role("button", name="As sewn").click()
    rows = page.locator(".as-sewn .stack-row")
    expect(rows).to_have_count(15)
    expect(rows.first).to_contain_text("Mark Cover")
    page.locator('[data-unit="p2:cover"]').drag_to(page.locator('[data-unit="p1:placement"]'))
    expect(page.get_by_role("alert")).to_contain_text(
        "Cover cannot come before the placement line of the same piece: Keel"
    )
    page.locator('[data-unit="p1:cover"]').drag_to(page.locator('[data-unit="p2:cover"]'))
    until(
        page,
        "() => document.querySelector('.as-sewn .stack-row:nth-child(1)') && [...document.querySelectorAll('.stack-row')].findIndex((one) => one.dataset.unit === 'p1:cover') === 5",
    )
    expect(page.get_by_role("button", name="Back to the stack's order")).to_be_visible()
    page.get_by_role("button", name="By piece").click()
    expect(page.locator(".stack-head")).to_have_count(3)
    job.refresh_from_db()
    order = job.head.read().order
    assert order.index("p1:cover") > order.index("p2:tack")


def test_where_sewing_begins_and_ends_is_placed_on_the_cloth(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator('.stack-head[data-piece="p2"]').click()
    expect(page.locator(".values .piece-name")).to_have_value("Keel")
    page.locator("details.sewing summary").click()
    page.get_by_role("button", name="Place on the cloth: starts near").click()
    expect(page.locator("#cloth")).to_have_class("placing")
    box = page.locator("#cloth").bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2 + 20, box["y"] + box["height"] / 2)
    expect(page.locator("#sewn-start")).not_to_have_value("")
    until(page, "() => !document.querySelector('.htmx-request')")
    expect(page.locator("#sewn-start")).to_be_visible()  # the part stays open
    page.get_by_role("button", name="Place on the cloth: ends near").click()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(page.locator("#sewn-end")).not_to_have_value("")
    # saved, even where the panel was put in anew meanwhile
    piece = saved(page, job, lambda pieces: pieces[1].end is not None)[1]
    assert piece.start is not None and piece.end is not None
    expect(page.locator("#sewn-end")).to_have_value(", ".join(f"{one:g}" for one in piece.end))
    page.get_by_role("button", name="Place on the cloth: ends near").click()
    page.keyboard.press("Escape")
    expect(page.locator("#cloth")).not_to_have_class("placing")
    from velamen.core.building.build import build_job

    cover = done_of(build_job(job.head.read()).piece("p2"))[-1].strands
    first, last = cover[0].xy[0], cover[-1].xy[-1]
    edge = shapely.boundary(box_of(job, 1))
    near = [shapely.shortest_line(edge, shapely.Point(at)).coords[0] for at in (piece.start, piece.end)]
    assert abs(first - near[0]).max() < 4 and abs(last - near[1]).max() < 4
    page.wait_for_timeout(800)
    assert violations(page) == [] and page.faults == []


def saved(page, job, holds):
    """Pieces of the job as it is saved, once something holds of them."""

    def pieces():
        job.refresh_from_db()
        return job.head.read().pieces

    return comes(page, pieces, holds)


def box_of(job, nth):
    return shapely.Polygon(job.head.read().shapes[nth].rings[0])


def test_another_piece_chosen_while_an_edit_is_saved_stays_chosen(page, shop, maren):
    job = blanket(shop, maren)
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator('.stack-head[data-piece="p1"]').click()
    expect(page.locator(".values .piece-name")).to_have_value("Sail")
    before = stitches(page)
    page.locator("#v-cover_width").fill("4.2")
    page.locator('.stack-head[data-piece="p3"]').click()  # leaving the field saves it
    expect(page.locator(".values .piece-name")).to_have_value("Mark")
    until(page, "(count) => Number(document.body.dataset.plan) !== count", before)
    page.wait_for_timeout(600)
    expect(page.locator(".values .piece-name")).to_have_value("Mark")
    for key, value in (("cover_width", "3.4"), ("cover_share", "55"), ("cover_spacing", "0.36")):
        page.locator(f"#v-{key}").fill(value)
        page.locator(f"#v-{key}").press("Tab")
    expect(page.locator("#v-cover_spacing")).to_have_value("0.36")
    own = [one.own for one in saved(page, job, lambda pieces: len(pieces[2].own) == 3)]
    assert own == [{"cover_width": 4.2}, {}, {"cover_width": 3.4, "cover_share": 55.0, "cover_spacing": 0.36}]
    assert page.faults == []
