"""What is worked out is kept: under keys of all that it comes from, or by the identity of what never changes."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Hashable, Mapping
from functools import lru_cache, wraps
from typing import Any, Generic, ParamSpec, TypeVar

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


def kept(size: int) -> Callable[[Callable[P, list[T]]], Callable[P, list[T]]]:
    """Keeps the last `size` answers of a function, its areas known by identity, everything else by value."""

    def keeping(asked: Callable[P, list[T]]) -> Callable[P, list[T]]:
        @lru_cache(maxsize=size)
        def known(args: tuple[Any, ...], named: tuple[tuple[str, Any], ...]) -> tuple[T, ...]:
            opened = {key: _opened(one) for key, one in named}
            return tuple(asked(*map(_opened, args), **opened))

        @wraps(asked)
        def answer(*args: P.args, **named: P.kwargs) -> list[T]:
            return list(known(tuple(map(_closed, args)), tuple((key, _closed(one)) for key, one in named.items())))

        FORGET.append(known.cache_clear)
        return answer

    return keeping


FORGET: list[Callable[[], None]] = []  # empties everything that is kept


def forget() -> None:
    """Drops everything that is kept, so that the next build computes all of it."""
    for forgotten in FORGET:
        forgotten()


def _closed(one: Any) -> Any:
    return Same(one) if isinstance(one, BaseGeometry) else one


def _opened(one: Any) -> Any:
    return one.it if isinstance(one, Same) else one
