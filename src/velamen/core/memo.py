"""What is worked out is kept: under keys of all that it comes from, or by the identity of what never changes."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Hashable, Mapping
from functools import lru_cache, update_wrapper
from typing import Any, Generic, ParamSpec, Self, TypeVar, overload

import msgspec
import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

T = TypeVar("T")
P = ParamSpec("P")


class Same(Generic[T]):
    """Wraps an object that is handed on and never changed; equal only to a wrap of the same one."""

    __slots__ = ("it",)

    def __init__(self, it: T) -> None:
        self.it = it

    def __hash__(self) -> int:
        return id(self.it)

    def __eq__(self, other: object) -> bool:
        return type(other) is Same and self.it is other.it


class Keyed(Generic[T]):
    """Wraps an object under a key that says all that counts of it; equal to a wrap under the same key."""

    __slots__ = ("_hash", "it", "key")

    def __init__(self, it: T, key: Hashable) -> None:
        self.it, self.key, self._hash = it, key, hash(key)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return type(other) is Keyed and self.key == other.key


def content(value: Any) -> Hashable:
    """A key out of all that a value holds, to the last field: equal contents have equal keys, others have not.

    Records count with every field they have, so that none can be forgotten; areas by their coordinates, arrays by
    their bytes, functions by themselves. What cannot change is looked through once and known by identity then.

    >>> content({"width": 3.0, "rows": [1, 2]}) == content({"rows": (1, 2), "width": 3.0})
    True
    """
    kind = type(value)
    if kind in PLAIN:
        return kind.__name__, value
    if kind is tuple or kind is list:
        return tuple(map(content, value))
    if kind is dict:
        return frozenset((key, content(one)) for key, one in value.items())
    if isinstance(value, np.ndarray):
        return value.shape, value.dtype.str, value.tobytes()
    return _content(Same(value))


PLAIN = frozenset({str, int, float, bool, type(None), bytes})


@lru_cache(maxsize=16384)
def _content(same: Same[Any]) -> Hashable:
    """The content of what cannot change: areas, frozen records, views of mappings, functions."""
    value = same.it
    if isinstance(value, BaseGeometry):
        return bytes(shapely.to_wkb(value))
    if isinstance(value, msgspec.Struct):
        return type(value).__qualname__, *(content(getattr(value, one)) for one in value.__struct_fields__)
    if dataclasses.is_dataclass(value) and not isinstance(value, type):
        return type(value).__qualname__, *(content(getattr(value, one.name)) for one in dataclasses.fields(value))
    if isinstance(value, Mapping):
        return frozenset((key, content(one)) for key, one in value.items())
    hash(value)  # refuses what could change under its key
    return type(value).__name__, value


def keyed(value: T) -> Keyed[T]:
    """A value under the key of all that it holds."""
    return Keyed(value, content(value))


class Kept(Generic[P, T]):
    """A function whose last answers are kept. It is asked of areas, and rows of areas, known by identity; everything
    else counts by value. A list is handed out anew each time.
    """

    def __init__(self, asked: Callable[P, T], size: int) -> None:
        @lru_cache(maxsize=size)
        def known(args: tuple[Any, ...], named: tuple[tuple[str, Any], ...]) -> T:
            return asked(*map(_opened, args), **{key: _opened(one) for key, one in named})

        self._known = known
        update_wrapper(self, asked)

    def __call__(self, *args: P.args, **named: P.kwargs) -> T:
        options = tuple([(key, _closed(one)) for key, one in named.items()]) if named else ()
        found = self._known(tuple([_closed(one) for one in args]), options)
        return found.copy() if isinstance(found, list) else found  # type: ignore[return-value]

    def forget(self) -> None:
        """Drops the answers."""
        self._known.cache_clear()


class worked_out(Generic[T]):
    """A property worked out when it is first asked for. Unlike the standard one of this Python it takes no lock, by
    which all objects would wait for one another; two threads at once may both work it out.
    """

    def __init__(self, asked: Callable[[Any], T]) -> None:
        self._asked, self._name = asked, asked.__name__
        self.__doc__ = asked.__doc__

    @overload
    def __get__(self, owner: None, kind: type) -> Self: ...
    @overload
    def __get__(self, owner: object, kind: type) -> T: ...
    def __get__(self, owner: object | None, kind: type) -> T | Self:
        if owner is None:
            return self
        found = vars(owner)[self._name] = self._asked(owner)
        return found


def kept(size: int, lasting: bool = False) -> Callable[[Callable[P, T]], Kept[P, T]]:
    """Keeps the last `size` answers of a function. lasting: through `forget` too, as what is known of outlines is."""

    def keeping(asked: Callable[P, T]) -> Kept[P, T]:
        answer = Kept(asked, size)
        if not lasting:
            FORGET.append(answer.forget)
        return answer

    return keeping


FORGET: list[Callable[[], None]] = []  # empties what is kept of passes, values and findings


def forget() -> None:
    """Drops what is kept of passes, values and findings, so that the next build computes all of them."""
    for forgotten in FORGET:
        forgotten()


def _closed(one: Any) -> Any:
    if type(one) in PLAIN:
        return one
    if isinstance(one, BaseGeometry):
        return Same(one)
    return tuple(map(_closed, one)) if isinstance(one, list | tuple) else one


def _opened(one: Any) -> Any:
    if isinstance(one, tuple):
        return tuple(map(_opened, one))
    return one.it if isinstance(one, Same) else one
