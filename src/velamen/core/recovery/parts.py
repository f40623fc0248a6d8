"""Parts of a stitch file: which stitches are runs, beans, zigzags, satins, fills, E-stitches and ties."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import median_filter

from velamen.core.arrays import Array, Index, Mask, stretches
from velamen.core.recovery.rows_found import Strokes, fill_chains, strokes_of
from velamen.core.recovery.strips import Stitches, Turns, cross_of, shifted

KINDS = ("run", "bean", "estitch", "zigzag", "satin", "fill", "tie", "travel")
KIND_WORDS = dict(zip(KINDS, ("Run", "Bean", "E-stitch", "Zigzag", "Satin", "Fill", "Tie", "Travel"), strict=True))
RUN, BEAN, ESTITCH, ZIGZAG, SATIN, FILL, TIE, TRAVEL = range(len(KINDS))
SHARP, BLUNT = -0.17, 0.5  # cosines of a turn of a zigzag: over 100 degrees, and over 60 where sides take turns
TURNS_ALIKE, LEAST_ZIGZAG = 0.6, 4  # share of turns to alternating sides, and points of a zigzag
BITES, APART = 3, (3, 7)  # bites of an E-stitch, and stitches from one to the next
CLOSE = 0.8  # mm from stitch to stitch of one side, from which a zigzag is no satin
CLEARLY = 1.3  # the same of one beside a satin
DIVIDED, MOST = 0.05, 4  # share of strokes of a divided satin that have several stitches, and how many at most
STROKES, WIDE = 8, 3.0  # strokes of a divided satin at least, and mm of them
SMOOTH, ENDS = 9, 8  # stitches of the median of spacings, and at either end of a zigzag that may lead to it
WINDOW = 41  # stitches, of which most settle whether one among them is of a satin: corners and bends mislead a few
TIE_LONG, TIE_STITCHES = 0.85, 6  # mm and number of the stitches of a tie
ABSORBED = {BEAN: 12, ESTITCH: 12, ZIGZAG: 4, SATIN: 4, FILL: 5}  # stitches that a piece between two of one kind has
LEADS = 4  # stitches of a run between a tie and a bean or E-stitch, up to which it is their beginning
HOP = 2  # stitches of a run between areas and ties, up to which it is travel
BETWEEN = 40  # stitches of a run between two areas, up to which it is travel


@dataclass(frozen=True)
class Part:
    """A stretch of one kind. first, last: numbers of its stitches, both included; chain: of a fill's rows."""

    kind: int
    first: int
    last: int
    chain: int = -1


def parts_of(found: Stitches, turns: Turns) -> list[Part]:
    """The parts of all stitches in sewing order."""
    if not len(found.begin):
        return []
    strokes = strokes_of(found, turns)
    kind = np.full(len(found.begin), RUN, dtype=np.int64)
    chain = np.full(len(found.begin), -1, dtype=np.int64)
    for first, last in _zigzags(found.joined, turns.cos, turns.cross):
        spacing = _spacing(found.begin[first : last + 1], found.end[first : last + 1])
        kind[first : last + 1] = np.where(_close(spacing), SATIN, ZIGZAG)
    zigzag = kind != RUN
    rows_of_fill = fill_chains(found, strokes, zigzag)
    kind[rows_of_fill >= 0] = FILL
    chain[rows_of_fill >= 0] = rows_of_fill[rows_of_fill >= 0]
    for first, last in _divided(found, strokes):
        kind[first : last + 1], chain[first : last + 1] = SATIN, -1
    bean = _beans(found, turns)
    kind[bean & (kind != FILL)] = BEAN
    kind[_estitches(found, turns, bean) & (kind != FILL)] = ESTITCH
    kind[_ties(found, turns) | _inner_ties(found, turns, bean)] = TIE
    return _tidied(found, kind, chain)


def _beans(found: Stitches, turns: Turns) -> Mask:
    """Triples there, back and there again, next to others like them."""
    twice = turns.back & shifted(turns.back, -1)
    counts = twice & (shifted(twice, -3) | shifted(twice, 3))
    return counts | shifted(counts, 1) | shifted(counts, 2)


def _estitches(found: Stitches, turns: Turns, bean: Mask) -> Mask:
    """Bites out and back that come at even steps along a line."""
    lonely = turns.back & ~shifted(turns.back, 1) & ~shifted(turns.back, -1) & ~bean
    at = np.flatnonzero(lonely)
    out = np.zeros(len(bean), dtype=bool)
    if len(at) < BITES:
        return out
    far = np.linalg.norm(found.begin[at[1:]] - found.begin[at[:-1]], axis=1)
    next_ = (np.diff(at) >= APART[0]) & (np.diff(at) <= APART[1]) & (far > 0.5) & (far < 8.0)
    next_ &= found.strip[at[1:]] == found.strip[at[:-1]]
    for first, last in stretches(next_).tolist():
        if last - first + 1 >= BITES:
            out[max(at[first] - 1, 0) : at[last] + 2] = True
    return out


def _zigzags(joined: Mask, cos: Array, cross: Array) -> list[tuple[int, int]]:
    """Stretches of stitches or strokes that turn sharply to alternating sides: first and last."""
    side = np.sign(cross)
    other = (side != np.roll(side, 1)) & (side != np.roll(side, -1)) & (side != 0)
    sharp = joined & ((cos < SHARP) | ((cos < BLUNT) & other))
    flat = np.abs(cross * np.roll(cross, 1)) < 0.02
    alike = (side * np.roll(side, 1) < 0) | flat
    out = []
    for first, last in stretches(sharp).tolist():
        if last - first >= LEAST_ZIGZAG and alike[first + 1 : last].mean() >= TURNS_ALIKE:
            out.append((first, last))
    return out


def _divided(found: Stitches, strokes: Strokes) -> list[tuple[int, int]]:
    """Satins too wide for one stitch, with strokes of several where others have stitches: first and last stitch."""
    _, begin, end, count = strokes
    way = (end - begin) / np.maximum(np.linalg.norm(end - begin, axis=1), 1e-9)[:, None]
    on = np.concatenate([way[1:], way[-1:]])
    last = np.cumsum(count) - 1
    out = []
    for a, b in _zigzags(found.joined[last], (way * on).sum(axis=1), cross_of(way, on)):
        a, b = a + int(count[a] > MOST), b - int(count[b] > MOST)  # a run that leads to it
        mine = count[a : b + 1]
        wide = np.median(np.linalg.norm(end[a : b + 1] - begin[a : b + 1], axis=1)) > WIDE
        divided = len(mine) >= STROKES and (mine > 1).mean() >= DIVIDED and np.median(mine) <= MOST
        if wide and divided and np.median(_spacing(begin[a : b + 1], end[a : b + 1])) < CLOSE:
            out.append((int(last[a]) - int(count[a]) + 1, int(last[b])))
    return out


def _spacing(begin: Array, end: Array) -> Array:
    """mm from needle point to needle point of one side at each stitch of a zigzag, (n, 2) both.

    The least of two, by the way of the middle over one and two stitches: short stitches at bends move it to and fro.
    """
    middle = (begin + end) / 2
    step = median_filter(2.0 * np.linalg.norm(np.diff(middle, axis=0), axis=1), SMOOTH, mode="nearest")
    if len(middle) > 2:
        twice = median_filter(np.linalg.norm(middle[2:] - middle[:-2], axis=1), SMOOTH, mode="nearest")
        step = np.minimum(step, np.concatenate([twice[:1], twice]))
    return np.concatenate([step, step[-1:]])


def _close(spacing: Array) -> Mask:
    """Which stitches of a zigzag are of a satin: what is wider apart beside one belongs to it, unless clearly so."""
    close: Mask = median_filter((spacing < CLOSE).astype(np.int8), WINDOW, mode="nearest") > 0
    if close.sum() >= WINDOW // 2:
        wider = median_filter((spacing < CLEARLY).astype(np.int8), WINDOW, mode="nearest") > 0
        close[ENDS:-ENDS] |= wider[ENDS:-ENDS]
    return close


def _ties(found: Stitches, turns: Turns) -> Mask:
    """Short stitches to and fro at both ends of a strip."""
    out = np.zeros(len(found.begin), dtype=bool)
    short = found.size < TIE_LONG
    edges = np.flatnonzero(np.diff(found.strip)) + 1
    bounds = np.concatenate([[0], edges, [len(out)]])
    for begin, end in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True):
        ahead = _tie_length(short[begin:end], turns.cos[begin:end])
        out[begin : begin + ahead] = True
        behind = _tie_length(short[begin:end][::-1], turns.cos[begin : end - 1][::-1])
        if ahead + behind <= end - begin:
            out[end - behind : end] = True
    return out


def _inner_ties(found: Stitches, turns: Turns, bean: Mask) -> Mask:
    """Short stitches there, back and there again within a strip, as where a list lost the jump between two ties."""
    short = found.size < TIE_LONG
    again = turns.back & shifted(turns.back, -1) & short & shifted(short, -1) & shifted(short, -2) & ~bean
    return again | shifted(again, 1) | shifted(again, 2)


def _tie_length(short: Mask, cos: Array) -> int:
    """How many of the first stitches are a tie: up to the last of them that turns back."""
    some = min(len(short), TIE_STITCHES)
    end = int(np.argmin(short[:some])) if not short[:some].all() else some
    turned = np.flatnonzero(cos[: max(end - 1, 0)] < -0.5)
    return int(turned[-1]) + 2 if len(turned) else 0


def _tidied(found: Stitches, kind: Index, chain: Index) -> list[Part]:
    """Parts in order; what is foreign between two of one kind goes to them, short runs between areas are travel."""
    parts = _stretches(found, kind, chain)
    for _ in range(3):
        for before, here, after in zip(parts, parts[1:], parts[2:], strict=False):
            same = before.kind == after.kind and before.chain == after.chain
            joined = found.strip[before.last] == found.strip[after.first]
            if same and joined and here.last - here.first < ABSORBED.get(before.kind, 0):
                kind[here.first : here.last + 1] = before.kind
                chain[here.first : here.last + 1] = before.chain
        parts = _stretches(found, kind, chain)
    for nth, here in enumerate(parts):
        beside = [parts[at] for at in (nth - 1, nth + 1) if 0 <= at < len(parts)]
        kinds = [one.kind for one in beside if found.strip[one.first] == found.strip[here.first]]
        stepped = next((one for one in kinds if one in (BEAN, ESTITCH)), None)
        if here.kind == RUN and here.last - here.first < LEADS and stepped is not None and TIE in kinds:
            kind[here.first : here.last + 1] = stepped
    parts = _stretches(found, kind, chain)
    _shorter(found, kind, parts)
    parts = _stretches(found, kind, chain)
    areas = (SATIN, FILL, ZIGZAG)
    for nth, here in enumerate(parts):
        beside = [parts[at] for at in (nth - 1, nth + 1) if 0 <= at < len(parts)]
        beside = [one for one in beside if found.strip[one.first] == found.strip[here.first]]
        short = here.kind == RUN and here.last - here.first < BETWEEN
        hop = (
            here.kind == RUN
            and here.last - here.first < HOP
            and len(beside) == 2
            and all(one.kind in (TIE, *areas) for one in beside)
        )
        if hop or (short and len(beside) == 2 and all(one.kind in areas for one in beside)):
            kind[here.first : here.last + 1] = TRAVEL
    return _stretches(found, kind, chain)


def _shorter(found: Stitches, kind: Index, parts: Sequence[Part]) -> None:
    """Gives what is too short for a zigzag to the satin beside it, or to a run."""
    for nth, one in enumerate(parts):
        count = one.last - one.first + 1
        if one.kind not in (SATIN, ZIGZAG):
            continue
        beside = [other.kind for other in parts[max(nth - 1, 0) : nth + 2]
                  if found.strip[other.first] == found.strip[one.first]]  # fmt: skip
        if count < LEAST_ZIGZAG:
            kind[one.first : one.last + 1] = RUN
        elif one.kind == ZIGZAG and count <= ENDS and SATIN in beside:
            kind[one.first : one.last + 1] = SATIN


def _stretches(found: Stitches, kind: Index, chain: Index) -> list[Part]:
    breaks = np.flatnonzero((np.diff(kind) != 0) | (np.diff(chain) != 0) | (np.diff(found.strip) != 0)) + 1
    bounds = np.concatenate([[0], breaks, [len(kind)]])
    return [Part(int(kind[a]), int(a), int(b) - 1, int(chain[a]))
            for a, b in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True)]  # fmt: skip
