"""Lengths as people type them: millimetres, inches, fractions."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from velamen.core.lengths import read_length, show_length


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("63.5", 63.5), ("63,5", 63.5), (" 63.5 mm ", 63.5), ("63.5mm", 63.5), ("6.35 cm", 63.5),
        ("2.5 in", 63.5), ("2.5in", 63.5), ('2.5"', 63.5), ("2.5”", 63.5), ("2.5″", 63.5), ("2.5 inches", 63.5),
        ('2 1/2"', 63.5), ("2 1/2 in", 63.5), ("2-1/2in", 63.5), ("2½ in", 63.5), ('5/2"', 63.5), ("½ in", 12.7),
        ("1 inch", 25.4), ("1/8 IN", 3.175),
    ],
)  # fmt: skip
def test_typed_lengths(text, mm):
    assert read_length(text) == pytest.approx(mm)


@pytest.mark.parametrize(
    ("text", "mm"), [("2.5", 63.5), ("2 1/2", 63.5), ("2½", 63.5), ("63.5 mm", 63.5), ("0", 0.0)]
)
def test_bare_numbers_count_in_the_persons_unit(text, mm):
    assert read_length(text, "in") == pytest.approx(mm)


@pytest.mark.parametrize(
    "text", ["", "wide", "1/0", "1/", "2 1/2 1/2", "inf", "nan", "mm", '"', "1 2", "--3", "2.5 ft"]
)
def test_no_lengths(text):
    with pytest.raises(ValueError):
        read_length(text)


@given(st.floats(0, 1000))
def test_what_is_shown_can_be_typed_again(mm):
    assert abs(read_length(show_length(mm)) - mm) <= 0.051
    assert abs(read_length(show_length(mm, "in"), "in") - mm) <= 0.0051 * 25.4
