"""SVG in: true size, fill rules, transforms; and one sentence for what cannot be used."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from core.hostile import star
from velamen.core.artwork.svg import MAX_BYTES, read_svg
from velamen.core.errors import BadInput

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">'


def regions(body, head=HEAD):
    return [drawn.region for drawn in read_svg(f"{head}{body}</svg>".encode()).drawn]


def test_millimetres_and_inches_and_pixels():
    bare = '<svg xmlns="http://www.w3.org/2000/svg">'
    assert regions('<rect width="96" height="48"/>', bare)[0].area == pytest.approx(25.4 * 12.7)
    inch = '<svg xmlns="http://www.w3.org/2000/svg" width="2in" height="2in" viewBox="0 0 10 10">'
    assert regions('<rect width="10" height="5"/>', inch)[0].bounds == pytest.approx((-25.4, -12.7, 25.4, 12.7))
    assert regions('<rect width="50" height="20"/>')[0].area == pytest.approx(1000)


def test_aspect_is_kept_unless_told_otherwise():
    head = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 100" width="50mm" height="50mm"{}>'
    assert regions('<rect width="200" height="100"/>', head.format(""))[0].area == pytest.approx(1250)
    none = head.format(' preserveAspectRatio="none"')
    assert regions('<rect width="200" height="100"/>', none)[0].area == pytest.approx(2500)


def test_curves_stay_within_five_hundredths():
    circle = regions('<circle cx="50" cy="50" r="40"/>')[0]
    off = np.abs(np.linalg.norm(shapely.get_coordinates(circle), axis=1) - 40)
    middles = 0.5 * (shapely.get_coordinates(circle)[1:] + shapely.get_coordinates(circle)[:-1])
    assert off.max() < 1e-6
    assert np.abs(np.linalg.norm(middles, axis=1) - 40).max() <= 0.05
    cubic = regions('<path d="M0 0 C0 100 100 100 100 0 Z"/>')[0]
    t = np.linspace(0, 1, 3000)[:, None]
    true = 3 * t * (1 - t) ** 2 * [0, 100] + 3 * t**2 * (1 - t) * [100, 100] + t**3 * [100, 0]
    true = true - 0.5 * (true.min(axis=0) + true.max(axis=0))
    assert shapely.distance(shapely.points(true), cubic.boundary).max() <= 0.05


def test_arcs_are_exact():
    half = regions('<path d="M10 50 A40 40 0 0 1 90 50 Z"/>')[0]
    assert half.area == pytest.approx(math.pi * 800, rel=2e-3)
    tilted = regions('<path d="M10 50 A40 20 30 1 0 90 50 A40 20 30 1 0 10 50Z"/>')[0]
    assert tilted.area > 0 and tilted.is_valid


def test_nested_transforms():
    body = '<g transform="translate(10 0) rotate(90)"><g transform="scale(2 3)"><rect width="5" height="4"/></g></g>'
    region = regions(body)[0]
    left, top, right, bottom = region.bounds
    assert (right - left, bottom - top) == pytest.approx((12, 10))
    skewed = regions('<rect width="10" height="10" transform="skewX(45)"/>')[0]
    assert skewed.area == pytest.approx(100) and skewed.bounds[2] - skewed.bounds[0] == pytest.approx(20)


def test_fill_rules():
    same = "M0 0H60V60H0Z M10 10H50V50H10Z"
    turned = "M0 0H60V60H0Z M10 10V50H50V10Z"
    assert regions(f'<path d="{same}"/>')[0].area == pytest.approx(3600)
    assert regions(f'<path d="{turned}"/>')[0].area == pytest.approx(2000)
    ring = regions(f'<path d="{same}" fill-rule="evenodd"/>')[0]
    assert ring.area == pytest.approx(2000) and len(ring.interiors) == 1
    island = same + " M20 20H40V40H20Z"
    parts = regions(f'<path d="{island}" style="fill-rule:evenodd"/>')
    assert sorted(part.area for part in parts) == pytest.approx([400, 2000])


def test_styles_by_class_use_and_hidden_parts():
    body = (
        "<style>.no{fill:none}.eo{fill-rule:evenodd}</style><defs><rect id='r' width='10' height='10'/></defs>"
        '<path class="no" d="M0 0h9v9"/><path class="eo" d="M0 0h20v20h-20z m5 5h10v10h-10z"/>'
        '<use href="#r" x="40" y="40"/><rect width="50" height="50" display="none"/>'
    )
    assert [round(region.area) for region in regions(body)] == [300, 100]


def test_names_and_notes():
    art = read_svg(f'{HEAD}<path id="left_ear" d="M0 0h9v9z"/><path fill="none" d="M0 0h9"/></svg>'.encode())
    assert [drawn.name for drawn in art.drawn] == ["left ear"]
    assert art.notes == ("1 open line came in as a line: only closed outlines become cloth.",)


def test_outlines_that_only_touch_themselves_are_kept():
    keyhole = "0,0 30,0 30,30 15,30 15,20 20,20 20,10 10,10 10,20 15,20 15,30 0,30"
    assert regions(f'<polygon points="{keyhole}"/>')[0].area == pytest.approx(800)
    spike = "0,0 20,0 20,20 10,20 10,12 10,20 0,20"
    assert regions(f'<polygon points="{spike}"/>')[0].area == pytest.approx(400)
    loop = "0,0 30,0 30,30 15.05,30 15,30.1 15.1,30.1 15.02,29.99 0,30"
    assert regions(f'<polygon points="{loop}"/>')[0].area == pytest.approx(900, abs=0.2)


BAD = {
    "empty": ("", "empty"),
    "blank": ("   ", "empty"),
    "broken": ("<svg", "not well-formed"),
    "html": ("<html/>", "<svg> should stand"),
    "nothing": (HEAD + "</svg>", "no closed outline"),
    "text": (HEAD + "<text>TIDE</text></svg>", "only text"),
    "lines": (HEAD + '<path fill="none" d="M0 0h50v50"/></svg>', "only open lines"),
    "specks": (HEAD + '<rect width=".2" height=".2"/></svg>', "smaller than"),
    "crossing": (
        HEAD + star(301).replace("<path", '<path id="tail"') + "</svg>",
        "'tail' crosses itself in more than 5,000 places",
    ),
    "path": (HEAD + '<path d="M0 0L50 50 Q"/></svg>', "cannot be read"),
    "letters": (HEAD + '<path d="M0 0 Lfoo bar"/></svg>', "cannot be read"),
    "infinite": (HEAD + '<path d="M0 0h50v50h-50z M1e999 0"/></svg>', "not finite"),
    "transform": (HEAD + '<rect width="9" height="9" transform="wobble(3)"/></svg>', "transform"),
    "huge": (HEAD + '<rect width="90000" height="9"/></svg>', "check its units"),
    "outside": (HEAD + '<use href="http://elsewhere/art.svg#a"/></svg>', "another file"),
    "entity": ('<!DOCTYPE svg [<!ENTITY a "b">]>' + HEAD + "<text>&a;</text></svg>", "entities"),
    "file": ('<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hosts">]>' + HEAD + "&x;</svg>", "entities"),
    "deep": (HEAD + "<g>" * 3000 + "</g>" * 3000 + "</svg>", "groups deep"),
    "loop": (HEAD + '<g id="a"><use href="#a"/></g></svg>', "groups deep"),
    "no size": (
        '<svg xmlns="http://www.w3.org/2000/svg" width="0" height="0" viewBox="0 0 9 9"><rect/></svg>',
        "no size",
    ),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_input_gets_one_sentence(name):
    text, words = BAD[name]
    with pytest.raises(BadInput) as told:
        read_svg(text.encode())
    assert words in str(told.value)
    assert "\n" not in str(told.value) and str(told.value).endswith(".")


def test_bombs_are_refused():
    bomb = '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa">' + "".join(
        f'<!ENTITY {chr(98 + n)} "{f"&{chr(97 + n)};" * 10}">' for n in range(9)
    )
    with pytest.raises(BadInput, match="entities"):
        read_svg((bomb + "]>" + HEAD + "<text>&j;</text></svg>").encode())
    with pytest.raises(BadInput, match="MB"):
        read_svg(b"<svg>" + b" " * MAX_BYTES + b"</svg>")
    uses = "".join(f'<g id="g{n}">' + f'<use href="#g{n - 1}"/>' * 12 + "</g>" for n in range(1, 9))
    with pytest.raises(BadInput, match="elements"):
        read_svg((HEAD + '<rect id="g0" width="9" height="9"/>' + uses + "</svg>").encode())


@settings(max_examples=150)
@given(st.text(alphabet="MmLlHhVvCcSsQqTtAaZz0123456789.,- eE", max_size=80))
def test_any_path_data_is_read_or_refused(data):
    try:
        art = read_svg(f'{HEAD}<path d="M0 0 {data}"/></svg>'.encode())
    except BadInput:
        return
    assert all(drawn.region.is_valid and drawn.region.area > 0 for drawn in art.drawn)


@settings(max_examples=60)
@given(st.binary(max_size=200))
def test_any_bytes_are_read_or_refused(data):
    with pytest.raises(BadInput):
        read_svg(data)
