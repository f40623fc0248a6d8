"""Routes of a job: groups of pieces of one thread whose passes are sewn on as one."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

from velamen.core.building.built_piece import BuiltPiece
from velamen.core.building.sewn import given_of, routed
from velamen.core.job.document import Job
from velamen.core.timeline.operation import Operation, When
from velamen.core.timeline.passes import Pass

ALONE = "alone"  # of pieces that are stitching alone


@dataclass(frozen=True)
class BuiltRoute:
    """A route as built."""

    pieces: tuple[str, ...]  # ids in sewing order
    before: int  # trims without it
    after: int  # trims with it


def together_by(built: BuiltPiece) -> Hashable | None:
    """With which pieces one may be on a route: any that are stitching alone too, or those under the same sheet as
    it; None where hands do something else between."""
    hands = [one for one in built.operations if one.does is not None and one.when is not When.AFTER]
    shares = {one.share for one in hands}
    if not hands:
        return ALONE
    sheet = next((one for one in shares if one is not None and one.neighbours), None)
    alike = sheet is not None and all(one is not None and one.of == sheet.of for one in shares)
    return sheet if alike and sum(one.fills is not None for one in built.operations) == 1 else None


def routed_passes(
    job: Job, pieces: Sequence[BuiltPiece], passes: dict[str, tuple[Pass, ...]], operations: Sequence[Operation]
) -> list[BuiltRoute]:
    """Routes; the passes of each, in place, all with that of its sewn operations that comes first."""
    routes: list[BuiltRoute] = []
    taken: set[str] = set()
    for asked in job.routes:
        group = [one for one in pieces if one.piece.id in asked.pieces and one.sewn and together_by(one)]
        group = [one for one in group if one.piece.thread == group[0].piece.thread
                 and together_by(one) == together_by(group[0])]  # fmt: skip
        if len(group) < 2 or any(one.piece.id in taken for one in group) or not _in_a_row(group, operations):
            continue
        found = routed(tuple(given_of(one.piece, one.work, one.values, one.operations) for one in group),
                        asked.start, asked.end)  # fmt: skip
        taken |= {one.piece.id for one in group}
        keys = {one.key for built in group for one in built.operations}
        first = _first(group, operations)
        for key in keys:
            passes.pop(key, None)
        passes[first] = tuple(one for sewn in found.passes for one in sewn)
        order = tuple(group[nth].piece.id for nth in found.order)
        routes.append(BuiltRoute(order, found.before, found.after))
    return routes


def _first(group: Sequence[BuiltPiece], operations: Sequence[Operation]) -> str:
    """The key under which a group is sewn: of stitching alone the first piece's, of others the first in order."""
    if together_by(group[0]) == ALONE:
        return group[0].operations[0].key
    mine = {one.key for built in group for one in built.operations if one.fills is not None}
    return next(one.key for one in operations if one.key in mine)


def _in_a_row(group: Sequence[BuiltPiece], operations: Sequence[Operation]) -> bool:
    """Whether nothing is done between what is sewn of pieces under one sheet."""
    if together_by(group[0]) == ALONE:
        return True
    mine = {one.key for built in group for one in built.operations if one.fills is not None}
    at = [nth for nth, one in enumerate(operations) if one.key in mine]
    return at[-1] - at[0] + 1 == len(at)
