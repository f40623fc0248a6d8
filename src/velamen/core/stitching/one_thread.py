"""One thread through a net: every line there and back, every stretch of an outline once, tied in where lines end.

At each place of an outline the halves of what meets there are paired in a chain: outline, first line | first line
back, second line | ... | last line back, outline. So the thread itself goes round whatever ends there. Where both
copies of a line belong to different rounds they change places, and two rounds become one: one round is left for all
that hangs together (an Euler tour: Hierholzer, 1873, with its pairs chosen).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

NOWHERE = -1  # in place of the next place on an outline: a place that lies on none
IN, OUT = 0, 1  # halves of a stretch of an outline, at the place it comes to and at the one it leaves


@dataclass(frozen=True)
class Step:
    """A line or a stretch of outline on the way. ahead: whether it goes from its first place to its second."""

    line: int  # number of the line, -1 for a stretch of an outline
    arc: int  # number of the place that the stretch leaves, -1 for a line
    ahead: bool


def rounds(following: Sequence[int], lines: Sequence[tuple[int, int]]) -> list[list[Step]]:
    """The ways through a net, one closed round for all places that hang together.

    following: for each place the next one on its outline, NOWHERE where it lies on none; lines: the two places that
    each line joins.
    """
    pairs = _paired(following, lines)
    _joined(pairs, following, lines)
    return _walked(pairs, following, lines)


Half = tuple[str, int, int, int]
"""A half of a strand at a place: ("arc", the place it leaves, IN or OUT, 0) or ("line", line, copy, end)."""


def _paired(following: Sequence[int], lines: Sequence[tuple[int, int]]) -> dict[Half, Half]:
    """What each half goes on with."""
    before = {onward: place for place, onward in enumerate(following) if onward != NOWHERE}
    at: list[list[tuple[int, int]]] = [[] for _ in following]
    for nth, ends in enumerate(lines):
        for end, place in enumerate(ends):
            at[place].append((nth, end))
    pairs: dict[Half, Half] = {}
    for place, meeting in enumerate(at):
        chain: list[Half] = []
        for nth, end in meeting:
            chain += [("line", nth, 0, end), ("line", nth, 1, end)]
        if following[place] != NOWHERE:
            chain = [("arc", before[place], IN, 0), *chain, ("arc", place, OUT, 0)]
        else:
            chain = [*chain[1:], *chain[:1]]  # each line goes on with the next
        for one, other in zip(chain[::2], chain[1::2], strict=True):
            pairs[one], pairs[other] = other, one
    return pairs


def _other(half: Half) -> Half:
    """The other half of the same strand."""
    kind, nth, which, end = half
    return (kind, nth, 1 - which, 0) if kind == "arc" else (kind, nth, which, 1 - end)


def _strand(half: Half) -> tuple[str, int, int]:
    kind, nth, which, _ = half
    return (kind, nth, 0) if kind == "arc" else (kind, nth, which)


def _joined(pairs: dict[Half, Half], following: Sequence[int], lines: Sequence[tuple[int, int]]) -> None:
    """Copies of a line exchanged wherever they belong to different rounds, so that these become one."""
    round_of: dict[tuple[str, int, int], tuple[str, int, int]] = {}

    def find(strand: tuple[str, int, int]) -> tuple[str, int, int]:
        root = strand
        while round_of.setdefault(root, root) != root:
            root = round_of[root]
        while round_of[strand] != root:
            round_of[strand], strand = root, round_of[strand]
        return root

    for one, other in pairs.items():
        round_of[find(_strand(one))] = find(_strand(other))
    for nth in range(len(lines)):
        for end in (0, 1):
            first, second = ("line", nth, 0, end), ("line", nth, 1, end)
            if find(_strand(first)) == find(_strand(second)):
                continue
            one, other = pairs[first], pairs[second]
            pairs[first], pairs[other] = other, first
            pairs[second], pairs[one] = one, second
            round_of[find(_strand(first))] = find(_strand(second))


def _walked(pairs: dict[Half, Half], following: Sequence[int], lines: Sequence[tuple[int, int]]) -> list[list[Step]]:
    """The rounds step by step, each begun along an outline."""
    left = {place for place, onward in enumerate(following) if onward != NOWHERE}
    found: list[list[Step]] = []
    while left:
        begin: Half = ("arc", min(left), OUT, 0)
        half, way = begin, list[Step]()
        while True:
            kind, nth, which, end = half
            if kind == "arc":
                left.discard(nth)
                way.append(Step(-1, nth, which == OUT))
            else:
                way.append(Step(nth, -1, end == 0))
            half = pairs[_other(half)]
            if half == begin:
                break
        found.append(way)
    return found
