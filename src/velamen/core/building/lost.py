"""Pieces that cannot be built: set aside with why, so that all others are, and the job opens."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from velamen.core.errors import BadInput
from velamen.core.job.document import Piece
from velamen.core.proofs.finding import Finding


@dataclass(frozen=True)
class Lost:
    """A piece that cannot be built, and why, in a sentence."""

    piece: Piece
    why: str

    @property
    def finding(self) -> Finding:
        return Finding("cannot_build", "error", self.piece.id, self.why)


@contextmanager
def setting_aside(piece: Piece, lost: list[Lost]) -> Iterator[None]:
    """What is done for one piece; where it cannot be, the piece is among the lost."""
    try:
        yield
    except BadInput as error:
        lost.append(Lost(piece, str(error)))
