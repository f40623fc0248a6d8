"""Neighbours in the stack over which one sheet is laid: they are sewn under it together, without being asked."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from velamen.core.timeline.operation import Operation, Share
from velamen.core.timeline.placed import Placed


def sheet_of(piece: Placed) -> Share | None:
    """What a piece shares with its neighbours of its own accord, None for most."""
    return next((one.share for one in piece.operations if one.share is not None and one.share.neighbours), None)


def runs(pieces: Sequence[Placed]) -> list[list[int]]:
    """Numbers of pieces next to one another under one sheet, two and more; what decorates a cloth stands apart."""
    hosts = {one.on for one in pieces if one.on}

    def key(nth: int) -> object:
        piece = pieces[nth]
        share = None if piece.on or piece.id in hosts else sheet_of(piece)
        return (nth,) if share is None else (share, tuple(one.part for one in piece.operations))

    found = [list(group) for _, group in groupby(range(len(pieces)), key=key)]
    return [one for one in found if len(one) > 1]


def step_by_step(operations: Sequence[Operation], group: Sequence[str]) -> list[Operation]:
    """Operations with those of some pieces, by id, done step by step across them, where the first of them stands."""
    member = [one for one in operations if one.piece in group]
    at = next(nth for nth, one in enumerate(operations) if one.piece in group)
    parts = list(dict.fromkeys(one.part for one in member))
    rank = {piece: nth for nth, piece in enumerate(group)}
    block = sorted(member, key=lambda one: (parts.index(one.part), rank[one.piece]))
    return [*(one for one in operations[:at] if one.piece not in rank), *block,
            *(one for one in operations[at:] if one.piece not in rank)]  # fmt: skip
