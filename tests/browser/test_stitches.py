"""Choosing what a piece is sewn as, by pictures and by keys, and the three looks, in a real browser."""

from playwright.sync_api import expect

from browser.pages import CLOTH, comes, drawn, settled, stitches, undone, until, violations
from velamen.core.constructions import constructions


def test_a_stitch_is_chosen_by_its_picture_and_shows_at_once(page, job):
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    before = stitches(page)
    page.locator(".sewn-as summary").click()
    pictures = page.locator(".stitch-kind img")
    expect(pictures).to_have_count(len(constructions()))
    until(page, "() => [...document.querySelectorAll('.stitch-kind img')].every((one) => one.naturalWidth > 0)")
    assert violations(page) == []
    page.get_by_role("radio", name="Contour rings").check(force=True)
    expect(page.locator(".sewn-as summary")).to_contain_text("Contour rings")
    expect(page.locator("#values")).to_contain_text("start value of a run")
    until(page, "(count) => Number(document.body.dataset.plan) !== count", before)
    assert stitches(page) > 1000
    page.locator(".sewn-as summary").focus()
    page.keyboard.press("Enter")
    page.get_by_role("radio", name="Contour rings").focus()
    page.keyboard.press("ArrowDown")
    expect(page.locator(".sewn-as summary")).not_to_contain_text("Contour rings")
    page.locator("#cloth").focus()
    undone(page)
    expect(page.locator(".sewn-as summary")).to_contain_text("Contour rings")
    assert page.faults == []


def test_the_looks_differ_and_go_round_by_key(page, job):
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.locator("#cloth").focus()
    seen = {}
    for look in ("cloth", "thread", "needle"):
        expect(page.locator(f'[data-look="{look}"]')).to_have_attribute("aria-pressed", "true")
        seen[look] = settled(page)
        page.keyboard.press("l")
    expect(page.locator('[data-look="cloth"]')).to_have_attribute("aria-pressed", "true")
    assert len(set(seen.values())) == 3 and comes(page, CLOTH, lambda now: now == seen["cloth"]) == seen["cloth"]
    assert page.faults == []
