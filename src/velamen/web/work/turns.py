"""Turns: a few tasks run at once, and shops take turns, so that one's many never hold up another's one."""

from __future__ import annotations

from collections import OrderedDict, deque
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Condition


class Full(Exception):
    """A shop has as many tasks waiting as it may."""


class Turns:
    """Places for tasks at once, given to shops in turn. most: tasks of one shop that wait."""

    def __init__(self, places: int, most: int) -> None:
        self._free, self._most = places, most
        self._waiting: OrderedDict[int, deque[object]] = OrderedDict()  # the shop whose turn is next comes first
        self._change = Condition()

    @contextmanager
    def place(self, shop: int, given_up: Callable[[], bool] = lambda: False) -> Iterator[bool]:
        """A place, once it is this shop's turn; False where it was given up before. Raises Full."""
        mine = object()
        with self._change:
            line = self._waiting.setdefault(shop, deque())
            if len(line) >= self._most:
                raise Full
            line.append(mine)
            self._change.wait_for(lambda: given_up() or self._is_next(shop, mine))
            line.remove(mine)
            taken = not given_up()
            if taken:
                self._free -= 1
                self._waiting.move_to_end(shop)
            if not line:
                del self._waiting[shop]
            self._change.notify_all()
        try:
            yield taken
        finally:
            if taken:
                with self._change:
                    self._free += 1
                    self._change.notify_all()

    def look_again(self) -> None:
        """Has all that wait see whether they have been given up."""
        with self._change:
            self._change.notify_all()

    def _is_next(self, shop: int, mine: object) -> bool:
        return self._free > 0 and next(iter(self._waiting)) == shop and self._waiting[shop][0] is mine
