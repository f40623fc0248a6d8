"""Lengths as people type and read them: millimetres inside, millimetres or inches outside."""

from __future__ import annotations

import math
import re

from velamen.core.numbers import LONGEST, read_number

INCH = 25.4  # mm
UNITS = ("mm", "in")

_UNIT = re.compile(r"\s*(mm|millimet(?:re|er)s?|cm|in|inch|inches|\"|\u201d|\u2033|'')\s*$", re.IGNORECASE)
_FACTOR = {"mm": 1.0, "cm": 10.0}
_FRACTIONS = {"¼": "1/4", "½": "1/2", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_MIXED = re.compile(r"(?:(\d+)(?:\s+|-))?(\d+)\s*/\s*(\d+)")


def read_length(text: str, unit: str = "mm") -> float:
    """A typed length in mm; a number without a unit counts in `unit`, a fraction without one in inches.

    Nobody writes millimetres as 1/8. Raises ValueError where the text is no length.

    >>> read_length("63.5"), read_length("2.5 in"), read_length('2 1/2"'), read_length("2½"), read_length("1/8 mm")
    (63.5, 63.5, 63.5, 63.5, 0.125)
    """
    words = text.strip() if len(text) <= LONGEST else ""
    for sign, fraction in _FRACTIONS.items():
        words = words.replace(sign, f" {fraction}")
    named = _UNIT.search(words)
    if named:
        name = named.group(1).lower()
        factor = _FACTOR.get("mm" if name.startswith("mil") else name, INCH)
        words = words[: named.start()]
    else:
        factor = INCH if unit == "in" or _MIXED.fullmatch(words.strip()) else 1.0
    length = _number(words.strip()) * factor
    if not math.isfinite(length):
        raise ValueError(f"no length: {text!r}")
    return round(length, 6)


def show_length(length: float, unit: str = "mm", decimals: int = 1) -> str:
    """A length in mm as text in a unit, the unit left off; an inch gets one decimal more.

    >>> show_length(63.5), show_length(63.5, "in")
    ('63.5', '2.50')
    """
    if unit == "in":
        return f"{length / INCH:.{decimals + 1}f}"
    return f"{length:.{decimals}f}"


def _number(words: str) -> float:
    mixed = _MIXED.fullmatch(words)
    if not mixed:
        return read_number(words)
    whole, over, under = (int(part or 0) for part in mixed.groups())
    if under == 0:
        raise ValueError("a fraction of nothing")
    return whole + over / under
