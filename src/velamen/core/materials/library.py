"""The library of materials: shipped rows out of the data files, and a shop's rows over them."""

from __future__ import annotations

import json
import tomllib
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from functools import cache, lru_cache
from importlib.resources import files
from typing import Any, TypeVar

from velamen.core.errors import BadInput
from velamen.core.materials.records import (
    KINDS,
    Base,
    Cloth,
    Die,
    Foam,
    Hoop,
    Motif,
    Stabilizer,
    Thread,
    Tool,
    Topping,
)

SHEER = "sheer"  # cloths like it let what lies under them show
T = TypeVar("T")
Rows = Mapping[str, Mapping[str, Mapping[str, Any]]]
"""Plain rows by kind and key."""


@dataclass(frozen=True, eq=False)
class Library:
    """All materials by key. Libraries of the same rows are the same object."""

    bases: Mapping[str, Base]
    stabilizers: Mapping[str, Stabilizer]
    toppings: Mapping[str, Topping]
    foams: Mapping[str, Foam]
    cloths: Mapping[str, Cloth]
    threads: Mapping[str, Thread]
    hoops: Mapping[str, Hoop]
    dies: Mapping[str, Die]
    motifs: Mapping[str, Motif]
    tools: Mapping[str, Tool]

    def rows(self, kind: str) -> Mapping[str, Any]:
        """All rows of a kind by key."""
        if kind not in KINDS:
            raise BadInput(f"There is no kind of material {kind!r}: choose one of {', '.join(KINDS)}.")
        rows: Mapping[str, Any] = getattr(self, kind)
        return rows

    def fields(self, kind: str, key: str) -> dict[str, Any]:
        """Plain fields of a row, as `Kind.read` takes them."""
        row = asdict(pick(self.rows(kind), key, KINDS[kind].one))
        del row["key"]
        return row

    @property
    def everyday(self) -> list[Cloth]:
        """Plain cloths without pile that hide what lies under them; all cloths where there are none such."""
        every = list(self.cloths.values())
        plain = [one for one in every if one.print == "plain" and self.like(one).pile == 0.0 and one.like != SHEER]
        return plain or every

    def like(self, cloth: Cloth) -> Base:
        """The base that a cloth sews like."""
        return self.bases[cloth.like]


@cache
def shipped_rows() -> Rows:
    """Rows of the data files beside this module, plain."""
    rows = {
        **_toml("library.toml"),
        "bases": _toml("bases.toml"),
        "threads": _toml("threads.toml"),
        "dies": _toml("dies.toml"),
        "motifs": _toml("motifs.toml"),
    }
    hoops = sorted(rows["hoops"].items(), key=lambda item: item[1]["width"] * item[1]["height"])
    return {**rows, "hoops": dict(hoops)}


def shipped() -> Library:
    """The library as it is shipped."""
    return library_with({})


def library_with(own: Rows) -> Library:
    """The shipped library with rows of one's own over it. Raises BadInput on a broken row."""
    return _library(json.dumps(own, sort_keys=True))


@lru_cache(maxsize=256)
def in_colour(library: Library, base: str, colour: str) -> Library:
    """A library with one of its bases in another colour, "#rrggbb"; itself where there is none or no such base."""
    if not colour or base not in library.bases or library.bases[base].colour == colour:
        return library
    return replace(library, bases={**library.bases, base: replace(library.bases[base], colour=colour)})


def differing(library: Library, wanted: Mapping[str, set[str]]) -> dict[str, dict[str, dict[str, Any]]]:
    """Plain fields of the wanted rows (keys by kind) that are not as shipped."""
    found: dict[str, dict[str, dict[str, Any]]] = {}
    for kind, keys in wanted.items():
        for key in sorted(keys):
            if key not in library.rows(kind):
                continue
            if library.rows(kind)[key] != shipped().rows(kind).get(key):
                found.setdefault(kind, {})[key] = library.fields(kind, key)
    return found


def pick(rows: Mapping[str, T], key: str, what: str) -> T:
    """The row with a key, or a sentence naming the keys there are."""
    if key not in rows:
        raise BadInput(f"There is no {what} {key!r}: choose one of {', '.join(rows)}.")
    return rows[key]


def _toml(name: str) -> dict[str, Any]:
    return tomllib.loads(files(__package__).joinpath(name).read_text(encoding="utf-8"))


@lru_cache(maxsize=64)
def _library(own: str) -> Library:
    rows: Rows = json.loads(own)
    stray = next((kind for kind in rows if kind not in KINDS), None)
    if stray is not None:
        raise BadInput(f"There is no kind of material {stray!r}: choose one of {', '.join(KINDS)}.")
    merged = {
        name: {key: kind.read(key, row) for key, row in {**shipped_rows()[name], **rows.get(name, {})}.items()}
        for name, kind in KINDS.items()
    }
    library = Library(**merged)
    for base in library.bases.values():
        pick(library.stabilizers, base.stabilizer, f"stabilizer for the base {base.name!r}")
        pick(library.toppings, base.topping, f"topping for the base {base.name!r}")
    for cloth in library.cloths.values():
        pick(library.bases, cloth.like, f"base that the cloth {cloth.name!r} sews like")
    return library
