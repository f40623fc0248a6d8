"""Values of one's own: set on one piece or on several at once, or taken back to the matched ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from velamen.core.constructions import construction
from velamen.core.errors import BadInput
from velamen.core.job import Job, Piece, change
from velamen.core.matched import matched_job
from velamen.core.setting import Plain


def with_own(job: Job, piece_ids: Sequence[str], key: str, text: str | None) -> Job:
    """The job with a value set on every one of the pieces that knows it, or the matched one again where None.

    text: as typed; a value that matching gives by itself is not kept as one's own. Raises BadInput with the
    bounds where a piece cannot have it, and where none of the pieces knows it.
    """
    wanted = {piece.id: piece for piece in job.sewn
              if piece.id in piece_ids and construction(piece.construct).setting(key)}  # fmt: skip
    if not wanted:
        raise BadInput(f"There is no value {key[:40]!r} on what is chosen: reload the page.")
    own = {piece.id: {name: value for name, value in piece.own.items() if name != key} for piece in wanted.values()}
    free: Job = change(job, pieces=[_with(piece, own) for piece in job.sewn])
    if text is None:
        return free
    for one in matched_job(free):
        piece = wanted.get(one.piece.id)
        if piece is not None:
            value = one.values[key].setting.read(text)
            if key in piece.own or value != one.values[key].matched:
                own[piece.id][key] = value
    return change(free, pieces=[_with(piece, own) for piece in free.pieces])  # type: ignore[no-any-return]


def with_all_own(job: Job, piece_id: str, values: Mapping[str, Plain]) -> Job:
    """The job with several values set on one piece."""
    for key, value in values.items():
        job = with_own(job, [piece_id], key, str(value))
    return job


def with_values(job: Job, piece_id: str, values: Mapping[str, Plain]) -> Job:
    """The job with values of one's own on a piece, unread, since they come from its settings."""
    pieces = [change(one, own={**one.own, **values}) if one.id == piece_id else one for one in job.sewn]
    return change(job, pieces=pieces)  # type: ignore[no-any-return]


def _with(piece: Piece, own: Mapping[str, dict[str, Plain]]) -> Piece:
    return change(piece, own=own[piece.id]) if piece.id in own else piece
