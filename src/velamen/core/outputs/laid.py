"""Layers as they are shown: their names and colours out of the library, and when each lies there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.building.lace import table_under
from velamen.core.geometry.region import Area
from velamen.core.materials.library import SHEER, Library
from velamen.core.plan.heights import pile_left
from velamen.core.plan.repeat import Grid, of_design
from velamen.core.plan.section import DONE, FOREVER
from velamen.core.relief.fluff import TALL
from velamen.core.relief.relief import Press, Ridge
from velamen.core.relief.surface import LOOPS, surface_of
from velamen.core.timeline.effects import Lays, Opens, Presses
from velamen.core.timeline.layers import CLOTH, Layer

FOAM_SURFACES = {"craft": "foam", "glitter": "glitter"}  # by kind of foam
CLEAR = 0.58  # of what lies under organza that shows
FLAT = 0.86  # of its light that pressed pile gives back
STABILIZER = "#eceee8"  # as it shows in an opening
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
    clear: float = 0.0  # share of what lies beneath that shows through it


@dataclass(frozen=True)
class Ridges:
    """Fluff to be drawn. spines: lines (n, 2) mm; reaches: mm to either side of each; colours: of layers from below;
    thickness: mm of all of them."""

    spines: tuple[Array, ...]
    reaches: tuple[float, ...]
    colours: tuple[str, ...]
    thickness: float


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
    ridges: Ridges | None = None  # the fluff that it is then, where it is no cloth but that
    table: str = ""  # the colour that shows in its place once all is sewn: of an opening

    @property
    def is_cloth(self) -> bool:
        """Whether it is something laid, neither an opening nor fluff."""
        return not self.table and self.ridges is None

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
    clear = CLEAR if layer.kind == CLOTH and row.like == SHEER else 0.0
    return Shown(row.name, getattr(row, "colour", PLAIN), surface, getattr(row, "print", "plain"),
                 getattr(row, "print_colour", PLAIN), clear)  # fmt: skip


def sheets_of(build: Build) -> list[Sheet]:
    """What pieces have laid, in the order in which it is laid."""
    rows = build.laid
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
    sheets = [sheet for _, sheet in sorted(found, key=lambda one: one[0])]
    return sorted([*opening_sheets(build), *sheets, *fluff_sheets(build)], key=lambda one: one.laid)


def opening_sheets(build: Build) -> list[Sheet]:
    """Openings cut into the base: its stabilizer shows, and the table once that is washed out."""
    cut = [(stop, one.region) for stop in build.plan.stops for one in stop.step.effects if isinstance(one, Opens)]
    if not cut:
        return []
    bridged = {one.piece.id for one in build.pieces if one.kind.cuts_open}
    threads = [block.thread for block in build.plan.blocks if block.piece in bridged]
    table = table_under([build.library.threads[key].colour for key in threads])
    under = build.library.stabilizers[build.job.brief.stabilizer].name
    last = len(build.plan.xy) - DONE
    return [Sheet(stop.step.piece, Shown(under, STABILIZER), ((stop.row, region), (last, region)), table=table)
            for stop, region in cut]  # fmt: skip


def fluff_sheets(build: Build) -> list[Sheet]:
    """Layers slit and washed, as they are once all is sewn; under what was sewn on them."""
    found, last = list[Sheet](), len(build.plan.xy) - DONE
    for piece, fluff in build.fluff.items():
        built = build.piece(piece)
        blocks = [one for one in build.plan.blocks if one.piece == piece]
        if built is None or not blocks:
            continue
        laid = [layer for one in built.operations for effect in one.effects if isinstance(effect, Lays)
                for layer in effect.layers if layer.kind == CLOTH][1:]  # fmt: skip
        ends = max(one.first + one.count for one in blocks) - 2
        grid, region = build.spread, built.work.region
        moves = [(np.eye(2), np.zeros(2))] if grid is None else [(grid.matrix, move) for move in grid.moves()]
        spines = tuple(line @ matrix + move for matrix, move in moves for line in fluff.spines)
        ridges = Ridges(spines, fluff.reaches * len(moves), tuple(shown(one, build.library).colour for one in laid),
                        sum(one.thickness for one in laid))  # fmt: skip
        whole = region if grid is None else shapely.union_all(grid.laid(region))
        found.append(Sheet(piece, shown(laid[-1], build.library), ((ends, None), (last, whole)), ridges=ridges))
    return found


def ridges_of(build: Build) -> list[Ridge]:
    """Ridges of all layers that are slit and washed, as the relief has them."""
    every = [one.ridges for one in fluff_sheets(build) if one.ridges is not None]
    return [Ridge(one.spines, one.reaches, TALL * one.thickness) for one in every]


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
