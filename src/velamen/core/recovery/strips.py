"""Strips: stretches sewn without a break, as stitches in arrays with what each does beside its neighbours."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, Index, Mask
from velamen.core.plan.stitch_plan import JUMP, STITCH
from velamen.core.recovery.stitch_rows import StitchRows
from velamen.core.stitching.strand import LONGEST

NOTHING = 0.05  # mm of a stitch that is none
STRAIGHT, SAGITTA = 0.86, 0.13  # cosine from stitch to stitch of a stroke, and mm that it bows
RETURN, RETURNS_OVER = 0.16, 0.3  # mm off the place two stitches ago, and of a stitch that comes back


@dataclass(frozen=True)
class Stitches:
    """All stitches, m of them. begin, end: (m, 2) mm; row: (m,) of the file, the one that arrives; strip: (m,) number
    of the strip; joined: (m,) whether the next stitch goes on from this one."""

    begin: Array
    end: Array
    row: Index
    strip: Index
    joined: Mask
    thread: Index

    @property
    def size(self) -> Array:
        """mm of each."""
        return np.asarray(np.linalg.norm(self.end - self.begin, axis=1))


def stitches_of(rows: StitchRows) -> Stitches:
    """The stitches of a file, those too short to be any left out."""
    xy = rows.xy
    arrives = np.flatnonzero((rows.command[1:] == STITCH) & (rows.command[:-1] <= JUMP)) + 1
    arrives = arrives[rows.thread[arrives] == rows.thread[arrives - 1]]
    size = np.linalg.norm(xy[arrives] - xy[arrives - 1], axis=1)
    short = size < NOTHING
    begins = np.concatenate([[True], (np.diff(arrives) > 1)]) | (size > LONGEST)
    # A stitch after one that was too short begins where that one began.
    kept = ~short & (size <= LONGEST)
    strip = np.cumsum(begins)
    arrives, strip = arrives[kept], strip[kept]
    begin, end = xy[arrives - 1], xy[arrives]
    same = np.concatenate([strip[1:] == strip[:-1], [False]]) if len(strip) else np.zeros(0, dtype=bool)
    begin[1:] = np.where(same[:-1, None], end[:-1], begin[1:]) if len(begin) else begin[1:]
    return Stitches(begin, end, arrives, strip, same, rows.thread[arrives])


@dataclass(frozen=True)
class Turns:
    """What lies between each stitch and the next; nothing where they are not joined.

    cos, cross: (m,) of their directions; back: whether the second comes back to where the first began; straight:
    whether it goes on as the first does, so that both belong to one stroke.
    """

    cos: Array
    cross: Array
    back: Mask
    straight: Mask


def turns_of(found: Stitches) -> Turns:
    """The turn after each stitch."""
    way = (found.end - found.begin) / np.maximum(found.size, 1e-9)[:, None]
    on = np.concatenate([way[1:], way[-1:]]) if len(way) else way
    cos = np.where(found.joined, (way * on).sum(axis=1), 1.0)
    cross = np.where(found.joined, cross_of(way, on), 0.0)
    after = np.concatenate([found.end[1:], found.end[-1:]]) if len(way) else found.end
    size = np.concatenate([found.size[1:], [0.0]])
    back = found.joined & (np.linalg.norm(after - found.begin, axis=1) < RETURN) & (size > RETURNS_OVER)
    chord, off = after - found.begin, found.end - found.begin
    bow = np.abs(cross_of(chord, off)) / np.maximum(np.linalg.norm(chord, axis=1), 1e-9)
    return Turns(cos, cross, back, found.joined & (cos > STRAIGHT) & (bow < SAGITTA))


def cross_of(one: Array, other: Array) -> Array:
    """The cross products of ways (n, 2): how far to the left the second goes."""
    out: Array = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    return out


def angle_of(way: Array) -> tuple[float, float]:
    """The angle of ways (n, 2) to and fro, long ones counting more, rad; and how alike they are, 1 for all at one."""
    double, weight = 2.0 * np.arctan2(way[:, 1], way[:, 0]), (way**2).sum(axis=1)
    y, x = float((weight * np.sin(double)).sum()), float((weight * np.cos(double)).sum())
    return float(np.arctan2(y, x)) / 2.0, float(np.hypot(x, y)) / max(float(weight.sum()), 1e-12)


def shifted(mask: NDArray[np.bool_], by: int) -> Mask:
    """A mask moved on by so many places, nothing coming in."""
    out = np.zeros_like(mask)
    if by > 0:
        out[by:] = mask[:-by]
    elif by < 0:
        out[:by] = mask[-by:]
    else:
        out[:] = mask
    return out
