"""What a piece is made of: its name, cloth, thread and construction, as they are chosen."""

from __future__ import annotations

from velamen.core.building.job_materials import take_rows
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.constructions.base import Construction
from velamen.core.edits.shapes.bring_in import free_name_among
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece, change
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.library import Library, pick


def piece_of(document: Job, piece_id: str) -> Piece | None:
    """A piece by id."""
    return next((piece for piece in sewn_pieces(document) if piece.id == piece_id), None)


def wanted_piece(document: Job, piece_id: str) -> Piece:
    """A piece by id, or a sentence."""
    piece = piece_of(document, piece_id)
    if piece is None:
        raise BadInput("That piece is no longer in the job: reload the page.")
    return piece


def with_piece(document: Job, piece: Piece) -> Job:
    """The document with a piece replaced by another of the same id."""
    return change(document, pieces=[piece if one.id == piece.id else one for one in sewn_pieces(document)])


def set_makeup(
    document: Job, piece_id: str, name: str, cloth: str, thread: str, construct: str, library: Library
) -> Job:
    """Names a piece and gives it cloth, thread and construction, each where something is given.

    thread: "nearest" takes the one nearest to the cloth; one that was nearest to its cloth follows it to another.
    A newly chosen cloth or thread is taken as the library has it now.
    """
    piece = wanted_piece(document, piece_id)
    known, cloth = document.library, cloth or piece.cloth
    if cloth != piece.cloth:
        colour = pick(library.cloths, cloth, "cloth").colour
        thread = "nearest" if thread in ("", piece.thread) and _follows(piece, known, library) else thread
        document = take_rows(document, library, {"cloths": {cloth}})
    else:
        colour = known.cloths[cloth].colour
    if thread == "nearest":
        thread = nearest_thread(colour, library).key
    thread = thread or piece.thread
    if thread != piece.thread:
        pick(library.threads, thread, "thread")
        document = take_rows(document, library, {"threads": {thread}})
    name = " ".join(name.split())[:60] or piece.name
    kind = construction(construct or piece.construct)
    if name == piece.name:
        name = _named_anew(document, piece, kind)
    own = {key: value for key, value in piece.own.items() if kind.setting(key)}
    local = piece.local if kind.name == piece.construct else []
    return with_piece(
        document, change(piece, name=name, cloth=cloth, thread=thread, construct=kind.name, own=own, local=local)
    )  # fmt: skip


def _named_anew(document: Job, piece: Piece, kind: Construction) -> str:
    """The name of a piece that becomes another kind: one called after its kind is called after the new one."""
    old, number = construction(piece.construct).title, piece.name.rstrip("0123456789").rstrip()
    if kind.title == old or old not in (piece.name, number):
        return piece.name
    return free_name_among({one.name for one in document.pieces if one is not piece}, kind.title)


def _follows(piece: Piece, *libraries: Library) -> bool:
    """Whether the thread of a piece is the one nearest to the cloth it lays, so that nobody chose another."""
    laid = libraries[0].cloths.get(piece.cloth)
    if laid is None or "cloth" not in construction(piece.construct).materials:
        return False
    return piece.thread in {nearest_thread(laid.colour, one).key for one in libraries}


def with_cloth(document: Job, ids: list[str], cloth: str, library: Library) -> Job:
    """Chosen shapes' pieces on another cloth, each with the thread nearest to it unless another was chosen."""
    pieces = [piece for piece in document.pieces if piece.shape in ids]
    if not pieces:
        raise BadInput("Choose at least 1 shape first: open lines have no cloth.")
    for piece in pieces:
        laid = "cloth" in construction(piece.construct).materials
        document = set_makeup(document, piece.id, "", cloth, "" if laid else "nearest", "", library)
    return document
