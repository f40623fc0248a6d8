"""Travel inside a fill: from section to section along its rows, never over open ground."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from velamen.core.arrays import Array, Index
from velamen.core.stitching.row_joins import Join
from velamen.core.stitching.rows import Rows, Sections
from velamen.core.stitching.section_order import End

Reach = tuple[float, float]
"""From where to where, mm along."""

INSET = 0.3  # mm that travel keeps from the region's edge where it can
DEEP = 0.6  # mm that it does under rows


def roads_of(
    rows: Rows, sections: Sections, members: list[Index], between: list[Join], inset: float = INSET
) -> Roads:
    """The ways inside a fill. members: the stretches of every section in order; inset: mm kept from the edge."""
    gates = set(zip(*sections.section[sections.gates].T.tolist(), strict=True)) if len(sections.gates) else set()
    return Roads(rows, members, gates, {
        (int(sections.section[one]), int(sections.section[other])): (one, other, path)
        for join_ in between
        for one, other, path in ((join_.one, join_.other, join_.path), (join_.other, join_.one, join_.path[::-1]))
    }, inset)  # fmt: skip


@dataclass(frozen=True)
class Roads:
    """Ways inside a region: rows, the stretches of each section in order, which sections touch, and joins."""

    rows: Rows
    members: list[Index]
    gates: set[tuple[int, int]]
    joins: dict[tuple[int, int], tuple[int, int, Array]]
    inset: float

    def entered(self, end: End, place: Array) -> Array:
        """Where the thread comes in at an end of a section, along and across: as near to a place as may be."""
        nth = self._row_at(end)
        inset = min(self.inset, 0.3 * float(self.rows.right[nth] - self.rows.left[nth]))
        x = min(max(float(place[0]), self.rows.left[nth] + inset), self.rows.right[nth] - inset)
        return np.array([x, self.rows.across[nth]])

    def onto(self, way: tuple[End, ...]) -> Reach | None:
        """From where to where, along, one may step over into the second section of a way."""
        (one, _), (other, to) = way[:2]
        if one == other:
            return None
        if not {(one, other), (other, one)} & self.gates:
            place = float(self.joins[one, other][2][0, 0])
            return place, place
        nth = self._row_at((other, to))
        return float(self.rows.left[nth]), float(self.rows.right[nth])

    def _row_at(self, end: End) -> int:
        return int(self.members[end[0]][-end[1]])

    def travel(self, way: tuple[End, ...], at: Array, sewn: bool = False) -> Array:
        """A path (n, 2) along and across by the ends of sections that are passed.

        sewn: whether the first one is, so that the thread leaves its last row where it stands.
        """
        path = [(float(at[0]), float(at[1]))]
        for nth, ((section, end), (onward, to)) in enumerate(pairwise(way)):
            if section == onward:  # through it, from one end to the other
                self._through(path, self.members[section] if end == 0 else self.members[section][::-1])
            elif (section, onward) in self.gates or (onward, section) in self.gates:
                self._step(path, self._row_at((section, end)), self._row_at((onward, to)), sewn and nth == 0)
            else:
                one, other, between = self.joins[section, onward]
                if not (sewn and nth == 0):
                    self._through(path, _between(self.members[section], self._row_at((section, end)), one))
                path.extend((float(x), float(y)) for x, y in between)
                self._through(path, _between(self.members[onward], other, self._row_at((onward, to))))
        return np.array(path[1:]).reshape(-1, 2)

    def _through(self, path: list[tuple[float, float]], stretches: Index) -> None:
        rows = self.rows
        if len(stretches) == 0:
            return
        inset = np.minimum(self.inset, 0.3 * (rows.right[stretches] - rows.left[stretches]))
        low, high = rows.left[stretches] + inset, rows.right[stretches] - inset
        x = _straight_on(path[-1][0], low, high)
        path.extend(zip(x.tolist(), rows.across[stretches].tolist(), strict=True))

    def _step(self, path: list[tuple[float, float]], one: int, other: int, sewn: bool) -> None:
        """From a stretch to its neighbour where both overlap, so that it stays inside; off a sewn one at once."""
        rows = self.rows
        low, high = max(rows.left[one], rows.left[other]), min(rows.right[one], rows.right[other])
        inset = min(INSET if sewn else self.inset, 0.3 * (high - low))
        x = min(max(path[-1][0], low + inset), high - inset)
        path += [(x, float(rows.levels[rows.row[nth]])) for nth in ((other,) if sewn else (one, other))]


def _straight_on(at: float, low: Array, high: Array) -> Array:
    """Ways along that change only where they must, to stay between low and high."""
    found = np.empty(len(low))
    for nth, (least, most) in enumerate(zip(low.tolist(), high.tolist(), strict=True)):
        at = found[nth] = min(max(at, least), most)
    return found


def _between(members: Index, one: int, other: int) -> Index:
    """Stretches of a section from one to another, both included."""
    a, b = (int(np.searchsorted(members, nth)) for nth in (one, other))
    return members[a : b + 1] if a <= b else members[b : a + 1][::-1]
