"""Cloths laid over their decoration: whether they let it show, and whether there is any."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from velamen.core.building.built_piece import BuiltPiece
from velamen.core.geometry.region import spot_in
from velamen.core.materials.library import SHEER, Library
from velamen.core.proofs.finding import Finding


def shadow_findings(pieces: Sequence[BuiltPiece], hosts: Mapping[str, str], library: Library) -> list[Finding]:
    """Findings of every piece whose cloth is laid over what decorates it. hosts: what each piece decorates, by id."""
    found = []
    for one in pieces:
        over = one.kind.over_decoration
        if over is None or not all(
            key in one.values and one.values[key].value == value for key, value in over.items()
        ):
            continue
        cloth = library.cloths[one.piece.cloth]
        at = spot_in(one.work.region)
        if one.piece.id not in hosts.values():
            found.append(Finding(
                "shadow_empty", "info", one.piece.id,
                f"{one.piece.name} is laid over its decoration, and nothing decorates it: say what lies under it.",
                at,
            ))  # fmt: skip
        elif cloth.like != SHEER:
            found.append(Finding(
                "shadow_opaque", "warning", one.piece.id,
                f"{one.piece.name} lays {cloth.name.lower()} over its decoration and hides it: choose a sheer cloth.",
                at,
            ))  # fmt: skip
    return found
