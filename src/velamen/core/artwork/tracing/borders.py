"""Borders between the parts of a picture: lines of pixel sides from junction to junction, and the rings they make."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from velamen.core.arrays import Array, Index

OUTSIDE = -1
STEP = np.array([[1, 0], [0, 1], [-1, 0], [0, -1]])  # east, south, west, north: each the right turn of the one before


@dataclass(frozen=True)
class Borders:
    """Borders of a labelled picture, every one once.

    lines: (n, 2) points each, in pixels from the picture's upper left corner, the middles of the
    pixel sides with the junctions at the ends; loops: which lines are closed; rings: for each part
    its rings, as lines by number, ~number where one runs backwards. A ring has its part on the
    right as seen, so that outer rings turn from x towards y.
    """

    lines: list[Array]
    loops: NDArray[np.bool_]
    rings: dict[int, list[list[int]]]


@dataclass(frozen=True)
class _Sides:
    """Pixel sides that part two parts, each in both directions: the other one is `twin`."""

    tail: Index
    head: Index
    way: Index
    face: Index
    twin: Index
    across: int


def borders(part: Index) -> Borders:
    """The borders of a picture of parts (h, w)."""
    sides = _sides(part)
    after, junction = _followers(sides)
    stop = junction[sides.head]
    chain, order, loop = _chains(np.where(stop, -1, after))
    bounds = np.flatnonzero(np.concatenate(([True], np.diff(chain[order]) != 0, [True])))
    first, last = order[bounds[:-1]], order[bounds[1:] - 1]
    number = np.empty(len(first), dtype=np.int64)
    number[chain[first]] = np.arange(len(first))
    twin = number[chain[sides.twin[first]]]
    kept = np.flatnonzero(np.arange(len(first)) < twin)
    name = np.empty(len(first), dtype=np.int64)
    name[kept] = np.arange(len(kept))
    name[twin[kept]] = ~np.arange(len(kept))
    closed = loop[chain[first]]
    lines = [_points(sides, order[bounds[nth] : bounds[nth + 1]], bool(closed[nth])) for nth in kept]
    onward = np.where(closed, np.arange(len(first)), number[chain[after[last]]])
    return Borders(lines, closed[kept], _rings(sides.face[first], onward, name))


def _sides(part: Index) -> _Sides:
    framed = np.pad(part, 1, constant_values=OUTSIDE)
    width = part.shape[1] + 1
    y, x = np.nonzero(framed[:-1, 1:-1] != framed[1:, 1:-1])
    above, below, west = framed[y, x + 1], framed[y + 1, x + 1], y * width + x
    v, u = np.nonzero(framed[1:-1, :-1] != framed[1:-1, 1:])
    left, right, north = framed[v + 1, u], framed[v + 1, u + 1], v * width + u
    flat, tall = len(west), len(north)
    nth = np.arange(2 * (flat + tall))
    twin = np.concatenate([nth[flat : 2 * flat], nth[:flat], nth[2 * flat + tall :], nth[2 * flat : 2 * flat + tall]])
    return _Sides(
        np.concatenate([west, west + 1, north, north + width]),
        np.concatenate([west + 1, west, north + width, north]),
        np.repeat([0, 2, 1, 3], [flat, flat, tall, tall]),
        np.concatenate([below, above, left, right]),
        twin, width,
    )  # fmt: skip


def _followers(sides: _Sides) -> tuple[Index, NDArray[np.bool_]]:
    """The side after each one round its face, and which corners are junctions of more than two sides.

    The sharpest right turn keeps to the face's own corner where two parts touch in a point.
    """
    corners = int(max(sides.tail.max(), sides.head.max())) + 1
    leaving = np.full(4 * corners, -1)
    leaving[sides.tail * 4 + sides.way] = np.arange(len(sides.tail))
    after = np.full(len(sides.tail), -1)
    for turn in (-1, 0, 1):  # the last one found stands: a right turn where there is one
        found = leaving[sides.head * 4 + (sides.way + turn) % 4]
        after = np.where(found >= 0, found, after)
    return after, np.bincount(sides.tail, minlength=corners) > 2


def _chains(after: Index) -> tuple[Index, Index, NDArray[np.bool_]]:
    """Chain of each side, the sides chain by chain in order, and which chains are loops.

    after: the next side of each, -1 at a chain's end. Ranks come by doubling of pointers.
    """
    nth = np.arange(len(after))
    linked = after >= 0
    links = sparse.coo_matrix((np.ones(int(linked.sum()), dtype=np.int8), (nth[linked], after[linked])),
                              shape=(len(after),) * 2)  # fmt: skip
    count, chain = sparse.csgraph.connected_components(links, directed=False)
    loop = np.ones(count, dtype=bool)
    loop[chain[~linked]] = False
    begin = np.full(count, len(after))
    np.minimum.at(begin, chain, nth)
    broken = after.copy()
    into = np.empty(len(after), dtype=np.int64)
    into[after[linked]] = nth[linked]
    broken[into[begin[loop]]] = -1
    rest = (broken >= 0).astype(np.int64)
    pointer = np.where(broken >= 0, broken, nth)
    while True:
        further = rest + rest[pointer]
        if (further == rest).all():
            break
        rest, pointer = further, pointer[pointer]
    return chain.astype(np.int64), np.lexsort((-rest, chain)), loop


def _points(sides: _Sides, chain: Index, closed: bool) -> Array:
    """Middles of a chain's sides, with its two ends where it is open."""
    tail, head = sides.tail[chain], sides.head[chain]
    one = np.stack([tail % sides.across, tail // sides.across], axis=1)
    other = np.stack([head % sides.across, head // sides.across], axis=1)
    middle = (one + other) / 2.0
    return middle if closed else np.concatenate([one[:1], middle, other[-1:]])


def _rings(face: Index, onward: Index, name: Index) -> dict[int, list[list[int]]]:
    """Rings of each part: chains followed until they come round."""
    rings: dict[int, list[list[int]]] = {}
    done = np.zeros(len(face), dtype=bool)
    for start in range(len(face)):
        if done[start] or face[start] == OUTSIDE:
            continue
        ring, at = [], start
        while not done[at]:
            done[at] = True
            ring.append(int(name[at]))
            at = int(onward[at])
        rings.setdefault(int(face[start]), []).append(ring)
    return rings
