"""The order in which sections of a fill are sewn, and the ends of sections passed on the way."""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from velamen.core.arrays import Array
from velamen.core.stitching.row_joins import FINE, Join
from velamen.core.stitching.rows import Rows, Sections

End = tuple[int, int]
"""A section and one of its ends: 0 the top, 1 the bottom."""

SEWN = 2.0  # times as far: travel over what is sewn already counts


@dataclass(frozen=True)
class Leg:
    """A section sewn from one end to the other, and the ends passed on the way to it."""

    section: int
    end: int
    way: tuple[End, ...]


def divided_at(sections: Sections, rows: Rows, place: Array) -> Sections:
    """Sections, the one with the row that ends nearest to a place divided there, so that sewing can begin at it.

    place: along and across the rows.
    """
    off = np.hypot(np.stack([rows.left, rows.right]) - place[0], rows.across - place[1]).min(axis=0)
    return divided_after(sections, int(np.argmin(off)))


def divided_after(sections: Sections, nth: int) -> Sections:
    """Sections, the one of a stretch divided after it unless it ends there or begins with it."""
    mine = int(sections.section[nth])
    if nth in (sections.top[mine], sections.bottom[mine]):
        return sections
    after = np.flatnonzero((sections.section == mine) & (np.arange(len(sections.section)) > nth))
    section, count = sections.section.copy(), len(sections.top)
    section[after] = count
    bottom = np.append(sections.bottom, sections.bottom[mine])
    bottom[mine] = nth
    gates = np.concatenate([sections.gates.reshape(-1, 2), [[nth, after[0]]]])
    return Sections(section, np.append(sections.top, after[0]), bottom, gates)


def routes(rows: Rows, sections: Sections, ways: list[Join], begin: Array | None) -> list[list[Leg]]:
    """Sections in sewing order, always on to the nearest that is not sewn; a list for each part."""
    near = _neighbours(rows, sections, ways)
    size = np.asarray(np.bincount(sections.section) * rows.spacing, dtype=np.float64)
    left = dict.fromkeys(range(len(sections.top)))
    found: list[list[Leg]] = []
    while left:
        at = _first(rows, sections, list(left), begin if not found else None)
        del left[at[0]]
        legs = [Leg(at[0], at[1], ())]
        here: End = (at[0], 1 - at[1])
        while True:
            way = _way(here, near, size, left)
            if way is None:
                break
            section, end = way[-1]
            del left[section]
            legs.append(Leg(section, end, tuple(way)))
            here = (section, 1 - end)
        found.append(legs)
    return found


def _neighbours(rows: Rows, sections: Sections, ways: list[Join]) -> dict[End, list[tuple[End, float]]]:
    """Which ends of sections one may step to from each end, through gates or joins, and how far off."""
    near: dict[End, list[tuple[End, float]]] = {}
    one, other = sections.gates[:, 0], sections.gates[:, 1]
    middle, across = (rows.left + rows.right) / 2, rows.across
    far = np.abs(middle[one] - middle[other]) + np.abs(across[one] - across[other])
    above, below = sections.section[one], sections.section[other]
    for a, b, off in zip(above.tolist(), below.tolist(), far.tolist(), strict=True):
        near.setdefault((a, 1), []).append(((b, 0), off))
        near.setdefault((b, 0), []).append(((a, 1), off))
    for join_ in ways:
        a, b = int(sections.section[join_.one]), int(sections.section[join_.other])
        for one_end, other_end in product((0, 1), (0, 1)):
            off = sum(
                abs(float(across[(sections.top, sections.bottom)[end][part]] - across[stretch]))
                for part, end, stretch in ((a, one_end, join_.one), (b, other_end, join_.other))
            ) + len(join_.path) * rows.spacing / FINE  # fmt: skip
            near.setdefault((a, one_end), []).append(((b, other_end), off))
            near.setdefault((b, other_end), []).append(((a, one_end), off))
    return near


def _way(here: End, near: dict[End, list[tuple[End, float]]], size: Array, left: dict[int, None]) -> list[End] | None:
    """The ends to pass from here to the nearest section that is not sewn, that one's end last."""
    queue: list[tuple[float, End, End | None]] = [(0.0, here, None)]
    came: dict[End, End | None] = {}
    while queue:
        far, at, before = heapq.heappop(queue)
        if at in came:
            continue
        came[at] = before
        if at[0] in left:
            way: list[End] = []
            step: End | None = at
            while step is not None:
                way.append(step)
                step = came[step]
            return way[::-1]
        steps = [*near.get(at, ()), ((at[0], 1 - at[1]), SEWN * float(size[at[0]]))]
        for onward, off in steps:
            if onward not in came:
                heapq.heappush(queue, (far + off, onward, at))
    return None


def _first(rows: Rows, sections: Sections, left: Sequence[int], begin: Array | None) -> End:
    """The end of a section that sewing begins at: nearest to a place, or the uppermost."""
    if begin is None:
        return min(left, key=lambda one: int(sections.top[one])), 0
    ends = [(one, end) for one in left for end in (0, 1)]
    stretch = np.array([(sections.top, sections.bottom)[end][one] for one, end in ends])
    x = np.clip(begin[0], rows.left[stretch], rows.right[stretch])
    return ends[int(np.argmin(np.hypot(x - begin[0], rows.across[stretch] - begin[1])))]
