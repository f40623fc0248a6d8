"""Try-outs in a real browser: asked for, shown as they come, one enlarged, one kept."""

from playwright.sync_api import expect

from browser.pages import drawn, until, violations


def test_variants_are_compared_and_one_is_kept(page, job):
    page.goto(f"/jobs/{job.pk}/prove/")
    page.get_by_role("link", name="Try-outs").click()
    page.locator("#key1").select_option("cover_width")
    page.locator("#list1").fill("3; 4")
    page.locator("#key2").select_option("tack_kind")
    page.locator("#list2").fill("zigzag; run")
    page.get_by_role("button", name="Try", exact=True).click()
    expect(page.locator(".tried li")).to_have_count(4)
    until(page, "() => [...document.querySelectorAll('.tried img')].every((one) => one.naturalWidth > 0)")
    assert violations(page) == []
    text = page.locator("#tried").inner_text()
    assert "width 4.0 mm, stitch run" in text and "Thread" in text
    first = page.locator(".tried img").first
    whole = first.get_attribute("src")
    page.get_by_role("link", name="Close", exact=True).click()
    expect(first).to_have_attribute("src", whole + "?close=1")
    expect(page.locator(".tried")).to_have_attribute("data-rests", "yes")
    assert violations(page) == []
    cells = lambda nth: int(page.locator(".tried canvas").nth(nth).get_attribute("data-cells"))  # noqa: E731
    page.locator("#differs-from").select_option(label="A")
    assert cells(0) == 0 and cells(2) > 20 and cells(3) > 20  # a wider cover
    frame = page.locator(".tried-view").nth(2).bounding_box()
    page.mouse.move(frame["x"] + frame["width"] / 2, frame["y"] + frame["height"] / 2)
    page.mouse.wheel(0, -300)
    expect(page.locator(".tried")).to_have_attribute("data-rests", "")
    expect(page.locator(".tried")).to_have_attribute("data-rests", "yes")
    boxes = {one.get_attribute("src").partition("box=")[2] for one in page.locator(".tried img").all()}
    assert len(boxes) == 1 and "" not in boxes  # all of them over the same place
    source = page.locator(".tried img").first.get_attribute("data-src")
    assert [page.request.get(f"{source}?box={box}").status for box in ("0,0,9", "0,0,0,0", "nan,0,9,9")] == [422] * 3
    page.locator(".tried").focus()
    page.keyboard.press("f")
    page.get_by_role("button", name="Keep width 4.0 mm, stitch run").click()
    drawn(page)
    expect(page.locator("#v-cover_width")).to_have_value("4.0")
    expect(page.locator("#v-tack_kind")).to_have_value("run")
    assert page.faults == []


def test_what_cannot_be_tried_is_said_and_stays_typed(page, job):
    page.goto(f"/jobs/{job.pk}/try-outs/")
    page.locator("#key1").select_option("cover_width")
    page.locator("#list1").fill("3")
    page.get_by_role("button", name="Try", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("give lists that make 2 to 8")
    expect(page.locator("#list1")).to_have_value("3")
