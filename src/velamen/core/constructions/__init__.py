"""Constructions: a module each, found by name."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pkgutil import iter_modules

from velamen.core.constructions.base import Construction
from velamen.core.errors import BadInput
from velamen.core.job.document import Piece
from velamen.core.materials.library import Library


@cache
def constructions() -> dict[str, Construction]:
    """All constructions by name: every module here that declares one."""
    found = {}
    for module in iter_modules(__path__):
        declared = getattr(import_module(f"{__name__}.{module.name}"), "CONSTRUCTION", None)
        if isinstance(declared, Construction):
            found[declared.name] = declared
    return found


def colour_of(piece: Piece, library: Library) -> str:
    """The colour a piece shows: of its cloth, or of its thread where it lays none."""
    if construction(piece.construct).lays:
        return library.cloths[piece.cloth].colour
    return library.threads[piece.thread].colour


def construction(name: str) -> Construction:
    """A construction by name, or a sentence naming those there are."""
    if name not in constructions():
        raise BadInput(f"There is no construction {name!r}: choose one of {', '.join(constructions())}.")
    return constructions()[name]
