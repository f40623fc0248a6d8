"""Height and light in the browser: the same heights as the server's, laid over the cloth, without holding up a frame."""

import io

import numpy as np
import pytest
from PIL import Image
from shapely import Point, box

from browser.pages import CLOTH, comes, drawn, settled, until
from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.edits.stack.grounds import as_motif, with_ground
from velamen.core.job.document import Repeat, change
from velamen.core.outputs.laid import presses_of, ridges_of
from velamen.core.outputs.picture import shown_box
from velamen.core.relief.light import lit, veil
from velamen.core.relief.relief import relief
from velamen.web.jobs import history

EVERY = 7  # cells either way of which one is compared


def fills(*regions, base="terry"):
    job = job_of(*regions, base=base, hoop="h130x180", name="Relief")
    return change(job, pieces=[change(one, construct="fill") for one in job.pieces])


def cut_and_slit():
    job = job_of(box(-30, -20, -4, 20), box(4, -18, 28, 18), base="felt", hoop="h130x180", name="Relief")
    return change(job, pieces=[change(one, construct=kind) for one, kind in
                               zip(job.pieces, ("chenille", "cutwork"), strict=True)])  # fmt: skip


JOBS = {
    "an opening and fluff": cut_and_slit,
    "embossed towel": lambda: as_motif(fills(Point(0, 0).buffer(14)), "emboss"),
    "cloths on fleece": lambda: with_ground(
        job_of(box(-30, -20, 20, 20), Point(10, 8).buffer(9), base="fleece"), "knockdown"
    ),
    "patches": lambda: change(with_ground(fills(Point(0, 0).buffer(8), base="none"), "patch"), repeat=Repeat(2, 2)),
}


@pytest.mark.parametrize("name", JOBS)
def test_the_browser_has_the_heights_and_the_light_of_the_server(page, shop, maren, name):
    job = history.create(shop, maren, JOBS[name]())
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    one = build_job(job.head.read())
    build, grid = one.hooped, one.grid
    for share in (0.35, 1.0):
        row = int(share * len(build.plan.xy))
        found = relief(
            build.plan, build.laid, presses_of(build, grid), row, shown_box(build), ridges=ridges_of(build)
        )
        told = page.evaluate(
            """async ([job, row, every]) => {
                const { loadPlan } = await import('/static/velamen/plan.js');
                const { heightsOf, veilOf } = await import('/static/velamen/relief.js');
                const plan = await loadPlan(`/jobs/${job}/plan.bin`);
                const { wide, high, step, height, ...more } = heightsOf(plan, row), veil = veilOf(plan, { wide, high, step, height, ...more });
                const some = height.map((one, at) => at).filter((at) => (at % wide) % every === 0 && Math.floor(at / wide) % every === 0);
                return { wide, high, step, height: [...some].map((at) => height[at]), veil: [...some].map((at) => veil[4 * at + 3]) };
            }""",
            [job.pk, row, EVERY],
        )
        assert (told["high"], told["wide"]) == found.height.shape and told["step"] == pytest.approx(found.step)
        ours = found.height[::EVERY, ::EVERY]
        theirs = np.array(told["height"]).reshape(ours.shape)
        off = np.abs(theirs - ours)
        # Outlines are filled with soft edges there and with hard ones here: cells on them differ, no others do.
        assert np.median(off) < 0.01 and np.quantile(off, 0.97) < 0.08 * max(ours.max(), 1.0)
        assert theirs.max() == pytest.approx(ours.max(), rel=0.1)
        light = veil(lit(found.seen, found.step))[::EVERY, ::EVERY, 3].astype(int)
        shown = np.array(told["veil"]).reshape(ours.shape)
        assert np.median(np.abs(light - shown)) <= 3 and np.corrcoef(light.ravel(), shown.ravel())[0, 1] > 0.9


def test_the_cloth_looks_as_before_once_the_view_comes_back(page, shop, maren):
    job = history.create(shop, maren, JOBS["cloths on fleece"]())
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    before = settled(page, still=1.0)
    page.locator("#cloth").focus()
    for key in ("+", "+", "+", "Home", "PageDown", "PageDown", "End", "-", "l", "l", "l"):
        page.keyboard.press(key)
    box = page.locator("#cloth").bounding_box()
    page.mouse.move(box["x"] + 200, box["y"] + 200)
    page.mouse.down()
    for nth in range(12):
        page.mouse.move(box["x"] + 200 + 14 * nth, box["y"] + 200 + 9 * nth)
    page.mouse.up()
    assert comes(page, CLOTH, lambda now: now != before) != before
    settled(page)
    page.keyboard.press("f")
    assert comes(page, CLOTH, lambda now: now == before) == before


def test_light_falls_on_the_cloth_and_goes_with_what_is_sewn_and_hidden(page, shop, maren):
    job = history.create(shop, maren, JOBS["embossed towel"]())
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)

    def shade(x, y):
        """Lightness of the canvas at a place in mm, fitted to the 130 x 180 field."""
        return page.evaluate(
            """([x, y]) => {
                const canvas = document.getElementById('cloth'), box = canvas.getBoundingClientRect();
                const scale = Math.min((box.width - 52) / 140, (box.height - 68) / 190), ratio = canvas.width / box.width;
                const at = [(box.width / 2 + x * scale) * ratio - 2, (box.height / 2 + y * scale) * ratio - 2];
                const { data } = canvas.getContext('2d').getImageData(...at.map(Math.round), 5, 5);
                return [...data].filter((_, nth) => nth % 4 < 3).reduce((sum, one) => sum + one, 0) / 75;
            }""",
            [x, y],
        )

    page.keyboard.press("Escape")
    script = """() => { const worker = performance.getEntriesByType('resource').some((one) => one.name.includes('relief_worker'));
                        return worker; }"""
    until(page, script)

    def raised(inside):
        return inside[0] > inside[1] + 3  # lit at the upper left, in shade at the lower right

    assert raised(comes(page, lambda: [shade(side * 9.0, side * 9.0) for side in (-1, 1)], raised))
    assert page.faults == []


def test_a_pale_fill_is_even_from_afar_wherever_it_lies(page, shop, maren):
    job = fills(box(-40, -40, 40, 40), base="firm_woven")
    job = history.create(shop, maren, change(job, pieces=[change(one, thread="102") for one in job.pieces]))
    page.goto(f"/jobs/{job.pk}/build/")
    drawn(page)
    page.keyboard.press("Escape")
    cloth = page.locator("#cloth").bounding_box()
    middle = {"x": cloth["x"] + cloth["width"] / 2 - 30, "y": cloth["y"] + cloth["height"] / 2 - 30}
    page.locator("#cloth").focus()
    for keys in ("--", "+", "+", "+"):
        for key in keys:
            page.keyboard.press(key)
        for nth in range(2):
            page.mouse.move(cloth["x"] + 300, cloth["y"] + 300)
            page.mouse.down()
            page.mouse.move(cloth["x"] + 303, cloth["y"] + 301 + nth)
            page.mouse.up()
            settled(page, still=0.3)
            shot = page.screenshot(clip={**middle, "width": 60, "height": 60})
            tone = np.asarray(Image.open(io.BytesIO(shot)).convert("L"), dtype=float)
            assert tone.reshape(6, 10, 6, 10).mean(axis=(1, 3)).std() < 2.0  # no bands of light and dark
            assert tone.std() < 12.0
