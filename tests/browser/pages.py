"""What browser tests look at on any page."""

import re
import time
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import expect

# Seconds after which what was waited for will not come; busy machines have been seen to stand still for half a minute.
PATIENCE = 90.0
AXE = Path(__file__).resolve().parents[1] / "vendor" / "axe.min.js"


def drawn(page, count=None):
    """Waits until the plan is drawn, with so many stitches if told."""
    expect(page.locator("body")).to_have_attribute("data-plan", re.compile(str(count or r"\d+")))


def to_stage(page, key):
    """Goes to a stage by its key, which is heard once the page's scripts are in."""
    page.wait_for_load_state()
    page.keyboard.press(key)


def undone(page, key="Control+z"):
    """Undoes or redoes by key: a new page, whose scripts are in once this returns."""
    with page.expect_navigation():
        page.keyboard.press(key)


def stitches(page):
    return int(page.evaluate("document.body.dataset.plan"))


def violations(page):
    """What the accessibility checker finds, through the debugger since the policy forbids foreign script."""
    page.evaluate(AXE.read_text() + "; undefined")
    result = page.evaluate("() => axe.run(document, { runOnly: ['wcag2a', 'wcag2aa'], resultTypes: ['violations'] })")
    return [(one["id"], one["nodes"][0]["html"][:160]) for one in result["violations"]]


def until(page, script, argument=None, seconds=PATIENCE):
    """Waits until a script holds, asked again and again, since the policy forbids the browser to evaluate on its own."""
    last = time.monotonic() + seconds
    while not page.evaluate(script, argument):
        assert time.monotonic() < last, f"It never came true: {script}"
        page.wait_for_timeout(50)


CLOTH = "document.getElementById('cloth').toDataURL()"


def comes(page, asked, holds, seconds=PATIENCE):
    """What a script or a function gives once something holds of it, or after all that time: a slow machine may still
    be painting."""
    last = time.monotonic() + seconds
    while not holds(found := asked() if callable(asked) else page.evaluate(asked)) and time.monotonic() < last:
        page.wait_for_timeout(50)
    return found


def settled(page, script=CLOTH, still=0.5):
    """What a script gives once it has given the same for some seconds."""
    seen, since = None, time.monotonic()
    while time.monotonic() - since < still:
        found = page.evaluate(script)
        if found != seen:
            seen, since = found, time.monotonic()
        page.wait_for_timeout(50)
    return seen


@contextmanager
def edited(page):
    """An edit of the shapes done inside, and the page as it is after the answer was put in."""
    seen = page.locator("#revision").input_value()
    with page.expect_response(re.compile("artwork/edit")):
        yield
    expect(page.locator("#revision")).not_to_have_value(seen)
    until(page, "() => !document.querySelector('.htmx-swapping, .htmx-settling, .htmx-request')")
