"""What one proof says of one piece: whether it holds, where not, and what would end it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from velamen.core.arrays import Place
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain


@dataclass(frozen=True)
class Spot:
    """A place where a proof fails: its middle, its length and its line (n, 2), in mm."""

    x: float
    y: float
    length: float
    line: tuple[Place, ...]

    @property
    def at(self) -> Place:
        return self.x, self.y


def spots_row(**spots: Sequence[Spot]) -> dict[str, list[dict[str, Any]]]:
    """Spots of each kind, as report.json tells them."""
    return {kind: [{"at": list(one.at), "length_mm": one.length} for one in every] for kind, every in spots.items()}


@dataclass(frozen=True)
class Fix:
    """Values that would end a failing proof, built and proved."""

    values: Mapping[str, Plain]
    label: str
    share: float  # of what is judged that then holds, 0 to 1


@dataclass(frozen=True)
class Proved:
    """What one proof found of one piece."""

    held: bool
    told: str  # in one line
    row: Mapping[str, Any] = field(default_factory=dict)  # in report.json, beside piece and held
    share_told: str = ""  # how much of what is judged holds, "99.2 % hidden"
    about: str = ""  # what was assumed, and what is spare
    fails: str = ""  # how much fails, and where
    hopeless: str = ""  # what to do where there is no fix
    spots: tuple[Spot, ...] = ()
    fixes: tuple[Fix, ...] = ()
    findings: tuple[Finding, ...] = ()
    detail: Any = None  # the proof's own result
    lines: tuple[tuple[Place, ...], ...] = ()  # mm; what was judged and holds, where that is drawn


@dataclass(frozen=True)
class Proof:
    """A proof as a construction declares it."""

    key: str  # in report.json
    title: str  # on Prove
    prove: Callable[[Any], Proved | None]  # of a constructions.base.Sewn; None where there is nothing to judge
    held_words: str = ""  # what holding means, as the key of the picture says it
    spot_words: str = ""  # what a marked place is
    listed: bool = True  # whether report.json and Prove list it piece by piece; else it is told by findings alone
    joined: bool = False  # whether report.json tells it of all pieces at once, each place with its piece
