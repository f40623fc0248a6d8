"""Edits of the stack: pieces and passes moved, grounds put round pieces, filled pieces made cloth, values copied."""

from __future__ import annotations

from collections.abc import Sequence

import shapely
from shapely import Polygon

from velamen.core.bring_in import MAX_PIECES
from velamen.core.building import Build, build_job
from velamen.core.constructions import construction
from velamen.core.errors import BadInput
from velamen.core.geometry.region import across, boundaries
from velamen.core.job import BASTING, EVERY, Job, Piece, change
from velamen.core.making import free_maker, with_maker
from velamen.core.matched import region_of
from velamen.core.materials.colour import nearest_thread
from velamen.core.proofs.finding import SCISSORS
from velamen.core.sequencing.order import violations
from velamen.core.shape import Around, Shape, reshaped

COVERED = 0.8  # of a hole, from which it counts as covered by other pieces
NAME_MARGIN, NAME_CALM = 22.0, 18.0  # mm round lettering (handbook, section 5: 20 to 25, smoothed)


def moved_piece(job: Job, piece_id: str, place: int) -> Job:
    """The job with a piece at another place of the stack, 0 sewn first. Raises BadInput with why it cannot be."""
    pieces = list(job.sewn)
    nth = _place_of(pieces, piece_id)
    piece = pieces.pop(nth)
    pieces.insert(min(max(place, 0), len(pieces)), piece)
    order = [key for key in job.order if not key.startswith(f"{piece_id}:")]
    after = change(job, pieces=pieces, order=order)
    built = build_job(after)
    _refuse_worse(build_job(job), built)
    _refuse_hidden(built, piece)
    return after  # type: ignore[no-any-return]


def moved_unit(job: Job, key: str, by: int) -> Job:
    """The job with a pass or hand step sewn `by` places later, earlier where negative. Raises BadInput as above."""
    build = build_job(job)
    order = [unit.key for unit in build.units]
    if key not in order:
        raise BadInput("That pass is no longer in the job: reload the page.")
    nth = order.index(key)
    order.insert(min(max(nth + by, 0), len(order) - 1), order.pop(nth))
    after = change(job, order=order)
    _refuse_worse(build, build_job(after))
    return after  # type: ignore[no-any-return]


def with_ground(job: Job, construct: str, around: Sequence[str] = (EVERY,)) -> Job:
    """The job with a ground round pieces, sewn before all of them, basting alone before it.

    Its thread is the one nearest to the base's colour, for a contrast border that of the first piece.
    """
    if len(job.pieces) >= MAX_PIECES:
        raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
    if not job.pieces:
        raise BadInput("There is nothing yet to go round: bring in artwork first.")
    kind = construction(construct)
    if not kind.under:
        raise BadInput(f"{kind.title} does not go round other pieces: give it a shape.")
    like = job.pieces[0]
    colour = job.library.bases[job.brief.base].colour
    thread = like.thread if construct == "contrast" else nearest_thread(colour, job.library).key
    piece = Piece(_free_id(job), kind.title, "", construct, like.cloth, thread, around=list(around))
    pieces = list(job.pieces)
    at = 0 if construct == BASTING or not pieces or pieces[0].construct != BASTING else 1
    pieces.insert(at, piece)
    return change(job, pieces=pieces)  # type: ignore[no-any-return]


def frozen(job: Job, piece_id: str) -> Job:
    """The job with the ground of a piece as a plain shape of its own, which follows nothing any longer."""
    built = build_job(job).piece(piece_id)
    if built is None or built.piece.shape:
        raise BadInput("Only a piece that goes round others can be frozen.")
    nth = _place_of(job.sewn, piece_id)
    pieces, shapes = list(job.sewn), list(job.shapes)
    kind = construction(built.piece.construct)
    if not kind.under or kind.name == BASTING:
        raise BadInput(f"{built.piece.name} cannot be frozen: {kind.title.lower()} has no plain outline.")
    own = {**built.piece.own, **{f"{kind.name}_{key}": 0.0 for key in ("margin", "gap", "calm")}}
    made: list[Piece] = []
    for part in shapely.get_parts(built.work.region):
        key = _free_id(change(job, pieces=[*pieces, *made], shapes=shapes))
        shapes.append(reshaped(Shape(f"s{key[1:]}", built.piece.name, []), boundaries(part)))
        made.append(change(built.piece, id=key, shape=f"s{key[1:]}", around=[], own=own))
    pieces[nth : nth + 1] = made
    return change(job, pieces=pieces, shapes=shapes)  # type: ignore[no-any-return]


def with_name_piece(job: Job, letters: Sequence[str]) -> Job:
    """The job with a cloth round lettering, by the ids of its shapes: one calm outline, laid before the letters."""
    sewn = [nth for nth, piece in enumerate(job.pieces) if piece.shape in letters]
    if not sewn:
        raise BadInput("Choose the letters that the cloth goes round first.")
    maker = Around(free_maker(job), list(letters), NAME_MARGIN, close=NAME_MARGIN, calm=NAME_CALM)
    return with_maker(job, maker, at=sewn[0])


def as_applique(job: Job, piece_id: str) -> Job:
    """The job with a filled piece made an appliqué, without its fill and unwanted holes.

    Those are holes that no scissors reach, or that other pieces cover: cloth runs through under them.
    """
    piece = job.pieces[_place_of(job.pieces, piece_id)]
    shape = next((one for one in job.shapes if one.id == piece.shape), None)
    if shape is None or shape.open:
        raise BadInput(f"{piece.name} has no area that cloth could take.")
    region = region_of(shape)
    others = [region_of(one) for one in job.shapes if one.id != shape.id and not one.open]
    above = shapely.union_all(others) if others else shapely.Polygon()
    kept = [hole for hole in region.interiors if _is_wanted(shapely.Polygon(hole), above)]
    whole = shapely.Polygon(region.exterior, kept)
    shapes = [reshaped(one, boundaries(whole)) if one.id == shape.id else one for one in job.shapes]
    kind = construction("applique")
    own = {key: value for key, value in piece.own.items() if kind.setting(key)}
    pieces = [change(one, construct="applique", own=own) if one.id == piece_id else one for one in job.pieces]
    return change(job, shapes=shapes, pieces=pieces)  # type: ignore[no-any-return]


def with_values_of(job: Job, piece_ids: Sequence[str], source: str) -> Job:
    """The job with the own values of one piece on others, as far as their constructions know them."""
    like = job.sewn[_place_of(job.sewn, source)]
    pieces = []
    for piece in job.sewn:
        kind = construction(piece.construct)
        taken = {key: value for key, value in like.own.items() if kind.setting(key)}
        pieces.append(change(piece, own={**piece.own, **taken}) if piece.id in piece_ids else piece)
    return change(job, pieces=pieces)  # type: ignore[no-any-return]


def _is_wanted(hole: Polygon, above: Polygon) -> bool:
    covered = float(shapely.intersection(hole, above).area) / max(hole.area, 1e-9)
    return covered < COVERED and across(hole) >= SCISSORS


def _refuse_worse(before: Build, after: Build) -> None:
    """Raises BadInput with what a change made impossible."""
    known = {why for _, _, why in violations(before.placed, before.units)}
    fresh = [why for _, _, why in violations(after.placed, after.units) if why not in known]
    if fresh:
        raise BadInput(fresh[0])


def _refuse_hidden(build: Build, piece: Piece) -> None:
    """Raises BadInput where a piece would lie wholly under cloth laid later."""
    rows = list(build.placed)
    cut = {one.piece.id: one.outline for one in build.cut}
    for low, under in enumerate(rows):
        if under.under or under.region.is_empty:
            continue
        for over in rows[low + 1 :]:
            if over.lays and piece.id in (under.id, over.id) and under.on != over.id and shapely.covers(
                cut[over.id], under.region
            ):  # fmt: skip
                raise BadInput(f"{under.name} would lie wholly under the cloth of {over.name} and not be seen.")


def _place_of(pieces: Sequence[Piece], piece_id: str) -> int:
    found = next((nth for nth, one in enumerate(pieces) if one.id == piece_id), None)
    if found is None:
        raise BadInput("That piece is no longer in the job: reload the page.")
    return found


def _free_id(job: Job) -> str:
    ids = [one.id for one in job.shapes] + [one.id for one in job.pieces]
    return f"p{1 + max((int(one[1:]) for one in ids if one[1:].isdecimal()), default=0)}"
