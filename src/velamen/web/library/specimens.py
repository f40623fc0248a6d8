"""Specimens: a word in a typeface as a drawing."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import shapely

from velamen.core.artwork.lettering import lettering
from velamen.core.artwork.typeface import at_hand
from velamen.core.constructions.base import Judgement
from velamen.core.constructions.puff.typefaces import judgement
from velamen.core.errors import BadInput
from velamen.core.geometry.region import rings_of

WORD, HEIGHT = "TIDE 25", 25.0  # mm


@dataclass(frozen=True)
class Specimen:
    """box: of an SVG's viewBox; path: the letters; judged: by their strokes on foam."""

    box: str
    path: str
    judged: Judgement


def specimen(typeface: str) -> Specimen | None:
    """A word in a typeface; None where that has not got its letters, or is not at hand."""
    return _specimen(typeface) if at_hand(typeface) else None


@lru_cache(maxsize=128)
def _specimen(typeface: str) -> Specimen | None:
    try:
        letters = lettering(WORD, typeface, HEIGHT)
        found = judgement(WORD, typeface, HEIGHT)
    except BadInput:
        return None
    regions = [region for letter in letters for region in letter.regions]
    left, top, right, bottom = (round(float(one), 2) for one in shapely.total_bounds(regions))
    rings = [ring for region in regions for ring in rings_of(region)]
    path = "".join("M" + "L".join(f"{x:.2f},{y:.2f}" for x, y in ring) + "Z" for ring in rings)
    return Specimen(f"{left} {top} {right - left} {bottom - top}", path, found)
