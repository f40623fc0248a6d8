"""Grounds put round pieces: knockdown, border, panel, embossing, the cloth round a name, the cloth under a panel."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from velamen.core.building.build import build_job
from velamen.core.building.following import hosting, served
from velamen.core.constructions import colour_of, construction, constructions, lays_cloth, sewn_pieces, usual
from velamen.core.constructions.base import Thread
from velamen.core.edits.shapes.bring_in import MAX_PIECES, free_name
from velamen.core.edits.shapes.live_shapes import free_maker, with_maker
from velamen.core.edits.stack.pieces import free_number, place_of
from velamen.core.errors import BadInput
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import EVERY, Job, Piece, change
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Around, Shape, reshaped
from velamen.core.materials.colour import contrasting_cloth, nearest_thread
from velamen.core.materials.library import SHEER

SHEER_MARGIN, SHEER_GAPS = 4.0, 12.0  # mm of a sheer cloth round what shows through it, and of gaps that it closes
NAME_MARGIN, NAME_CALM = 22.0, 18.0  # mm round lettering (handbook, section 5: 20 to 25, smoothed)
PANEL_MARGIN = 10.0  # mm round lettering (ours)


def with_ground(job: Job, construct: str, around: Sequence[str] = (EVERY,)) -> Job:
    """The job with a piece round others, under all of them, above what goes round everything."""
    if len(job.pieces) >= MAX_PIECES:
        raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
    piece = new_ground(job, construct, around)
    around_of = construction(construct).around
    assert around_of is not None
    lowest = construction(job.pieces[0].construct).around
    at = 1 if lowest and lowest.everything and not around_of.everything else 0
    at = job.pieces.index(served(piece, job.pieces)[0]) if around_of.early else at
    return change(job, pieces=[*job.pieces[:at], piece, *job.pieces[at:]])


def new_ground(job: Job, construct: str, around: Sequence[str]) -> Piece:
    """A piece that goes round others, not yet in the job, in cloth and thread that fit them."""
    if not job.pieces:
        raise BadInput("There is nothing yet to go round: bring in artwork first.")
    kind = construction(construct)
    if kind.around is None or kind.around.motif:
        raise BadInput(f"{kind.title} does not go round other pieces: give it a shape.")
    like = job.pieces[0]
    piece = Piece(f"p{free_number(job)}", kind.title, "", construct, like.cloth, like.thread, around=list(around))
    inside = served(piece, job.pieces)
    if not inside:
        raise BadInput(
            f"There is nothing that {kind.title.lower()} could go round: it goes round pieces, not grounds."
        )
    if kind.around.thread is Thread.CLOTH:
        colours = list(dict.fromkeys(colour_of(one, job.library) for one in inside))
        piece = change(piece, cloth=contrasting_cloth(colours, like.cloth, job.library))
    ground: Piece = change(piece, thread=_thread(job, piece, kind.around.thread))
    return ground


def _thread(job: Job, piece: Piece, asked: Thread) -> str:
    """Key of the thread that a new ground gets."""
    if asked is Thread.FIRST:
        return piece.thread
    if asked is Thread.CLOTH:
        return nearest_thread(job.library.cloths[piece.cloth].colour, job.library).key
    return base_thread(job)


def as_motif(job: Job, construct: str, piece_ids: Sequence[str] = ()) -> Job:
    """The job with pieces, or all that have a shape, as the one motif of a piece that goes round them.

    They are sewn no longer; an embossed motif, say, stands up in the ground round it.
    """
    motif = [piece for piece in job.pieces if piece.shape and (not piece_ids or piece.id in piece_ids)]
    motif = [piece for piece in motif if not construction(piece.construct).around]
    if not motif:
        raise BadInput("Choose the shapes first that are to stand up in the pile.")
    kind = construction(construct)
    if kind.around is None or not kind.around.motif:
        raise BadInput(f"{kind.title} makes no motif of pieces: choose another construction.")
    first = job.pieces.index(motif[0])
    name = motif[0].name if len(motif) == 1 else kind.title
    piece = Piece(f"p{free_number(job)}", name, "", kind.name, motif[0].cloth, base_thread(job),
                  around=[one.shape for one in motif])  # fmt: skip
    pieces = [one for one in job.pieces if one not in motif]
    pieces.insert(min(first, len(pieces)), piece)
    return change(job, pieces=pieces)


def may_get_cloth(job: Job, piece: Piece) -> bool:
    """Whether a cloth can be put under a piece as it is."""
    above = construction(piece.construct).over_cloth
    lying = any(one.shape == piece.shape and lays_cloth(one) for one in job.pieces)
    return above is not None and bool(piece.shape) and not lying


def with_cloth_under(job: Job, piece_id: str) -> Job:
    """The job with a cloth of its shape under a piece, the cover of the cloth in place of its own border."""
    nth = place_of(job.pieces, piece_id)
    piece = job.pieces[nth]
    above = construction(piece.construct).over_cloth
    if above is None or not piece.shape:
        raise BadInput("Only a panel with a shape of its own can have a cloth under it: freeze its outline first.")
    if not may_get_cloth(job, piece):
        raise BadInput(f"There is a cloth under {piece.name} already.")
    cloth = change(
        piece,
        id=f"p{free_number(job)}",
        name=f"{piece.name} cloth",
        construct=usual("area").name,
        own={},
        threads={},
        on="",
    )
    changed = change(piece, on=cloth.id, own={**piece.own, **above})
    return change(job, pieces=[*job.pieces[:nth], cloth, changed, *job.pieces[nth + 1 :]])


def cloth_under(job: Job, piece: Piece) -> Piece | None:
    """The cloth of its own shape that was put under a piece."""
    if construction(piece.construct).over_cloth is None:
        return None
    return next((one for one in job.pieces if one.id == piece.on and one.shape == piece.shape), None)


def without_cloth_under(job: Job, piece_id: str) -> Job:
    """The job without the cloth under a piece, which has a border of its own again."""
    piece = job.pieces[place_of(job.pieces, piece_id)]
    cloth = cloth_under(job, piece)
    if cloth is None:
        raise BadInput(f"There is no cloth of its shape under {piece.name}.")
    above = construction(piece.construct).over_cloth or {}
    own = {key: value for key, value in piece.own.items() if above.get(key) != value}
    bare = change(piece, on=cloth.on, own=own)
    pieces = [bare if one.id == piece.id else one for one in job.pieces if one.id != cloth.id]
    return change(job, pieces=[change(one, on=piece.id) if one.on == cloth.id else one for one in pieces])


def base_thread(job: Job) -> str:
    """Key of the thread nearest to the colour of the base."""
    return nearest_thread(job.library.bases[job.brief.base].colour, job.library).key


def rethreaded(before: Job, after: Job) -> Job:
    """A job on another base, with the grounds that had the thread nearest to the old base in that of the new one."""
    old, new = base_thread(before), base_thread(after)
    if old == new:
        return after
    pieces = [change(one, thread=new) if one.thread == old and _follows_base(one) else one for one in after.pieces]
    return change(after, pieces=pieces)


def _follows_base(piece: Piece) -> bool:
    around = construction(piece.construct).around
    return around is not None and around.thread is Thread.BASE


def may_be_frozen(piece: Piece) -> bool:
    """Whether the ground of a piece can become a plain shape."""
    around = construction(piece.construct).around
    return not piece.shape and around is not None and around.frozen is not None


def frozen(job: Job, piece_id: str) -> Job:
    """The job with the ground of a piece as a plain shape of its own, which follows nothing any longer."""
    built = build_job(job).piece(piece_id)
    if built is None or built.piece.shape:
        raise BadInput("Only a piece that goes round others can be frozen.")
    nth = place_of(sewn_pieces(job), piece_id)
    pieces, shapes = list(sewn_pieces(job)), list(job.shapes)
    around = built.kind.around
    if around is None or around.frozen is None:
        raise BadInput(f"{built.piece.name} cannot be frozen: {built.kind.title.lower()} has no plain outline.")
    made: list[Piece] = []
    for part in shapely.get_parts(built.work.region):
        key = f"p{free_number(change(job, pieces=[*pieces, *made], shapes=shapes))}"
        shapes.append(reshaped(Shape(f"s{key[1:]}", built.piece.name, []), boundaries(part)))
        made.append(
            change(built.piece, id=key, shape=f"s{key[1:]}", around=[], own={**built.piece.own, **around.frozen})
        )
    if hosting(built.piece) and made:
        guests = {one.id for one in served(built.piece, pieces)}
        pieces = [change(one, on=made[0].id) if one.id in guests and not one.on else one for one in pieces]
    pieces[nth : nth + 1] = made
    return change(job, pieces=pieces, shapes=shapes)


def with_sheer_over(job: Job, ids: Sequence[str]) -> Job:
    """The job with a sheer cloth over chosen pieces, by their ids: they are sewn first and show through it."""
    chosen = [one for one in job.pieces if one.id in ids and one.shape]
    if not chosen:
        raise BadInput("Choose the pieces that the cloth is to lie over first.")
    cloth = next((one for one in job.library.cloths.values() if one.like == SHEER), None)
    kind = next((one for one in constructions().values() if one.over_decoration is not None), None)
    if cloth is None or kind is None:
        raise BadInput("The library has no sheer cloth: add one that sews like organza.")
    at = min(job.pieces.index(one) for one in chosen)
    maker = Around(free_maker(job), [one.shape for one in chosen], SHEER_MARGIN, close=SHEER_GAPS, calm=SHEER_MARGIN)
    known = {one.id for one in job.pieces}
    after = with_maker(job, maker, at=at)
    hosts = [one for one in after.pieces if one.id not in known]
    thread = nearest_thread(cloth.colour, job.library).key
    own = dict(kind.over_decoration or {})
    made = {one.id: change(one, name="Sheer cloth", construct=kind.name, cloth=cloth.key, thread=thread, own=own)
            for one in hosts}  # fmt: skip
    areas = {one.id: region_of(next(shape for shape in after.shapes if shape.id == one.shape)) for one in hosts}
    pieces = [made.get(one.id, one) for one in after.pieces]
    for guest in chosen:
        region = region_of(next(shape for shape in job.shapes if shape.id == guest.shape))
        host = max(areas, key=lambda key: float(areas[key].intersection(region).area))
        pieces = [change(one, on=host) if one.id == guest.id else one for one in pieces]
    return change(after, pieces=pieces)


def with_name_piece(job: Job, letters: Sequence[str]) -> Job:
    """The job with a cloth round lettering, by the ids of its shapes: one calm outline, laid before the letters."""
    maker = Around(free_maker(job), list(letters), NAME_MARGIN, close=NAME_MARGIN, calm=NAME_CALM)
    return _laid_before(job, maker, "Name piece", usual("area").name)


def with_panel(job: Job, letters: Sequence[str]) -> Job:
    """The job with a panel round lettering, by the ids of its shapes: a rounded rectangle sewn before the letters."""
    kind = next((one for one in constructions().values() if one.over_cloth is not None), None)
    if kind is None:
        raise BadInput("No construction is a panel: lay a name piece instead.")
    maker = Around(free_maker(job), list(letters), PANEL_MARGIN, form="rounded")
    return _laid_before(job, maker, "Panel", kind.name, thread=base_thread(job))


def _laid_before(job: Job, maker: Around, name: str, construct: str, **more: str) -> Job:
    """The job with what a maker makes in the stack before all that it goes round."""
    sewn = [nth for nth, piece in enumerate(job.pieces) if piece.shape in maker.sources]
    if not sewn:
        raise BadInput("Choose the letters that it goes round first.")
    known = {one.id for one in job.shapes}
    after = with_maker(job, maker, at=sewn[0])
    names = {one.id: free_name(job, name) for one in after.shapes if one.id not in known}
    shapes = [change(one, name=names[one.id]) if one.id in names else one for one in after.shapes]
    pieces = [change(one, name=names[one.shape], construct=construct, **more) if one.shape in names else one
              for one in after.pieces]  # fmt: skip
    return change(after, shapes=shapes, pieces=pieces)
