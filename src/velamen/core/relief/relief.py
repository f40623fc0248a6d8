"""The relief of a build: how high everything stands on a grid, as it lies after so many rows of its plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from msgspec.structs import replace as renewed
from PIL import Image, ImageDraw

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area, boundaries
from velamen.core.plan.heights import (
    PRESSED_BY_THREAD,
    PRESSES_FROM,
    SETTLED,
    THREAD_HIGH,
    THREAD_WIDE,
    pile_left,
)
from velamen.core.plan.section import Laid
from velamen.core.plan.stitch_plan import JUMP, STITCH, StitchPlan
from velamen.core.relief.fluff import chance
from velamen.core.relief.light import calmed
from velamen.core.timeline.layers import BASE, STABILIZER, TOPPING, Layer

STEP = 0.3  # mm of a cell, at least
NEAR, WIDE = 0.3, 0.9  # mm over which threads are averaged, and over which they press pile down
SOFT = 2  # times as fine areas are drawn, so that their edges are soft
LIGHT_FINDS = 0.45  # of the height of pile, by which it catches the light like something solid
LEANS = 0.3  # of its height by which standing pile leans over what is pressed beside it
OPENING, SUNK = "opening", 0.8  # kind of what stands for one, and mm that the table lies under the base
FLUFF, ROUGH = 0.3, 0.7  # of its reach over which a ridge is rounded, and of its height that tufts break up
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Press:
    """Pile pressed down by a pass, from the row on at which that begins."""

    row: int
    region: Area


@dataclass(frozen=True)
class Relief:
    """Heights in mm above the base's ground, (h, w), in cells of `step` mm from a corner on."""

    left: float
    top: float
    step: float
    height: Array
    pile: Array  # mm of the height that is pile

    @property
    def seen(self) -> Array:
        """Heights as light finds them: it goes into pile."""
        return self.height - (1.0 - LIGHT_FINDS) * self.pile


@dataclass(frozen=True)
class Ridge:
    """Ridges of fluff along lines (n, 2), each of which reaches so many mm to either side; tall: mm."""

    lines: Sequence[Array]
    reaches: Sequence[float]
    tall: float


def relief(
    plan: StitchPlan, laid: list[Laid], presses: list[Press], row: int, box: Box, step: float = STEP,
    ridges: Sequence[Ridge] = (),
) -> Relief:  # fmt: skip
    """How high everything stands in a box after `row` rows; once all is sewn, without the toppings, with `ridges`.

    Materials lie on one another in the order they were laid, pile is pressed by cloth, film, threads and passes
    that press it, and threads lie on top: as many over one another as their length in a cell comes to.
    """
    left, top, right, bottom = box
    wide, high = (max(int(np.ceil(side / step)), 2) for side in (right - left, bottom - top))
    grid = _Grid(left, top, wide, high, step)
    threads = grid.threads(plan, 0, row)
    pressed = np.clip(calmed(threads, grid.cells(WIDE)) / PRESSES_FROM, 0.0, 1.0)
    for press in presses:
        if press.row < row:
            pressed = np.maximum(pressed, grid.mask(press.region))
    deepest = max((one.layer.pile for one in laid if one.layer.kind == BASE), default=0.0)
    pressed = calmed(pressed, grid.cells(LEANS * deepest)) if deepest > 0 else pressed
    lying = _Lying(grid, plan, presses)
    for one in sorted([*laid, *_openings(laid)], key=lambda one: (_begun(one), one.nth)):
        finished = one.layer.kind == TOPPING and row >= len(plan.xy)  # washed or torn off by then
        if one.layer.kind != STABILIZER and one.from_row <= row < one.to_row and not finished:
            lying.lay(one.layer, min(_begun(one), row))
    lying.sew(row)
    standing = 1.0 - (1.0 - PRESSED_BY_THREAD) * pressed
    pile = standing * lying.pile
    raised = calmed(lying.threads, grid.cells(NEAR))
    bridged = np.minimum(raised, 1.0)  # threads go straight over the edge of a cloth
    ground = lying.height + bridged * (calmed(lying.height, grid.cells(WIDE)) - lying.height)
    height = ground + pile + SETTLED * THREAD_HIGH * raised
    for ridge in ridges if row >= len(plan.xy) else ():
        height += grid.ridge(ridge)
    return Relief(left, top, step, height, pile)


def _openings(laid: list[Laid]) -> list[Laid]:
    """Where the base is cut away from a row on, as something laid then."""
    found = []
    for one in laid:
        before = one.came_from.layer.gone if one.came_from else None
        if one.layer.kind == BASE and one.layer.gone is not None and one.came_from is not None:
            gone = one.layer.gone if before is None else shapely.difference(one.layer.gone, before)
            found.append(Laid(renewed(one.layer, kind=OPENING, region=gone, gone=None), one.from_row, nth=-1))
    return found


def _begun(one: Laid) -> int:
    """The row at which a layer was laid, however it was changed since."""
    while one.came_from is not None:
        one = one.came_from
    return one.from_row


class _Lying:
    """Materials and threads as they come to lie on one another: what is sewn before a cloth lies under it."""

    def __init__(self, grid: _Grid, plan: StitchPlan, presses: list[Press]) -> None:
        self.grid, self.plan = grid, plan
        self.presses = [(one.row, grid.mask(one.region)) for one in presses]
        self.height, self.pile, self.threads = (np.zeros(grid.shape) for _ in range(3))
        self.row = 0

    def sew(self, row: int) -> None:
        """Threads up to a row lie on top."""
        self.threads += self.grid.threads(self.plan, self.row, row)
        self.row = row

    def lay(self, layer: Layer, row: int) -> None:
        """A material laid after so many rows; threads under a cloth lift it, evened out."""
        if layer.kind == BASE:
            self.pile[:] = layer.pile
            return
        there = self.grid.mask(layer.region)
        there = there if layer.gone is None else there * (1.0 - self.grid.mask(layer.gone))
        if layer.kind == TOPPING:
            self.pile *= 1.0 - there * (1.0 - pile_left(layer))
            return
        self.sew(row)
        if layer.kind == OPENING:
            self.height[:] = self.height * (1.0 - there) - SUNK * there
            self.pile *= 1.0 - there
            self.threads *= 1.0 - there
            return
        reach = self.grid.cells(WIDE)
        at = _about(there, 2 * reach)
        there, lifted = there[at], calmed(self.threads[at], reach)
        down = np.clip(lifted / PRESSES_FROM, 0.0, 1.0)
        for begun, mask in self.presses:
            down = np.maximum(down, mask[at]) if begun < row else down
        up = self.pile[at] * (1.0 - (1.0 - PRESSED_BY_THREAD) * down)
        self.height[at] += there * (layer.thickness + pile_left(layer) * up + SETTLED * THREAD_HIGH * lifted)
        self.pile[at] = self.pile[at] * (1.0 - there) + layer.pile * there
        self.threads[at] *= 1.0 - there


def _about(there: Array, reach: int) -> tuple[slice, slice]:
    """The cells of a mask that are not 0, and so many round them."""
    spans = []
    for axis in (1, 0):
        filled = np.flatnonzero(there.any(axis=axis))
        low, high = (filled[0], filled[-1] + 1) if len(filled) else (0, 1)
        spans.append(slice(max(int(low) - reach, 0), int(high) + reach))
    return spans[0], spans[1]


@dataclass(frozen=True)
class _Grid:
    left: float
    top: float
    wide: int
    high: int
    step: float

    @property
    def shape(self) -> tuple[int, int]:
        return self.high, self.wide

    def cells(self, far: float) -> int:
        """Whole cells of so many mm, at least one."""
        return max(round(far / self.step), 1)

    def mask(self, region: Area | None) -> Array:
        """How much of each cell lies in an area, from 0 to 1."""
        if region is None:
            return np.ones(self.shape)
        image = Image.new("L", (SOFT * self.wide, SOFT * self.high))
        brush = ImageDraw.Draw(image)
        for part in shapely.get_parts(region):
            for nth, ring in enumerate(boundaries(part)):
                if len(ring) > 2:
                    cells = (ring - (self.left, self.top)) * (SOFT / self.step) - 0.5
                    brush.polygon([tuple(point) for point in cells.tolist()], fill=0 if nth else 255)
        return np.asarray(image.reduce(SOFT), dtype=np.float64) / 255.0

    def ridge(self, ridge: Ridge) -> Array:
        """Heights of fluff: a round ridge along each line, broken up as tufts are."""
        height = np.zeros(self.shape)
        for reach in sorted(set(ridge.reaches)):
            image = Image.new("L", (self.wide, self.high))
            brush = ImageDraw.Draw(image)
            for line, far in zip(ridge.lines, ridge.reaches, strict=True):
                if far == reach:
                    cells = (line - (self.left, self.top)) / self.step - 0.5
                    brush.line([tuple(point) for point in cells.tolist()], fill=255, width=self.cells(reach))
            solid = np.asarray(image, dtype=np.float64) / 255.0
            lower = reach / max(ridge.reaches)  # the edge lies flatter
            height = np.maximum(height, lower * calmed(solid, self.cells(FLUFF * reach)))
        number = np.arange(self.wide * self.high, dtype=np.float64).reshape(self.shape)
        return ridge.tall * height * (1.0 - ROUGH + ROUGH * calmed(chance(number), 1))

    def threads(self, plan: StitchPlan, begin: int, end: int) -> Array:
        """How many threads lie one over another in each cell, of rows up to `end` from `begin` on, (h, w)."""
        first, end = max(begin, 1), max(end, begin, 1)
        ends = (
            np.flatnonzero((plan.command[first:end] == STITCH) & (plan.command[first - 1 : end - 1] <= JUMP)) + first
        )
        one, two = plan.xy[ends - 1], plan.xy[ends]
        long = np.linalg.norm(two - one, axis=1)
        count = np.maximum(np.ceil(long / self.step).astype(np.int64), 1)
        which = np.repeat(np.arange(len(ends)), count)
        part = (np.arange(len(which)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[which]
        spots = one[which] + part[:, None] * (two - one)[which]
        cell = np.floor((spots - (self.left, self.top)) / self.step).astype(np.int64)
        inside = ((cell >= 0) & (cell < (self.wide, self.high))).all(axis=1)
        weight = (long / count)[which] * THREAD_WIDE / self.step**2
        total = np.bincount(cell[inside, 1] * self.wide + cell[inside, 0], weight[inside], self.wide * self.high)
        return np.asarray(total.reshape(self.shape))
