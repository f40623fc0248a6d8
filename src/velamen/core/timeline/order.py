"""The order of operations: the stack's own, what is asked instead, and stops shared."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from velamen.core.timeline.operation import Decorated, Operation, When
from velamen.core.timeline.placed import Placed
from velamen.core.timeline.refusals import violations
from velamen.core.timeline.sheets import runs, step_by_step


def in_order(pieces: Sequence[Placed], asked: Sequence[str] = ()) -> list[Operation]:
    """Operations of all pieces in the order they are done in.

    By itself every piece follows the ones below it in the stack, neighbours under one sheet step by step; what
    decorates a cloth is sewn where the piece that lays it says; what is left for later comes last.

    >>> one, two = (Placed(key, key, (Operation(key, key, "line"),)) for key in ("p1", "p2"))
    >>> [each.key for each in in_order([one, two])]
    ['p1:line', 'p2:line']
    >>> [each.key for each in in_order([one, two], ["p2:line", "p1:line"])]
    ['p2:line', 'p1:line']

    asked: keys in another order; operations that it does not name stay behind the one they follow by themselves, late
    ones at the end.
    """
    operations = _by_itself(pieces)
    for run in runs(pieces):
        operations = step_by_step(operations, [pieces[nth].id for nth in run])
    operations = [one for one in operations if not one.late] + [one for one in operations if one.late]
    place = {key: nth for nth, key in enumerate(asked)}
    if not place:
        return operations
    ranks, last = [], (-1, 0)
    for operation in operations:
        named = operation.key in place and operation.when is not When.AFTER
        if operation.late and not named:
            last = max(last, (len(asked), 0))
        last = (place[operation.key], 0) if named else (last[0], last[1] + 1)
        ranks.append(last)
    return [one for _, one in sorted(zip(ranks, operations, strict=True), key=lambda pair: pair[0])]


def _by_itself(pieces: Sequence[Placed]) -> list[Operation]:
    """Operations piece by piece, each with what decorates it; pieces that decorate one another stand alone."""
    hosts = {one.id for one in pieces if any(each.decorated for each in one.operations)}
    decorating: dict[str, list[Placed]] = {}
    for one in pieces:
        if one.on in hosts and one.on != one.id:
            decorating.setdefault(one.on, []).append(one)
    sewn: set[str] = set()

    def whole(one: Placed) -> list[Operation]:
        sewn.add(one.id)
        extra = [each for guest in decorating.get(one.id, []) if guest.id not in sewn for each in whole(guest)]
        own = one.operations
        at = next((nth for nth, each in enumerate(own) if each.decorated is Decorated.BEFORE or each.late), len(own))
        return [*own[:at], *extra, *own[at:]]

    hosted = {one.id for group in decorating.values() for one in group}
    found: list[Operation] = []
    for one in [*(each for each in pieces if each.id not in hosted), *pieces]:
        if one.id not in sewn:
            found += whole(one)
    return found


def shared_order(
    sharing: Sequence[Placed], pieces: Sequence[Placed], operations: Sequence[Operation],
    apart: Callable[[str, str], bool],
) -> list[Operation] | None:  # fmt: skip
    """Operations in an order in which pieces that lie apart share their stops; None where none can.

    sharing: the pieces that may, among all of them; apart: whether two pieces, by id, do not touch.
    """
    wanted = list(operations)
    shares = {one.id: [each.share for each in one.operations if each.does] for one in sharing}
    laying = [one.id for one in sharing if any(shares[one.id])]
    taken: set[str] = set()
    for first in laying:
        if first in taken:
            continue
        group = [first]
        parts = [one.part for one in wanted if one.piece == first]
        for other in laying[laying.index(first) + 1 :]:
            alike = shares[other] == shares[first] and parts == [one.part for one in wanted if one.piece == other]
            if not alike or other in taken or not all(apart(other, one) for one in group):
                continue
            if not violations(pieces, step_by_step(wanted, [*group, other])):
                group.append(other)
        if len(group) > 1:
            wanted = step_by_step(wanted, group)
            taken.update(group)
    return wanted if taken else None
