"""From an edit on Build to its new picture, in a browser, over loopback: the demo blanket of 20,000 stitches.

And from a guide line that is bent to its new bars, on the demo napkin.
"""

from __future__ import annotations

import re
import shutil
import sys

import numpy as np
from playwright.sync_api import Page, sync_playwright

JOB = "Otter crew blanket"
EDITS = {
    "cover spacing of one piece": ("Muzzle", "cover_spacing", 0.34, 0.002),
    "cover width of one piece, its knockdown follows": ("Otter", "cover_width", 2.9, 0.02),
}
NAPKIN, HULL = "Sail-window napkin", "Hull"
BEND = """async (far) => {
  const begun = performance.now(), part = document.querySelector("details.guides");
  const points = part.querySelector("form.guide").dataset.line.split(" ").map((one) => one.split(",").map(Number));
  const bulge = (nth) => far * Math.sin((Math.PI * nth) / (points.length - 1));
  const bent = points.map(([x, y], nth) => `${x},${(y + bulge(nth)).toFixed(2)}`);
  const answer = await fetch(`${part.dataset.led}?${new URLSearchParams({ nth: 0, points: bent.join(" ") })}`);
  const { lines } = await answer.json();
  return lines.length ? performance.now() - begun : NaN;
}"""
ROUNDS = 40
PAUSE = 350  # ms between edits, as of somebody quick
EDIT = """([key, value]) => new Promise((done) => {
  const field = document.getElementById("v-" + key), begun = performance.now();
  const watch = new MutationObserver(() => requestAnimationFrame(() => setTimeout(() => {
    watch.disconnect();
    done(performance.now() - begun);
  }, 0)));
  watch.observe(document.body, { attributes: true, attributeFilter: ["data-plan"] });
  field.value = value;
  field.dispatchEvent(new Event("change", { bubbles: true }));
})"""


def main(address: str, password: str) -> int:
    """Prints the middle and the 95th percentile for each kind of edit; exit status 0."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium-headless-shell"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-quic"],
        )
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
        _open(page, password)
        for name, (piece, key, first, step) in EDITS.items():
            page.get_by_role("button", name=re.compile(f"^{piece}")).click()
            page.wait_for_selector(f'.values .piece-name[value="{piece}"]')
            page.wait_for_timeout(1000)
            times = []
            for nth in range(ROUNDS):
                times.append(page.evaluate(EDIT, [key, f"{first + step * nth:.3f}"]))
                page.wait_for_timeout(PAUSE)
            _tell(f"edit to picture, {name}", times)
        _tell("a guide bent to its new bars", _bent(page))
        browser.close()
    return 0


def _tell(name: str, times: list[float]) -> None:
    for word, share in (("middle", 50), ("95th percentile", 95)):
        print(f"{name}: {word}, ms  {np.percentile(times, share):>8.0f}")


def _bent(page: Page) -> list[float]:
    """Times from a guide bent to where its bars would lie, the first one left out."""
    page.goto("/")
    page.get_by_role("link", name=NAPKIN).click()
    page.get_by_role("button", name=re.compile(f"^{HULL}")).click()
    page.wait_for_selector(f'.values .piece-name[value="{HULL}"]')
    page.get_by_text("Guide lines").click()
    page.wait_for_selector("form.guide")
    times = []
    for nth in range(ROUNDS + 1):
        times.append(page.evaluate(BEND, -8.0 + 0.4 * nth))
        page.wait_for_timeout(30)
    return times[1:]


def _open(page: Page, password: str) -> None:
    """Signs in and opens Build of the blanket, its plan drawn."""
    page.goto("/sign-in/")
    page.get_by_label("Username").fill("maren")
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("link", name=JOB).click()
    page.wait_for_selector("body[data-plan]:not([data-plan=''])", timeout=60_000)


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
