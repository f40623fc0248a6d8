"""Staggers: how penetrations of neighbouring rows of a fill lie beside one another, as data."""

from __future__ import annotations

import tomllib
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

from velamen.core.errors import BadInput


@dataclass(frozen=True)
class Stagger:
    """One stagger. shares: where penetrations lie in each row, as shares of the stitch length."""

    key: str
    title: str
    help: str
    shares: NDArray[np.float64]


@cache
def staggers() -> dict[str, Stagger]:
    """All staggers by key, as `staggers.toml` has them."""
    rows = tomllib.loads(files(__package__).joinpath("staggers.toml").read_text(encoding="utf-8"))["stagger"]
    return {row["key"]: Stagger(row["key"], row["title"], row["help"], np.array(row["shares"])) for row in rows}


def shares_of(key: str) -> NDArray[np.float64]:
    """The shares of a stagger, or a sentence naming those there are."""
    if key not in staggers():
        raise BadInput(f"There is no stagger {key!r}: choose one of {', '.join(staggers())}.")
    return staggers()[key].shares
