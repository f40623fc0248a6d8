"""Pieces sewn, judged and sewn on as routes, kept by all that their stitches depend on."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, cast

from velamen.core.building.matched import forget_values
from velamen.core.constructions import construction
from velamen.core.constructions.base import Sewn, Work
from velamen.core.job.document import Piece
from velamen.core.memo import FORGET, Keyed, content
from velamen.core.plan.routing import Routed, route
from velamen.core.proofs.finding import Finding, nothing_sewn
from velamen.core.proofs.proved import Proved
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values

Passes = Mapping[str, tuple[Pass, ...]]
"""The passes of operations, by the operation's key."""


@dataclass(frozen=True)
class Judged:
    """What the proofs of one piece found, and all findings about it."""

    findings: tuple[Finding, ...]
    proofs: Mapping[str, Proved]


Given = Keyed[tuple[Piece, Work, Values, tuple[Operation, ...]]]


def given_of(piece: Piece, work: Work, values: Values, operations: tuple[Operation, ...]) -> Given:
    """A piece with all that its stitches depend on: its construction, its work to the last field, its values."""
    known = tuple((key, value.value, value.matched) for key, value in values.items())
    return Keyed((piece, work, values, operations), (piece.construct, content(work), known))


def known_from(answer: object, asked: Callable[[Given], object], given: Given) -> None:
    """Has a function that keeps its answers keep one that was worked out elsewhere."""
    _elsewhere[asked, given] = answer
    asked(given)
    _elsewhere.pop((asked, given), None)


_elsewhere: dict[tuple[object, Given], Any] = {}  # answers on their way into what is kept


@lru_cache(maxsize=1024)
def sewn(given: Given) -> Passes:
    """The passes of a piece."""
    if (known := _elsewhere.get((sewn, given))) is not None:
        return cast(Passes, known)
    _, work, values, operations = given.it
    return {one.key: tuple(one.fills(work, values)) for one in operations if one.fills}


@lru_cache(maxsize=32)
def routed(group: tuple[Given, ...], start: tuple[float, float] | None, end: tuple[float, float] | None) -> Routed:
    """A group of pieces as one route."""

    def sew(nth: int, begin: tuple[float, float] | None, upto: tuple[float, float] | None) -> tuple[Pass, ...]:
        _, work, values, operations = group[nth].it
        if begin is None and upto is None:
            found = sewn(group[nth])
            return tuple(each for one in operations for each in found.get(one.key, ()))
        placed = replace(work, start=begin, end=upto)
        return tuple(each for one in operations if one.fills for each in one.fills(placed, values))

    hidden = [
        construction(piece.construct).hides(work, values) for piece, work, values, _ in (one.it for one in group)
    ]
    return route([one.it[1].region for one in group], hidden, sew, start, end)


@lru_cache(maxsize=1024)
def judged(given: Given) -> Judged:
    """What the proofs of a piece find."""
    if (known := _elsewhere.get((judged, given))) is not None:
        return cast(Judged, known)
    piece, work, values, operations = given.it
    kind, found = construction(piece.construct), sewn(given)
    passes = tuple(each for one in operations for each in found.get(one.key, ()))
    if not passes:
        return Judged((nothing_sewn(work.piece, work.name, kind.title, work.region),), {})
    piece_sewn = Sewn(work, values, passes, operations)
    proofs = {proof.key: each for proof in kind.proofs if (each := proof.prove(piece_sewn)) is not None}
    told = [finding for one in proofs.values() for finding in one.findings]
    return Judged((*kind.findings(piece_sewn), *told), proofs)


FORGET += [sewn.cache_clear, judged.cache_clear, routed.cache_clear, forget_values]
