"""Typefaces judged for puff: which letters of a text have strokes too narrow or too wide for foam at a height."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from velamen.core.artwork.lettering import lettering
from velamen.core.artwork.typeface import name_of
from velamen.core.constructions.base import Judgement
from velamen.core.constructions.puff.strokes import NARROW, WIDE
from velamen.core.stitching.column import widths

MOST_NAMED = 6  # letters


@dataclass(frozen=True)
class Judged:
    """What a typeface comes to. narrow, wide: letters with strokes under NARROW and over WIDE mm; low, high: the
    narrowest and widest stroke, mm; letters: that were looked at."""

    narrow: tuple[str, ...]
    wide: tuple[str, ...]
    low: float
    high: float
    letters: int

    @property
    def fits(self) -> bool:
        return not self.narrow and not self.wide


def judged(text: str, typeface: str, height: float) -> Judged:
    """A typeface judged by the letters of a text. Raises BadInput where those cannot be drawn."""
    name_of(typeface)  # what is kept of its letters is kept for whoever has it
    every = "".join(dict.fromkeys("".join(text.split())))
    across = {one: _widths(one, typeface, height) for one in every}
    known = [width for found in across.values() for width in found]
    return Judged(
        tuple(one for one, found in across.items() if found and min(found) < NARROW),
        tuple(one for one, found in across.items() if found and max(found) > WIDE),
        min(known, default=0.0), max(known, default=0.0), len(across),
    )  # fmt: skip


@lru_cache(maxsize=4096)
def _widths(one: str, typeface: str, height: float) -> tuple[float, ...]:
    """mm across each stroke of a letter."""
    regions = [region for letter in lettering(one, typeface, height) for region in letter.regions]
    return tuple(width for region in regions for width in widths(region))


def judgement(text: str, typeface: str, height: float) -> Judgement:
    """The same in a few words."""
    one = judged(text, typeface, height)
    span = f"strokes {one.low:.1f} to {one.high:.1f} mm"
    if one.fits:
        return Judgement(True, f"fits, {span}")
    short = [letter for letter in dict.fromkeys(text) if letter in one.narrow or letter in one.wide]
    return Judgement(False, f"{len(short)} of {one.letters} fall short ({', '.join(short[:MOST_NAMED])}), {span}")
