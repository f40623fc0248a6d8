"""Travel inside a fill: from section to section along its rows, never over open ground."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from velamen.core.arrays import Array, Index
from velamen.core.stitching.rows import Join, Rows, Sections
from velamen.core.stitching.section_order import End

INSET = 0.3  # mm that travel keeps from the region's edge where it can


def roads_of(rows: Rows, sections: Sections, members: list[Index], between: list[Join]) -> Roads:
    """The ways inside a fill. members: the stretches of every section in order."""
    gates = set(zip(*sections.section[sections.gates].T.tolist(), strict=True)) if len(sections.gates) else set()
    return Roads(rows, members, gates, {
        (int(sections.section[one]), int(sections.section[other])): (one, other, path)
        for join_ in between
        for one, other, path in ((join_.one, join_.other, join_.path), (join_.other, join_.one, join_.path[::-1]))
    })  # fmt: skip


@dataclass(frozen=True)
class Roads:
    """Ways inside a region: rows, the stretches of each section in order, which sections touch, and joins."""

    rows: Rows
    members: list[Index]
    gates: set[tuple[int, int]]
    joins: dict[tuple[int, int], tuple[int, int, Array]]

    def travel(self, way: tuple[End, ...], at: Array) -> Array:
        """A path (n, 2) along and across by the ends of sections that are passed."""
        path = [(float(at[0]), float(at[1]))]
        for (section, end), (onward, to) in pairwise(way):
            if section == onward:  # through it, from one end to the other
                self._through(path, self.members[section] if end == 0 else self.members[section][::-1])
            elif (section, onward) in self.gates or (onward, section) in self.gates:
                self._step(path, int(self.members[section][-end]), int(self.members[onward][-to]))
            else:
                one, other, between = self.joins[section, onward]
                self._through(path, _between(self.members[section], int(self.members[section][-end]), one))
                path.extend((float(x), float(y)) for x, y in between)
                self._through(path, _between(self.members[onward], other, int(self.members[onward][-to])))
        return np.array(path[1:]).reshape(-1, 2)

    def _through(self, path: list[tuple[float, float]], stretches: Index) -> None:
        rows = self.rows
        if len(stretches) == 0:
            return
        inset = np.minimum(INSET, 0.3 * (rows.right[stretches] - rows.left[stretches]))
        low, high = rows.left[stretches] + inset, rows.right[stretches] - inset
        x = _straight_on(path[-1][0], low, high)
        path.extend(zip(x.tolist(), rows.across[stretches].tolist(), strict=True))

    def _step(self, path: list[tuple[float, float]], one: int, other: int) -> None:
        """From a stretch to its neighbour where both overlap, so that the step stays inside."""
        rows = self.rows
        low, high = max(rows.left[one], rows.left[other]), min(rows.right[one], rows.right[other])
        inset = min(INSET, 0.3 * (high - low))
        x = min(max(path[-1][0], low + inset), high - inset)
        path += [(x, float(rows.levels[rows.row[nth]])) for nth in (one, other)]


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
