"""A patch taken apart into the plain pieces it consists of."""

from __future__ import annotations

from velamen.core.building.build import build_job
from velamen.core.constructions import construction, lays_cloth, sewn_pieces
from velamen.core.edits.shapes.bring_in import MAX_PIECES
from velamen.core.edits.stack.grounds import frozen
from velamen.core.edits.stack.pieces import free_number, place_of
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece, change
from velamen.core.values.value import plain_values


def taken_apart(job: Job, piece_id: str) -> Job:
    """The job with a piece as the plain ones it consists of: those before its decoration, and those after it."""
    built = build_job(job).piece(piece_id)
    if built is None or built.kind.apart is None:
        raise BadInput("That piece is not made of others: there is nothing to take apart.")
    under, over = built.kind.apart(plain_values(built.values))
    if not built.piece.shape:
        nth = place_of(sewn_pieces(job), piece_id)
        job = frozen(job, piece_id)
        return taken_apart(job, job.pieces[nth].id)
    piece = built.piece
    if not under and not over:
        raise BadInput(f"Nothing is sewn of {piece.name}: there is nothing to take apart.")
    if len(job.pieces) + len(under) + len(over) - 1 > MAX_PIECES:
        raise BadInput(f"The job has {len(job.pieces)} pieces: at most {MAX_PIECES} fit into one.")
    free = free_number(job)
    names = iter([piece.id, *(f"p{free + nth}" for nth in range(len(under) + len(over)))])

    def part(construct: str, own: dict[str, float | str | bool]) -> Piece:
        title = construction(construct).title
        return change(piece, id=next(names), construct=construct, own=own, name=f"{piece.name}, {title.lower()}",
                      threads={}, start=None, end=None)  # fmt: skip

    below = [part(construct, dict(own)) for construct, own in under]
    above = [part(construct, dict(own)) for construct, own in over]
    decorating = [nth for nth, one in enumerate(job.pieces) if one.on == piece.id]
    nth = place_of(job.pieces, piece.id)
    last = max([nth, *decorating])
    pieces = [*job.pieces[:nth], *below, *job.pieces[nth + 1 : last + 1], *above, *job.pieces[last + 1 :]]
    return change(job, pieces=_let_go(pieces, piece.id, lays=bool(below) and lays_cloth(below[0])))


def _let_go(pieces: list[Piece], host: str, lays: bool) -> list[Piece]:
    """Pieces that decorated one which lays no cloth any more, on nothing of their own."""
    return pieces if lays else [change(one, on="") if one.on == host else one for one in pieces]
