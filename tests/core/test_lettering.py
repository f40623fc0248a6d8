"""Lettering: true height, kerning, fitting, arcs, stacked lines, joined words, and letters that are not there."""

import numpy as np
import pytest
import shapely

from velamen.core.artwork.lettering import lettering, word
from velamen.core.artwork.typeface import TYPEFACES, smallest_height
from velamen.core.edits.shapes import drawing
from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.core.job.reading import check_job
from velamen.core.job.shape import Text


def bounds(letters):
    return shapely.total_bounds(np.array([region for letter in letters for region in letter.regions]))


@pytest.mark.parametrize("typeface", TYPEFACES)
def test_capitals_have_their_height_and_every_letter_is_sound(typeface):
    left, top, right, bottom = bounds(lettering("H", typeface, 20.0))
    assert bottom - top == pytest.approx(20.0, abs=0.05) and left == pytest.approx(-right, abs=1e-6)
    letters = lettering("ABCDEFGHIJKLMNOPQRSTUVWXYZ", typeface, 20.0) + lettering(
        "abcdefghijklmnopqrstuvwxyz", typeface, 20.0
    )
    letters += lettering("0123456789&!?-'.ÄÖÜäöüßé", typeface, 20.0)
    assert len(letters) == 26 + 26 + 24
    for letter in letters:
        assert letter.regions and all(one.is_valid and one.area > 0.3 for one in letter.regions), letter.text


@pytest.mark.parametrize("typeface", TYPEFACES)
def test_counters_stay_open(typeface):
    for text, holes in (("O", 1), ("8", 2), ("0", 1), ("o", 1)):
        (letter,) = lettering(text, typeface, 20.0)
        assert sum(len(one.interiors) for one in letter.regions) == holes


def test_kerning_spacing_and_width():
    def wide(text, **more):
        left, _, right, _ = bounds(lettering(text, "rubik", 20.0, **more))
        return right - left

    assert wide("AV") < wide("A") + wide("V") - 0.5  # kerned into one another
    assert wide("TIDE", spacing=3.0) == pytest.approx(wide("TIDE") + 9.0)
    assert wide("TIDE", width=90.0) == pytest.approx(90.0, abs=0.05)
    assert wide("TIDE\nREGATTA", width=90.0) == pytest.approx(90.0, abs=0.05)


def test_lines_are_stacked_and_centred():
    letters = lettering("TIDE\nREGATTA", "oswald", 15.0)
    upper, lower = bounds(letters[:4]), bounds(letters[4:])
    assert upper[3] < lower[1] and upper[0] + upper[2] == pytest.approx(lower[0] + lower[2], abs=1e-6)
    assert bounds(letters)[1] == pytest.approx(-bounds(letters)[3], abs=1.0)


@pytest.mark.parametrize("arch", [12.0, -12.0])
def test_an_arc_lifts_the_middle_and_turns_the_ends(arch):
    letters = lettering("REGATTA", "rubik", 15.0, arch=arch)
    middles = np.array([shapely.union_all(np.array(one.regions, dtype=object)).centroid.coords[0] for one in letters])
    ends = (middles[0, 1] + middles[-1, 1]) / 2
    assert np.sign(ends - middles[3, 1]) == np.sign(arch) and abs(ends - middles[3, 1]) > 5
    straight = lettering("REGATTA", "rubik", 15.0)
    for bent, plain in zip(letters, straight, strict=True):
        area = [sum(one.area for one in letter.regions) for letter in (bent, plain)]
        assert area[0] == pytest.approx(area[1], rel=0.2)


def test_an_arch_too_flat_to_see_is_none():
    assert (bounds(lettering("TIDE", "rubik", 15.0, arch=1e-300)) == bounds(lettering("TIDE", "rubik", 15.0))).all()


def test_a_word_is_joined_where_it_touches_or_nearly_does():
    script = lettering("tide", "pacifico", 20.0)
    assert len(word(script)) < sum(len(one.regions) for one in script)
    plain = lettering("TIDE", "rubik", 20.0)
    assert len(word(plain)) == 4 and len(word(plain, gap=4.0)) == 1


@pytest.mark.parametrize("typeface", TYPEFACES)
def test_the_smallest_height_keeps_strokes_of_a_millimetre(typeface):
    least = smallest_height(typeface)
    assert 4.0 < least < 16.0
    for text in "Hn":
        (letter,) = lettering(text, typeface, least)
        area = shapely.union_all(np.array(letter.regions, dtype=object))
        opened = shapely.buffer(shapely.buffer(area, -0.49), 0.49)
        assert opened.area > 0.93 * area.area


def test_what_cannot_be_set_is_told():
    for text, words in (
        ("", "Type 1 to 60"),
        ("A" * 61, "Type 1 to 60"),
        ("1\n2\n3\n4\n5", "at most 4 lines"),
        ("潮", "no letter '潮'"),
    ):
        with pytest.raises(BadInput, match=words):
            lettering(text, "fredoka", 20.0)


def test_text_becomes_pieces():
    letters = drawing.draw_text(Job(), Text("", "Bä B", "fredoka", 30.0))
    assert [shape.name for shape in letters.shapes] == ["B", "ä", "ä 2", "ä 3", "B 2"] and check_job(letters)
    assert len({piece.cloth for piece in letters.pieces}) == 1
    joined = drawing.draw_text(Job(), Text("", "tide", "pacifico", 30.0, joined=True))
    assert joined.shapes[0].name.startswith("tide") and len(joined.shapes) < 6


def test_letters_stand_round_a_circle_and_a_second_line_runs_below():
    top = lettering("ORMSEL LOFT", "rubik", 12.0, circle=80.0)
    every = np.concatenate([shapely.get_coordinates(region) for one in top for region in one.regions])
    round_ = np.linalg.norm(every, axis=1)
    assert round_.min() > 39.5 and round_.max() < 53 and every[:, 1].min() < -50
    both = lettering("ORMSEL\nLOFT", "rubik", 12.0, circle=80.0)
    below = [region.centroid.y for one in both[6:] for region in one.regions]
    assert min(below) > 20 and both[6].regions[0].centroid.x < both[9].regions[0].centroid.x
    area = [sum(region.area for one in lettering("H", "rubik", 12.0, circle=across) for region in one.regions)
            for across in (60.0, 0.0)]  # fmt: skip
    assert area[0] == pytest.approx(area[1], rel=0.25)
    with pytest.raises(BadInput, match="mm long and the circle's round only"):
        lettering("ORMSEL LOFT", "rubik", 30.0, circle=40.0)
    with pytest.raises(BadInput, match="takes two lines"):
        lettering("A\nB\nC", "rubik", 10.0, circle=90.0)
