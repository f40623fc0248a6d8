"""Needle points of a piece edited: those of a list as one likes, those of a matched pass one by one."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from velamen.core.arrays import Array, Mask, stretches
from velamen.core.building.build import build_job
from velamen.core.building.built_piece import BuiltPiece
from velamen.core.building.by_hand import left_of, over_passes, points_of
from velamen.core.building.sewn import given_of, sewn
from velamen.core.constructions import constructions, sewn_pieces
from velamen.core.edits.shapes.bring_in import MAX_PIECES
from velamen.core.edits.shapes.needle_shapes import needle_strands, with_other_needles
from velamen.core.edits.stack.pieces import free_number, place_of
from velamen.core.errors import BadInput
from velamen.core.geometry.region import boundaries
from velamen.core.geometry.sewn_outline import outline_round
from velamen.core.job.document import ByHand, Job, Piece, change
from velamen.core.job.needles import MOST_POINTS, Strands, needles_key, needles_of
from velamen.core.job.shape import Shape, in_frame, out_of_frame, reshaped
from velamen.core.stitching import needle_edits
from velamen.core.stitching.needle_edits import Edited
from velamen.core.stitching.needle_strands import ROLES, SEWN
from velamen.core.stitching.roles import ROLES as CODED
from velamen.core.timeline.passes import Pass

Numbers = Mapping[str, float]
FARTHEST = 1000.0  # mm from the middle of the field
DEGREES = np.pi / 180.0


def _turn(strands: Strands, chosen: Mask, numbers: Numbers) -> Edited:
    angle = numbers["degrees"] * DEGREES
    spin = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return needle_edits.about_middle(strands, chosen, spin)


EDITS: Mapping[str, Callable[[Strands, Mask, Numbers], Edited]] = {
    "move": lambda strands, chosen, by: needle_edits.transformed(
        strands, chosen, np.eye(2), np.array([by["dx"], by["dy"]])),
    "turn": _turn,
    "sideways": lambda strands, chosen, by: needle_edits.about_middle(strands, chosen, np.diag([-1.0, 1.0])),
    "upright": lambda strands, chosen, by: needle_edits.about_middle(strands, chosen, np.diag([1.0, -1.0])),
    "duplicate": lambda strands, chosen, by: needle_edits.copied(strands, chosen, np.array([by["dx"], by["dy"]])),
    "delete": lambda strands, chosen, by: needle_edits.deleted(strands, chosen),
    "thin": lambda strands, chosen, by: needle_edits.thinned(strands, chosen, by["least"]),
    "insert": lambda strands, chosen, by: needle_edits.filled_in(strands, chosen),
    "cut": lambda strands, chosen, by: needle_edits.cut(strands, chosen),
    "join": lambda strands, chosen, by: needle_edits.joined(strands, chosen),
}  # fmt: skip
"""Edits of the needle points of a list, by name. Numbers: dx, dy, least in mm, degrees clockwise."""
BY_HAND = ("move", "delete")
"""Those that matched passes know too."""


def points_of_piece(built: BuiltPiece) -> Strands:
    """The needle points of a piece as they are sewn, all its passes one after another."""
    strands = [strand for each in built.sewn for strand in each.strands]
    if not strands:
        return Strands(np.zeros((0, 2)), np.zeros(0, dtype=np.uint8), ROLES, np.zeros(0, dtype=np.int64))
    codes = np.array([ROLES.index(one) if one in ROLES else SEWN for one in CODED], dtype=np.uint8)
    return Strands(
        np.concatenate([one.xy for one in strands]), codes[np.concatenate([one.role for one in strands])], ROLES,
        np.array([len(one.xy) for one in strands], dtype=np.int64),
    )  # fmt: skip


def mask_of(ranges: Sequence[tuple[int, int]], points: int) -> Mask:
    """Chosen points by first and last number of stretches of them. Raises BadInput for any that is not there."""
    mask = np.zeros(points, dtype=bool)
    for first, last in ranges:
        if not 0 <= first <= last < points:
            raise BadInput("The chosen needle points are others by now: choose them again.")
        mask[first : last + 1] = True
    return mask


def ranges_of(mask: Mask) -> list[tuple[int, int]]:
    """First and last number of every stretch of chosen points."""
    return [(first, past - 1) for first, past in stretches(mask).tolist()]


def edited(
    job: Job, piece_id: str, do: str, ranges: Sequence[tuple[int, int]], numbers: Numbers
) -> tuple[Job, list[tuple[int, int]]]:
    """The job with chosen points of a piece edited, and the ranges of what is chosen then.

    Of a matched piece single points are moved or left out, and stay so as long as its passes have the same points.
    """
    piece = job.pieces[place_of(job.pieces, piece_id)]
    shape = next((one for one in job.shapes if one.id == piece.shape), None)
    if do not in EDITS:
        raise BadInput(f"Needle points cannot be edited by {do[:20]!r}: reload the page.")
    if shape is None or not shape.needles or not constructions()[piece.construct].needles:
        return _by_hand(job, piece_id, do, ranges, numbers)
    kept = needle_strands(job, shape)
    lying = kept._replace(xy=in_frame(kept.xy, shape.placed))
    after = EDITS[do](lying, mask_of(ranges, len(lying.xy)), numbers)
    if len(after.strands.xy) > MOST_POINTS:
        raise BadInput(
            f"{piece.name} would have {len(after.strands.xy):,} needle points: {MOST_POINTS:,} fit in one."
        )
    if float(np.abs(after.strands.xy).max()) > FARTHEST:
        raise BadInput(f"Needle points of {piece.name} would lie over {FARTHEST:g} mm from the middle of the field.")
    back = after.strands._replace(xy=out_of_frame(after.strands.xy, shape.placed))
    return with_other_needles(job, shape, back), ranges_of(after.chosen)


def _by_hand(
    job: Job, piece_id: str, do: str, ranges: Sequence[tuple[int, int]], numbers: Numbers
) -> tuple[Job, list[tuple[int, int]]]:
    """Points of a matched piece moved or left out, laid over what its values come to."""
    built = build_job(job).piece(piece_id)
    if built is None or not built.sewn:
        raise BadInput("That piece has no stitches any more: reload the page.")
    if do not in BY_HAND:
        raise BadInput(
            f"Only single points of {built.piece.name} can be moved or deleted: turn it into needle points first."
        )
    raw = sewn(given_of(built.piece, built.work, built.values, built.operations))
    known = {one.part: one for one in built.piece.by_hand}
    chosen = mask_of(ranges, points_of(built.sewn))
    first = 0
    for operation in built.operations:
        passes: tuple[Pass, ...] = raw.get(operation.key, ())
        if not passes:
            continue
        before = known.get(operation.part)
        if before is not None and before.points != points_of(passes):
            before = None
        left = left_of(passes, before)
        mine = chosen[first : first + len(left)]
        first += len(left)
        if mine.any():
            one = before or ByHand(operation.part, points_of(passes))
            known[operation.part] = _more(one, left[mine].tolist(), do, numbers)
    after = change(built.piece, by_hand=list(known.values()))
    if not any(each.strands for found in over_passes(after, raw)[0].values() for each in found):
        raise BadInput(f"Nothing would be left of {after.name}: remove the piece instead.")
    pieces = [after if one.id == piece_id else one for one in job.pieces]
    return change(job, pieces=pieces), list(ranges) if do == "move" else []


def _more(one: ByHand, points: Sequence[int], do: str, numbers: Numbers) -> ByHand:
    if do == "delete":
        return change(one, gone=sorted({*one.gone, *points}))
    moved = dict(one.moved)
    for nth in points:
        x, y = moved.get(str(nth), (0.0, 0.0))
        moved[str(nth)] = (round(x + numbers["dx"], 3), round(y + numbers["dy"], 3))
    return change(one, moved=moved)


def line_of(built: BuiltPiece, ranges: Sequence[tuple[int, int]]) -> Array:
    """The chosen needle points of a piece as one line (n, 2). Raises BadInput where they are no single stretch."""
    points = points_of_piece(built)
    chosen = np.flatnonzero(mask_of(ranges, len(points.xy)))
    owner = np.repeat(np.arange(len(points.counts)), points.counts)
    if len(chosen) < 3 or (np.diff(chosen) > 1).any() or len(np.unique(owner[chosen])) > 1:
        raise BadInput("Choose one stretch of a thread, three needle points or more, to keep it as a motif.")
    return points.xy[chosen]


def hand_changes_let_go(job: Job, piece_id: str) -> Job:
    """The job with a piece sewn as its values say, what was changed by hand of it let go."""
    nth = place_of(job.pieces, piece_id)
    pieces = [change(one, by_hand=[]) if one.id == piece_id else one for one in job.pieces]
    return change(job, pieces=pieces) if job.pieces[nth].by_hand else job


def as_needle_points(job: Job, piece_id: str) -> Job:
    """The job with the needle points of a piece in its place, a piece for each of its threads. Its values are gone.

    Raises BadInput where hands work between its passes: needle points know of no stops.
    """
    built = build_job(job).piece(piece_id)
    if built is None or not built.sewn:
        raise BadInput("That piece has no stitches that could become needle points.")
    if any(one.does for one in built.operations):
        raise BadInput(f"{built.piece.name} is laid or trimmed by hand between its passes, which needle points know "
                       "nothing of: turn what lies on it into needle points instead.")  # fmt: skip
    pieces = list(sewn_pieces(job))
    nth = place_of(pieces, piece_id)
    kind = next(one for one in constructions().values() if one.needles)
    groups: list[list[Pass]] = []
    for each in built.sewn:
        if groups and groups[-1][-1].thread == each.thread:
            groups[-1].append(each)
        else:
            groups.append([each])
    if len(pieces) + len(groups) > MAX_PIECES:
        raise BadInput(f"The job would have too many pieces: at most {MAX_PIECES} fit into one.")
    # The first keeps the ids, so that what names the piece or its shape still does.
    shared = any(one.shape == built.piece.shape and one.id != piece_id for one in pieces)
    shapes = {one.id: one for one in job.shapes}
    needles, made = dict(job.needles), list[Piece]()
    for group in groups:
        free = free_number(change(job, pieces=[*pieces, *made], shapes=list(shapes.values())))
        key = built.piece.shape if not made and built.piece.shape and not shared else f"s{free}"
        name = built.piece.name if len(groups) == 1 else f"{built.piece.name} {len(made) + 1}"
        strands = points_of_piece(_only(built, group))
        listed = needles_of(strands)
        needles[needles_key(listed)] = listed
        plain = reshaped(Shape(key, name, []), boundaries(outline_round(strands.xy, strands.counts)))
        shapes[key] = change(plain, needles=needles_key(listed))
        made.append(change(
            built.piece, id=f"p{free}" if made else piece_id, name=name, shape=key, construct=kind.name, own={},
            around=[], thread=group[0].thread, threads={}, local=[], by_hand=[], start=None, end=None,
        ))  # fmt: skip
    pieces[nth : nth + 1] = made
    return change(job, pieces=pieces, shapes=list(shapes.values()), needles=needles)


def _only(built: BuiltPiece, passes: Sequence[Pass]) -> BuiltPiece:
    """A built piece with some of its passes alone."""
    key = built.operations[0].key
    return BuiltPiece(built.piece, built.work, built.values, built.operations[:1], {key: tuple(passes)})
