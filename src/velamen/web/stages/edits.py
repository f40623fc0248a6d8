"""Edits of a job document: pure changes, then one save on top of the revision they saw."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from velamen.core.building.job_materials import made_of, take_rows
from velamen.core.building.works import check_pieces
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.core.job.reading import check_job, stored_job, write_job
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


def save_edit(
    request: Any, job: stored.Job, edit: Callable[[Job], Job], label: str, burst: str = "", follows: bool = False
) -> stored.Job:
    """Applies an edit to the revision the person saw and saves it; unchanged documents are not saved.

    burst: as history.save takes it; follows: live shapes have followed already.
    """
    base = seen_revision(request, job)
    document = _seen(job, base).read()
    after = edit(document) if follows else followed(edit(document), document)
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


def with_file(document: Job, data: bytes, whole_brief: bool = False, unit: str = "") -> tuple[Job, list[str]]:
    """The document with the regions of a vector file, and what is to be said of it.

    whole_brief: also choose the hoop; unit: of a DXF that does not say its own.
    """
    task = tasks.brought_in, write_job(document), data, whole_brief, unit
    after, notes = outside("Bringing in the artwork", *task)
    return stored_job(after), notes
