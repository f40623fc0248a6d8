"""What becomes of chenille once it is slit and washed: its slits, and the lines along which ridges stand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.constructions.base import Fluff, Work
from velamen.core.constructions.chenille.proof import proof_of, strands_of
from velamen.core.geometry.region import Area, boundaries, grown
from velamen.core.stitching.channels import CHANNEL
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, number

UNDER = 0.5  # mm of a line, shorter ones stand up no longer
RIM_IN, RIM = 1.0, 1.5  # mm inside the edge that its fluff stands, and how far that reaches


def fluffed(work: Work, values: Values, passes: Sequence[Pass]) -> Fluff:
    """Slits as far as scissors come, ridges along all lines and round the edge."""
    strands = strands_of(passes)
    proof = proof_of(work, values, strands)
    slits = [np.array(one.line) for one in proof.every if not one.closed]
    spines = [line for one in strands for line in _bare(_lines(one), work.decorated)] if slits else []
    inside = grown(work.region, -RIM_IN) if slits else None
    rims = [] if inside is None else [np.concatenate([ring, ring[:1]]) for ring in boundaries(inside)]
    reaches = [number(values, "channel_spacing") / 2] * len(spines) + [RIM] * len(rims)
    return Fluff(tuple(slits), (*spines, *rims), tuple(reaches))


def _bare(lines: list[Array], decorated: Area | None) -> list[Array]:
    """Those parts of lines that nothing is sewn over."""
    if decorated is None:
        return lines
    left = shapely.difference([shapely.LineString(line) for line in lines], decorated)
    return [shapely.get_coordinates(part) for part in shapely.get_parts(left) if part.length > UNDER]


def _lines(sewn: Strand) -> list[Array]:
    """The stretches of a thread that are channels."""
    is_line = np.concatenate([[False], sewn.role == CODE[CHANNEL], [False]])
    turns = np.flatnonzero(np.diff(is_line.astype(np.int8))).reshape(-1, 2)
    return [sewn.xy[max(begin - 1, 0) : end] for begin, end in turns.tolist() if end - begin > 1]
