"""A piece in the stack, as far as the order of its operations depends on it."""

from __future__ import annotations

from dataclasses import dataclass

from velamen.core.timeline.operation import Operation


@dataclass(frozen=True)
class Placed:
    """One piece, its place in the stack being that in the list it stands in."""

    id: str
    name: str
    operations: tuple[Operation, ...]
    serves: tuple[str, ...] = ()  # ids of the pieces that it goes round
    on: str = ""  # id of the piece whose cloth it decorates
