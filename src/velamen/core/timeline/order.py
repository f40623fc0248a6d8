"""The order in which steps of pieces are sewn: the stack's own, what is asked instead, and what cannot be.

A unit is what a piece does at one go: its passes of one role, or one hand step. Its key is
"piece:role", "p3:tack" or "p3:lay".
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

import shapely

from velamen.core.constructions.base import HandStep, Step, step_kind
from velamen.core.geometry.region import Area

COVERS = ("cover", "raw_edge")
SHARED = ("lay", "trim", "tidy")  # hand steps that several pieces of one cloth can have together
SAVED = {"lay": 20.0, "trim": 50.0, "tidy": 20.0}  # s that each piece more spares at a shared stop; ours
WORDS = {
    "placement": "placement line", "lay": "laying", "tack": "tack-down", "trim": "trimming",
    "raw_edge": "raw edge line", "second_tack": "second tack-down", "tidy": "tidying", "cover": "cover",
    "decoration": "decoration",
    "knockdown": "knockdown", "basting": "basting", "ground": "ground", "border": "border", "outline": "outline",
}  # fmt: skip


@dataclass(frozen=True)
class Unit:
    """Steps of one kind of one piece, in sewing order."""

    piece: str
    kind: str
    steps: tuple[Step, ...]

    @property
    def key(self) -> str:
        return f"{self.piece}:{self.kind}"

    @property
    def late(self) -> bool:
        """Whether it is done when all is sewn."""
        return all(isinstance(step, HandStep) and step.late for step in self.steps)


@dataclass(frozen=True)
class Placed:
    """What order depends on of a piece. under: whether it is sewn before what it goes round, by `serves`;

    on: id of the piece whose cloth it decorates; shadow: whether its own decoration goes under its cloth.
    """

    id: str
    name: str
    construct: str
    region: Area
    lays: bool
    under: bool = False
    serves: tuple[str, ...] = ()
    on: str = ""
    shadow: bool = False


def units_of(piece: str, steps: Sequence[Step]) -> list[Unit]:
    """A piece's steps as units."""
    return [Unit(piece, kind, tuple(group)) for kind, group in groupby(steps, key=step_kind)]


def in_order(pieces: Sequence[Placed], steps: Mapping[str, Sequence[Step]], asked: Sequence[str] = ()) -> list[Unit]:
    """Units of all pieces in sewing order.

    By itself every piece follows the ones below it in the stack; what decorates a cloth comes between its
    tack-down and its cover, or before it where the cloth is sheer; what is done after finishing comes last.
    asked: keys in another order; units that it does not name stay behind the one they follow by themselves.
    """
    units = _by_itself(pieces, {one.id: units_of(one.id, steps.get(one.id, ())) for one in pieces})
    units = [one for one in units if not one.late] + [one for one in units if one.late]
    place = {key: nth for nth, key in enumerate(asked)}
    if not place:
        return units
    ranks, last = [], (-1, 0)
    for unit in units:
        last = (place[unit.key], 0) if unit.key in place else (last[0], last[1] + 1)
        ranks.append(last)
    return [unit for _, unit in sorted(zip(ranks, units, strict=True), key=lambda pair: pair[0])]


def _by_itself(pieces: Sequence[Placed], units: Mapping[str, list[Unit]]) -> list[Unit]:
    """Units piece by piece, each cloth with what decorates it; cloths that decorate one another stand alone."""
    laying = {one.id for one in pieces if one.lays}
    decorating: dict[str, list[Placed]] = {}
    for one in pieces:
        if one.on in laying and one.on != one.id:
            decorating.setdefault(one.on, []).append(one)
    sewn: set[str] = set()

    def whole(one: Placed) -> list[Unit]:
        sewn.add(one.id)
        own = units[one.id]
        extra = [unit for each in decorating.get(one.id, []) if each.id not in sewn for unit in whole(each)]
        cover = next((nth for nth, unit in enumerate(own) if unit.kind in COVERS or unit.late), len(own))
        at = 0 if one.shadow else cover
        return [*own[:at], *extra, *own[at:]]

    hosted = {one.id for group in decorating.values() for one in group}
    found: list[Unit] = []
    for one in [*(each for each in pieces if each.id not in hosted), *pieces]:
        if one.id not in sewn:
            found += whole(one)
    return found


def violations(pieces: Sequence[Placed], units: Sequence[Unit]) -> list[tuple[Unit, Unit, str]]:
    """What cannot be in an order: a unit, the one it must come before, and why as a sentence."""
    known = {one.id: one for one in pieces}
    found = _own_order(known, units) + _under_first(pieces, units)
    found += _on_cloth(pieces, units) + _laid_over(pieces, units)
    return found


def _own_order(known: Mapping[str, Placed], units: Sequence[Unit]) -> list[tuple[Unit, Unit, str]]:
    """Placement before laying, laying before tack-down, and so on, of the same piece."""
    rank = {kind: nth for nth, kind in enumerate(
        ("placement", "lay", "tack", "trim", "second_tack", "tidy", "cover", "raw_edge"))}  # fmt: skip
    highest: dict[str, Unit] = {}
    found = []
    for unit in units:
        if unit.kind not in rank or unit.late:
            continue
        before = highest.get(unit.piece)
        if before is not None and rank[before.kind] > rank[unit.kind]:
            found.append((unit, before, f"{WORDS[before.kind].capitalize()} cannot come before the "
                          f"{WORDS[unit.kind]} of the same piece: {known[unit.piece].name}."))  # fmt: skip
        else:
            highest[unit.piece] = unit
    return found


def _under_first(pieces: Sequence[Placed], units: Sequence[Unit]) -> list[tuple[Unit, Unit, str]]:
    """Grounds before what they go round."""
    names = {one.id: one.name for one in pieces}
    found = []
    for one in pieces:
        if not one.under:
            continue
        serves = set(one.serves)
        early: Unit | None = None
        for unit in units:
            if unit.piece == one.id:
                if early is not None:
                    word = WORDS.get(one.construct, one.name).capitalize()
                    found.append((unit, early, f"{word} is sewn before what it goes round: {names[early.piece]} "
                                  "would lie under it."))  # fmt: skip
                break
            if unit.piece in serves:
                early = early or unit
    return found


def _on_cloth(pieces: Sequence[Placed], units: Sequence[Unit]) -> list[tuple[Unit, Unit, str]]:
    """Decoration of a cloth between its tack-down and its cover."""
    known = {one.id: one for one in pieces}
    found = []
    for one in pieces:
        host = known.get(one.on)
        if host is None or not host.lays or host.shadow:
            continue
        held = [nth for nth, unit in enumerate(units) if unit.piece == host.id and unit.kind == "tack"]
        covered = [nth for nth, unit in enumerate(units) if unit.piece == host.id and unit.kind in COVERS]
        for nth, unit in enumerate(units):
            if unit.piece != one.id:
                continue
            if held and nth < held[0]:
                found.append((units[held[0]], unit, f"{one.name} decorates the cloth of {host.name}: it cannot be "
                              "sewn before the cloth is held."))  # fmt: skip
            if covered and nth > covered[-1]:
                found.append((unit, units[covered[-1]], f"{one.name} decorates the cloth of {host.name}: it is sewn "
                              "before its cover."))  # fmt: skip
    return found


def _laid_over(pieces: Sequence[Placed], units: Sequence[Unit]) -> list[tuple[Unit, Unit, str]]:
    """Nothing of a piece once cloth of a piece above it lies over it."""
    lying = [one for one in pieces if not one.under and not one.region.is_empty]
    if not lying:
        return []
    one, other = shapely.STRtree([each.region for each in lying]).query(
        [each.region for each in lying], predicate="intersects"
    )
    over: dict[str, list[Placed]] = {}
    for low, high in zip(one.tolist(), other.tolist(), strict=True):
        if low < high and lying[high].lays and lying[high].id != lying[low].on and lying[low].id != lying[high].on:
            over.setdefault(lying[high].id, []).append(lying[low])
    names = {one.id: one.name for one in lying}
    last: dict[str, int] = {unit.piece: nth for nth, unit in enumerate(units) if not unit.late}
    found = []
    for nth, unit in enumerate(units):
        if unit.kind != "lay":
            continue
        for beneath in over.get(unit.piece, []):
            if last.get(beneath.id, -1) > nth:
                after = next(one for one in units[nth + 1 :] if one.piece == beneath.id and not one.late)
                word = WORDS.get(after.kind, after.kind).capitalize()
                found.append((after, unit, f"{word} of {beneath.name} cannot come after {names[unit.piece]} is laid: "
                              "its cloth lies over it."))  # fmt: skip
    return found


def merged(steps: Sequence[Step]) -> list[Step]:
    """Steps with hand steps of one kind and cloth that follow one another done at one stop."""
    found: list[Step] = []
    for step in steps:
        last = found[-1] if found else None
        if (
            isinstance(step, HandStep) and isinstance(last, HandStep) and step.kind in SHARED
            and (step.kind, step.cloth, step.foam, step.late, step.pattern)
            == (last.kind, last.cloth, last.foam, last.late, last.pattern)
        ):  # fmt: skip
            found[-1] = replace(
                last, names=(*last.names, *step.names), pieces=(*last.pieces, *step.pieces),
                seconds=last.seconds + step.seconds - SAVED[step.kind],
            )  # fmt: skip
            continue
        found.append(step)
    return found


def shared_order(
    pieces: Sequence[Placed], units: Sequence[Unit], cloth_of: Mapping[str, str], apart: Callable[[str, str], bool]
) -> list[Unit] | None:
    """Units in an order in which pieces of one cloth that lie apart share their stops; None where none can.

    cloth_of: what each piece lays; apart: whether two pieces, by id, do not touch.
    """
    wanted = list(units)
    laying = [one.id for one in pieces if one.lays]
    taken: set[str] = set()
    for first in laying:
        if first in taken:
            continue
        group = [first]
        kinds = [unit.kind for unit in wanted if unit.piece == first]
        for other in laying[laying.index(first) + 1 :]:
            same = cloth_of[other] == cloth_of[first] and kinds == [one.kind for one in wanted if one.piece == other]
            if not same or other in taken or not all(apart(other, one) for one in group):
                continue
            trial = _together(wanted, [*group, other])
            if not violations(pieces, trial):
                group.append(other)
        if len(group) > 1:
            wanted = _together(wanted, group)
            taken.update(group)
    return wanted if taken else None


def _together(units: Sequence[Unit], group: Sequence[str]) -> list[Unit]:
    """Units with those of a group sewn step by step across it, where the first of it stands."""
    member = [unit for unit in units if unit.piece in group]
    at = units.index(member[0])
    kinds = list(dict.fromkeys(unit.kind for unit in member))
    rank = {piece: nth for nth, piece in enumerate(group)}
    block = sorted(member, key=lambda unit: (kinds.index(unit.kind), rank[unit.piece]))
    return [*(one for one in units[:at] if one.piece not in rank), *block,
            *(one for one in units[at:] if one.piece not in rank)]  # fmt: skip
