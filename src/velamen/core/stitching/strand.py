"""Strands: stretches of sewing with one thread, each stitch knowing its role, tied at both ends."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.arrays import Array, numbered
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.stitching.roles import CODE

TIE = 0.5  # mm, length of a tie stitch
TIES = 3  # stitches
LONGEST = 12.1  # mm a machine sews in one stitch
DROP = 0.3  # mm; shorter stitches break thread (handbook, section 2)


@dataclass(frozen=True)
class Strand:
    """Needle points (n, 2) in mm and the role code (n,) of the stitch that ends at each."""

    xy: Array
    role: NDArray[np.uint8]

    def back(self) -> Strand:
        """The same strand sewn from its other end."""
        return Strand(self.xy[::-1], np.concatenate([self.role[:1], self.role[:0:-1]]))


def strand(xy: Array, role: str) -> Strand:
    """A strand of one role, stitches too short to sew dropped."""
    xy = xy[long_enough(xy)]
    return Strand(xy, np.full(len(xy), CODE[role], dtype=np.uint8))


def join(strands: list[Strand]) -> Strand:
    """Strands sewn one after another without a trim, stitches too short to sew dropped, too long ones divided."""
    xy = np.concatenate([part.xy for part in strands])
    role = np.concatenate([part.role for part in strands])
    step = np.diff(xy, axis=0)
    square = step[:, 0] ** 2 + step[:, 1] ** 2
    if len(square) and square.min() >= DROP**2 and square.max() <= LONGEST**2:  # as nearly always
        return Strand(xy, role)
    keep = long_enough(xy)
    return short_enough(Strand(xy[keep], role[keep]))


def by_turns(rows: list[Array], runs: list[Array], role: str, first: str = "") -> Strand:
    """Rows sewn one after another with the travel between each and the next, as one strand.

    first: the role of what comes first, where that is another.
    """
    parts = [rows[0], *(part for pair in zip(runs, rows[1:], strict=True) for part in pair)]
    codes = [CODE[first or role], *[CODE["travel"], CODE[role]] * len(runs)]
    roles = np.repeat(np.array(codes, dtype=np.uint8), [len(part) for part in parts])
    return join([Strand(np.concatenate(parts), roles)])


def short_enough(part: Strand, longest: float = LONGEST) -> Strand:
    """The strand with every stitch over so many mm, or longer than a machine sews, divided evenly."""
    gap = np.linalg.norm(np.diff(part.xy, axis=0), axis=1)
    pieces = np.maximum(np.ceil(gap / longest), 1).astype(np.int64)
    if (pieces == 1).all():
        return part
    owner = np.repeat(np.arange(len(pieces)), pieces)
    nth = numbered(pieces) + 1
    share = (nth / pieces[owner])[:, None]
    inner = (1.0 - share) * part.xy[owner] + share * part.xy[owner + 1]
    return Strand(np.concatenate([part.xy[:1], inner]), np.concatenate([part.role[:1], part.role[owner + 1]]))


def tie(line: Array) -> Strand:
    """Tie stitches to and fro along the first half millimetre of a line.

    line: (n, 2), its first point being where the sewing starts or ends. Where that turns back at once and comes too
    near its beginning, they go on to where it is half a millimetre away.
    """
    way = arc_lengths(line)
    far = np.array([np.interp(TIE, way, line[:, 0]), np.interp(TIE, way, line[:, 1])])
    if np.linalg.norm(far - line[0]) < 1.1 * DROP:
        far = _off(line, TIE)
    places = np.stack([line[0], far])[np.arange(TIES + 1) % 2]
    return Strand(places, np.full(TIES + 1, CODE["tie"], dtype=np.uint8))


def _off(line: Array, least: float) -> Array:
    """Where a line first is some mm from its beginning; its farthest place if it never is."""
    way = np.linalg.norm(line - line[0], axis=1)
    beyond = np.flatnonzero(way >= least)
    if not len(beyond):
        return np.asarray(line[int(np.argmax(way))])
    before, after = line[beyond[0] - 1] - line[0], line[beyond[0]] - line[0]
    step = after - before
    # where the stitch between the two leaves the circle of that radius
    slow, fall, rest = step @ step, before @ step, before @ before - least * least
    share = (-fall + np.sqrt(max(fall * fall - slow * rest, 0.0))) / slow
    return np.asarray(line[0] + before + share * step)


def tied(part: Strand, first: Array | None = None, last: Array | None = None) -> Strand:
    """A strand with ties at both ends.

    first, last: lines inside the object along which to tie; the strand's own ends otherwise.
    """
    ahead = tie(part.xy if first is None else first)
    behind = tie(part.xy[::-1] if last is None else last)
    if first is None:
        part = Strand(part.xy[1:], part.role[1:])
    if last is None:
        behind = Strand(behind.xy[1:], behind.role[1:])
    return join([ahead, part, behind])


def long_enough(xy: Array) -> NDArray[np.int64]:
    """Indices of needle points, those closer than 0.3 mm to the one before left out; both ends kept."""
    kept = np.arange(len(xy))
    for _ in range(12):
        gap = np.linalg.norm(np.diff(xy[kept], axis=0), axis=1)
        short = np.flatnonzero(gap < DROP) + 1
        if len(short) == 0 or len(kept) <= 2:
            break
        short[short == len(kept) - 1] -= 1
        short = np.unique(short[short > 0])
        if len(short) == 0:
            break
        kept = np.delete(kept, every_second(short))
    return kept


def every_second(index: NDArray[np.int64]) -> NDArray[np.int64]:
    """Of each unbroken run of sorted indices the first, third, fifth and so on."""
    begins = np.concatenate(([True], np.diff(index) > 1))
    begin = np.maximum.accumulate(np.where(begins, np.arange(len(index)), 0))
    return np.asarray(index[(np.arange(len(index)) - begin) % 2 == 0])
