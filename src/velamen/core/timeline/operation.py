"""An operation: one thing done to a piece, by needle or by hand, and all that anybody else needs to know of it."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

import shapely

from velamen.core.geometry.region import Area
from velamen.core.stitching.roles import role_of
from velamen.core.timeline.effects import Effect
from velamen.core.timeline.passes import Pass


class When(StrEnum):
    """When an operation has its turn, whatever the order of the pieces."""

    BEFORE = "before"  # while the hoop is made ready: no stop
    SEWING = "sewing"  # where the order has it
    LATE = "late"  # once everything is sewn, at a last stop
    AFTER = "after"  # out of the hoop: no stop


class Decorated(StrEnum):
    """Where what decorates a piece's cloth is sewn, by an operation of that piece."""

    NO = ""
    AFTER = "after"  # the decoration needs this operation
    BEFORE = "before"  # this operation needs the decoration


class Hand(StrEnum):
    """Kinds of hand steps, as in report.json."""

    LAY = "lay"
    TRIM = "trim"
    TIDY = "tidy"
    PRESS = "press"
    TEAR_FOAM = "tear_foam"
    SLIT = "slit"
    BRUSH = "brush"
    CUT_OPENING = "cut_opening"
    TEAR_AWAY = "tear_away"
    POKE_OUT = "poke_out"
    WASH_AWAY = "wash_away"
    MELT_AWAY = "melt_away"
    CUT_FREE = "cut_free"
    PULL_BASTING = "pull_basting"
    LAY_TOPPING = "lay_topping"
    JOIN = "join"
    LOOK = "look"


@dataclass(frozen=True)
class HandKind:
    """What is told of a kind of hand step."""

    words: str  # as in "Laying cannot come before ..."
    symbol: str  # of the icons shipped with the interface
    spared: float = 0.0  # s that each piece more spares at a shared stop; ours


HANDS = {
    Hand.LAY: HandKind("laying", "hand-index", 20.0),
    Hand.TRIM: HandKind("trimming", "scissors", 50.0),
    Hand.TIDY: HandKind("tidying", "hand-index", 20.0),
    Hand.PRESS: HandKind("pressing", "thermometer-half", 20.0),
    Hand.TEAR_FOAM: HandKind("tearing the foam away", "hand-index", 10.0),
    Hand.SLIT: HandKind("slitting", "scissors"),
    Hand.BRUSH: HandKind("brushing", "hand-index"),
    Hand.CUT_OPENING: HandKind("cutting the opening", "scissors", 20.0),
    Hand.TEAR_AWAY: HandKind("tearing away", "hand-index", 10.0),
    Hand.POKE_OUT: HandKind("poking out", "hand-index", 5.0),
    Hand.WASH_AWAY: HandKind("washing out", "droplet", 60.0),
    Hand.MELT_AWAY: HandKind("melting away", "thermometer-half", 20.0),
    Hand.CUT_FREE: HandKind("cutting free", "scissors", 20.0),
    Hand.PULL_BASTING: HandKind("pulling the basting out", "hand-index"),
    Hand.LAY_TOPPING: HandKind("laying the topping", "layers", 20.0),
    Hand.JOIN: HandKind("joining", "hand-index"),
    Hand.LOOK: HandKind("looking", "eye"),
}


@dataclass(frozen=True)
class Does:
    """What hands do."""

    kind: Hand
    label: str
    pattern: str  # what to do, {names} standing for the pieces it is done for
    seconds: float
    tool: str = ""  # what is taken into the hand for it
    holed: str = ""  # said in place of {holed} where some of the pieces have holes, which it then stands for


@dataclass(frozen=True)
class Share:
    """With what a hand step may be done at one stop: with others of the same kind and the same share."""

    of: Hashable  # the material, say, that is laid or cut
    sheet: bool = False  # one sheet is laid over all of them, round their boxes
    neighbours: bool = False  # whether neighbours in the stack do so without being asked


@dataclass(frozen=True)
class Cut:
    """An outline that a cutter cuts for an operation."""

    region: Area
    material: str  # key of the cloth
    mirrored: bool = False  # cut from the back


@dataclass(frozen=True)
class Guard:
    """An area that other pieces must keep clear of between two operations of the piece it belongs to."""

    region: Area
    opens: str  # key of the operation from which on, "" from the beginning
    closes: str  # key of the operation until which, "" for good
    why: str  # {what} is what is done, {of} the piece, {owner} the piece it must keep clear of
    beneath: bool = False  # only pieces earlier in the stack must
    sewn: bool = False  # only what is sewn must


Fill = Callable[[Any, Any], Sequence[Pass]]
"""The passes of a piece's work with its values (constructions.base.Work, values.value.Values)."""


@dataclass(frozen=True, eq=False)
class Operation:
    """One thing done to a piece."""

    piece: str  # its id, "" for what the brief asks for
    name: str  # of the piece
    part: str  # within the piece; stable, whatever the values
    region: Area | None = None  # mm, where it works, None for everywhere; nominal, known before any value is
    needs: tuple[str, ...] = ()  # parts of the same piece that come before it
    effects: tuple[Effect, ...] = ()
    role: str = ""  # of what is sewn
    fills: Fill | None = None  # for what is sewn: its passes once values are known
    does: Does | None = None  # for what hands do
    when: When = When.SEWING
    share: Share | None = None  # None where it has a stop of its own
    decorated: Decorated = Decorated.NO
    first: bool = False  # sewn before all that its piece goes round
    guards: tuple[Guard, ...] = ()
    cut: Cut | None = None
    stands_for: str = ""  # role under which values ask what lies beneath it, where that is not its own

    @property
    def key(self) -> str:
        """Names it within a job, and in the order that a job keeps."""
        return f"{self.piece}:{self.part}"

    @property
    def words(self) -> str:
        """What it is, as refusals name it."""
        return role_of(self.role).words if self.does is None else HANDS[self.does.kind].words

    @property
    def asked_as(self) -> str:
        """The role of the settings whose values depend on what lies beneath it."""
        return self.stands_for or self.role

    @property
    def holed(self) -> bool:
        """Whether the region it works in has holes."""
        return self.region is not None and bool(shapely.get_num_interior_rings(shapely.get_parts(self.region)).sum())

    @property
    def late(self) -> bool:
        """Whether it is left until everything is sewn."""
        return self.when in (When.LATE, When.AFTER)


@dataclass(frozen=True, eq=False)
class Stop:
    """Hand operations done together, one or several of a kind."""

    operations: tuple[Operation, ...]
    effects: tuple[Effect, ...]
    seconds: float
    does: Does = field(repr=False)

    @property
    def kind(self) -> Hand:
        return self.does.kind

    @property
    def label(self) -> str:
        return self.does.label

    @property
    def symbol(self) -> str:
        return HANDS[self.does.kind].symbol

    @property
    def when(self) -> When:
        return self.operations[0].when

    @property
    def pieces(self) -> tuple[str, ...]:
        """Ids of the pieces it is done for."""
        return tuple(dict.fromkeys(one.piece for one in self.operations if one.piece))

    @property
    def names(self) -> tuple[str, ...]:
        """Names of those pieces, one for each operation."""
        return tuple(one.name for one in self.operations)

    @property
    def piece(self) -> str:
        """The piece it is done for, the first of several."""
        return self.operations[0].piece

    @property
    def key(self) -> str:
        """Of the first of the operations."""
        return self.operations[0].key

    @property
    def text(self) -> str:
        """What to do, in words."""
        holed = _listed([one.name for one in self.operations if one.holed])
        pattern = self.does.pattern.replace("{holed}", self.does.holed.replace("{holed}", holed) if holed else "")
        return pattern.replace("{names}", _listed(self.names))


def _listed(names: Sequence[str]) -> str:
    """Names as a sentence lists them."""
    *first, last = names or [""]
    return f"{', '.join(first)} and {last}" if first else last
