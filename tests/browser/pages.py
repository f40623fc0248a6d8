"""What browser tests look at on any page."""

import re
from pathlib import Path

from playwright.sync_api import expect

AXE = Path(__file__).resolve().parents[1] / "vendor" / "axe.min.js"


def drawn(page, count=None):
    """Waits until the plan is drawn, with so many stitches if told."""
    expect(page.locator("body")).to_have_attribute("data-plan", re.compile(str(count or r"\d+")))


def stitches(page):
    return int(page.evaluate("document.body.dataset.plan"))


def violations(page):
    """What the accessibility checker finds, through the debugger since the policy forbids foreign script."""
    page.evaluate(AXE.read_text() + "; undefined")
    result = page.evaluate("() => axe.run(document, { runOnly: ['wcag2a', 'wcag2aa'] })")
    return [(one["id"], one["nodes"][0]["html"][:160]) for one in result["violations"]]
