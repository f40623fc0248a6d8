"""Values of one's own at single places of a piece: set there, or taken back to what the piece has by itself."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.arrays import Place
from velamen.core.constructions import construction
from velamen.core.edits.stack.makeup import wanted_piece, with_piece
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Local, change, local_at
from velamen.core.setting import Plain

MOST = 200  # places of a piece


def with_local(job: Job, piece_id: str, at: Place, typed: Mapping[str, str]) -> Job:
    """The job with values of a piece set at a place; by no values that place is as it is by itself again.

    typed: texts by key of a local setting. Raises BadInput with the bounds, and where the piece has no such values.
    """
    piece = wanted_piece(job, piece_id)
    kind = construction(piece.construct)
    read: dict[str, Plain] = {}
    for key, text in typed.items():
        setting = kind.local.setting(key) if kind.local else None
        if setting is None:
            raise BadInput(f"There is no value {key[:40]!r} at a place of {piece.name}: reload the page.")
        read[key] = setting.read(text)
    here = local_at(piece.local, at)
    others = [one for one in piece.local if one is not here]
    if not read:
        return with_piece(job, change(piece, local=others))
    if len(others) >= MOST:
        raise BadInput(f"{piece.name} has values at {len(others)} places: at most {MOST} are kept.")
    own = {**(here.own if here else {}), **read}
    return with_piece(job, change(piece, local=[*others, Local(here.at if here else at, own)]))
