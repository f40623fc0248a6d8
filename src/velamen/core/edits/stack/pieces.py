"""Edits of the stack: pieces and passes moved, taken out, made cloth, given values, dies let go."""

from __future__ import annotations

from collections.abc import Sequence

import shapely
from shapely import Polygon

from velamen.core.building.build import Build, build_job
from velamen.core.constructions import asks_for, construction, sewn_pieces, usual
from velamen.core.edits.shapes.arranging import freed
from velamen.core.edits.shapes.live_shapes import released
from velamen.core.errors import BadInput
from velamen.core.geometry.region import across, boundaries
from velamen.core.job.document import Job, Piece, change
from velamen.core.job.regions import region_of
from velamen.core.job.shape import reshaped
from velamen.core.proofs.access import CUT_OUT
from velamen.core.timeline.refusals import violations

NOT_ASKED = "none"  # of a field of the brief
COVERED = 0.8  # of a hole, from which it counts as covered by other pieces


def place_of(pieces: Sequence[Piece], piece_id: str) -> int:
    """Where a piece stands in the stack. Raises BadInput where it is gone."""
    found = next((nth for nth, one in enumerate(pieces) if one.id == piece_id), None)
    if found is None:
        raise BadInput("That piece is no longer in the job: reload the page.")
    return found


def moved_piece(job: Job, piece_id: str, place: int) -> Job:
    """The job with a piece at another place of the stack, 0 sewn first. Raises BadInput with why it cannot be."""
    pieces = list(sewn_pieces(job))
    nth = place_of(pieces, piece_id)
    piece = pieces.pop(nth)
    pieces.insert(min(max(place, 0), len(pieces)), piece)
    order = [key for key in job.order if not key.startswith(f"{piece_id}:")]
    after = change(job, pieces=pieces, order=order)
    built = build_job(after)
    _refuse_worse(build_job(job), built)
    _refuse_hidden(built, piece)
    return after


def moved_operation(job: Job, key: str, by: int = 0, onto: str = "") -> Job:
    """The job with a pass or hand step `by` places later, or in the place of another. Raises BadInput as above."""
    build = build_job(job)
    order = [one.key for one in build.operations if one.piece]
    if key not in order and any(key.split(":")[0] in route.pieces for route in build.routes):
        raise BadInput("Pieces on one route are sewn together: take the route apart first.")
    if key not in order or (onto and onto not in order):
        raise BadInput("That pass is no longer in the job: reload the page.")
    nth = order.index(key)
    place = order.index(onto) if onto else nth + by
    order.insert(min(max(place, 0), len(order) - 1), order.pop(nth))
    after = change(job, order=order)
    _refuse_worse(build, build_job(after))
    return after


def as_cloth(job: Job, piece_id: str) -> Job:
    """The job with a filled piece made an appliqué, without its fill and unwanted holes.

    Those are holes that no scissors reach, or that other pieces cover: cloth runs through under them.
    """
    piece = job.pieces[place_of(job.pieces, piece_id)]
    shape = next((one for one in job.shapes if one.id == piece.shape), None)
    if shape is None or shape.open:
        raise BadInput(f"{piece.name} has no area that cloth could take.")
    region = region_of(shape)
    others = [region_of(one) for one in job.shapes if one.id != shape.id and not one.open]
    above = shapely.union_all(others) if others else shapely.Polygon()
    kept = [hole for hole in region.interiors if _is_wanted(shapely.Polygon(hole), above)]
    whole = shapely.Polygon(region.exterior, kept)
    shapes = [reshaped(one, boundaries(whole)) if one.id == shape.id else one for one in job.shapes]
    kind = usual("area")
    own = {key: value for key, value in piece.own.items() if kind.setting(key)}
    pieces = [change(one, construct=kind.name, own=own) if one.id == piece_id else one for one in job.pieces]
    return change(job, shapes=shapes, pieces=pieces)


def with_values_of(job: Job, piece_ids: Sequence[str], source: str) -> Job:
    """The job with the own values of one piece on others, as far as their constructions know them."""
    like = sewn_pieces(job)[place_of(sewn_pieces(job), source)]
    pieces = []
    for piece in sewn_pieces(job):
        kind = construction(piece.construct)
        taken = {key: value for key, value in like.own.items() if kind.setting(key)}
        pieces.append(change(piece, own={**piece.own, **taken}) if piece.id in piece_ids else piece)
    return change(job, pieces=pieces)


def let_go(job: Job, piece_id: str) -> Job:
    """The job with a die piece free of its die: its size is open, and it is trimmed in the hoop.

    Where the person has set it pre-cut by hand it stays so.
    """
    piece = sewn_pieces(job)[place_of(sewn_pieces(job), piece_id)]
    shape = next((one for one in job.shapes if one.id == piece.shape), None)
    if shape is None or not shape.die:
        raise BadInput(f"{piece.name} is cut by no die.")
    return freed(job, [shape.id])


def removed(job: Job, piece_ids: Sequence[str]) -> Job:
    """The job without some pieces, nor the shapes that nothing else uses."""
    gone = [sewn_pieces(job)[place_of(sewn_pieces(job), one)] for one in piece_ids]
    pieces = [piece for piece in job.pieces if piece not in gone]
    for kind in {one.construct: construction(one.construct) for one in gone}.values():
        if kind.around and kind.around.asked_by and asks_for(job.brief, kind):
            job = change(job, brief=change(job.brief, **{kind.around.asked_by[0]: NOT_ASKED}))
    used = {key for piece in pieces for key in (piece.shape, *piece.around)}
    left = {piece.shape for piece in gone} - used
    job = released(job, left)
    shapes = [shape for shape in job.shapes if shape.id not in left]
    return change(job, pieces=pieces, shapes=shapes)


def _is_wanted(hole: Polygon, above: Polygon) -> bool:
    covered = float(shapely.intersection(hole, above).area) / max(hole.area, 1e-9)
    return covered < COVERED and across(hole) >= CUT_OUT


def _refuse_worse(before: Build, after: Build) -> None:
    """Raises BadInput with what a change made impossible."""
    known = {one.why for one in violations(before.placed, before.operations)}
    fresh = [one.why for one in violations(after.placed, after.operations) if one.why not in known]
    if fresh:
        raise BadInput(fresh[0])


def _refuse_hidden(build: Build, piece: Piece) -> None:
    """Raises BadInput where a piece would lie wholly under cloth laid later."""
    cut = {one.piece.id: one.outline for one in build.cut}
    for low, under in enumerate(build.pieces):
        if under.work.region.is_empty or any(one.first for one in under.operations):
            continue
        for over in build.pieces[low + 1 :]:
            concerned = over.piece.id in cut and piece.id in (under.piece.id, over.piece.id)
            if not concerned or build.host_of(under.piece.id) == over.piece.id:
                continue
            if shapely.covers(cut[over.piece.id], under.work.region):
                names = f"{under.piece.name} would lie wholly under the cloth of {over.piece.name}"
                raise BadInput(f"{names} and not be seen.")


def free_number(job: Job) -> int:
    """A number greater than that of every shape and piece of a job."""
    ids = [one.id for one in job.shapes] + [one.id for one in job.pieces]
    return 1 + max((int(one[1:]) for one in ids if one[1:].isdecimal()), default=0)
