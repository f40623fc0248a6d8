"""A key that stands for one object by identity, so that caches need not hash what it holds."""

from __future__ import annotations

from typing import Generic, TypeVar

T = TypeVar("T")


class Same(Generic[T]):
    """Wraps an object that is handed on and never changed; equal only to a wrap of the same one."""

    __slots__ = ("it",)

    def __init__(self, it: T) -> None:
        self.it = it

    def __hash__(self) -> int:
        return id(self.it)

    def __eq__(self, other: object) -> bool:
        return type(other) is Same and self.it is other.it
