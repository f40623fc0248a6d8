"""Edges sewn round layers that are slit, which keep the scissors out of every channel."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import shapely

from velamen.core.building.built_piece import BuiltPiece
from velamen.core.constructions.base import Family
from velamen.core.geometry.region import grown
from velamen.core.proofs.finding import Finding

SEALS = 4.0  # mm inside what is slit that an edge may lie and still keep scissors out


def sealed_findings(pieces: Sequence[BuiltPiece], hosts: Mapping[str, str]) -> list[Finding]:
    """For each piece whose channels stay closed, the edges that decorate it all round. hosts: of pieces, by id."""
    found = []
    for host in pieces:
        channels = host.proofs.get("channels") if host.kind.minds_decoration else None
        if channels is None or channels.held:
            continue
        guests = [one for one in pieces if hosts.get(one.piece.id) == host.piece.id]
        for one in guests:
            if one.kind.family is Family.EDGES and shapely.covers(grown(one.work.region, SEALS), host.work.region):
                told = (f"{one.piece.name} is sewn over the ends of the channels of {host.piece.name}: leave it out, "
                        "the fluffy edge hides a rough trim.")  # fmt: skip
                found.append(Finding("edge_sealed", "warning", host.piece.id, told, others=(one.piece.id,)))
    return found
