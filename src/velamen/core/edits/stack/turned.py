"""A piece of cloth made another construction of cloth, what is sewn on it left on top."""

from __future__ import annotations

from velamen.core.constructions import construction, lays_cloth
from velamen.core.edits.stack.pieces import place_of
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change


def turned_into(job: Job, piece_id: str, construct: str) -> Job:
    """The job with a piece of cloth sewn as a construction that can be made of one; its own values are dropped."""
    nth = place_of(job.pieces, piece_id)
    piece, kind = job.pieces[nth], construction(construct)
    if kind.of_cloth is None or not lays_cloth(piece) or not piece.shape or piece.construct == kind.name:
        raise BadInput(f"{piece.name} cannot be made {kind.title.lower()}: only another piece of cloth can.")
    own = {key: value for key, value in piece.own.items() if kind.setting(key)}
    made = change(piece, construct=kind.name, own=own, local=[], threads={}, start=None, end=None)
    return change(job, pieces=[*job.pieces[:nth], made, *job.pieces[nth + 1 :]])
