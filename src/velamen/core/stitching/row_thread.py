"""Penetrations along the rows of a fill, to and fro, with ends bent along shallow edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from velamen.core.arrays import Array, Index, numbered
from velamen.core.stitching.rows import Rows

EASY = 0.3  # mm by which the way on from a row's end must be shorter than from its other one to count
CLEAR = 0.8  # mm kept between a row's end and the next penetration


@dataclass(frozen=True)
class RowThread:
    """How every stretch of rows is stitched.

    length: mm of a stitch; left, right: (m,) its ends, pull included; bent_left, bent_right: (m, 2) where
    they go on along an edge; phase: (m,) where its penetrations lie; begin, inner: (m,) number of the
    first of those between its ends, and how many there are.
    """

    rows: Rows
    length: float
    left: Array
    right: Array
    bent_left: Array
    bent_right: Array
    phase: Array
    begin: Index
    inner: Index

    def forward(self, first: int, path: Array, at: Array | None) -> bool:
        """Whether sewing from a stretch on begins at its left end: the nearer to where the thread comes from."""
        near = path[-1, 0] if len(path) else (self.rows.left[first] if at is None else at[0])
        return bool(abs(near - self.rows.left[first]) <= abs(near - self.rows.right[first]))

    def towards(self, last: int, odd: bool, onward: tuple[float, float] | None, forward: bool) -> bool:
        """Whether sewing begins forward, so that it ends on the better side of its last row.

        odd: whether the number of rows is; onward: from where to where, along, it may go on; forward: where both
        sides are as good.
        """
        if onward is None:
            return forward
        low, high = onward
        left, right = (max(low - end, end - high, 0.0) for end in (self.rows.left[last], self.rows.right[last]))
        return forward if abs(left - right) < EASY else (right < left) == odd

    def end(self, last: int, forward: bool) -> Array:
        """Where sewing ends, along and across, with a last stretch sewn forward or back."""
        return np.asarray((self.bent_right if forward else self.bent_left)[last])

    def stitched(self, orders: list[Index], forwards: list[bool]) -> list[Array]:
        """Penetrations (n, 2) along and across of sections in turn.

        orders: their stretches, sewn to and fro; forwards: whether the first of each is sewn forward.
        """
        sizes = np.array([len(order) for order in orders])
        order = np.concatenate(orders)
        nth = numbered(sizes)
        back = (nth % 2 == 0) != np.repeat(forwards, sizes)
        last = np.zeros(len(order), dtype=bool)
        last[np.cumsum(sizes) - 1] = True
        across = self.rows.across[order]
        onward = np.where(last, 0.0, np.append(np.diff(across), 0.0))
        backward = np.where(nth == 0, 0.0, np.concatenate(([0.0], -np.diff(across))))
        left, right, inner = self.left[order], self.right[order], self.inner[order]
        early, early_there = self._steps(left, self.bent_left[order], across, np.where(back, onward, backward))
        late, late_there = self._steps(right, self.bent_right[order], across, np.where(back, backward, onward))
        count = inner + 2 + early + late
        owner = np.repeat(np.arange(len(order)), count)
        place = numbered(count)
        place = np.where(back[owner], count[owner] - 1 - place, place) - early[owner]
        along = (self.phase[order] + (self.begin[order] - 1) * self.length)[owner] + place * self.length
        along = np.where(place <= 0, left[owner], np.where(place > inner[owner], right[owner], along))
        points = np.stack([along, across[owner]], axis=1)
        for goal, far, there in (
            (self.bent_left[order], -place, early_there),
            (self.bent_right[order], place - inner[owner] - 1, late_there),
        ):
            on = np.flatnonzero(far > 0)
            steps = there[owner[on]]
            share = (1.0 - np.abs(far[on] - steps) / steps)[:, None]
            points[on] += share * (goal[owner[on]] - points[on])
        return np.split(points, np.cumsum(count)[np.cumsum(sizes) - 1][:-1])

    def _steps(self, end: Array, bent: Array, across: Array, step: Array) -> tuple[Index, Index]:
        """Stitches along an edge at one end of each stretch, and how many of them lead away from it.

        step: mm across to the stretch that is sewn on from this end, 0 for none. None lead towards that
        one, since the thread goes there anyway; away from it they come back.
        """
        there = np.ceil(np.abs(bent[:, 0] - end) / self.length - 1e-9).astype(np.int64)
        there[(bent[:, 1] - across) * step > 0] = 0
        return np.where(step != 0, 2, 1) * there, there


def row_thread(
    rows: Rows, length: float, phase: Array, pull: tuple[Array, Array], bent: tuple[Array, Array]
) -> RowThread:
    """The thread of rows. phase: (r,) mm by level; pull: (m,) mm at either end; bent: (m, 2) without pull."""
    left, right = rows.left - pull[0], rows.right + pull[1]
    mine = phase[rows.row]
    begin = np.ceil((left + CLEAR - mine) / length).astype(np.int64)
    inner = np.maximum(np.floor((right - CLEAR - mine) / length).astype(np.int64) - begin + 1, 0)
    wide = [
        np.stack([one[:, 0] + sign * by, one[:, 1]], axis=1)
        for one, by, sign in zip(bent, pull, (-1, 1), strict=True)
    ]
    return RowThread(rows, length, left, right, wide[0], wide[1], mine, begin, inner)


def from_both_ends(points: Array, level: float, reach: tuple[float, float]) -> tuple[Array, Array]:
    """Penetrations along and across whose last row is sewn from both of its ends, so that it ends within a reach.

    level: of that row, mm across; reach: from where to where, along. Gives what is sewn up to there, and the rest
    from the row's other end, which will cover the way on to it.
    """
    on = np.flatnonzero(points[:, 1] == level)
    on = on[np.flatnonzero(np.diff(on, prepend=-2) > 1)[-1] :]  # of rows of one level the last
    off = np.maximum(np.maximum(reach[0] - points[on, 0], points[on, 0] - reach[1]), 0.0)
    at = int(on[len(on) - 1 - np.argmin(off[::-1])])
    return points[: at + 1], points[at:][::-1]
