"""How far a long computation is, told to whoever listens; nobody by default."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Told = Callable[[float, str], None]
"""Is told the share that is done, 0 to 1, and what is being worked on."""


def tell(share: float, what: str) -> None:
    """Tells how far it is."""
    _listener.get()(share, what)


@contextmanager
def telling(told: Told) -> Iterator[None]:
    """Has what is done meanwhile tell a listener."""
    before = _listener.set(told)
    try:
        yield
    finally:
        _listener.reset(before)


def nobody(share: float, what: str) -> None:
    """Hears it and does nothing."""


_listener: ContextVar[Told] = ContextVar("listener", default=nobody)
