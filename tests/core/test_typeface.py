"""Typefaces brought in: OTF, TTF and WOFF are drawn with, anything else is told in a sentence."""

import io
import struct
import zlib
from importlib.resources import files

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.ttLib import TTFont

from velamen.core.artwork.lettering import lettering
from velamen.core.artwork.typeface import MOST_BYTES, SHELVES, at_hand, name_of, read_typeface
from velamen.core.errors import BadInput

WOFF = files("velamen.core.artwork").joinpath("typefaces", "rubik.woff").read_bytes()


def saved(data, flavor=None, drop=()):
    font, out = TTFont(io.BytesIO(data)), io.BytesIO()
    for table in drop:
        del font[table]
    font.flavor = flavor
    font.save(out)
    return out.getvalue()


def otf(letters="HOnae"):
    """A typeface of plain bars in cubic outlines."""
    names = [".notdef", *letters]
    builder = FontBuilder(1000, isTTF=False)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({ord(one): one for one in letters})
    strings = {}
    for name in names:
        pen = T2CharStringPen(600, None)
        pen.moveTo((50, 0))
        for point in ((250, 0), (250, 700), (50, 700)):
            pen.lineTo(point)
        pen.closePath()
        strings[name] = pen.getCharString()
    builder.setupCFF("Bars", {}, strings, {})
    builder.setupHorizontalMetrics(dict.fromkeys(names, (600, 50)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Harbour bars", "styleName": "Bold"})
    builder.setupOS2()
    builder.setupPost()
    out = io.BytesIO()
    builder.save(out)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "name"),
    [(WOFF, "Rubik"), (saved(WOFF), "Rubik"), (otf(), "Harbour bars, bold"), (saved(WOFF, drop=["GPOS"]), "Rubik")],
    ids=["woff", "ttf", "otf", "no kerning"],
)
def test_a_typeface_is_read_with_its_name_and_drawn_with(data, name, monkeypatch):
    key, (told, font) = f"own-{name}{len(data)}", read_typeface(data)
    assert told.startswith(name) and 0.05 < font.stroke < 0.5
    monkeypatch.setattr(
        "velamen.core.artwork.typeface.SHELVES", [lambda asked: (told, data) if asked == key else None]
    )
    (letter, *_) = lettering("Hana", key, 20.0)
    _, top, _, bottom = letter.regions[0].bounds
    assert bottom - top == pytest.approx(20.0, abs=0.01) and name_of(key) == told and at_hand(key)


def woff(says):
    """A WOFF of one table that unpacks to 40 MB, whatever it says of that."""
    packed = zlib.compress(b"\0" * 40_000_000, 9)
    says = says or len(packed) + 1
    head = struct.pack(">IHHIHHIIIII", 64 + len(packed), 1, 0, 100, 1, 0, 0, 0, 0, 0, 0)
    table = struct.pack(">4sIIII", b"glyf", 64, len(packed), says, 0)
    return b"wOFF\0\1\0\0" + head + table + packed


@pytest.mark.parametrize(
    ("data", "told"),
    [
        (b"<svg/>", "That file is no typeface: OTF, TTF and WOFF are read."),
        (b"wOF2" + WOFF[4:], "WOFF2 is packed otherwise"),
        (b"", "is no typeface"),
        (WOFF[:2000], "cannot be read"),
        (saved(WOFF, drop=["hmtx"])[:], "cannot be read"),
        (otf("na"), "no Latin letters"),
        (b"OTTO" + b"\0" * MOST_BYTES, "at most 4 MB"),
        (woff(40_000_000), "unpacks to more"),
        (woff(0), "not as large as they say"),
    ],
)  # fmt: skip
def test_what_is_no_typeface_is_told(data, told):
    with pytest.raises(BadInput, match=told):
        read_typeface(data)


@pytest.mark.parametrize("seed", range(40))
def test_a_typeface_with_broken_bytes_is_read_or_told_of(seed):
    import numpy as np

    ttf = bytearray(saved(WOFF))
    random = np.random.default_rng(seed)
    for at in random.integers(12, len(ttf), 30):
        ttf[at] = int(random.integers(0, 256))
    try:
        read_typeface(bytes(ttf))
    except BadInput as error:
        assert str(error).startswith(("The typeface", "That file"))


def test_a_typeface_that_nobody_has_is_told_with_those_there_are():
    assert not at_hand("own-2") and len(SHELVES) <= 1
    with pytest.raises(BadInput, match="There is no typeface 'own-2': choose one of fredoka"):
        lettering("H", "own-2", 20.0)
