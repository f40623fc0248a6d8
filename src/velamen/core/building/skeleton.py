"""The skeleton of a job: the operations of all its pieces in order, and what lies there at every moment.

It needs shapes and early values only. What is matched later moves nothing in it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import msgspec

from velamen.core.building.following import hosts, in_turn, later_cloths, served
from velamen.core.building.lost import Lost, setting_aside
from velamen.core.building.works import check_piece, derived_work, shaped_work
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.constructions.base import Construction, Work
from velamen.core.geometry.region import Area
from velamen.core.job.document import OUTWARD, Brief, Job, Piece
from velamen.core.job.regions import region_of
from velamen.core.materials.colour import shade_beside
from velamen.core.materials.library import SHEER, Library
from velamen.core.memo import Keyed, Same, content, keyed
from velamen.core.setting import Plain
from velamen.core.timeline.effects import Lays
from velamen.core.timeline.hooping import after_sewing, before_sewing
from velamen.core.timeline.layers import Layer
from velamen.core.timeline.moments import layers_before
from velamen.core.timeline.operation import Operation, When
from velamen.core.timeline.order import in_order
from velamen.core.timeline.outward import outward
from velamen.core.timeline.placed import Placed
from velamen.core.values.advice import course_of
from velamen.core.values.engine import match
from velamen.core.values.traits import brief_traits
from velamen.core.values.value import plain_values


@dataclass(frozen=True)
class Framed:
    """A piece with its operations, before its values are known."""

    piece: Piece
    work: Work
    early: Mapping[str, Plain]  # early values by key
    operations: tuple[Operation, ...]

    @property
    def kind(self) -> Construction:
        return construction(self.piece.construct)

    @property
    def laid(self) -> list[Layer]:
        """All that its operations lay."""
        return [layer for one in self.operations for effect in one.effects if isinstance(effect, Lays)
                for layer in effect.layers]  # fmt: skip


@dataclass(frozen=True)
class Skeleton:
    """The operations of a job."""

    pieces: tuple[Framed, ...]  # in stack order
    placed: tuple[Placed, ...]  # what their order depends on
    operations: tuple[Operation, ...]  # in the order they are done in, the brief's before and after all others
    layers: Mapping[str, tuple[Layer, ...]]  # lying there before each operation, by its key
    lost: tuple[Lost, ...] = ()  # pieces that cannot be framed


def skeleton(job: Job) -> Skeleton:
    """The skeleton of a job."""
    pieces, library = sewn_pieces(job), job.library
    lost: list[Lost] = []
    framed = tuple(_framed_pieces(job, pieces, library, lost))
    on = hosts([one.piece for one in framed])
    placed = tuple(_placed(one, pieces, on.get(one.piece.id, "")) for one in framed)
    own = [operation for one in framed for operation in one.operations]
    alone = bool(own) and not any(one.when is When.AFTER or one.cut for one in own)
    before, after = before_sewing(job.brief, library), after_sewing(job.brief, library, alone)
    course = course_of(job.brief, library).value
    operations = (*before, *in_order(outward(placed) if course == OUTWARD else placed, job.order), *after)
    return Skeleton(framed, placed, operations, layers_before(operations), tuple(lost))


def _framed_pieces(job: Job, pieces: Sequence[Piece], library: Library, lost: list[Lost]) -> list[Framed]:
    """Pieces framed; those that cannot be are among the lost."""
    shapes = {shape.id: shape for shape in job.shapes}
    found: dict[int, Framed] = {}
    for nth, piece in enumerate(pieces):
        if piece.shape:
            with setting_aside(piece, lost):
                work = shaped_work(piece, shapes[piece.shape], job, library)
                found[nth] = framed(piece, work, job.brief, library)
    shaped = list(found)
    # Cloth laid later beside or over a piece changes how its own is cut, and so its operations.
    opaque = [_is_opaque(found[nth], library) for nth in shaped]
    for nth, later in zip(shaped, later_cloths([found[one].work.region for one in shaped], opaque), strict=True):
        if later is not None:
            found[nth] = _beside(Same(found[nth]), keyed(later))
    for nth in in_turn(pieces):
        areas = {one.piece.id: one.work.region for one in found.values()}
        with setting_aside(pieces[nth], lost):
            sources = source_areas(job, pieces[nth], pieces, areas)
            work = derived_work(pieces[nth], sources, job.brief, library)
            found[nth] = framed(pieces[nth], work, job.brief, library)
    return [found[nth] for nth in sorted(found)]


def source_areas(job: Job, piece: Piece, pieces: Sequence[Piece], areas: Mapping[str, Area]) -> list[Area]:
    """What a piece goes round: areas of pieces, by their ids, and bare shapes."""
    bare = {shape.id: shape for shape in job.shapes if not shape.open and shape.id in piece.around}
    found = [areas[one.id] for one in served(piece, pieces) if one.id in areas]
    return found + [region_of(bare[key]) for key in piece.around if key in bare]


def framed(piece: Piece, work: Work, brief: Brief, library: Library) -> Framed:
    """A piece with its early values and operations, kept by all that they come from."""
    key = msgspec.json.encode(piece), content(work)
    return _framed(Keyed((piece, work), key), brief, library)


@lru_cache(maxsize=4096)
def _framed(keyed: Keyed[tuple[Piece, Work]], brief: Brief, library: Library) -> Framed:
    piece, work = keyed.it
    kind = construction(piece.construct)
    check_piece(piece, work.line is not None, library)
    traits = piece_traits(piece, work, brief, library)
    early = plain_values(match(kind.early, traits, piece.own, lambda known, setting: kind.derive(work, known)))
    if kind.around is not None and kind.around.early:
        work = replace(work, region=kind.around.ground(work, early))
    return Framed(piece, work, early, tuple(kind.operations(work, early)))


@lru_cache(maxsize=4096)
def _beside(same: Same[Framed], later: Keyed[Area]) -> Framed:
    """A piece with the cloth that is laid later beside or over it; early values are known before that."""
    one, work = same.it, replace(same.it.work, later=later.it)
    return Framed(one.piece, work, one.early, tuple(one.kind.operations(work, one.early)))


def forget_frames() -> None:
    """Drops the early values and operations worked out so far."""
    _framed.cache_clear()
    _beside.cache_clear()


def piece_traits(piece: Piece, work: Work, brief: Brief, library: Library) -> dict[str, Plain]:
    """Traits of a brief and a piece that rules may ask for, whatever lies beneath."""
    thread = library.threads[piece.thread]
    left, top, right, bottom = (0.0,) * 4 if work.region.is_empty else work.region.bounds
    beside = shade_beside(thread.colour, Same(library))
    return {
        **brief_traits(brief, library),
        "construct": piece.construct, "cloth": piece.cloth, "cloth_name": work.cloth.name,
        "thread_beside": beside.key, "thread_beside_name": beside.name,
        "thread_weight": thread.weight, "thread_finish": thread.finish,
        "piece_size": min(right - left, bottom - top), "drawn": bool(piece.shape),
    }  # fmt: skip


def _placed(one: Framed, pieces: Sequence[Piece], on: str) -> Placed:
    serves = tuple(each.id for each in served(one.piece, pieces)) if not one.piece.shape else ()
    return Placed(one.piece.id, one.piece.name, one.operations, serves, on)


def _is_opaque(one: Framed, library: Library) -> bool:
    """Whether a piece lays cloth that hides what lies under it."""
    cloths = [layer for layer in one.laid if layer.kind == "cloth"]
    return any(library.cloths[layer.key].like != SHEER for layer in cloths)
