"""Matched values of a job's pieces: each for the moment at which what it belongs to is sewn."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple, cast

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.building.following import hosts, in_turn, sewn_area
from velamen.core.building.lost import Lost, setting_aside
from velamen.core.building.skeleton import (
    Framed,
    Skeleton,
    forget_frames,
    framed,
    piece_traits,
    skeleton,
    source_areas,
)
from velamen.core.building.works import work_of
from velamen.core.constructions import construction, usual
from velamen.core.constructions.base import Construction, Family, Work
from velamen.core.errors import BadInput
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area, band
from velamen.core.job.document import Brief, Job, Piece, change
from velamen.core.job.regions import forget_regions
from velamen.core.materials.library import Library
from velamen.core.memo import Keyed, Same, keyed
from velamen.core.setting import Plain, Setting
from velamen.core.timeline.hooping import before_sewing
from velamen.core.timeline.layers import Layer, forget_shares, parted, worst
from velamen.core.timeline.moments import layers_before, moment_of
from velamen.core.values.engine import match, rules
from velamen.core.values.value import Values, plain_values

SOMEWHERE = Polygon(shapely.box(0, 0, 1, 1))  # stands for what goes round nothing any more
THREAD = 0.5  # mm to either side of a line that its stitches take up
NEAR = 20.0  # mm round a piece in which what others have laid may lie under its passes

Beneath = Mapping[str, tuple[Layer, ...]]
"""The layers lying there when a piece's passes have their turn, by the role under which settings ask for them."""


@dataclass(frozen=True)
class PieceValues:
    """A piece with its values."""

    framed: Framed
    work: Work  # with its own region where it goes round others
    values: Values

    @property
    def piece(self) -> Piece:
        return self.framed.piece


class Matched(NamedTuple):
    """A job with all its values."""

    skeleton: Skeleton
    pieces: list[PieceValues]  # in stack order
    lost: tuple[Lost, ...] = ()  # pieces that cannot be built


def matched_job(job: Job) -> Matched:
    """Values of all pieces of a job, each on what lies there at its moment."""
    bones, library = skeleton(job), job.library
    near = _near(shapely.bounds([one.work.region for one in bones.pieces]).reshape(-1, 4))
    ids = [one.piece.id for one in bones.pieces]
    found: dict[int, PieceValues] = {}
    lost: list[Lost] = []
    areas: dict[str, Area] = {}
    pieces = [one.piece for one in bones.pieces]
    derived = in_turn(pieces)
    for nth in (*(one for one, piece in enumerate(pieces) if piece.shape), *derived):
        one, owners = bones.pieces[nth], {"", *(ids[other] for other in near[nth])}
        sources = None if one.piece.shape else tuple(map(Same, source_areas(job, one.piece, pieces, areas)))
        with setting_aside(one.piece, lost):
            found[nth] = _matched(Same(one), sources, job.brief, library, _beneath(one, bones, owners))
        if nth not in found:
            continue
        areas[one.piece.id] = sewn_area(one.piece, found[nth].work.region, plain_values(found[nth].values))
    if lost:
        rest = matched_job(without(job, lost))
        return Matched(rest.skeleton, rest.pieces, (*bones.lost, *lost, *rest.lost))
    on = hosts(pieces)
    for nth, host in found.items():
        guests = [each for each in found.values() if on.get(each.piece.id) == host.piece.id]
        if host.framed.kind.minds_decoration and guests:
            over = joined([covered(each, areas[each.piece.id]) for each in guests])
            found[nth] = _decorated(Same(host), keyed(over))
    return Matched(bones, [found[nth] for nth in range(len(pieces))], bones.lost)


def covered(one: PieceValues, area: Area) -> Area:
    """What a piece's sewing keeps hands from getting under. area: all that it is sewn on."""
    kind, work = one.framed.kind, one.work
    if one.framed.laid or kind.family not in (Family.LINES, Family.EDGES):
        return area
    hidden = kind.hides(work, one.values)
    if hidden is not None:
        return hidden
    edge = shapely.union_all(shapely.boundary(shapely.get_parts(work.region)))
    line = edge if work.line is None else shapely.LineString(work.line)
    wide = max(kind.beyond(plain_values(one.values)), THREAD)
    return cast(Area, shapely.buffer(line, wide))


@lru_cache(maxsize=1024)
def _decorated(same: Same[PieceValues], over: Keyed[Area]) -> PieceValues:
    """A piece that knows what is sewn on it; the same one each time."""
    return replace(same.it, work=replace(same.it.work, decorated=over.it))


def without(job: Job, lost: Sequence[Lost]) -> Job:
    """A job without pieces that cannot be built. Raises BadInput where its brief asks for one of them."""
    gone = {one.piece.id for one in lost}
    rest: Job = change(job, pieces=[one for one in job.pieces if one.id not in gone])
    if len(rest.pieces) == len(job.pieces):
        raise BadInput(lost[0].why)
    return rest


def _beneath(one: Framed, bones: Skeleton, owners: set[str]) -> tuple[tuple[str, tuple[Same[Layer], ...]], ...]:
    """What lies there for each role that settings of a piece ask for, as far as it may concern it."""
    found = []
    for role in asked_roles(one.kind.name):
        layers = bones.layers[moment_of(bones.operations, one.operations, role)]
        found.append((role, tuple([Same(layer) for layer in layers if not owners.isdisjoint(layer.owners)])))
    return tuple(found)


@lru_cache(maxsize=4096)
def _matched(
    same: Same[Framed], sources: tuple[Same[Area], ...] | None, brief: Brief, library: Library,
    beneath: tuple[tuple[str, tuple[Same[Layer], ...]], ...],
) -> PieceValues:  # fmt: skip
    """A piece's values, kept by all that they come from; sources: what it goes round, where it has no shape."""
    one = same.it
    around = one.kind.around
    work = one.work
    if sources is not None and not (around and around.early):
        work = replace(work, sources=tuple(area.it for area in sources))
    layers = {role: tuple(layer.it for layer in found) for role, found in beneath}
    values = piece_values(one.piece, work, brief, library, layers)
    if around is not None and not around.early:
        work = replace(work, region=around.ground(work, plain_values(values)))
    return PieceValues(one, work, values)


def piece_values(piece: Piece, work: Work, brief: Brief, library: Library, beneath: Beneath) -> Values:
    """Matched and own values of one piece on the layers that lie beneath it."""
    kind = construction(piece.construct)
    traits = piece_traits(piece, work, brief, library)
    return match(kind.settings, traits, piece.own, _derive(kind, work, beneath))


def lone_values(piece: Piece, work: Work, brief: Brief, library: Library) -> Values:
    """Values of a piece that is sewn alone."""
    one = framed(piece, work, brief, library)
    operations = [*before_sewing(brief, library), *one.operations]
    layers = layers_before(operations)
    beneath = {role: layers[moment_of(operations, one.operations, role)] for role in asked_roles(one.kind.name)}
    return piece_values(piece, work, brief, library, beneath)


def sample_values(brief: Brief, library: Library) -> Values:
    """Values of a middling piece under a brief, before there is any artwork."""
    cloth = next(iter(library.cloths))
    piece = Piece("sample", "Sample", "sample", usual("area").name, cloth, next(iter(library.threads)))
    work = work_of(piece, Polygon(shapely.box(-25, -25, 25, 25)), library)
    return lone_values(piece, work, brief, library)


def _derive(
    kind: Construction, work: Work, beneath: Beneath
) -> Callable[[Mapping[str, Plain], Setting], Mapping[str, Plain]]:
    """Traits that depend on the values known so far: the construction's own, and what lies beneath."""
    asking = _asking(kind.name)
    told: tuple[str, Same[Area]] | None = None

    def derive(known: Mapping[str, Plain], setting: Setting) -> Mapping[str, Plain]:
        nonlocal told
        own = kind.derive(work, known)
        if setting.key not in asking:
            return own
        area = kind.stands_on(work, setting.role, known)
        if area is None or (setting.role, Same(area)) == told:
            return own
        told = setting.role, Same(area)
        return {**own, **worst(parted(beneath[setting.role], SOMEWHERE if area.is_empty else area))}

    return derive


@lru_cache
def _asking(construct: str) -> frozenset[str]:
    """Keys of the settings whose rules ask what lies beneath their passes."""
    settings = construction(construct).settings
    return frozenset(one.key for one in settings if one.role and rules().asks(one, "under_"))


@lru_cache
def asked_roles(construct: str) -> tuple[str, ...]:
    """The roles under which settings of a construction ask what lies beneath."""
    kind = construction(construct)
    return tuple(dict.fromkeys(one.role for one in kind.settings if one.key in _asking(construct)))


def _near(bounds: Array) -> list[list[int]]:
    """For each piece those, itself among them, that may have laid what lies under its passes."""
    left, top, right, bottom = np.nan_to_num(bounds, nan=np.inf).T
    near = (left[None] < right[:, None] + NEAR) & (right[None] > left[:, None] - NEAR)
    near &= (top[None] < bottom[:, None] + NEAR) & (bottom[None] > top[:, None] - NEAR)
    return [np.flatnonzero(row).tolist() for row in near]


def forget_values() -> None:
    """Drops the values worked out so far, and the operations of pieces with the early ones."""
    _matched.cache_clear()
    _decorated.cache_clear()
    forget_frames()


def forget_layers() -> None:
    """Drops what is kept of outlines and of what lies beneath them."""
    forget_values()
    forget_regions()
    band.forget()
    forget_shares()
