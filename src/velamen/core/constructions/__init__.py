"""Constructions: a module or package each, found by name; read base.py first, then stipple.py (27 lines).

A module here that has a CONSTRUCTION is one; what several share stands in modules without one: base.py (the words),
plain.py (what is sewn without a cloth), edge.py, ground.py. Rules of a construction are a data file of its own,
in values/rules or beside its module. Adding one touches nothing else.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

from velamen.core.constructions.base import Construction
from velamen.core.errors import BadInput
from velamen.core.job.document import EVERY, Brief, Job, Piece
from velamen.core.materials.library import Library
from velamen.core.proofs.proved import Proof
from velamen.core.stitching.roles import settle
from velamen.core.values import engine


@cache
def constructions() -> dict[str, Construction]:
    """All constructions by name: every module here that declares one."""
    found = {}
    for module in iter_modules(__path__):
        declared = getattr(import_module(f"{__name__}.{module.name}"), "CONSTRUCTION", None)
        if isinstance(declared, Construction):
            found[declared.name] = declared
    _settled()
    return found


@cache
def _settled() -> None:
    """Roles are numbered once all that is shipped is known; what comes later is numbered after it."""
    settle()


@contextmanager
def looking_also_in(folder: Path) -> Iterator[None]:
    """Takes in the constructions of another folder, modules with their rules beside them, for as long as it lasts."""
    __path__.append(str(folder))
    constructions.cache_clear()
    with engine.looking_also_in(folder):
        yield
    __path__.remove(str(folder))
    constructions.cache_clear()


def construction(name: str) -> Construction:
    """A construction by name, or a sentence naming those there are."""
    if name not in constructions():
        raise BadInput(f"There is no construction {name!r}: choose one of {', '.join(constructions())}.")
    return constructions()[name]


def listed_proofs() -> list[Proof]:
    """The proofs of constructions that report.json and Prove list, each key once."""
    proofs = {proof.key: proof for kind in constructions().values() for proof in kind.proofs if proof.listed}
    return list(proofs.values())


def usual(kind: str) -> Construction:
    """What new shapes are sewn as: of a kind, "area" or "line"."""
    return next(one for one in constructions().values() if one.default_for == kind)


NO_COLOUR = "#9a9a94"


def lays_cloth(piece: Piece) -> bool:
    """Whether the person chooses a cloth for a piece."""
    return "cloth" in construction(piece.construct).materials


def colour_of(piece: Piece, library: Library) -> str:
    """The colour a piece shows: of its cloth, or of its thread where it lays none; grey where that is gone."""
    row = library.cloths.get(piece.cloth) if lays_cloth(piece) else library.threads.get(piece.thread)
    return row.colour if row else NO_COLOUR


def sewn_pieces(job: Job) -> list[Piece]:
    """All pieces in stack order, those that the brief asks for first where none of their kind is there."""
    if not job.pieces:
        return job.pieces
    there, first = {one.construct for one in job.pieces}, job.pieces[0]
    asked = [one for one in constructions().values() if asks_for(job.brief, one) and one.name not in there]
    implied = [Piece(one.name, one.title, "", one.name, first.cloth, first.thread, around=[EVERY]) for one in asked]
    return [*implied, *job.pieces] if implied else job.pieces


def asks_for(brief: Brief, kind: Construction) -> bool:
    """Whether a brief asks for a construction, so that it is sewn without having been put."""
    asked = kind.around.asked_by if kind.around else None
    return asked is not None and str(getattr(brief, asked[0])) == asked[1]


engine.FOLDERS += map(Path, __path__)
