"""Works: pieces with materials and places, ready for their constructions; whether they can be made up so."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from velamen.core.constructions import construction
from velamen.core.constructions.base import Work
from velamen.core.errors import BadInput
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area
from velamen.core.job.document import Brief, Job, Piece
from velamen.core.job.needles import Needles
from velamen.core.job.regions import region_of
from velamen.core.job.shape import LINES, RAIL, Shape
from velamen.core.materials.hoops import field
from velamen.core.materials.library import Library, pick
from velamen.core.materials.records import Motif
from velamen.core.memo import kept
from velamen.core.setting import NONE
from velamen.core.timeline.hooping import cloth_layer, foam_layer
from velamen.core.timeline.layers import Layer


def work_of(piece: Piece, region: Area, library: Library, shape: Shape | None = None) -> Work:
    """A piece with its materials; with the lines of its shape where there is one."""
    cloth = pick(library.cloths, piece.cloth, "cloth")
    pick(library.threads, piece.thread, "thread")
    layer = cloth_layer(cloth, library.like(cloth), piece.id)
    if shape is None:
        return Work(
            piece.id, piece.name, region, layer, piece.thread, _foams(library), _cloths(library), _motifs(library)
        )
    lines = {kind: tuple(np.array(one.points) for one in shape.lines if one.kind == kind) for kind in LINES}
    return Work(
        piece.id, piece.name, region, layer, piece.thread, _foams(library), _cloths(library),
            _motifs(library),
        np.array(shape.rings[0]) if shape.open else None, lines["guide"], lines["direction"],
        start=piece.start, end=piece.end,
        die=shape.die, local=tuple(piece.local), rails=lines[RAIL] if len(lines[RAIL]) == 2 else (),
    )  # fmt: skip


def shaped_work(piece: Piece, shape: Shape, job: Job, library: Library) -> Work:
    """The work of a piece that has a shape; of one whose construction goes round others, round that shape."""
    region, brief = region_of(shape), job.brief
    work = work_of(piece, region, library, shape)
    if shape.needles:
        work = replace(work, needles=_needles(job, shape), placed=shape.placed)
    return _going_round(piece, work, [region], brief, library) if construction(piece.construct).around else work


def _needles(job: Job, shape: Shape) -> Needles:
    """The needle points of a shape. Raises BadInput where the job has them no longer."""
    known = job.needles.get(shape.needles)
    if known is None:
        raise BadInput(f"The needle points of {shape.name!r} are not in the job: bring their stitch file in again.")
    return known


def derived_work(piece: Piece, sources: Sequence[Area], brief: Brief, library: Library) -> Work:
    """The work of a piece that goes round areas; its region is what it is taken to reach before it has values."""
    return _going_round(piece, work_of(piece, joined(sources), library), sources, brief, library)


def _going_round(piece: Piece, work: Work, sources: Sequence[Area], brief: Brief, library: Library) -> Work:
    around = construction(piece.construct).around
    assert around is not None
    base = library.bases[brief.base]
    region = _nominal(piece.construct, joined(sources))
    within = field(library.hoops[brief.hoop])
    return replace(work, region=region, field=within, sources=tuple(sources), marks=base.marks, pile=base.pile)


@kept(256, lasting=True)
def _nominal(construct: str, sources: Area) -> Area:
    around = construction(construct).around
    return around.nominal(sources) if around and not sources.is_empty else sources


@lru_cache(maxsize=64)
def _foams(library: Library) -> Mapping[str, Layer]:
    return MappingProxyType({foam.key: foam_layer(foam) for foam in library.foams.values()})


@lru_cache(maxsize=64)
def _cloths(library: Library) -> Mapping[str, Layer]:
    return MappingProxyType({one.key: cloth_layer(one, library.like(one), "") for one in library.cloths.values()})


@lru_cache(maxsize=64)
def _motifs(library: Library) -> Mapping[str, Motif]:
    return MappingProxyType(dict(library.motifs))


def check_pieces(job: Job) -> Job:
    """The job itself when every piece can be made up as it is asked to be; BadInput otherwise."""
    lines = {shape.id for shape in job.shapes if shape.open}
    for piece in job.pieces:
        check_piece(piece, piece.shape in lines, job.library)
        kind = construction(piece.construct)
        if not piece.shape and kind.around is None:
            raise BadInput(f"Piece {piece.name!r} goes round others: {kind.title} cannot, give it a shape.")
    return job


def check_piece(piece: Piece, line: bool, library: Library) -> None:
    """Raises BadInput where a piece has values that its construction does not know, or cannot be sewn on a line."""
    kind = construction(piece.construct)
    for key, value in piece.own.items():
        setting = kind.setting(key)
        if setting is None:
            raise BadInput(f"Piece {piece.name!r} has a value {key!r} that {kind.title} does not know.")
        if setting.material and value != NONE:
            pick(library.rows(setting.material), str(value), setting.kind)
    for local in piece.local:
        for key, value in local.own.items():
            setting = kind.local.setting(key) if kind.local else None
            if setting is None:
                raise BadInput(
                    f"Piece {piece.name!r} has a value {key!r} at a place, which {kind.title} does not know."
                )
            setting.read(value)
    if line and not kind.lines:
        raise BadInput(f"Piece {piece.name!r} lies on an open line, along which {kind.title} cannot be sewn.")
