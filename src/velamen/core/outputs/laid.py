"""Layers as they are shown: their names and colours out of the library, and when each lies there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import shapely

from velamen.core.building.build import Build
from velamen.core.geometry.region import Area
from velamen.core.materials.library import Library
from velamen.core.plan.heights import pile_left
from velamen.core.plan.repeat import Grid, of_design
from velamen.core.plan.section import DONE, FOREVER, laid_rows
from velamen.core.relief.relief import Press
from velamen.core.relief.surface import LOOPS, surface_of
from velamen.core.timeline.effects import Presses
from velamen.core.timeline.layers import CLOTH, Layer

FOAM_SURFACES = {"craft": "foam", "glitter": "glitter"}  # by kind of foam
FLAT = 0.94  # of its light that pressed pile gives back
PLAIN = "#c3c8c4"  # of materials that have no colour of their own
KINDS = {"base": "bases", "stabilizer": "stabilizers", "topping": "toppings", "foam": "foams", "cloth": "cloths"}


@dataclass(frozen=True)
class Shown:
    """A material as it is drawn."""

    name: str
    colour: str
    surface: str = ""  # key of one in relief.surface, where it has one
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
    thickness: float = 0.0  # mm
    pile: float = 0.0  # mm, its own
    left: float = 1.0  # share of the pile beneath it that stays up

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
    like = library.like(row) if layer.kind == CLOTH else None
    surface = surface_of(like) if like else FOAM_SURFACES.get(getattr(row, "kind", ""), "")
    return Shown(row.name, getattr(row, "colour", PLAIN), surface, getattr(row, "print", "plain"),
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
        layer = last.layer
        sheet = Sheet(of_design(layer.owners[0]), shown(layer, build.library), tuple(states), layer.thickness,
                      layer.pile, pile_left(layer))  # fmt: skip
        found.append(((sheet.laid, last.nth), sheet))
    return [sheet for _, sheet in sorted(found, key=lambda one: one[0])]


def pressed_sheets(build: Build, presses: Sequence[Press]) -> list[Sheet]:
    """The base where its pile is pressed down, as it looks there."""
    base = build.library.bases[build.job.brief.base]
    if base.pile < LOOPS:
        return []
    colour = "#" + "".join(f"{round(int(base.colour[at : at + 2], 16) * FLAT):02x}" for at in (1, 3, 5))
    return [Sheet("", Shown(base.name, colour), ((one.row - 1, one.region),)) for one in presses]


def presses_of(build: Build, grid: Grid | None = None) -> list[Press]:
    """What passes press pile down, and from which row of the plan on. grid: in every copy of it."""
    first: dict[str, int] = {}
    for block in build.plan.blocks:
        first.setdefault(block.key, block.first)
    found = []
    for one in build.operations:
        for effect in one.effects:
            if isinstance(effect, Presses) and one.key in first and not effect.region.is_empty:
                area = shapely.union_all(grid.laid(effect.region)) if grid else effect.region
                found.append(Press(first[one.key], area))
    return found


def lies(layer: Layer) -> Area | None:
    """Where a layer lies that does not lie everywhere."""
    return layer.region if layer.region is None or layer.gone is None else layer.region.difference(layer.gone)
