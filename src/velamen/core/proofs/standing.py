"""Standing proof: does every part of an embossed motif stand up, or is it lost in the ground round it?"""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from velamen.core.geometry.narrow import thin_parts
from velamen.core.geometry.region import Area
from velamen.core.proofs.finding import Finding

TIMES = 2.0  # pile heights, below which a standing part vanishes (handbook, section 6)


@dataclass(frozen=True)
class Standing:
    """What the proof found. needed: mm that a part must be wide; lost: places and mm of what vanishes."""

    needed: float
    lost: tuple[tuple[float, float, float], ...]

    @property
    def held(self) -> bool:
        return not self.lost


def prove_standing(motif: Area, pile: float) -> Standing:
    """Finds parts of a motif too narrow to stand in pile of this height in mm, the farthest reaching first."""
    needed = TIMES * pile
    if needed <= 0 or motif.is_empty:
        return Standing(needed, ())
    found = []
    for part, reach in thin_parts(motif, needed):
        spot = part.representative_point()
        length = min(reach, float(shapely.length(part)) / 2)
        found.append((round(spot.x, 2), round(spot.y, 2), round(length, 2)))
    return Standing(needed, tuple(sorted(found, key=lambda one: -one[2])))


def standing_finding(piece: str, name: str, proof: Standing, pile: float) -> Finding:
    """The finding of parts that vanish."""
    count = len(proof.lost)
    parts = "A part" if count == 1 else f"{count} parts"
    return Finding(
        "emboss_thin", "warning", piece,
        f"{parts} of {name} narrower than {proof.needed:g} mm will not stand up in {pile:g} mm of pile: "
        "make the motif bolder there.",
        tuple((x, y) for x, y, _ in proof.lost),
    )  # fmt: skip
