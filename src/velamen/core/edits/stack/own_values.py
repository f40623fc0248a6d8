"""Values of one's own: set on one piece or on several at once, or taken back to the matched ones."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from velamen.core.building.matched import matched_job
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece, change
from velamen.core.setting import Plain


def with_own(job: Job, piece_ids: Sequence[str], key: str, text: str | None) -> Job:
    """The job with a value set on every one of the pieces that knows it, or the matched one again where None.

    text: as typed; a value that matching gives by itself is not kept as one's own. Raises BadInput with the
    bounds where a piece cannot have it, and where none of the pieces knows it.
    """
    settings = {piece.id: setting for piece in sewn_pieces(job)
                if piece.id in piece_ids and (setting := construction(piece.construct).setting(key))}  # fmt: skip
    if not settings:
        raise BadInput(f"There is no value {key[:40]!r} on what is chosen: reload the page.")
    own = {piece.id: {name: value for name, value in piece.own.items() if name != key}
           for piece in sewn_pieces(job) if piece.id in settings}  # fmt: skip
    known = {piece.id for piece in sewn_pieces(job) if piece.id in settings and key in piece.own}
    free: Job = change(job, pieces=[_with(piece, own) for piece in sewn_pieces(job)])
    if text is None:
        return free
    fresh = settings.keys() - known
    matched = {one.piece.id: one.values[key].matched for one in (matched_job(free).pieces if fresh else ())
               if one.piece.id in fresh}  # fmt: skip
    for one, setting in settings.items():
        value = setting.read(text)
        if one in known or value != matched[one]:
            own[one][key] = value
    return change(free, pieces=[_with(piece, own) for piece in free.pieces])


def with_all_own(job: Job, piece_id: str, values: Mapping[str, Plain]) -> Job:
    """The job with several values set on one piece."""
    for key, value in values.items():
        job = with_own(job, [piece_id], key, str(value))
    return job


def with_values(job: Job, piece_id: str, values: Mapping[str, Plain]) -> Job:
    """The job with values of one's own on a piece, unread, since they come from its settings."""
    pieces = [change(one, own={**one.own, **values}) if one.id == piece_id else one for one in sewn_pieces(job)]
    return change(job, pieces=pieces)


def _with(piece: Piece, own: Mapping[str, dict[str, Plain]]) -> Piece:
    return change(piece, own=own[piece.id]) if piece.id in own else piece
