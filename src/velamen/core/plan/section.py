"""The stack cut along a line: materials and crossed stitches at their true height."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from msgspec.structs import replace as renewed
from numpy.typing import NDArray

from velamen.core.arrays import Array, Mask
from velamen.core.geometry.region import Area
from velamen.core.plan.heights import PRESSED_BY_THREAD, SETTLED, THREAD_HIGH, THREAD_WIDE, pile_left
from velamen.core.plan.repeat import of_design
from velamen.core.plan.stitch_plan import STITCH, StitchPlan
from velamen.core.timeline.effects import Effect, Lays, Presses, Slits, changed
from velamen.core.timeline.layers import CLOTH, TOPPING, Layer
from velamen.core.timeline.operation import Operation, Stop, When

STEP = 0.1  # mm between the columns of a section
FOREVER = 1 << 30
DONE = 2  # rows from that of a stop to the first one after which its hands have done their work


@dataclass(frozen=True)
class Laid:
    """A layer and the rows of the plan between which it lies so."""

    layer: Layer
    from_row: int
    to_row: int = FOREVER
    came_from: Laid | None = None  # as it lay before it was cut, opened or torn
    nth: int = 0  # its place among all that is laid


@dataclass(frozen=True)
class Opened:
    """What hands make of the layers of a piece out of the hoop: trimmed to a region, all but the lowest slit."""

    trimmed: Area
    slits: Area


@dataclass(frozen=True)
class Sheet:
    """A material in the cut. there: (k,) columns where it lies; bottom: (k,) mm above the hoop's plane.

    under: (k,) mm up to the top of what lies under it, and of the pile on that.
    """

    laid: Laid
    there: NDArray[np.bool_]
    bottom: Array
    under: tuple[Array, Array]


@dataclass(frozen=True)
class Threads:
    """Stitches that the cut meets, in sewing order.

    span: (n, 2) mm along the cut in which the thread lies within half its width of it;
    height: (n, 3) mm of its underside at the start, in the middle and at the end of that
    span; row: (n,) row of the plan; block: (n,) its block.
    """

    span: Array
    height: Array
    row: NDArray[np.int64]
    block: NDArray[np.int32]


@dataclass(frozen=True)
class Section:
    """A cut of `length` mm, its materials from below, its stitches in order. presses: rows from which on passes
    press pile down, and the (k,) columns on which they do."""

    length: float
    presses: tuple[tuple[int, Mask], ...]
    sheets: tuple[Sheet, ...]
    threads: Threads


def laid_rows(
    steps: Sequence[Operation | Stop], plan: StitchPlan, opened: Mapping[str, Opened] | None = None
) -> list[Laid]:
    """When each layer lies, by the rows of the plan: what the brief lays from the start, the rest from its step on.

    What is done out of the hoop changes nothing any more, but what pieces are opened, by id, once all is sewn. A
    changed layer stands there again.
    """
    stopped = {id(halt.step): halt.row + DONE for halt in plan.stops}
    lying: list[Laid] = []
    gone: list[Laid] = []
    for step in steps:
        if isinstance(step, Stop) and step.when is When.AFTER:
            continue
        for effect in step.effects:
            if not isinstance(effect, (Presses, Slits)):  # those move nothing
                lying, over = _changed(lying, effect, stopped.get(id(step), 0))
                gone += over
    for piece, how in (opened or {}).items():
        lying, over = _opened(lying, piece, how, len(plan.xy))
        gone += over
    return sorted([*gone, *lying], key=lambda one: (one.from_row, one.nth))


def _opened(lying: list[Laid], piece: str, how: Opened, row: int) -> tuple[list[Laid], list[Laid]]:
    """What lies there once a piece is slit and trimmed, in every copy, and what no longer does so as it did."""
    found, over, seen = list[Laid](), list[Laid](), set[str]()
    for one in lying:
        owner = one.layer.owners[0]
        if one.layer.kind != CLOTH or of_design(owner) != piece or row <= one.from_row:
            found.append(one)
            continue
        region = None if one.layer.region is None else shapely.intersection(one.layer.region, how.trimmed)
        gone = how.slits if owner in seen else one.layer.gone  # the lowest stays whole
        seen.add(owner)
        over.append(replace(one, to_row=row))
        found.append(Laid(renewed(one.layer, region=region, gone=gone), row, came_from=over[-1], nth=one.nth))
    return found, over


def _changed(lying: list[Laid], effect: Effect, row: int) -> tuple[list[Laid], list[Laid]]:
    """What lies there after an effect, and what no longer does so as it did."""
    found: list[Laid] = []
    over: list[Laid] = []
    for one, layer in zip(lying, changed([each.layer for each in lying], effect), strict=True):
        if layer is one.layer:
            found.append(one)
            continue
        over.append(replace(one, to_row=row))
        found += [Laid(layer, row, came_from=over[-1], nth=one.nth)] if layer is not None else []
    laid = effect.layers if isinstance(effect, Lays) else ()
    first = max((one.nth for one in lying), default=-1) + 1
    return [*found, *(Laid(layer, row, nth=first + nth) for nth, layer in enumerate(laid))], over


def section(
    plan: StitchPlan,
    laid: Sequence[Laid],
    middle: tuple[float, float],
    angle: float,
    length: float,
    presses: Sequence[tuple[int, Area]] = (),
) -> Section:
    """The stack cut through a place at an angle in rad, over a length in mm.

    presses: rows of the plan from which on passes press pile down, and where.
    """
    way = np.array([np.cos(angle), np.sin(angle)])
    start = np.asarray(middle) - 0.5 * length * way
    count = max(round(length / STEP), 2)
    columns = start + (np.arange(count)[:, None] + 0.5) * STEP * way
    span, row = _crossings(plan, start, way, length)
    group = plan.block[row].astype(np.int64) * 256 + plan.role[row]
    down = [(at, _where(area, None, columns)) for at, area in sorted(presses, key=lambda one: one[0])]
    lying = _Lying(count)
    sheets: list[Sheet] = []
    heights = np.zeros((len(row), 3))
    sewn, pressed = 0, 0
    for at, one, old in [*_events(laid), (FOREVER, None, None)]:
        upto = int(np.searchsorted(row, at - 1))
        while pressed < len(down) and down[pressed][0] < at:
            lying.press(down[pressed][1])
            pressed += 1
        lying.sew(span[sewn:upto], group[sewn:upto], heights[sewn:upto])
        sewn = upto
        there = np.zeros(count, dtype=bool) if one is None else _where(one.layer.region, one.layer.gone, columns)
        before = next((sheet for sheet in sheets if sheet.laid is old), None)
        if before is not None:
            lying.bare(before, there)
            sheets += [] if one is None else [replace(before, laid=one, there=there & before.there)]
        elif one is not None:
            sheets.append(lying.lay(one, there))
    return Section(length, tuple(down), tuple(sheets), Threads(span, heights, row, plan.block[row]))


class _Lying:
    """What lies on the columns of a cut by now: mm up to its top, and of pile that stands on that.

    flat: where pile is pressed already; film: mm that toppings sink where the pile under them is pressed.
    """

    def __init__(self, count: int) -> None:
        self.top, self.pile, self.film = (np.zeros(count) for _ in range(3))
        self.flat = np.zeros(count, dtype=bool)

    def lay(self, laid: Laid, there: Mask) -> Sheet:
        """A layer laid on columns."""
        layer, topping = laid.layer, laid.layer.kind == TOPPING
        sheet = Sheet(laid, there, _drape(self.top + pile_left(layer) * self.pile, there),
                      (self.top.copy(), self.pile.copy()))  # fmt: skip
        sinks = max(pile_left(layer) - PRESSED_BY_THREAD, 0.0) if topping else 0.0
        self.film[there] = sinks * self.pile[there]
        self.top[there] = sheet.bottom[there] + layer.thickness
        self.pile[there] = 0.0 if topping else layer.pile
        self.flat[there] = False
        return sheet

    def bare(self, sheet: Sheet, there: Mask) -> None:
        """What a sheet lay on is bare where that lies no longer."""
        top, pile = sheet.under
        bared = sheet.there & ~there & (top < self.top)
        self.top[bared], self.pile[bared] = top[bared], pile[bared]

    def press(self, there: Mask) -> None:
        """Pile of columns pressed down, where it is not yet."""
        self.top[there] -= self.film[there]
        self.film[there] = 0.0
        self.pile[there & ~self.flat] *= PRESSED_BY_THREAD
        self.flat |= there

    def sew(self, span: Array, group: NDArray[np.int64], heights: Array) -> None:
        """Stitches draped over whatever is under them, their heights put into the rows given.

        Those of one pass and role lie beside each other, not on each other.
        """
        if len(span) == 0:
            return
        top, pile = self.top, self.pile
        first = np.clip((span[:, 0] / STEP).astype(np.int64), 0, len(top) - 1)
        last = np.clip((span[:, 1] / STEP).astype(np.int64), 0, len(top) - 1) + 1
        begins = np.flatnonzero(np.diff(group, prepend=-1))
        for begin, end in zip(begins, np.append(begins[1:], len(group)), strict=True):
            under = top + np.where(self.flat, 1.0, PRESSED_BY_THREAD) * pile
            for nth in range(int(begin), int(end)):
                here = under[first[nth] : last[nth]]
                third = max(len(here) // 3, 1)
                heights[nth] = here[:third].max(), here.max(), here[-third:].max()
                drape = np.interp(np.linspace(0.0, 2.0, len(here)), (0.0, 1.0, 2.0), heights[nth])
                at = slice(int(first[nth]), int(last[nth]))
                pile[at] = 0.0
                top[at] = np.maximum(top[at], drape + SETTLED * THREAD_HIGH)


def _events(laid: Sequence[Laid]) -> list[tuple[int, Laid | None, Laid | None]]:
    """Rows at which something is laid, or becomes another thing or nothing: what lies there then, what did before."""
    followed = {id(one.came_from) for one in laid if one.came_from is not None}
    begins = [(one.from_row, one, one.came_from) for one in laid]
    ends = [(one.to_row, None, one) for one in laid if one.to_row < FOREVER and id(one) not in followed]
    return sorted([*begins, *ends], key=lambda event: event[0])


def _crossings(plan: StitchPlan, start: Array, way: Array, length: float) -> tuple[Array, NDArray[np.int64]]:
    """Stitches that cross the cut: where they lie close to it, (n, 2) mm along it, and their rows."""
    rel = plan.xy - start
    side = rel[:, 1] * way[0] - rel[:, 0] * way[1]
    row = np.flatnonzero((side[:-1] < 0) != (side[1:] < 0)) + 1
    row = row[plan.command[row] == STITCH]
    along = rel @ way
    one, two, far = along[row - 1], along[row], np.abs(side[row - 1] - side[row])
    place = one + np.abs(side[row - 1]) / far * (two - one)
    half = np.abs(two - one) / far * 0.5 * THREAD_WIDE + 0.5 * THREAD_WIDE
    low = np.maximum(place - half, np.minimum(one, two) - 0.5 * THREAD_WIDE)
    high = np.minimum(place + half, np.maximum(one, two) + 0.5 * THREAD_WIDE)
    inside = (high >= 0) & (low <= length)
    return np.stack([low, high], axis=1)[inside], row[inside]


def _where(region: Area | None, gone: Area | None, columns: Array) -> Mask:
    """Columns in a region, None for everywhere, that are not gone."""
    there = np.ones(len(columns), dtype=bool)
    if region is not None:
        there &= shapely.contains_xy(region, columns)
    return there if gone is None else there & ~shapely.contains_xy(gone, columns)


def _drape(under: Array, there: NDArray[np.bool_]) -> Array:
    """Underside of a cloth laid on columns: it bridges what is narrower than a millimetre."""
    reach = int(0.5 / STEP)
    padded = np.pad(np.where(there, under, under[there].min() if there.any() else 0.0), reach, mode="edge")
    window = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
    return np.asarray(window.max(axis=1))
