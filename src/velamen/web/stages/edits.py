"""Edits of a job document: pure changes, then one save on top of the revision they saw."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from velamen.core.building.job_materials import made_of, take_rows
from velamen.core.building.works import check_pieces
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece, change
from velamen.core.job.reading import check_job, stored_job, write_job
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.library import Library, pick
from velamen.web.accounts.models import Shop
from velamen.web.jobs import history
from velamen.web.jobs import models as stored
from velamen.web.library.rows import shop_library
from velamen.web.work import tasks
from velamen.web.work.outside import outside


def seen_document(request: Any, job: stored.Job) -> Job:
    """The document that the person's form was made from."""
    return _seen(job, seen_revision(request, job)).read()


def _seen(job: stored.Job, number: int) -> stored.Revision:
    """A revision by number, the newest where it is gone."""
    known = job.head if job.head.number == number else job.revisions.filter(number=number).first()
    return known or job.head


def save_edit(request: Any, job: stored.Job, edit: Callable[[Job], Job], label: str, burst: str = "") -> stored.Job:
    """Applies an edit to the revision the person saw and saves it; unchanged documents are not saved.

    burst: as history.save takes it.
    """
    base = seen_revision(request, job)
    document = _seen(job, base).read()
    after = followed(edit(document))
    changed = _checked(document, _with_new_rows(document, after, request.shop))
    if changed == document and base == job.head.number:
        return job
    return history.save(job, base, request.user, changed, label, burst)


def _checked(before: Job, after: Job) -> Job:
    """A document after an edit. Raises BadInput with what is wrong with it, unless that was so before."""
    try:
        return check_pieces(check_job(after))
    except BadInput as error:
        if str(error) != _wrong_with(before):
            raise
    return after


def _wrong_with(document: Job) -> str:
    try:
        check_pieces(check_job(document))
    except BadInput as error:
        return str(error)
    return ""


def _with_new_rows(before: Job, after: Job, shop: Shop) -> Job:
    """A document with the rows of a shop's library that it has come to name."""
    known = made_of(before)
    new = {kind: fresh for kind, keys in made_of(after).items() if (fresh := keys - known.get(kind, set()))}
    return take_rows(after, shop_library(shop), new) if new else after


def choose_new(request: Any, before: Job, job: stored.Job) -> None:
    """Has the next page of Artwork show the shapes chosen that a job did not have before."""
    known = {shape.id for shape in before.shapes}
    request.session["brought_in"] = [one.id for one in job.head.read().shapes if one.id not in known]


def seen_revision(request: Any, job: stored.Job) -> int:
    """The revision number the form was made from."""
    text = request.POST.get("revision", "")
    if not text.isdecimal() or len(text) > 9:
        raise BadInput("The form does not say which version it belongs to: reload the page.")
    return int(text)


def piece_of(document: Job, piece_id: str) -> Piece | None:
    """A piece by id."""
    return next((piece for piece in sewn_pieces(document) if piece.id == piece_id), None)


def with_piece(document: Job, piece: Piece) -> Job:
    """The document with a piece replaced by another of the same id."""
    return change(document, pieces=[piece if one.id == piece.id else one for one in sewn_pieces(document)])


def set_makeup(
    document: Job, piece_id: str, name: str, cloth: str, thread: str, construct: str, library: Library
) -> Job:
    """Names a piece and gives it cloth, thread and construction, each where something is given.

    thread: "nearest" takes the one nearest to the cloth. A newly chosen cloth or thread is taken as the library
    has it now.
    """
    piece = wanted_piece(document, piece_id)
    known, cloth = document.library, cloth or piece.cloth
    if cloth != piece.cloth:
        colour = pick(library.cloths, cloth, "cloth").colour
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
    own = {key: value for key, value in piece.own.items() if kind.setting(key)}
    return with_piece(
        document, change(piece, name=name, cloth=cloth, thread=thread, construct=kind.name, own=own)
    )  # fmt: skip


def with_cloth(document: Job, ids: list[str], cloth: str, library: Library) -> Job:
    """Chosen shapes' pieces on another cloth, each with the thread nearest to it."""
    pieces = [piece for piece in document.pieces if piece.shape in ids]
    if not pieces:
        raise BadInput("Choose at least 1 shape first: open lines have no cloth.")
    for piece in pieces:
        document = set_makeup(document, piece.id, "", cloth, "nearest", "", library)
    return document


def with_file(document: Job, data: bytes, whole_brief: bool = False, unit: str = "") -> tuple[Job, list[str]]:
    """The document with the regions of a vector file, and what is to be said of it.

    whole_brief: also choose the hoop; unit: of a DXF that does not say its own.
    """
    task = tasks.brought_in, write_job(document), data, whole_brief, unit
    after, notes = outside("Bringing in the artwork", *task)
    return stored_job(after), notes


def wanted_piece(document: Job, piece_id: str) -> Piece:
    """A piece by id, or a sentence."""
    piece = piece_of(document, piece_id)
    if piece is None:
        raise BadInput("That piece is no longer in the job: reload the page.")
    return piece
