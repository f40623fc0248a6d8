"""What a later build differs in from files that were written before: told by stitches, pieces and cut outlines."""

from __future__ import annotations

import csv
import io
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

STITCHES = "stitches.csv"
CUT = "cut.svg"
COMPARED = (STITCHES, CUT)


@dataclass(frozen=True)
class Differences:
    """stitches: how many more now; pieces: names of those sewn otherwise, new or gone; stops: more now; cut: whether
    the cut file differs."""

    stitches: int
    stops: int
    pieces: tuple[str, ...]
    cut: bool

    @property
    def any(self) -> bool:
        return bool(self.stitches or self.stops or self.pieces or self.cut)


def differences(before: Mapping[str, bytes], now: Mapping[str, bytes], names: Mapping[str, str]) -> Differences:
    """What differs between the stitch lists and cut files of two builds. names: of pieces by id.

    >>> rows = "n,x_mm,y_mm,command,thread,block,role,piece,note\\n1,{},0,stitch,1,1,run,p1,\\n"
    >>> old, new = ({STITCHES: rows.format(x).encode(), CUT: b""} for x in (0, 1))
    >>> differences(old, new, {"p1": "Fin"}).pieces
    ('Fin',)
    """
    cut = before.get(CUT) != now.get(CUT)
    if before[STITCHES] == now[STITCHES]:
        return Differences(0, 0, (), cut)
    old, new = (_by_piece(one[STITCHES]) for one in (before, now))
    pieces = [one for one in {**old.sewn, **new.sewn} if old.sewn.get(one) != new.sewn.get(one)]
    return Differences(new.stitches - old.stitches, new.stops - old.stops,
                       tuple(names.get(one, one) or "the brief's own" for one in pieces), cut)  # fmt: skip


@dataclass(frozen=True)
class _Sewn:
    stitches: int
    stops: int
    sewn: Mapping[str, Sequence[Sequence[str]]]  # place, role and thread of needle points, by piece


def _by_piece(data: bytes) -> _Sewn:
    sewn: dict[str, list[Sequence[str]]] = defaultdict(list)
    stitches = stops = 0
    for row in csv.DictReader(io.StringIO(data.decode())):
        stops += row["command"] == "stop"
        if row["command"] == "stitch":
            stitches += 1
            sewn[row["piece"]].append((row["x_mm"], row["y_mm"], row["role"], row["thread"]))
    return _Sewn(stitches, stops, sewn)
