"""Layers as they are shown: their names and colours out of the library, and when each lies there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from velamen.core.building.build import Build
from velamen.core.geometry.region import Area
from velamen.core.materials.library import Library
from velamen.core.plan.repeat import of_design
from velamen.core.plan.section import DONE, FOREVER, laid_rows
from velamen.core.timeline.layers import Layer

PLAIN = "#c3c8c4"  # of materials that have no colour of their own
KINDS = {"base": "bases", "stabilizer": "stabilizers", "topping": "toppings", "foam": "foams", "cloth": "cloths"}


@dataclass(frozen=True)
class Shown:
    """A material as it is drawn."""

    name: str
    colour: str
    print: str = "plain"
    print_colour: str = PLAIN


@dataclass(frozen=True)
class Sheet:
    """What a piece has laid, from the stop at which it is laid on.

    A stop's row counts: after more rows than that its hands have done their work.
    """

    piece: str  # id
    shown: Shown
    states: tuple[tuple[int, Area | None], ...]  # rows of stops, and where it lies from then on; None: taken away

    @property
    def laid(self) -> int:
        """The row of the stop at which it is laid."""
        return self.states[0][0]

    def at(self, row: int) -> Area | None:
        """Where it lies after so many rows, None for nowhere."""
        return next((region for stop, region in reversed(self.states) if row > stop), None)

    def rough(self, row: int) -> bool:
        """Whether it is still to be cut after so many rows."""
        return row <= self.states[-1][0]


def shown(layer: Layer, library: Library) -> Shown:
    """How a layer looks."""
    kind = KINDS.get(layer.kind)
    row: Any = library.rows(kind).get(layer.key) if kind else None
    if row is None:
        return Shown(layer.name, PLAIN)
    return Shown(row.name, getattr(row, "colour", PLAIN), getattr(row, "print", "plain"),
                 getattr(row, "print_colour", PLAIN))  # fmt: skip


def sheets_of(build: Build) -> list[Sheet]:
    """What pieces have laid, in the order in which it is laid."""
    rows = laid_rows(build.steps, build.plan)
    went_on = {id(one.came_from) for one in rows}
    ends = [one for one in rows if one.layer.owners != ("",) and id(one) not in went_on]
    found: list[tuple[tuple[int, int], Sheet]] = []
    for last in ends:
        course = [last]
        while course[0].came_from is not None:
            course.insert(0, course[0].came_from)
        states: list[tuple[int, Area | None]] = [(one.from_row - DONE, lies(one.layer)) for one in course]
        states += [(last.to_row - DONE, None)] if last.to_row < FOREVER else []
        sheet = Sheet(of_design(last.layer.owners[0]), shown(last.layer, build.library), tuple(states))
        found.append(((sheet.laid, last.nth), sheet))
    return [sheet for _, sheet in sorted(found, key=lambda one: one[0])]


def lies(layer: Layer) -> Area | None:
    """Where a layer lies that does not lie everywhere."""
    return layer.region if layer.region is None or layer.gone is None else layer.region.difference(layer.gone)
