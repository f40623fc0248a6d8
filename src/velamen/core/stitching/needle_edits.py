"""Edits of needle points: chosen ones moved, deleted, copied, thinned out; points put in; threads cut and joined.

Every edit takes strands and a mask (n,) of the chosen points, and gives strands with the mask of what is chosen then.
Threads that an edit cuts are tied anew, stitches that it makes too long for a machine are divided.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from velamen.core.arrays import Array, Index, Mask, numbered
from velamen.core.errors import BadInput
from velamen.core.job.needles import Strands, joined_strands
from velamen.core.stitching.needle_strands import ROLES, SEWN, TIED, TRAVELLED, retied
from velamen.core.stitching.strand import LONGEST, every_second

NOTHING = "Nothing would be left of these needle points: remove the piece instead."
CLOSES = 3.0  # mm over which a thread closes up where points between were deleted
BESIDE = 1e-9
ROUNDS = 24  # of thinning out, each of which leaves every second short stitch


class Edited(NamedTuple):
    """Strands after an edit, and which of their points are chosen then."""

    strands: Strands
    chosen: Mask


def transformed(strands: Strands, chosen: Mask, matrix: Array, shift: Array) -> Edited:
    """Chosen points under `point @ matrix + shift`."""
    _wanted(chosen)
    xy = strands.xy.copy()
    xy[chosen] = xy[chosen] @ matrix + shift
    return sound(strands._replace(xy=xy), chosen)


def about_middle(strands: Strands, chosen: Mask, matrix: Array) -> Edited:
    """Chosen points turned or mirrored about the middle of their box."""
    _wanted(chosen)
    middle = (strands.xy[chosen].min(axis=0) + strands.xy[chosen].max(axis=0)) / 2
    return transformed(strands, chosen, matrix, middle - middle @ matrix)


def deleted(strands: Strands, chosen: Mask) -> Edited:
    """The strands without the chosen points. A thread closes up over small gaps, and is cut at larger ones."""
    _wanted(chosen)
    if chosen.all():
        raise BadInput(NOTHING)
    kept = np.flatnonzero(~chosen)
    owner = _owner(strands)[kept]
    gap = np.linalg.norm(np.diff(strands.xy[kept], axis=0), axis=1)
    hole = np.diff(kept) > 1
    same = owner[1:] == owner[:-1]
    split = ~same | (hole & (gap > CLOSES))
    first = np.concatenate([[0], np.flatnonzero(split) + 1])
    counts = np.diff(np.append(first, len(kept)))
    last = first + counts - 1
    begins, ends = strands.first[owner[first]], (strands.first + strands.counts - 1)[owner[last]]
    before, after = kept[first] != begins, kept[last] != ends
    whole = counts >= 2
    if not whole.any():
        raise BadInput(NOTHING)
    points = np.repeat(whole, counts)
    left = Strands(strands.xy[kept][points], strands.role[kept][points], strands.roles, counts[whole])
    new = retied(_in_roles(left), before[whole], after[whole])
    return Edited(new, np.zeros(len(new.xy), dtype=bool))


def copied(strands: Strands, chosen: Mask, shift: Array) -> Edited:
    """Stretches of chosen points once more, moved by mm (2,), as threads of their own that are sewn last."""
    lone, counts, ends = _stretches(strands, chosen)
    if not len(counts):
        raise BadInput("Choose at least two needle points beside one another to duplicate them.")
    owner = _owner(strands)[lone[ends[0]]]
    before = lone[ends[0]] != strands.first[owner]
    after = lone[ends[1]] != (strands.first + strands.counts - 1)[owner]
    new = retied(
        _in_roles(Strands(strands.xy[lone] + shift, strands.role[lone], strands.roles, counts)), before, after
    )
    whole = joined_strands([_in_roles(strands), new])
    return Edited(whole, np.arange(len(whole.xy)) >= len(strands.xy))


def thinned(strands: Strands, chosen: Mask, least: float) -> Edited:
    """Chosen points left out until none lies nearer to the one before than so many mm; ties and ends stay."""
    _wanted(chosen)
    role = strands.role
    tie = strands.roles.index(ROLES[TIED]) if ROLES[TIED] in strands.roles else -1
    may = chosen & (role != tie)
    may[strands.first] = may[strands.first + strands.counts - 1] = False
    kept = np.arange(len(may))
    for _ in range(ROUNDS):
        near = np.linalg.norm(np.diff(strands.xy[kept], axis=0), axis=1) < least
        short = np.flatnonzero(near & may[kept[1:]]) + 1
        if not len(short):
            break
        kept = np.delete(kept, every_second(short))
    gone = ~np.isin(np.arange(len(may)), kept)
    if not gone.any():
        raise BadInput(f"No stitch among the chosen ones is shorter than {least:g} mm.")
    keep = ~gone
    counts = np.bincount(_owner(strands)[keep], minlength=len(strands.counts))
    return sound(Strands(strands.xy[keep], role[keep], strands.roles, counts), chosen[keep])


def filled_in(strands: Strands, chosen: Mask) -> Edited:
    """A point more in the middle of every stitch of which both ends are chosen."""
    owner = _owner(strands)
    at = np.flatnonzero(chosen[1:] & chosen[:-1] & (owner[1:] == owner[:-1])) + 1
    if not len(at):
        raise BadInput("Choose both ends of a stitch to put a needle point in its middle.")
    xy = np.insert(strands.xy, at, (strands.xy[at] + strands.xy[at - 1]) / 2, axis=0)
    role = np.insert(strands.role, at, strands.role[at])
    counts = strands.counts + np.bincount(owner[at], minlength=len(strands.counts))
    mask = np.zeros(len(xy), dtype=bool)
    mask[at + np.arange(len(at))] = True
    return Edited(Strands(xy, role, strands.roles, counts), mask)


def cut(strands: Strands, chosen: Mask) -> Edited:
    """Threads cut at the chosen points, both ends tied there."""
    at = np.flatnonzero(chosen)
    owner = _owner(strands)
    inner = (at > strands.first[owner[at]] + 1) & (at < (strands.first + strands.counts - 2)[owner[at]])
    at = at[inner]
    if not len(at):
        raise BadInput("Choose a needle point within a thread to cut it there.")
    # The point is the end of one thread and the beginning of the next.
    xy, role = np.insert(strands.xy, at, strands.xy[at], axis=0), np.insert(strands.role, at, strands.role[at])
    places = np.arange(len(at)) + at
    starts = np.sort(np.concatenate([strands.first + np.searchsorted(at, strands.first), places + 1]))
    counts = np.diff(np.append(starts, len(xy)))
    before, after = np.isin(starts, places + 1), np.isin(starts + counts - 1, places)
    new = retied(_in_roles(Strands(xy, role, strands.roles, counts)), before, after)
    return Edited(new, np.zeros(len(new.xy), dtype=bool))


def joined(strands: Strands, chosen: Mask) -> Edited:
    """Two threads as one, from an end of the first that is chosen to an end of the second; the ties there go.

    One or more points of each are chosen: of each thread the end nearer to them counts.
    """
    owner = _owner(strands)
    pair = np.unique(owner[chosen])
    if len(pair) != 2:
        raise BadInput("Choose an end of one thread and an end of another to join them.")
    one, other = (_untied(strands, int(nth), _at_end(strands, int(nth), chosen)) for nth in pair)
    # The first is sewn up to its chosen end, the second on from its own.
    first = one[0] if one[1] else _back(one[0])
    second = _back(other[0]) if other[1] else other[0]
    role = np.concatenate([first.role, second.role])
    role[len(first.role)] = TRAVELLED
    whole = Strands(np.concatenate([first.xy, second.xy]), role, ROLES, np.array([len(role)], dtype=np.int64))
    parts = [_one(strands, nth) for nth in range(len(strands.counts))]
    parts[int(pair[0])] = whole
    parts.pop(int(pair[1]))
    new = joined_strands([_in_roles(part) for part in parts])
    return sound(new, np.zeros(len(new.xy), dtype=bool))


def sound(strands: Strands, chosen: Mask) -> Edited:
    """Strands with what is too long for a machine divided evenly; what is put in between chosen points is chosen."""
    way = np.diff(strands.xy, axis=0, prepend=strands.xy[:1])
    length = np.linalg.norm(way, axis=1)
    length[strands.first] = 0.0
    if float(length.max(initial=0.0)) <= LONGEST:
        return Edited(strands, chosen)
    pieces = np.maximum(np.ceil(length / LONGEST - BESIDE), 1).astype(np.int64)
    owner = np.repeat(np.arange(len(pieces)), pieces)
    share = ((numbered(pieces) + 1) / pieces[owner])[:, None]
    xy = strands.xy[owner] - (1.0 - share) * way[owner]
    before = np.concatenate([[False], chosen[:-1]])
    mask = chosen[owner] & ((share[:, 0] >= 1.0) | before[owner])
    counts = np.add.reduceat(pieces, strands.first)
    return Edited(Strands(xy, strands.role[owner], strands.roles, counts), mask)


def _wanted(chosen: Mask) -> None:
    if not chosen.any():
        raise BadInput("Choose needle points first.")


def _owner(strands: Strands) -> Index:
    """(n,) the number of its strand of each point."""
    return np.repeat(np.arange(len(strands.counts)), strands.counts)


def _stretches(strands: Strands, chosen: Mask) -> tuple[Index, Index, tuple[Index, Index]]:
    """Points of chosen stretches of two or more, their counts, and where among them each begins and ends."""
    at, owner = np.flatnonzero(chosen), _owner(strands)
    if not len(at):
        return at, at, (at, at)
    split = (np.diff(at) > 1) | (np.diff(owner[at]) != 0)
    counts = np.diff(np.concatenate([[0], np.flatnonzero(split) + 1, [len(at)]]))
    kept = np.repeat(counts >= 2, counts)
    at, counts = at[kept], counts[counts >= 2]
    first = np.cumsum(counts) - counts
    return at, counts, (first, first + counts - 1)


def _in_roles(strands: Strands) -> Strands:
    """Strands whose roles are numbered as in ROLES; others are needle points like any."""
    if strands.roles == ROLES:
        return strands
    codes = np.array([ROLES.index(one) if one in ROLES else SEWN for one in strands.roles], dtype=np.uint8)
    return Strands(strands.xy, codes[strands.role], ROLES, strands.counts)


def _one(strands: Strands, nth: int) -> Strands:
    first, count = int(strands.first[nth]), int(strands.counts[nth])
    part = slice(first, first + count)
    return Strands(strands.xy[part], strands.role[part], strands.roles, np.array([count], dtype=np.int64))


def _at_end(strands: Strands, nth: int, chosen: Mask) -> bool:
    """Whether what is chosen of a strand lies nearer to its end than to its beginning."""
    first, count = int(strands.first[nth]), int(strands.counts[nth])
    return bool(np.flatnonzero(chosen[first : first + count]).mean() >= (count - 1) / 2)


def _untied(strands: Strands, nth: int, at_end: bool) -> tuple[Strands, bool]:
    """A strand without the tie at one of its ends, and which end that is."""
    part = _in_roles(_one(strands, nth))
    sewn = np.flatnonzero(part.role[1:] != TIED) + 1
    if len(sewn):
        kept = slice(0, int(sewn[-1]) + 1) if at_end else slice(int(sewn[0]) - 1, None)
        xy, role = part.xy[kept], part.role[kept].copy()
        role[0] = SEWN if not at_end else role[0]
        part = Strands(xy, role, ROLES, np.array([len(xy)], dtype=np.int64))
    return part, at_end


def _back(part: Strands) -> Strands:
    """A single strand sewn from its other end."""
    return Strands(part.xy[::-1], np.concatenate([part.role[:1], part.role[:0:-1]]), part.roles, part.counts)
