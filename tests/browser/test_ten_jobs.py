"""Ten jobs as practitioners do them, from nothing to a build, each in one go and in few acts."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from browser.hand import Hand
from browser.pages import drawn, violations
from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.geometry.region import boundaries
from velamen.core.job.regions import region_of
from velamen.web.jobs.models import Job


def svg(*paths, size=120):
    drawn = "".join(f'<path id="{name}" fill="{colour}" fill-rule="evenodd" d="{d}"/>' for name, colour, d in paths)
    box = f'viewBox="0 0 {size} {size}" width="{size}mm" height="{size}mm"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {box}>{drawn}</svg>'


def disc(x, y, radius):
    return f"M{x - radius} {y}a{radius} {radius} 0 1 0 {2 * radius} 0a{radius} {radius} 0 1 0 {-2 * radius} 0Z"


def words(text, x, y, height):
    rings = [np.add(ring, (x, y)) for letter in lettering(text, "rubik", height) for region in letter.regions
             for ring in boundaries(region)]  # fmt: skip
    return "".join("M" + "L".join(f"{u:.2f} {v:.2f}" for u, v in ring.tolist()) + "Z" for ring in rings)


CLAWS = [disc(40, 44, 10), disc(80, 44, 10)]
CRAB = svg(
    ("Body", "#c8442f", disc(60, 60, 38) + "".join(CLAWS)),  # cut out where the claws lie over it
    ("Left claw", "#e08a3c", CLAWS[0]), ("Right claw", "#e08a3c", CLAWS[1]),
    ("Left eye", "#20262b", disc(54, 58, 2.4)), ("Right eye", "#20262b", disc(66, 58, 2.4)),
)  # fmt: skip
CREST = svg(
    ("Shield", "#24406b", "M20 20H100V64C100 88 78 102 60 110C42 102 20 88 20 64Z"),
    ("Wave", "#f2efe6", "M30 72C40 60 50 84 60 72S80 60 90 72V80C80 68 70 92 60 80S40 68 30 80Z"),
    ("Name", "#f2efe6", words("ORMSEL LOFT", 60, 40, 8)),
)  # fmt: skip
SEAWEED = svg(
    ("Stem", "#4f7a3c", "M58 110C52 90 66 76 58 56C52 40 60 26 64 12L68 13C64 28 58 40 64 56C72 76 58 90 63 110Z"),
    ("Left leaf", "#6f9a4c", "M57 70C44 68 34 58 30 44C44 46 56 56 57 70Z"),
    ("Right leaf", "#6f9a4c", "M64 52C74 46 84 34 86 20C74 24 64 38 64 52Z"),
)  # fmt: skip
BAG = svg(("Anchor", "#20323f", "M54 10H66V30H86V42H66V86C80 84 88 74 90 62L102 70C98 92 80 108 60 110C40 108 22 92 18 70"
           "L30 62C32 74 40 84 54 86V42H34V30H54Z"))  # fmt: skip


@pytest.fixture
def hand(page):
    yield Hand(page)
    assert page.faults == []


def made(name):
    """The document of a job, and its build, in which nothing is wrong."""
    document = Job.objects.get(name=name).head.read()
    build = build_job(document)
    assert [one.message for one in build.findings if one.severity == "error"] == []
    return document, build


def kinds(document):
    return [piece.construct for piece in document.pieces]


def letters(hand, words_typed, height, sewn="column"):
    form = 'form[data-do="text"]'
    hand.fill("Text", words_typed, form)
    hand.fill("Height", height, form)
    if sewn:
        hand.choose("Sewn as", sewn, form)
    hand.edit(hand.click, "button", "Set text")


def test_a_crab_with_overlaid_claws(hand):
    hand.begin("Crab", "felt", ("crab.svg", CRAB))
    assert violations(hand.page) == []
    hand.tick("Close what lies underneath")
    hand.bring_in()
    hand.build()
    document, _ = made("Crab")
    body = next(shape for shape in document.shapes if shape.name == "Body")
    assert len(body.rings) == 1 and kinds(document)[:3] == ["applique"] * 3 and hand.acts <= 8
    assert len({piece.cloth for piece in document.pieces[:3]}) == 2  # cloths by the colours of the artwork


def test_a_lifebuoy_with_cut_outs(hand):
    hand.begin("Lifebuoy", "firm_woven")
    hand.open("Ring")
    hand.edit(hand.click, "button", "Draw")
    hand.click("button", "Cut-out pen")
    for x, y in ((0, -1), (0, 1), (-1, 0), (1, 0)):
        for u, v in ((-9, -9), (9, -9), (9, 9), (-9, 9)):
            hand.at(86 * x + u, 86 * y + v)
        hand.edit(hand.press, "Enter")
    hand.build()
    document, _ = made("Lifebuoy")
    assert len(document.shapes[0].rings) == 6 and hand.acts <= 28  # 20 of them are the corners of holes


def test_a_seal_put_together_from_dies(hand):
    hand.begin("Seal", "fleece")
    hand.open("Cutting dies")
    for die, places in (
        ("Oval 80", [(0, 0)]),
        ("Eye 14", [(-40, -14), (40, -14)]),
        ("Fin 38", [(-90, 70), (90, 70)]),
    ):
        hand.click("button", die)
        for place in places:
            hand.edit(hand.at, *place)
    hand.build()
    document, _ = made("Seal")
    assert [shape.die != "" for shape in document.shapes] == [True] * 5 and hand.acts <= 14


def test_a_club_crest_on_a_towel(hand):
    hand.begin("Club crest", "terry", ("crest.svg", CREST))
    hand.bring_in()
    hand.build()
    hand.add("Knockdown", 13)
    hand.take_hoop()
    document, build = made("Club crest")
    names = {shape.id: shape.name for shape in document.shapes}
    small = [piece for piece in document.pieces if piece.shape and "Name" in names[piece.shape]]
    groups = {shape.group for shape in document.shapes if "Name" in shape.name}
    assert len(small) == 10 and len({one.construct for one in small}) == 1 and len(groups) == 1 and "" not in groups
    assert "applique" not in {one.construct for one in small}  # never a trim stop for a letter of 8 mm
    assert kinds(document)[0] == "knockdown" and build.figures.stops <= 4 and hand.acts <= 10


def test_an_embossed_anchor_letter(hand):
    hand.begin("Anchor letter", "terry")
    letters(hand, "A", "70", sewn="")
    hand.build()
    hand.add("Embossing", 1)
    document, build = made("Anchor letter")
    assert kinds(document) == ["emboss"] and build.pieces[0].proofs["standing"].held and hand.acts <= 10


def test_a_floated_kit_bag_with_basting(hand, page):
    hand.begin("Kit bag", "firm_woven", ("anchor.svg", BAG))
    hand.stage("Brief")
    hand.choose("Hooping", "floated")
    page.wait_for_load_state("networkidle")
    hand.choose("Held by", "basting")
    page.wait_for_load_state("networkidle")
    hand.click("button", "Save brief")
    hand.build()
    document, build = made("Kit bag")
    assert (document.brief.hooping, document.brief.hold) == ("floated", "basting") and hand.acts <= 11
    assert any(block.role == "basting" for block in build.plan.blocks)


def test_a_name_piece_stays_alive(hand, page):
    hand.begin("Name piece", "sweatshirt")
    letters(hand, "MARIN", "25")
    hand.build()
    hand.add("Name piece", 6)
    assert hand.acts <= 11
    page.locator(".stack-head", has_text=re.compile(r"^\s*M")).first.click()
    hand.fill("Words", "MARINELLA", ".live-source")
    expect(page.locator(".stack-piece")).to_have_count(10)
    hand.take_hoop()
    document, _ = made("Name piece")
    cloth = region_of(next(shape for shape in document.shapes if shape.name == "Name piece"))
    last = region_of(document.shapes[-1])
    assert cloth.contains(last) and kinds(document)[0] == "applique"


def test_a_towel_panel_in_another_form(hand, page):
    hand.begin("Towel panel", "terry")
    letters(hand, "ELISE", "20")
    hand.build()
    hand.add("Panel", 6)
    hand.choose("Form", "oval", ".live-source")
    hand.fill("Distance", "6", ".live-source")
    expect(page.locator(".live-source").get_by_label("Distance")).to_have_value("6.0")
    drawn(page)
    document, _ = made("Towel panel")
    maker = document.makers[1]
    assert (maker.form, maker.distance, kinds(document)[0]) == ("oval", 6.0, "panel") and hand.acts <= 13
    assert violations(page) == []


def test_shadow_seaweed_under_organza(hand):
    hand.begin("Seaweed", "light_woven", ("seaweed.svg", SEAWEED))
    hand.bring_in()
    hand.build()
    hand.add("Sheer cloth over", 4)
    document, build = made("Seaweed")
    over = next(piece for piece in document.pieces if piece.name == "Sheer cloth")
    assert {piece.on for piece in document.pieces if piece is not over} == {over.id} and hand.acts <= 9
    assert not [one for one in build.findings if one.code.startswith("shadow")]


def test_a_change_of_base(hand, page, job):
    page.goto("/")
    page.locator(".job-row a, a", has_text="Buoy towel").first.click()
    hand.acts += 1
    drawn(page)
    hand.stage("Brief")
    hand.choose("Sewn on", "sweatshirt")
    hand.click("button", "Save as the base asks")
    hand.click("button", "Change all")
    expect(page.locator("#brief")).to_be_visible()
    hand.build()
    document, _ = made("Buoy towel")
    assert document.brief.base == "sweatshirt" and hand.acts <= 6
