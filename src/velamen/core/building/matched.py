"""Matched values of a job's pieces: traits of brief and piece, what lies beneath, and the rules."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import msgspec
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.building.following import in_turn, later_cloths, served, sewn_area, whole
from velamen.core.constructions import construction
from velamen.core.constructions.base import Construction, Work
from velamen.core.errors import BadInput
from velamen.core.geometry.region import forget_bands, region_from_rings
from velamen.core.job.document import Brief, Job, Piece
from velamen.core.job.shape import LINES, Shape
from velamen.core.materials.colour import shade_beside
from velamen.core.materials.hoops import field
from velamen.core.materials.library import Library, pick
from velamen.core.materials.records import Base, Cloth, Foam
from velamen.core.memo import Keyed, Same
from velamen.core.setting import Plain, Setting
from velamen.core.timeline import layers
from velamen.core.timeline.layers import Area, Layer, Sew, forget_shares, lying, worst
from velamen.core.values.engine import match, rules
from velamen.core.values.value import Values, plain_values

NO_THREAD = "none"
SHEER = "sheer"  # cloths like it let what lies under them show
LINE_GROUND = 0.25  # mm to either side of an open line that it is sewn on
SHORTEST_LINE = 1.0  # mm
SOMEWHERE = Polygon(shapely.box(0, 0, 1, 1))  # stands for what goes round nothing any more
NEAR = 20.0  # mm round a piece in which earlier cloths may lie under its passes


@dataclass(frozen=True)
class PieceValues:
    """A piece with its values. below: the layers that lie there before its first pass."""

    piece: Piece
    work: Work
    below: tuple[Layer, ...]
    values: Values


def matched_job(job: Job) -> list[PieceValues]:
    """Values of all pieces of a job, each on what the earlier ones have laid."""
    library, pieces = job.library, job.sewn
    under = ground(job.brief, library)
    shaped = [nth for nth, piece in enumerate(pieces) if piece.shape]
    works = dict(zip(shaped, _works(job, [pieces[nth] for nth in shaped], library), strict=True))
    near = _near(shapely.bounds([works[nth].region for nth in shaped]).reshape(-1, 4))
    laid: dict[int, tuple[Layer, ...]] = {}
    found: dict[str, PieceValues] = {}
    bare = {shape.id: shape for shape in job.shapes if not shape.open}
    for place, nth in enumerate(shaped):
        piece, work = pieces[nth], works[nth]
        below = [layer for other in near[place] for layer in laid[shaped[other]]]
        found[piece.id], laid[nth] = _known(piece, work, job.brief, library, (*under, *below))
    for nth in in_turn(pieces):
        goes_round = [found[one.id] for one in served(pieces[nth], pieces) if one.id in found]
        areas = [sewn_area(one.piece, one.work.region, plain_values(one.values)) for one in goes_round]
        areas += [region_of(bare[key]) for key in pieces[nth].around if key in bare]
        work = replace(work_of(pieces[nth], _joined(areas), library), field=field(library.hoops[job.brief.hoop]),
                       sources=tuple(areas), **_base_of(job.brief, library))  # fmt: skip
        found[pieces[nth].id], _ = _known(pieces[nth], work, job.brief, library, under)
    return [found[piece.id] for piece in pieces]


FINAL = 1 << 30  # a position after every event


def _known(
    piece: Piece, work: Work, brief: Brief, library: Library, below: tuple[Layer, ...]
) -> tuple[PieceValues, tuple[Layer, ...]]:
    """A piece's values, and what it leaves lying, kept by all that they come from."""
    keyed = Keyed((piece, work), (msgspec.json.encode(piece), *work.key()))
    return _matched(keyed, brief, library, tuple(Same(layer) for layer in below))


@lru_cache(maxsize=1024)
def _matched(
    keyed: Keyed[tuple[Piece, Work]], brief: Brief, library: Library, below: tuple[Same[Layer], ...]
) -> tuple[PieceValues, tuple[Layer, ...]]:
    piece, work = keyed.it
    one = piece_values(piece, work, brief, library, tuple(layer.it for layer in below))
    return one, lying(construction(piece.construct).events(one.work, plain_values(one.values)), FINAL)


def _works(job: Job, pieces: list[Piece], library: Library) -> list[Work]:
    """Pieces that have shapes, ready for their constructions, each knowing the cloth laid later beside it."""
    shapes = {shape.id: shape for shape in job.shapes}
    within = field(library.hoops[job.brief.hoop])
    works = [work_of(piece, region_of(shapes[piece.shape]), library, shapes[piece.shape]) for piece in pieces]
    later = later_cloths(
        pieces, [work.region for work in works],
        [construction(one.construct).lays and library.cloths[one.cloth].like != SHEER for one in pieces],
    )  # fmt: skip
    return [
        replace(work, later=over, field=within, sources=(work.region,), **_base_of(job.brief, library))
        if construction(piece.construct).ground else replace(work, later=over)
        for piece, work, over in zip(pieces, works, later, strict=True)
    ]  # fmt: skip


def _base_of(brief: Brief, library: Library) -> dict[str, Any]:
    """What a ground asks of the base."""
    base = library.bases[brief.base]
    return {"marks": base.marks, "pile": base.pile}


def _joined(areas: list[Area]) -> Area:
    return whole(tuple(Same(one) for one in areas)) if areas else shapely.MultiPolygon()


def piece_values(piece: Piece, work: Work, brief: Brief, library: Library, below: tuple[Layer, ...]) -> PieceValues:
    """Matched and own values of one piece on the layers that lie below it."""
    kind = construction(piece.construct)
    _check_piece(piece, work.line is not None, library)
    traits = {**brief_traits(brief, library), **_piece_traits(piece, work, library)}
    values = match(kind.settings, traits, piece.own, _derive(kind, work, below))
    if kind.ground is not None:
        work = replace(work, region=kind.ground(work, plain_values(values)))
    return PieceValues(piece, work, below, values)


def check_pieces(job: Job) -> Job:
    """The job itself when every piece can be made up as it is asked to be; BadInput otherwise."""
    lines = {shape.id for shape in job.shapes if shape.open}
    for piece in job.pieces:
        _check_piece(piece, piece.shape in lines, job.library)
        kind = construction(piece.construct)
        if not piece.shape and kind.ground is None:
            raise BadInput(f"Piece {piece.name!r} goes round others: {kind.title} cannot, give it a shape.")
    return job


def _check_piece(piece: Piece, line: bool, library: Library) -> None:
    kind = construction(piece.construct)
    for key, value in piece.own.items():
        setting = kind.setting(key)
        if setting is None:
            raise BadInput(f"Piece {piece.name!r} has a value {key!r} that {kind.title} does not know.")
        if setting.kind == "thread" and value != NO_THREAD:
            pick(library.threads, str(value), "thread")
    if line and not kind.lines:
        raise BadInput(f"Piece {piece.name!r} lies on an open line, along which {kind.title} cannot be sewn.")


def sample_values(brief: Brief, library: Library, construct: str = "applique") -> Values:
    """Values of a middling piece under a brief, before there is any artwork."""
    cloth = next(iter(library.cloths))
    piece = Piece("sample", "Sample", "sample", construct, cloth, next(iter(library.threads)))
    work = work_of(piece, Polygon(shapely.box(-25, -25, 25, 25)), library)
    return piece_values(piece, work, brief, library, ground(brief, library)).values


@lru_cache(maxsize=64)
def ground(brief: Brief, library: Library) -> tuple[Layer, ...]:
    """Stabilizer, base and topping as they lie before anything is sewn, lowest first."""
    base, topping = library.bases[brief.base], library.toppings[brief.topping]
    sheet = library.stabilizers[brief.stabilizer]
    layers = [
        Layer("stabilizer", sheet.key, sheet.name.lower(), sheet.thickness, satin_spacing=base.satin_spacing)
        for _ in range(brief.stabilizer_layers if sheet.thickness else 0)
    ]
    layers.append(base_layer(base))
    if topping.thickness:
        layers.append(Layer("topping", topping.key, topping.name.lower(), topping.thickness))
    return tuple(layers)


def base_layer(base: Base) -> Layer:
    """A base as a layer of the stack; without one the stabilizer itself is sewn on."""
    name = base.name.lower() if base.thickness else "the stabilizer alone"
    return Layer(
        "base", base.key, name, base.thickness, base.pile, base.stretch, base.pull,
        base.satin_spacing, base.underlay, base.marks,
    )  # fmt: skip


def cloth_layer(cloth: Cloth, like: Base, owner: str) -> Layer:
    """A cloth as a layer of the stack; once laid on something it stretches no more than that."""
    return Layer(
        "cloth", cloth.key, cloth.name.lower(), like.thickness, like.pile, "none", like.pull,
        like.satin_spacing, like.underlay, "none", owner,
    )  # fmt: skip


def foam_layer(foam: Foam) -> Layer:
    """A foam as a layer of the stack."""
    return Layer("foam", foam.key, foam.name.lower(), foam.thickness)


def work_of(piece: Piece, region: Area, library: Library, shape: Shape | None = None) -> Work:
    """A piece with its materials, ready for its construction; with the lines of its shape where there is one."""
    cloth = pick(library.cloths, piece.cloth, "cloth")
    pick(library.threads, piece.thread, "thread")
    layer = cloth_layer(cloth, library.like(cloth), piece.id)
    if shape is None:
        return Work(piece.id, piece.name, region, layer, piece.thread, _foams(library))
    lines = {kind: tuple(np.array(one.points) for one in shape.lines if one.kind == kind) for kind in LINES}
    return Work(
        piece.id, piece.name, region, layer, piece.thread, _foams(library),
        np.array(shape.rings[0]) if shape.open else None, lines["guide"], lines["direction"], piece.start, piece.end,
        die=shape.die,
    )  # fmt: skip


@lru_cache(maxsize=64)
def _foams(library: Library) -> dict[str, Layer]:
    return {foam.key: foam_layer(foam) for foam in library.foams.values()}


def region_of(shape: Shape) -> Polygon:
    """A shape's region, mended where it is slightly broken. Raises BadInput where it cannot be."""
    return _region_of(Same(shape))


def brief_traits(brief: Brief, library: Library) -> dict[str, Plain]:
    """Traits of the brief that rules may ask for."""
    base, sheet = library.bases[brief.base], library.stabilizers[brief.stabilizer]
    topping = library.toppings[brief.topping]
    return {
        "base": base.key, "base_name": base.name.lower(), "pile": base.pile,
        "stretch": base.stretch, "weight": base.weight, "marks": base.marks, "may_wet": base.may_wet,
        "takes_heat": base.takes_heat, "fill_spacing": base.fill_spacing, "base_stabilizer": base.stabilizer,
        "base_stabilizer_removal": library.stabilizers[base.stabilizer].removal,
        "base_layers": base.stabilizer_layers, "base_topping": base.topping,
        "base_topping_removal": library.toppings[base.topping].removal,
        "stabilizer": sheet.key, "stabilizer_name": sheet.name.lower(), "stabilizer_removal": sheet.removal,
        "stabilizer_layers": float(brief.stabilizer_layers if sheet.thickness else 0),
        "topping": topping.key, "topping_name": topping.name.lower(), "topping_removal": topping.removal,
        "hooping": brief.hooping, "hold": brief.hold,
    }  # fmt: skip


def _piece_traits(piece: Piece, work: Work, library: Library) -> dict[str, Plain]:
    thread = library.threads[piece.thread]
    left, top, right, bottom = (0.0,) * 4 if work.region.is_empty else work.region.bounds
    beside = shade_beside(thread.colour, Same(library))
    return {
        "construct": piece.construct, "cloth": piece.cloth, "cloth_name": work.cloth.name,
        "thread_beside": beside.key, "thread_beside_name": beside.name,
        "thread_weight": thread.weight, "thread_finish": thread.finish,
        "piece_size": min(right - left, bottom - top),
    }  # fmt: skip


def _derive(
    kind: Construction, work: Work, below: tuple[Layer, ...]
) -> Callable[[Mapping[str, Plain], Setting], Mapping[str, Plain]]:
    """Traits that depend on the values known so far: the construction's own, and what lies beneath."""
    shaping, asking = sorted(kind.shaping), _asking(kind.name)
    told: tuple[str, Same[Area | None], list[Plain | None]] | None = None

    def derive(known: Mapping[str, Plain], setting: Setting) -> Mapping[str, Plain]:
        nonlocal told
        own = kind.derive(work, known)
        if setting.key not in asking:
            return own
        area = kind.footprint(work, setting.role, known)
        now = setting.role, Same(area), [known.get(key) for key in shaping]
        if area is None or now == told:
            return own
        told = now
        return {**own, **beneath(kind, work, below, setting.role, area, known)}

    return derive


@lru_cache
def _asking(construct: str) -> frozenset[str]:
    """Keys of the settings whose rules ask what lies beneath their passes."""
    settings = construction(construct).settings
    return frozenset(one.key for one in settings if one.role and rules().asks(one, "under_"))


def beneath(
    kind: Construction, work: Work, below: tuple[Layer, ...], role: str, area: Area, known: Mapping[str, Plain]
) -> dict[str, Plain]:
    """Traits of what lies under an area when the passes of a role have their turn."""
    events = kind.events(work, known)
    position = next(nth for nth, event in enumerate(events) if isinstance(event, Sew) and event.role == role)
    return worst(layers.beneath(events, position, SOMEWHERE if area.is_empty else area, below))


def _near(bounds: NDArray[np.float64]) -> list[list[int]]:
    """For each piece the earlier ones whose cloths may lie under its passes."""
    left, top, right, bottom = bounds.T
    near = (left[None] < right[:, None] + NEAR) & (right[None] > left[:, None] - NEAR)
    near &= (top[None] < bottom[:, None] + NEAR) & (bottom[None] > top[:, None] - NEAR)
    return [np.flatnonzero(row).tolist() for row in np.tril(near, -1)]


@lru_cache(maxsize=1024)
def _region_of(shape: Same[Shape]) -> Polygon:
    if shape.it.open:
        return _along(shape.it.name, msgspec.json.encode(shape.it.rings))
    return _region(shape.it.name, msgspec.json.encode(shape.it.rings))


@lru_cache(maxsize=1024)
def _region(name: str, rings_json: bytes) -> Polygon:
    region = region_from_rings(msgspec.json.decode(rings_json))
    if not region.is_valid:
        region = shapely.make_valid(region, method="structure", keep_collapsed=False)
        if region.geom_type != "Polygon":
            raise BadInput(f"Shape {name!r} crosses itself: pull the crossing apart first.")
    if region.area < 0.5:
        raise BadInput(f"Shape {name!r} encloses {region.area:.2f} mm²: too small to sew.")
    return region


@lru_cache(maxsize=1024)
def _along(name: str, rings_json: bytes) -> Polygon:
    """The ground that an open line runs over."""
    line = shapely.LineString(msgspec.json.decode(rings_json)[0])
    if line.length < SHORTEST_LINE:
        raise BadInput(f"Line {name!r} is {line.length:.2f} mm long: too short to sew.")
    ground = shapely.buffer(shapely.simplify(line, 0.02), LINE_GROUND, quad_segs=3)
    return shapely.Polygon(ground.exterior)


def forget_values() -> None:
    """Drops the values worked out so far."""
    _matched.cache_clear()


def forget_layers() -> None:
    """Drops what is kept of outlines and of what lies beneath them."""
    _region.cache_clear()
    forget_values()
    forget_bands()
    _region_of.cache_clear()
    forget_shares()
