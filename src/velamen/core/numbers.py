"""Numbers as files and fields give them: finite, bounded, short. Whatever reads a number out of text does it here."""

from __future__ import annotations

import math
import re

NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")
LONGEST = 60  # characters of one number: seventeen digits say all that a float holds
FARTHEST = 1e9  # beyond it nothing is a length, an angle or a count


def read_number(text: str, most: float = FARTHEST) -> float:
    """A number out of text, comma or point. Raises ValueError where it is none, too long, or beyond `most`.

    >>> read_number(" 2,5 "), read_number("-1e3")
    (2.5, -1000.0)
    """
    words = text.strip() if len(text) <= LONGEST else ""
    if not words.isascii() or "_" in words:
        raise ValueError("no number")
    return bounded(float(words.replace(",", ".")), most)


def read_numbers(text: str, most: float = FARTHEST) -> list[float]:
    """All numbers in a text, what stands between them passed over. Raises ValueError as above.

    >>> read_numbers("0,0 -10.5.5e1")
    [0.0, 0.0, -10.5, 5.0]
    """
    found = NUMBER.findall(text)
    if any(len(word) > LONGEST for word in found):
        raise ValueError("a number too long")
    return [bounded(float(word), most) for word in found]


def read_whole(text: str, most: int = 10**9) -> int:
    """A whole number from 0 on. Raises ValueError as above."""
    words = text.strip() if len(text) <= LONGEST else ""
    if not (words.isascii() and words.isdigit()):
        raise ValueError("no whole number")
    return int(bounded(int(words), most))


def bounded(value: float, most: float = FARTHEST) -> float:
    """The value itself. Raises ValueError where it is not finite or beyond `most`."""
    if not math.isfinite(value) or abs(value) > most:
        raise ValueError("a number out of bounds")
    return value
