"""The stack cut along a line: materials and crossed stitches at their true height."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.plan.stitch_plan import STITCH, StitchPlan, Stop
from velamen.core.timeline.layers import Area, Event, Lay, Layer, Trim

Array = NDArray[np.float64]

STEP = 0.1  # mm between the columns of a section
THREAD_WIDE, THREAD_HIGH = 0.4, 0.18  # mm of a 40-weight thread lying under tension
SETTLED = 0.8  # of its height by which a pass raises the next: threads sink between each other
PRESSED_BY_CLOTH = 0.5  # of the pile stays up under a cloth laid on it
PRESSED_BY_FILM = 1.0 / 3.0  # of the pile stays up under a topping (handbook, section 3)
PRESSED_BY_THREAD = 0.2  # of the pile stays up under stitches
FOREVER = 1 << 30


@dataclass(frozen=True)
class Laid:
    """A layer and the rows of the plan between which it lies so."""

    layer: Layer
    from_row: int
    to_row: int = FOREVER


@dataclass(frozen=True)
class Sheet:
    """A material in the cut. there: (k,) columns where it lies; bottom: (k,) mm above the hoop's plane."""

    laid: Laid
    there: NDArray[np.bool_]
    bottom: Array


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
    """A cut of `length` mm in columns of STEP, its materials from below, its stitches in order."""

    length: float
    sheets: tuple[Sheet, ...]
    threads: Threads


def laid_rows(
    ground: Sequence[Layer], pieces: Iterable[tuple[str, Sequence[Event]]], stops: Sequence[Stop]
) -> list[Laid]:
    """When each layer lies: the ground from the start, what pieces lay from their stops on."""
    found = [Laid(layer, 0) for layer in ground]
    for piece, events in pieces:
        rows = {stop.step.kind: stop.row + 2 for stop in stops if piece in stop.step.pieces}
        mine: list[Laid] = []
        for event in events:
            if isinstance(event, Lay):
                mine.append(Laid(event.layer, rows.get("lay", 0)))
            elif isinstance(event, Trim) and "trim" in rows:
                cut = [Laid(one.layer.placed(event.region, piece), rows["trim"]) for one in mine]
                mine = [replace(one, to_row=rows["trim"]) for one in mine] + cut
        found += mine
    return found


def section(
    plan: StitchPlan, laid: Sequence[Laid], middle: tuple[float, float], angle: float, length: float
) -> Section:
    """The stack cut through a place at an angle in rad, over a length in mm."""
    way = np.array([np.cos(angle), np.sin(angle)])
    start = np.asarray(middle) - 0.5 * length * way
    count = max(round(length / STEP), 2)
    columns = start + (np.arange(count)[:, None] + 0.5) * STEP * way
    span, row = _crossings(plan, start, way, length)
    group = plan.block[row].astype(np.int64) * 256 + plan.role[row]
    order = sorted(range(len(laid)), key=lambda nth: laid[nth].from_row)
    top = np.zeros(count)
    pile = np.zeros(count)
    sheets: list[Sheet] = []
    under: dict[int, tuple[Array, Array]] = {}
    heights = np.zeros((len(row), 3))
    sewn = 0
    for nth in order:
        one = laid[nth]
        upto = int(np.searchsorted(row, one.from_row - 1))
        _sew(top, pile, span[sewn:upto], group[sewn:upto], heights[sewn:upto])
        sewn = upto
        there = _where(one.layer.region, columns)
        before = next((sheet for sheet in sheets if _cut_from(sheet, one)), None)
        if before is not None:
            sheets.append(Sheet(one, there & before.there, before.bottom))
            old_top, old_pile = under[id(before)]
            bared = before.there & ~there & (old_top < top)
            top[bared], pile[bared] = old_top[bared], old_pile[bared]
            continue
        kept = PRESSED_BY_FILM if one.layer.kind == "topping" else PRESSED_BY_CLOTH
        bottom = _drape(top + kept * pile, there)
        sheets.append(Sheet(one, there, bottom))
        under[id(sheets[-1])] = top.copy(), pile.copy()
        top[there] = bottom[there] + one.layer.thickness
        pile[there] = one.layer.pile if one.layer.kind != "topping" else 0.0
    _sew(top, pile, span[sewn:], group[sewn:], heights[sewn:])
    return Section(length, tuple(sheets), Threads(span, heights, row, plan.block[row]))


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


def _sew(top: Array, pile: Array, span: Array, group: NDArray[np.int64], heights: Array) -> None:
    """Lays stitches on the columns in place, draped over whatever is under them by then.

    Stitches of one pass and role lie beside each other, not on each other.
    """
    if len(span) == 0:
        return
    first = np.clip((span[:, 0] / STEP).astype(np.int64), 0, len(top) - 1)
    last = np.clip((span[:, 1] / STEP).astype(np.int64), 0, len(top) - 1) + 1
    begins = np.flatnonzero(np.diff(group, prepend=-1))
    for begin, end in zip(begins, np.append(begins[1:], len(group)), strict=True):
        under = top + PRESSED_BY_THREAD * pile
        for nth in range(int(begin), int(end)):
            here = under[first[nth] : last[nth]]
            third = max(len(here) // 3, 1)
            heights[nth] = here[:third].max(), here.max(), here[-third:].max()
            drape = np.interp(np.linspace(0.0, 2.0, len(here)), (0.0, 1.0, 2.0), heights[nth])
            at = slice(int(first[nth]), int(last[nth]))
            pile[at] = 0.0
            top[at] = np.maximum(top[at], drape + SETTLED * THREAD_HIGH)


def _where(region: Area | None, columns: Array) -> NDArray[np.bool_]:
    if region is None:
        return np.ones(len(columns), dtype=bool)
    return np.asarray(shapely.contains_xy(region, columns))


def _drape(under: Array, there: NDArray[np.bool_]) -> Array:
    """Underside of a cloth laid on columns: it bridges what is narrower than a millimetre."""
    reach = int(0.5 / STEP)
    padded = np.pad(np.where(there, under, under[there].min() if there.any() else 0.0), reach, mode="edge")
    window = np.lib.stride_tricks.sliding_window_view(padded, 2 * reach + 1)
    return np.asarray(window.max(axis=1))


def _cut_from(sheet: Sheet, cut: Laid) -> bool:
    """Whether a layer is what a trim has left of a sheet."""
    old, new = sheet.laid.layer, cut.layer
    return old.owner == new.owner and old.kind == new.kind and bool(new.owner) and sheet.laid.to_row == cut.from_row
