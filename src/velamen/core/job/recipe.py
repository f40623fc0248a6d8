"""Recipes: what stands round a design and how it is made, without the design, to be put round others."""

from __future__ import annotations

import msgspec
from msgspec import Struct

from velamen.core.errors import BadInput
from velamen.core.job.document import Brief, Piece
from velamen.core.setting import Plain

FORMAT = 1
MOST_PARTS, LONGEST_NAME = 40, 60


class Line(Struct, frozen=True, forbid_unknown_fields=True):
    """A live outline round the design, field by field as a maker of shapes (job.shape.Around) has it."""

    distance: float
    sharp: bool = False
    close: float = 0.0
    calm: float = 0.0
    form: str = "even"
    wide: float = 0.0
    high: float = 0.0


class Part(Struct, frozen=True, forbid_unknown_fields=True):
    """A piece round the design, put together like a job's.

    around: ids of other parts that it goes round, none of them for the design; line: the outline it is sewn on
    where it does not find its own; over: sewn after the design, not before; host: what it is sewn on
    decorates it; same: made of each shape of the design itself, in place of how that is sewn; cloth,
    thread: keys, "" for what fits the design.
    """

    id: str
    construct: str
    name: str = ""
    cloth: str = ""
    thread: str = ""
    own: dict[str, Plain] = {}
    threads: dict[str, str] = {}
    around: list[str] = []
    line: Line | None = None
    over: bool = False
    host: bool = False
    same: bool = False


class Recipe(Struct, frozen=True, forbid_unknown_fields=True):
    """Parts in stack order; about: what it is for; brief: on what, for a new job."""

    name: str
    parts: list[Part]
    about: str = ""
    brief: Brief | None = None
    velamen_recipe: int = FORMAT


def read_recipe(data: bytes) -> Recipe:
    """A recipe from JSON. Raises BadInput where it cannot be read."""
    try:
        recipe = msgspec.json.decode(data, type=Recipe)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise BadInput(f"The recipe cannot be read: {error}.") from None
    if recipe.velamen_recipe != FORMAT:
        raise BadInput(f"The recipe has format {recipe.velamen_recipe}: this version reads format {FORMAT}.")
    return check_recipe(recipe)


def write_recipe(recipe: Recipe) -> bytes:
    """A recipe as JSON, the same bytes for the same recipe."""
    return msgspec.json.encode(recipe, order="deterministic")


def check_recipe(recipe: Recipe) -> Recipe:
    """The recipe itself, where it has a name and parts that know one another; BadInput otherwise."""
    if not recipe.name.strip() or len(recipe.name) > LONGEST_NAME:
        raise BadInput(f"A recipe needs a name of at most {LONGEST_NAME} letters.")
    if not 0 < len(recipe.parts) <= MOST_PARTS:
        raise BadInput(f"The recipe {recipe.name!r} has {len(recipe.parts)} pieces: use 1 to {MOST_PARTS}.")
    ids = [one.id for one in recipe.parts]
    if len(set(ids)) < len(ids) or any(key not in ids for one in recipe.parts for key in one.around):
        raise BadInput(f"The recipe {recipe.name!r} names pieces that it does not have.")
    return recipe


def part_of(piece: Piece, **more: object) -> Part:
    """A part that is made like a piece."""
    made = Part(
        piece.id, piece.construct, piece.name, piece.cloth, piece.thread, dict(piece.own), dict(piece.threads)
    )
    return msgspec.structs.replace(made, **more)
