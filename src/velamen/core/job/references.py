"""References inside a job: which record names which other, checked, taken away with what is gone, given new ids."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

import msgspec

from velamen.core.errors import BadInput
from velamen.core.job.document import EVERY, Job, Piece, Route, change
from velamen.core.job.shape import Around, Maker, Shape

R = TypeVar("R", bound=msgspec.Struct)
Rename = Callable[[str], str]
"""What an id becomes; "" where nothing may name it any more."""


@dataclass(frozen=True)
class Ids:
    """What the ids of a job become."""

    shape: Rename
    piece: Rename
    maker: Rename

    def around(self, key: str) -> str:
        """What a piece goes round: everything, a piece or a shape."""
        return key if key == EVERY else self.piece(key) or self.shape(key)

    def operation(self, key: str) -> str:
        """The key of an operation, which begins with its piece."""
        piece, _, part = key.partition(":")
        new = self.piece(piece)
        return f"{new}:{part}" if new else ""


def check_references(job: Job) -> Job:
    """The job itself when all that its records name is in it; BadInput with the first that is not."""
    stray = next(_strays(job), "")
    if stray:
        raise BadInput(stray)
    return job


def check_held(job: Job) -> Job:
    """The job itself when what its records cannot be without is in it; BadInput otherwise."""
    lost = next(_lost(job, _known(job)), "")
    if lost:
        raise BadInput(lost)
    return job


def pruned(job: Job) -> Job:
    """The job without references to what is not in it; the job itself where there are none.

    A piece that went round others alone goes with the last of them, a route with all but one of its pieces.
    """
    if next(_strays(job), None) is None:
        return job
    ids = _known(job)
    shapes = [renamed_shape(one, ids) for one in job.shapes]
    makers = [renamed_maker(one, ids) for one in job.makers]
    pieces = [renamed_piece(one, ids) for one in job.pieces]
    pieces = [one for one in pieces if one.shape or one.around]
    fewer = change(
        job, shapes=shapes, makers=[one for one in makers if _makes(one)], pieces=pieces,
        routes=[new for one in job.routes if len((new := renamed_route(one, ids)).pieces) > 1],
        order=renamed_keys(job.order, ids.operation),
    )  # fmt: skip
    return pruned(fewer)  # what went with others may have been named itself


def named_instead(job: Job, shapes: Mapping[str, str], pieces: Mapping[str, str]) -> Job:
    """The job with what named some shapes and pieces naming others instead, each once and nothing itself.

    Orders of operations are left: passes of a piece that goes are none of another's.
    """

    def each(keys: Sequence[str], new: Mapping[str, str], own: str = "") -> list[str]:
        return [key for key in dict.fromkeys(new.get(key, key) for key in keys) if key != own]

    def piece_instead(piece: Piece) -> Piece:
        on = pieces.get(piece.on, piece.on)
        around = each(piece.around, {**shapes, **pieces}, piece.id)
        return _changed(piece, on="" if on == piece.id else on, around=around)

    makers = [
        _changed(one, sources=each(one.sources, shapes)) if isinstance(one, Around) else one for one in job.makers
    ]
    routes = [_changed(one, pieces=each(one.pieces, pieces)) for one in job.routes]
    return change(job, pieces=[piece_instead(one) for one in job.pieces], makers=makers, routes=routes)


def renamed_shape(shape: Shape, ids: Ids) -> Shape:
    """A shape under what its ids become."""
    return _changed(shape, id=ids.shape(shape.id), maker=shape.maker and ids.maker(shape.maker))


def renamed_piece(piece: Piece, ids: Ids) -> Piece:
    """A piece under what its ids become."""
    return _changed(
        piece, id=ids.piece(piece.id), shape=piece.shape and ids.shape(piece.shape),
        on=piece.on and ids.piece(piece.on), around=renamed_keys(piece.around, ids.around),
    )  # fmt: skip


def renamed_maker(maker: Maker, ids: Ids) -> Maker:
    """A text or outline under what its ids become."""
    if isinstance(maker, Around):
        return _changed(maker, id=ids.maker(maker.id), sources=renamed_keys(maker.sources, ids.shape))
    return _changed(maker, id=ids.maker(maker.id))


def renamed_route(route: Route, ids: Ids) -> Route:
    """A route under what its ids become."""
    return _changed(route, pieces=renamed_keys(route.pieces, ids.piece))


def renamed_keys(keys: Sequence[str], rename: Rename) -> list[str]:
    """Keys under what they become, those that nothing may name left out."""
    return [new for key in keys if (new := rename(key))]


def only(known: Collection[str]) -> Rename:
    """Keeps known ids as they are; nothing may name others."""
    return lambda key: key if key in known else ""


def _known(job: Job) -> Ids:
    shapes, pieces = {one.id for one in job.shapes}, {one.id for one in job.pieces}
    # What a brief asks for is sewn as a piece whose id is the brief's word.
    return Ids(only(shapes), only(pieces | {job.brief.hold}), only({one.id for one in job.makers}))


def _strays(job: Job) -> Iterator[str]:
    """Sentences about what is named and not there."""
    ids = _known(job)
    yield from _lost(job, ids)
    yield from _loose(job, ids)


def _lost(job: Job, ids: Ids) -> Iterator[str]:
    for shape in job.shapes:
        if shape.maker and not ids.maker(shape.maker):
            yield f"Shape {shape.name!r} belongs to a text or outline {shape.maker!r} that is not in the job."
    for piece in job.pieces:
        if piece.shape and not ids.shape(piece.shape):
            yield f"Piece {piece.name!r} refers to the shape {piece.shape!r}, which is not in the job."


def _loose(job: Job, ids: Ids) -> Iterator[str]:
    for maker in job.makers:
        for key in maker.sources if isinstance(maker, Around) else ():
            if not ids.shape(key):
                yield f"The outline {maker.id!r} goes round the shape {key!r}, which is not in the job."
    for piece in job.pieces:
        if piece.on and not ids.piece(piece.on):
            yield f"Piece {piece.name!r} is sewn on the piece {piece.on!r}, which is not in the job."
        for key in piece.around:
            if not ids.around(key):
                yield f"Piece {piece.name!r} goes round {key!r}, which is not in the job."
    for route in job.routes:
        for key in route.pieces:
            if not ids.piece(key):
                yield f"A route takes in the piece {key!r}, which is not in the job."
    for key in job.order:
        if not ids.operation(key):
            yield f"The order names {key!r}, whose piece is not in the job."


def _makes(maker: Maker) -> bool:
    return not isinstance(maker, Around) or bool(maker.sources)


def _changed(record: R, **fields: object) -> R:
    """A record with some fields changed, the same one where they are as they were."""
    if all(getattr(record, key) == value for key, value in fields.items()):
        return record
    return change(record, **fields)
