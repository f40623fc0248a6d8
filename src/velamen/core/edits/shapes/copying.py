"""Shapes copied with all that is theirs: pieces, grounds, texts, outlines, routes, order; in a job or between two."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence

import numpy as np

from velamen.core.arrays import Array, Place
from velamen.core.building.job_materials import made_of, take_rows
from velamen.core.edits.shapes.bring_in import MAX_PIECES, first_free, free_name_among
from velamen.core.edits.shapes.choosing import chosen_shapes
from velamen.core.edits.shapes.live_shapes import moved_text
from velamen.core.errors import BadInput
from velamen.core.job.document import EVERY, ByHand, Job, Local, Piece, Route, change
from velamen.core.job.reading import check_job
from velamen.core.job.references import (
    Ids,
    Rename,
    only,
    renamed_keys,
    renamed_maker,
    renamed_piece,
    renamed_route,
    renamed_shape,
)
from velamen.core.job.shape import Around, Maker, Shape, Text, transformed
from velamen.core.materials.library import Library


def copied(job: Job, other: Job, ids: Sequence[str], matrix: Array, shift: Array) -> Job:
    """Chosen shapes of a job put on top of this one or another, under `point @ matrix + shift`.

    What belongs to them alone comes too: their pieces, grounds that go round nothing else, whole texts and outlines
    with all they follow, whole routes, their part of an own order. What they name besides stays named within a job,
    and is let go in another. other: the job they are in, the same where it is `job`.
    """
    chosen = chosen_shapes(other, ids)
    wanted = {one.id for one in chosen}
    pieces = _pieces_of(other, wanted)
    makers = [one for one in other.makers if _is_whole(one, other, wanted)]
    if len(job.pieces) + len(pieces) > MAX_PIECES or len(job.shapes) + len(chosen) > 2 * MAX_PIECES:
        raise BadInput(
            f"The job would have {len(job.pieces) + len(pieces)} pieces: at most {MAX_PIECES} fit into one."
        )
    new = _fresh(job, chosen, pieces, makers)
    copies = Ids(*map(_renamed, new))
    inside = _or_as_before(copies, job) if other is job else copies
    shapes = _shapes(job, chosen, makers, inside, matrix, shift)
    names = {one.id: (one.name, fresh.name) for one, fresh in zip(chosen, shapes, strict=True)}
    return change(
        job, shapes=[*job.shapes, *shapes],
        pieces=[*job.pieces, *(_piece(one, names, inside, matrix, shift) for one in pieces)],
        makers=[*job.makers, *(_maker(one, inside, matrix, shift) for one in makers)],
        routes=[*job.routes, *_routes(other, copies, matrix, shift)],
        order=[*job.order, *renamed_keys(other.order, copies.operation)],
        needles={**job.needles, **{key: known for key, known in other.needles.items() if key in _needles(shapes)}},
    )  # fmt: skip


def _needles(shapes: Sequence[Shape]) -> set[str]:
    return {one.needles for one in shapes}


def clip_of(job: Job, ids: Sequence[str]) -> Job:
    """Chosen shapes with all that is theirs and the materials as a job of their own, to be put into another."""
    empty = Job(name=job.name, brief=job.brief, materials=job.materials)
    return copied(empty, job, ids, np.eye(2), np.zeros(2))


def copied_from(job: Job, other: Job, library: Library) -> Job:
    """All shapes of a clip put into this job.

    Materials that this job does not use yet come as the clip or the shop's library has them.
    """
    check_job(other)
    used = made_of(job)
    new = {kind: keys - used.get(kind, set()) for kind, keys in made_of(other).items()}
    for source in (other.rows, library):
        job = take_rows(job, source, new)
    return copied(job, other, [shape.id for shape in other.shapes], np.eye(2), np.zeros(2))


def _pieces_of(job: Job, shapes: Collection[str]) -> list[Piece]:
    """The pieces of shapes, in stack order, with those that go round nothing but them."""
    found = {one.id for one in job.pieces if one.shape in shapes}
    grounds = [one for one in job.pieces if not one.shape and EVERY not in one.around]
    while more := {one.id for one in grounds if set(one.around) <= found | set(shapes)} - found:
        found |= more
    return [one for one in job.pieces if one.id in found]


def _is_whole(maker: Maker, job: Job, shapes: Collection[str]) -> bool:
    """Whether all that a text or outline makes, and comes from, is among some shapes."""
    members = {one.id for one in job.shapes if one.maker == maker.id}
    sources = set(maker.sources) if isinstance(maker, Around) else set()
    return bool(members) and members | sources <= set(shapes)


New = tuple[dict[str, str], dict[str, str], dict[str, str]]
"""New ids by old ones: of shapes, pieces, makers."""


def _fresh(job: Job, shapes: Sequence[Shape], pieces: Sequence[Piece], makers: Sequence[Maker]) -> New:
    """Ids that the job does not have yet; a shape and its piece have one number."""
    nth = first_free([one.id for one in job.shapes] + [one.id for one in job.pieces])
    new_shapes = {one.id: f"s{nth + at}" for at, one in enumerate(shapes)}
    rest = (f"p{number}" for number in range(nth + len(shapes), nth + len(shapes) + len(pieces)))
    numbers = {key: f"p{new[1:]}" for key, new in new_shapes.items()}
    new_pieces = {one.id: numbers.pop(one.shape, "") or next(rest) for one in pieces}
    return new_shapes, new_pieces, {one.id: key for one, key in zip(makers, _free(job, "m"), strict=False)}


def _free(job: Job, letter: str) -> Iterator[str]:
    """Keys of texts, outlines and groups that the job does not have."""
    known = {one.id for one in job.makers} | {one.group for one in job.shapes}
    nth = 0
    while True:
        nth += 1
        if f"{letter}{nth}" not in known:
            yield f"{letter}{nth}"


def _renamed(new: Mapping[str, str]) -> Rename:
    return lambda key: new.get(key, "")


def _or_as_before(copies: Ids, job: Job) -> Ids:
    """Copies name one another, and besides the shapes and pieces of the job as they did; no text nor outline."""
    shapes, pieces = only({one.id for one in job.shapes}), only({one.id for one in job.pieces} | {job.brief.hold})
    return Ids(
        lambda key: copies.shape(key) or shapes(key), lambda key: copies.piece(key) or pieces(key), copies.maker
    )


def _shapes(
    job: Job, chosen: Sequence[Shape], makers: Sequence[Maker], ids: Ids, matrix: Array, shift: Array
) -> list[Shape]:
    """The copies: groups are groups of their own, letters of a text that is not whole a group too."""
    whole, names = {one.id for one in makers}, {one.name for one in job.shapes}
    groups, free = {"": ""}, _free(job, "g")
    made = []
    for shape in chosen:
        group = shape.group or ("" if shape.maker in whole else shape.maker)
        if group not in groups:
            groups[group] = next(free)
        name = free_name_among(names, shape.name)
        names.add(name)
        copy = change(transformed(shape, matrix, shift), group=groups[group], name=name, locked=False)
        made.append(renamed_shape(copy, ids))
    return made


def _piece(piece: Piece, names: dict[str, tuple[str, str]], ids: Ids, matrix: Array, shift: Array) -> Piece:
    old, new = names.get(piece.shape, ("", ""))
    return change(
        renamed_piece(piece, ids), name=new if piece.name == old else piece.name,
        start=_moved(piece.start, matrix, shift), end=_moved(piece.end, matrix, shift),
        local=moved_local(piece, matrix, shift), by_hand=turned_by_hand(piece, matrix),
    )  # fmt: skip


def _maker(maker: Maker, ids: Ids, matrix: Array, shift: Array) -> Maker:
    new = renamed_maker(maker, ids)
    return moved_text(new, matrix, shift) if isinstance(new, Text) else new


def _routes(job: Job, ids: Ids, matrix: Array, shift: Array) -> list[Route]:
    found = [(one, renamed_route(one, ids)) for one in job.routes]
    return [
        change(new, start=_moved(new.start, matrix, shift), end=_moved(new.end, matrix, shift))
        for one, new in found if len(new.pieces) == len(one.pieces)
    ]  # fmt: skip


def moved_local(piece: Piece, matrix: Array, shift: Array) -> list[Local]:
    """What a piece has of its own at places, those under `place @ matrix + shift`."""
    return [change(one, at=_moved(one.at, matrix, shift)) for one in piece.local]


def turned_by_hand(piece: Piece, matrix: Array) -> list[ByHand]:
    """What was moved by hand of a piece, under `way @ matrix`."""
    return [change(one, moved={key: _moved(way, matrix, np.zeros(2)) for key, way in one.moved.items()})
            for one in piece.by_hand]  # fmt: skip


def _moved(place: Place | None, matrix: Array, shift: Array) -> Place | None:
    if place is None:
        return None
    x, y = np.round(np.array(place) @ matrix + shift, 4).tolist()
    return x, y
