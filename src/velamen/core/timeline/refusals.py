"""Refusals: which order of operations cannot be, and why, out of what the operations declare."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import shapely

from velamen.core.timeline.operation import Decorated, Guard, Operation
from velamen.core.timeline.placed import Placed


class Violation(NamedTuple):
    """Something done too late in an order."""

    operation: Operation  # what is done too late
    before: Operation  # what it must come before
    why: str  # a sentence


def violations(pieces: Sequence[Placed], operations: Sequence[Operation]) -> list[Violation]:
    """What cannot be in an order of operations; nothing where every need is kept.

    pieces: in stack order; operations of none of them (of the brief) are passed over.
    """
    place = {one.key: nth for nth, one in enumerate(operations)}
    known = {one.id: one for one in pieces}
    return [
        *_own_needs(operations, place),
        *_under_first(known, operations, place),
        *_decorations(known, operations, place),
        *_guarded(pieces, operations, place),
    ]


def _own_needs(operations: Sequence[Operation], place: Mapping[str, int]) -> Iterator[Violation]:
    """Operations after what they need of their own piece, directly or through another one."""
    by_key = {one.key: one for one in operations}
    for operation in operations:
        todo, needed = list(operation.needs), dict.fromkeys(operation.needs)
        while todo:
            need = by_key.get(f"{operation.piece}:{todo.pop()}")
            fresh = [part for part in (need.needs if need else ()) if part not in needed]
            needed.update(dict.fromkeys(fresh))
            todo += fresh
        needs = [by_key[key] for part in needed if (key := f"{operation.piece}:{part}") in by_key]
        for need in sorted(needs, key=lambda one: place[one.key]):
            if place[need.key] > place[operation.key]:
                yield Violation(need, operation, f"{_capital(operation.words)} cannot come before the {need.words} "
                                f"of the same piece: {operation.name}.")  # fmt: skip


def _under_first(
    known: Mapping[str, Placed], operations: Sequence[Operation], place: Mapping[str, int]
) -> Iterator[Violation]:
    """Grounds before what they go round."""
    begins: dict[str, Operation] = {}
    for operation in operations:
        begins.setdefault(operation.piece, operation)
    for piece in known.values():
        for operation in piece.operations:
            served = [begins[key] for key in piece.serves if key in begins] if operation.first else []
            early = min(served, key=lambda one: place[one.key], default=None)
            if early is not None and operation.key in place and place[early.key] < place[operation.key]:
                yield Violation(operation, early, f"{_capital(operation.words)} is sewn before what it goes round: "
                                f"{early.name} would lie under it.")  # fmt: skip


def _decorations(
    known: Mapping[str, Placed], operations: Sequence[Operation], place: Mapping[str, int]
) -> Iterator[Violation]:
    """What decorates a piece's cloth after what holds it, and before what closes it."""
    for piece in known.values():
        host = known.get(piece.on)
        if host is None or host is piece:
            continue
        mine = [one for one in operations if one.piece == piece.id and not one.late]
        for own in host.operations:
            if not own.decorated or own.key not in place:
                continue
            told = f"{piece.name} decorates the cloth of {host.name}"
            for one in mine:
                if own.decorated is Decorated.AFTER and place[one.key] < place[own.key]:
                    yield Violation(own, one, f"{told}: it cannot be sewn before its {own.words}.")
                elif own.decorated is Decorated.BEFORE and place[one.key] > place[own.key]:
                    yield Violation(one, own, f"{told}: it is sewn before its {own.words}.")


def _guarded(
    pieces: Sequence[Placed], operations: Sequence[Operation], place: Mapping[str, int]
) -> Iterator[Violation]:
    """Nothing of another piece in an area while it is closed to it."""
    guards = [(nth, guard) for nth, piece in enumerate(pieces) for one in piece.operations for guard in one.guards
              if not guard.region.is_empty]  # fmt: skip
    if not guards:
        return
    at = {piece.id: nth for nth, piece in enumerate(pieces)}
    by_key = {one.key: one for one in operations}
    # Operations of one piece in one area stand together: what is asked of the area is asked once.
    areas: dict[tuple[int, int], list[Operation]] = {}
    for operation in operations:
        if operation.piece in at and not operation.late and not operation.first and operation.region is not None:
            areas.setdefault((at[operation.piece], id(operation.region)), []).append(operation)
    groups = list(areas.items())
    regions = np.array([group[0].region for _, group in groups], dtype=object)
    shares = [{one.share for one in piece.operations if one.share is not None} for piece in pieces]
    met = shapely.STRtree(regions).query([guard.region for _, guard in guards], predicate="intersects")
    for which, area in zip(*met.tolist(), strict=True):
        (owner, guard), ((nth, _), group) = guards[which], groups[area]
        opens, closes = by_key.get(guard.opens), by_key.get(guard.closes)
        end = closes or opens
        if end is None or nth == owner or (guard.beneath and nth > owner):
            continue
        if pieces[owner].on == pieces[nth].id or pieces[nth].on == pieces[owner].id:
            continue
        if opens is not None and not guard.beneath and opens.share in shares[nth]:
            continue  # it has the same material laid, at the same stop perhaps
        low = place[opens.key] if opens is not None else -1
        high = place[closes.key] if closes is not None else len(operations)
        wrong = next((one for one in group if low < place[one.key] < high and (one.fills or not guard.sewn)), None)
        if wrong is not None:
            before = opens if closes is None or (guard.sewn and opens is not None) else closes
            yield Violation(wrong, before or end, _told(guard, wrong, pieces[owner].name))


def _told(guard: Guard, wrong: Operation, owner: str) -> str:
    """Why, with the names put in; done at one go, so that names may hold braces."""
    words = {"what": _capital(wrong.words), "of": wrong.name, "owner": owner}
    return re.sub(r"\{(what|of|owner)\}", lambda found: words[found[1]], guard.why)


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]
