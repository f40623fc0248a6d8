"""Materials as typed records, read once from the data files beside this module."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, TypeVar

from velamen.core.errors import BadInput

T = TypeVar("T")


@dataclass(frozen=True)
class Base:
    """What is sewn on (handbook, section 3). pile, thickness without it, pull per side and spacings in mm."""

    key: str
    name: str
    about: str
    pile: float
    thickness: float
    stretch: str
    pull: float
    satin_spacing: float
    fill_spacing: float
    underlay: str
    stabilizer: str
    stabilizer_layers: int
    topping: str
    colour: str


@dataclass(frozen=True)
class Sheet:
    """A stabilizer or topping: thickness in mm and how it comes off."""

    key: str
    name: str
    thickness: float
    removal: str


@dataclass(frozen=True)
class Hoop:
    """A hoop's sewing field, width and height in mm, centred on the origin."""

    key: str
    name: str
    width: float
    height: float
    shape: str


@dataclass(frozen=True)
class Cloth:
    """An appliqué cloth."""

    key: str
    name: str
    colour: str


@dataclass(frozen=True)
class Thread:
    """A thread of the range "Loft 40"."""

    key: str
    name: str
    colour: str


def _read(name: str) -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath(name).read_text(encoding="utf-8"))


@cache
def bases() -> dict[str, Base]:
    """All bases by key."""
    return {key: Base(key=key, **row) for key, row in _read("bases.toml").items()}


@cache
def threads() -> dict[str, Thread]:
    """All threads by number."""
    return {key: Thread(key=key, **row) for key, row in _read("threads.toml").items()}


@cache
def _library() -> dict[str, Any]:
    return _read("library.toml")


@cache
def stabilizers() -> dict[str, Sheet]:
    """All stabilizers by key."""
    return {key: Sheet(key=key, **row) for key, row in _library()["stabilizers"].items()}


@cache
def toppings() -> dict[str, Sheet]:
    """All toppings by key."""
    return {key: Sheet(key=key, **row) for key, row in _library()["toppings"].items()}


@cache
def hoops() -> dict[str, Hoop]:
    """All hoops by key, smallest field first."""
    rows = [Hoop(key=key, **row) for key, row in _library()["hoops"].items()]
    return {hoop.key: hoop for hoop in sorted(rows, key=lambda hoop: hoop.width * hoop.height)}


@cache
def cloths() -> dict[str, Cloth]:
    """All appliqué cloths by key."""
    return {key: Cloth(key=key, **row) for key, row in _library()["cloths"].items()}


def pick(rows: dict[str, T], key: str, what: str) -> T:
    """The row with a key, or a sentence naming the keys there are."""
    if key not in rows:
        raise BadInput(f"There is no {what} {key!r}: choose one of {', '.join(rows)}.")
    return rows[key]


def hoop_for(width: float, height: float) -> Hoop | None:
    """The smallest hoop whose sewing field holds a design of this size in mm."""
    for hoop in hoops().values():
        if holds(hoop, width, height):
            return hoop
    return None


def holds(hoop: Hoop, width: float, height: float) -> bool:
    """Whether a centred design of this size in mm lies in a hoop's sewing field."""
    if hoop.shape == "round":
        return float((width**2 + height**2) ** 0.5) <= hoop.width
    return width <= hoop.width and height <= hoop.height
