"""Keys that stand for an object, by identity or by what counts of it, so that caches need not hash all it holds."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import lru_cache, wraps
from typing import Any, Generic, ParamSpec, TypeVar

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

    __slots__ = ("it", "key")

    def __init__(self, it: T, key: Hashable) -> None:
        self.it, self.key = it, key

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return type(other) is Keyed and self.key == other.key


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


def _closed(one: Any) -> Any:
    return Same(one) if isinstance(one, BaseGeometry) else one


def _opened(one: Any) -> Any:
    return one.it if isinstance(one, Same) else one
