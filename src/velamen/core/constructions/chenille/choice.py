"""Which of several ways to sew channels leaves the most of them open: each is walked through with scissors."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from velamen.core.geometry.region import Area
from velamen.core.memo import kept
from velamen.core.proofs.channels import Channels, prove_channels
from velamen.core.setting import Plain
from velamen.core.stitching.channels import channels
from velamen.core.stitching.strand import Strand

STARTS = 8  # places round the shape that sewing may begin near


def best_channels(region: Area, known: Mapping[str, Plain]) -> tuple[list[Strand], Channels]:
    """Channels by the values of a piece, begun where fewest stay closed, and what the proof says of them."""
    keys = ("spacing", "angle", "length", "scissors")
    strands, proof = _best(region, *(float(known[f"channel_{key}"]) for key in keys))
    return list(strands), proof


@kept(64)
def _best(
    region: Area, spacing: float, degrees: float, length: float, scissors: float
) -> tuple[tuple[Strand, ...], Channels]:
    angle = float(np.radians(degrees))
    left, top, right, bottom = region.bounds
    turns = 2 * np.pi * np.arange(STARTS) / STARTS
    middle, half = np.array([left + right, top + bottom]) / 2, np.array([right - left, bottom - top]) / 2
    places = middle + half * np.stack([np.cos(turns), np.sin(turns)], axis=1)
    best: tuple[tuple[Strand, ...], Channels] | None = None
    for start in (None, *((float(x), float(y)) for x, y in places)):
        strands = tuple(channels(region, spacing, angle, length, start))
        proof = prove_channels(region, strands, angle, scissors)
        if best is None or _worth(strands, proof) < _worth(*best):
            best = strands, proof
        if proof.held or not strands:
            break
    assert best is not None
    return best


def _worth(strands: tuple[Strand, ...], proof: Channels) -> tuple[bool, int, int, int]:
    return not proof.every, len(proof.closed), len(proof.narrow), len(strands)
