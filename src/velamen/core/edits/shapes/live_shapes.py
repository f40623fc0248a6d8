"""Live shapes: typed text and outlines round other shapes, made again when what they come from changes."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from functools import lru_cache
from typing import Any

import msgspec
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.framed import FORMS, framed
from velamen.core.artwork.lettering import Letter, lettering, monogram, word
from velamen.core.artwork.typeface import name_of
from velamen.core.edits.shapes.bring_in import MAX_PIECES, free_name, with_region
from velamen.core.errors import BadInput
from velamen.core.geometry import combine
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import Job, Piece, change
from velamen.core.job.references import pruned
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Around, Maker, Shape, Text, in_frame, moved_frame, reshaped
from velamen.core.memo import Same

EVEN = "even"
OUTLINES = ((EVEN, "even all round"), *FORMS)
"""Forms of an outline round other shapes: key and words."""


def made(job: Job, maker: Maker) -> list[tuple[str, Polygon]]:
    """Names and regions that a maker comes to now. Raises BadInput where it comes to nothing."""
    if isinstance(maker, Text):
        name_of(maker.typeface)  # what is kept of a text is kept for whoever has its typeface
        return _text(msgspec.json.encode(maker))
    sources = [shape for shape in job.shapes if shape.id in maker.sources]
    regions = tuple(Same(region_of(shape)) for shape in sources)
    form, least = maker.form, (maker.wide, maker.high)
    if form == EVEN:
        found = _around(regions, maker.distance, maker.sharp, maker.close, maker.calm)
    elif form in dict(FORMS):
        if maker.distance < 0.0:
            raise BadInput("An outline fitted round shapes lies outside them: use a distance of 0 mm or more.")
        region = framed([one.it for one in regions], form, maker.distance, maker.close, maker.calm, least)
        found = [] if region.is_empty else [region]
    else:
        raise BadInput(f"An outline cannot be {form!r}: choose one of {', '.join(key for key, _ in OUTLINES)}.")
    name = f"{_named(job, sources)} {'outline' if maker.distance > 0 else 'inset'}" if sources else "Outline"
    if not found:
        raise BadInput(f"{abs(maker.distance):g} mm {'inside' if maker.distance < 0 else 'outside'} nothing is left.")
    return [(name, region) for region in found]


def _named(job: Job, sources: Sequence[Shape]) -> str:
    """What sources are called: the words of one text, or the first one's name."""
    makers = {shape.maker for shape in sources}
    text = next((one for one in job.makers if isinstance(one, Text) and makers == {one.id}), None)
    return " ".join(text.text.split())[:40] if text else sources[0].name


def with_maker(job: Job, maker: Maker, at: int | None = None) -> Job:
    """The job with a maker more and the shapes it makes, on top of the stack or at a place in it."""
    job = change(job, makers=[*job.makers, maker])
    like = None
    for nth, (name, region) in enumerate(made(job, maker)):
        place = None if at is None else at + nth
        job = with_region(job, free_name(job, name), region, at=place, like=like)
        shapes = [*job.shapes[:-1], change(job.shapes[-1], maker=maker.id)]
        job = change(job, shapes=shapes)
        like = next(piece for piece in job.pieces if piece.shape == shapes[-1].id)
    return job


def remade(job: Job, maker: Maker) -> Job:
    """The job with a maker of the same id changed, its shapes made anew in their places."""
    made(job, maker)  # refuses before anything is changed
    makers = [maker if one.id == maker.id else one for one in job.makers]
    return followed(change(job, makers=makers))


def followed(job: Job, before: Job | None = None) -> Job:
    """The job with every live shape as its text or its sources now ask for, and nothing naming what is gone.

    before: a version whose live shapes are so already; only what has changed since is made again.
    A maker whose shapes are gone goes; an outline that comes to nothing any more stays as it was
    and is live no longer.
    """
    for key in [maker.id for maker in job.makers]:
        maker = next(one for one in job.makers if one.id == key)  # a text before it may have got more letters
        if before is not None and _touching(maker, job) == _touching(maker, before):
            continue
        members = [shape for shape in job.shapes if shape.maker == maker.id]
        if not members:
            job = change(job, makers=[one for one in job.makers if one.id != maker.id])
            continue
        try:
            wanted = made(job, maker) if isinstance(maker, Text) or _sources(job, maker) else []
        except BadInput:
            wanted = []
        job = _matched(job, maker, members, wanted) if wanted else released(job, {members[0].id})
    return pruned(job)


def released(job: Job, ids: Collection[str]) -> Job:
    """The job with chosen shapes live no longer: their text or outline becomes plain shapes."""
    gone = {shape.maker for shape in job.shapes if shape.id in ids and shape.maker}
    if not gone:
        return job
    texts = {maker.id for maker in job.makers if isinstance(maker, Text)}
    shapes = [
        change(shape, maker="", group=shape.group or (shape.maker if shape.maker in texts else ""))
        if shape.maker in gone else shape
        for shape in job.shapes
    ]  # fmt: skip
    makers = [maker for maker in job.makers if maker.id not in gone]
    return change(job, shapes=shapes, makers=makers)


def carried(job: Job, ids: Collection[str], matrix: Array, shift: Array) -> Job:
    """The makers of shapes that were moved as a whole carried along; of others the shapes are released.

    A text moves with its letters; an outline stays live where all its sources moved with it.
    """
    for maker in job.makers:
        members = {shape.id for shape in job.shapes if shape.maker == maker.id}
        if not members & set(ids):
            continue
        if isinstance(maker, Text) and members <= set(ids):
            moved = moved_text(maker, matrix, shift)
            job = change(job, makers=[moved if one.id == maker.id else one for one in job.makers])
        elif isinstance(maker, Text) or not _sources(job, maker) <= set(ids):
            job = released(job, members)
    return job


def moved_text(text: Text, matrix: Array, shift: Array) -> Text:
    """A text under `point @ matrix + shift`."""
    return change(text, matrix=moved_frame(text.matrix, matrix, shift))


def free_maker(job: Job) -> str:
    """An id that no text or outline of the job has."""
    known = {maker.id for maker in job.makers}
    return next(one for one in (f"m{nth}" for nth in range(1, len(known) + 2)) if one not in known)


def _sources(job: Job, maker: Around) -> set[str]:
    return set(maker.sources) & {shape.id for shape in job.shapes}


def _touching(maker: Maker, job: Job) -> tuple[list[Maker], list[Shape]]:
    """A maker as it stands in a job, with the shapes that it comes from and those that it makes."""
    sources = maker.sources if isinstance(maker, Around) else ()
    shapes = [shape for shape in job.shapes if shape.maker == maker.id or shape.id in sources]
    return [one for one in job.makers if one.id == maker.id], shapes


def _matched(job: Job, maker: Maker, members: Sequence[Shape], wanted: Sequence[tuple[str, Polygon]]) -> Job:
    """The job with a maker's shapes, in order, as wanted: changed, added or taken away."""
    new: dict[str, Shape] = {}
    old = {shape.id: shape for shape in members}
    for shape, (name, region) in zip(members, wanted, strict=False):
        fresh = reshaped(shape, boundaries(region))
        fresh = change(fresh, name=name) if isinstance(maker, Text) and shape.name[:1] != name[:1] else fresh
        if fresh.rings != shape.rings or fresh.name != shape.name:
            new[shape.id] = fresh
    gone = {shape.id for shape in members[len(wanted) :]}
    if new or gone:
        job = change(
            job,
            shapes=[new.get(shape.id, shape) for shape in job.shapes if shape.id not in gone],
            pieces=[_called(piece, old, new) for piece in job.pieces if piece.shape not in gone],
        )
    known = {shape.id for shape in members}
    for name, region in wanted[len(members) :]:
        places = [nth for nth, piece in enumerate(job.pieces) if piece.shape == members[-1].id]
        like = job.pieces[places[-1]] if places else None
        if len(job.pieces) >= MAX_PIECES:
            raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
        job = with_region(job, free_name(job, name), region, at=places[-1] + 1 if places else None, like=like)
        job = change(job, shapes=[*job.shapes[:-1], change(job.shapes[-1], maker=maker.id)])
        members = [*members, job.shapes[-1]]
    return _gone_round(job, known, [shape.id for shape in members if shape.id not in known])


def _called(piece: Piece, old: Mapping[str, Shape], new: Mapping[str, Shape]) -> Piece:
    """A piece with the new name of its shape, where it had the old one."""
    same = piece.shape in new and piece.name == old[piece.shape].name
    return change(piece, name=new[piece.shape].name) if same else piece


def _gone_round(job: Job, known: set[str], more: Sequence[str]) -> Job:
    """The job with what goes round all known shapes of a maker going round those that it has more, too."""
    if not more:
        return job
    sewn = {one.id for one in job.pieces if one.shape in known}, [one.id for one in job.pieces if one.shape in more]

    def extended(around: list[str]) -> list[str]:
        for old, new in ((known, more), sewn):
            if old and old <= {*around}:
                around = [*around, *new]
        return around

    makers = [change(one, sources=extended(one.sources)) if isinstance(one, Around) else one for one in job.makers]
    return change(job, makers=makers, pieces=[change(one, around=extended(one.around)) for one in job.pieces])


def letter_of(text: Text) -> list[int]:
    """The number of the letter that each region of a text belongs to."""
    return [nth for nth, letter in enumerate(_letters(text)) for _ in letter.regions]


def _letters(text: Text) -> list[Letter]:
    kerns = {int(place): more for place, more in text.kerns.items() if place.isdecimal()}
    if text.style == "monogram":
        return monogram(text.text, text.typeface, text.height)
    return lettering(text.text, text.typeface, text.height, text.spacing, text.width, text.arch, kerns, text.circle)


@lru_cache(maxsize=128)
def _around(
    sources: tuple[Same[Polygon], ...], distance: float, sharp: bool, close: float, calm: float
) -> list[Polygon]:
    return combine.offset([one.it for one in sources], distance, sharp, close, calm)


@lru_cache(maxsize=64)
def _text(maker_json: bytes) -> list[tuple[str, Polygon]]:
    text: Any = msgspec.json.decode(maker_json, type=Text)
    letters = _letters(text)
    if text.joined:
        parts = [(" ".join(text.text.split())[:40], region) for region in reversed(word(letters))]
    else:
        parts = [(letter.text, region) for letter in letters for region in letter.regions]
    bounds = shapely.total_bounds([region for _, region in parts])
    wide = float(bounds[2] - bounds[0])
    smaller = min(1.0, text.within / wide) if text.within > 0.0 and wide > 0.0 else 1.0
    return [(name, shapely.transform(region, lambda points: in_frame(points * smaller, text.matrix)))
            for name, region in parts]  # fmt: skip
