"""Corners of satin borders: mitred or lapped instead of turned round, by the angle of the corner.

In a mitre the stitches of both sides stay square to their side and end on the diagonal. In a lap
the first side is sewn on over the whole corner and the second begins upon it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.geometry.rails import ADVANCE, Rails

CORNERS = (("auto", "by their angle"), ("rounded", "rounded"), ("mitred", "mitred"), ("lapped", "lapped"))
LEAST, MOST = np.radians(40.0), np.radians(115.0)  # turns that are treated; sharper ones are tips
LAP_FROM = np.radians(100.0)  # turns from which a lap is chosen; blunter ones are mitred
LEAD = 2.0  # widths before a corner from which stitches are squared up
STRAIGHT = 0.1  # mm a side may bow and still count as straight
MATCH = 0.35  # mm by which rails may lie off the straight course of their side
LAPPED = 1.0  # mm by which the second side of a lap begins on the first
STUB = 0.5  # mm; a mitre is sewn until its stitches are that short


@dataclass(frozen=True)
class _Corner:
    """A corner: where it is, unit course before and after, turn in rad, straight mm on either side."""

    place: Array
    before: Array
    after: Array
    turn: float
    room: tuple[float, float]


def with_corners(rails: Rails, ring: Array, outside: float, inside: float, how: str, reach: bool = False) -> Rails:
    """Rails whose corners are treated.

    ring: (n, 2) the outline they run along, with the cloth as in `boundaries`; outside, inside: mm of the
    rails off and on the cloth; how: key of CORNERS; reach: whether the outer rail keeps to the outline up to
    the very tip of a mitre, for an edge run. Corners without room for it stay rounded.
    """
    if how == "rounded":
        return rails
    width = outside + inside
    for corner in _corners(ring):
        if reach and corner.turn < 0:
            continue  # an edge run turns round it on the spot
        kind = how if how != "auto" else ("lapped" if abs(corner.turn) >= LAP_FROM else "mitred")
        rails = _treated(rails, corner, outside, inside, width, kind == "lapped", reach)
    return rails


def _corners(ring: Array) -> list[_Corner]:
    line = shapely.get_coordinates(shapely.simplify(shapely.LinearRing(ring), STRAIGHT))[:-1]
    if len(line) < 3:
        return []
    step = np.roll(line, -1, axis=0) - line
    size = np.linalg.norm(step, axis=1)
    course = step / np.maximum(size, 1e-9)[:, None]
    before = np.roll(course, 1, axis=0)
    turn = np.arctan2(before[:, 0] * course[:, 1] - before[:, 1] * course[:, 0],
                      np.einsum("ij,ij->i", before, course))  # fmt: skip
    return [
        _Corner(line[nth], before[nth], course[nth], float(turn[nth]), (float(size[nth - 1]), float(size[nth])))
        for nth in np.flatnonzero((np.abs(turn) >= LEAST) & (np.abs(turn) <= MOST)).tolist()
    ]


def _treated(
    rails: Rails, corner: _Corner, outside: float, inside: float, width: float, lap: bool, reach: bool
) -> Rails:
    """Rails with one corner mitred or lapped, unchanged where its sides are too short or not held."""
    # A corner is treated where both sides are long enough to be sewn square to themselves before they meet in it.
    convex = corner.turn > 0  # the outer rail goes the longer way
    big, small = (outside, inside) if convex else (inside, outside)
    tan = float(np.tan(abs(corner.turn) / 2.0))
    lead = LEAD * width
    near = small * tan + lead
    if min(corner.room) < near + 0.5 * width:
        return rails
    sign = 1.0 if convex else -1.0
    sides = [(corner.before, sign * np.array([corner.before[1], -corner.before[0]])),
             (corner.after, sign * np.array([corner.after[1], -corner.after[0]]))]  # fmt: skip

    def at(side: int, along: Array | float, off: Array | float) -> Array:
        course, aside = sides[side]
        along, off = np.broadcast_arrays(np.asarray(along, dtype=np.float64), np.asarray(off, dtype=np.float64))
        return np.asarray(corner.place + along[..., None] * course + off[..., None] * aside)

    # The rails leave off where each side is still straight, and that must be a place that they both pass.
    first = _nearest(rails, at(0, -near, big), at(0, -near, -small), convex)
    last = _nearest(rails, at(1, near, big), at(1, near, -small), convex)
    if first is None or last is None:
        return rails
    # From there the first side runs on over all of the corner (lap), or both sides end on the diagonal (mitre).
    tip = big * tan
    stub = (1.0 - STUB / width) * (small * tan + tip)  # how far the mitre's stitches are followed
    if lap:
        run = np.arange(-small * tan, tip - ADVANCE, ADVANCE)
        falls = (
            big - (tip - run) * np.tan(np.pi - abs(corner.turn)) if abs(corner.turn) > np.pi / 2 + 1e-6 else -small
        )
        ends = at(0, run, np.maximum(-small, np.minimum(falls, big - STUB)))
        start = small * tan - min(LAPPED, 0.5 * width)
        pieces = [
            (at(0, run, big), ends),
            (at(1, np.array([start, small * tan]), big), at(1, np.array([start, small * tan]), -small)),
        ]
    else:
        run = np.arange(-small * tan, -small * tan + stub, ADVANCE)
        there = at(0, run, big), at(0, run, run / tan)
        back = at(1, -run[::-1], big), at(1, -run[::-1], run[::-1] / tan)
        if reach and len(run):
            on = np.append(np.arange(run[-1] + ADVANCE, tip, ADVANCE), tip)
            held = np.broadcast_to(there[1][-1:], (len(on), 2))
            there = np.concatenate([there[0], at(0, on, big)]), np.concatenate([there[1], held])
        pieces = [there, back]
    return _spliced(rails, first, last, pieces, convex, jump=lap)


def _nearest(rails: Rails, big: Array, small: Array, convex: bool) -> int | None:
    """The sample of the rails at a place on both of them, None where they do not pass it."""
    outer, inner = (big, small) if convex else (small, big)
    off = np.maximum(np.linalg.norm(rails.outer - outer, axis=1), np.linalg.norm(rails.inner - inner, axis=1))
    nth = int(np.argmin(off[:-1]))
    return nth if off[nth] < MATCH + 2.0 * ADVANCE else None


def _spliced(
    rails: Rails, first: int, last: int, pieces: list[tuple[Array, Array]], convex: bool, jump: bool
) -> Rails:
    """Rails with the samples between two of them, going round, replaced by new ones; big rail first in each piece.

    jump: the pieces do not touch: what lies between them is no advance.
    """
    count = len(rails.advance) - 1
    kept = (last + np.arange((first - last) % count + 1)) % count
    if len(kept) < 3 or len(kept) == count + 1:
        return rails
    outer, inner = [rails.outer[kept]], [rails.inner[kept]]
    gap_outer = [np.diff(rails.outer_way)[kept[:-1]]]
    gap_inner = [np.diff(rails.inner_way)[kept[:-1]]]
    for nth, (big, small) in enumerate([*pieces, (outer[0][:1], inner[0][:1])]):
        new = (big, small) if convex or nth == len(pieces) else (small, big)
        ends = outer[-1][-1], inner[-1][-1]
        if not (jump and nth == 1):
            new = _approach(ends, new)
        for gaps, known, points in ((gap_outer, ends[0], new[0]), (gap_inner, ends[1], new[1])):
            step = np.linalg.norm(np.diff(np.concatenate([known[None], points]), axis=0), axis=1)
            if jump and nth == 1:
                step[0] = 0.0
            gaps.append(step)
        outer.append(new[0])
        inner.append(new[1])
    steps_outer, steps_inner = np.concatenate(gap_outer), np.concatenate(gap_inner)
    ways = [np.concatenate(([0.0], np.cumsum(steps))) for steps in (steps_outer, steps_inner)]
    advance = np.concatenate(([0.0], np.cumsum(np.maximum(steps_outer, steps_inner))))
    return replace(rails, outer=np.concatenate(outer), inner=np.concatenate(inner), outer_way=ways[0],
                   inner_way=ways[1], advance=advance)  # fmt: skip


def _approach(ends: tuple[Array, Array], new: tuple[Array, Array]) -> tuple[Array, Array]:
    """New samples with the straight way to the first of them from where the rails are."""
    far = max(float(np.linalg.norm(to[0] - at)) for at, to in zip(ends, new, strict=True))
    share = np.linspace(0.0, 1.0, max(int(far / ADVANCE), 1) + 1)[1:-1, None]
    walks = [np.concatenate([at + share * (to[0] - at), to]) for at, to in zip(ends, new, strict=True)]
    return walks[0], walks[1]
