"""Saving by append-only revisions: undo, redo, and conflicts that keep both versions."""

from __future__ import annotations

import hashlib
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import Max, Q
from django.utils import timezone

from velamen.core.job.document import Job as Document
from velamen.core.job.reading import without_needles, write_job
from velamen.web.accounts.models import Shop
from velamen.web.jobs import needle_lists
from velamen.web.jobs.models import Job, Revision
from velamen.web.jobs.packing import difference, whole

QUICK = timedelta(seconds=2)  # between the edits of a burst


class Conflict(Exception):
    """Somebody saved in between. kept: the revision that holds the version just refused."""

    def __init__(self, head: Revision, kept: Revision | None) -> None:
        super().__init__("saved in between")
        self.head = head
        self.kept = kept


@transaction.atomic
def create(shop: Shop, user: Any, document: Document, label: str = "Job begun") -> Job:
    """A new job with its first revision."""
    job = Job.objects.create(shop=shop, name=document.name)
    return _advance(job, user, document, label)


def _locked(job: Job) -> Job:
    return Job.objects.select_for_update().select_related("head").get(pk=job.pk)


def save(job: Job, base: int, user: Any, document: Document, label: str, burst: str = "") -> Job:
    """Appends a revision on top of revision number `base`.

    burst: one that follows quickly under the same name takes the place of the one before, so that both are one step.
    Raises Conflict when the job has moved on since; the version is kept aside then.
    """
    with transaction.atomic():
        job = _locked(job)
        if job.head.number == base:
            return _advance(job, user, document, label, burst)
        parent = job.revisions.filter(number=base).first() or job.head
        kept = _append(job, parent, user, document, label, aside=True)
    raise Conflict(job.head, kept)


def undo(job: Job, base: int) -> Job:
    """Shows the revision before; the one undone stays."""
    return _move(job, base, lambda head: head.parent)


def redo(job: Job, base: int) -> Job:
    """Shows the newest revision that followed."""
    return _move(job, base, following)


def following(head: Revision) -> Revision | None:
    """The revision that redo would show."""
    return head.children.filter(aside=False).order_by("-number").first()


def take(job: Job, number: int, user: Any) -> Job:
    """Appends a copy of an earlier or set-aside revision as the newest."""
    with transaction.atomic():
        job = _locked(job)
        kept = job.revisions.get(number=number)
        return _advance(job, user, kept.read(), f"Version {number} taken")


def packed_on(data: bytes, parent: Revision | None) -> tuple[bytes, Revision | None]:
    """A document packed, and the whole revision that it is packed against, None where it is whole itself."""
    base = parent and (parent.base or parent)
    less = difference(data, base.data, len(base.packed)) if base else None
    return (whole(data), None) if less is None else (less, base)


def _move(job: Job, base: int, where: Any) -> Job:
    with transaction.atomic():
        job = _locked(job)
        if job.head.number == base:
            target = where(job.head)
            if target is not None:
                _show(job, target, target.read())
            return job
    raise Conflict(job.head, None)


def _advance(job: Job, user: Any, document: Document, label: str, burst: str = "") -> Job:
    step = job.head if burst and _goes_on(job.head, user, burst) else None
    parent = step.parent if step else job.head
    _show(job, _append(job, parent, user, document, label, aside=False, burst=burst), document)
    if step is not None:
        step.delete()
    return job


def _goes_on(head: Revision, user: Any, burst: str) -> bool:
    """Whether an edit is the next of the burst that a revision is the last of, and nothing else holds on to that."""
    return (
        head.burst == burst
        and head.author_id == getattr(user, "pk", None)
        and timezone.now() - head.created < QUICK
        and head.parent_id is not None
        and not Revision.objects.filter(Q(parent=head) | Q(base=head)).exists()
        and not head.handed.exists()
        and not head.try_outs.exists()
    )


def _show(job: Job, revision: Revision, document: Document) -> None:
    """Makes a revision the one that is shown, with what the board says of it."""
    job.head, job.name = revision, document.name
    job.base, job.pieces = document.library.bases[document.brief.base].name, len(document.pieces)
    job.picture = document.backdrop.picture if document.backdrop and not document.pieces else ""
    job.save(update_fields=["head", "name", "base", "pieces", "picture", "updated"])


def _append(
    job: Job, parent: Revision | None, user: Any, document: Document, label: str, aside: bool, burst: str = ""
) -> Revision:
    needle_lists.keep(job.shop_id, document)
    data = write_job(without_needles(document))
    last = job.revisions.aggregate(last=Max("number"))["last"] or 0
    packed, base = packed_on(data, parent)
    return Revision.objects.create(
        job=job, number=last + 1, parent=parent, packed=packed, base=base, label=label[:120], aside=aside,
        burst=burst, author=user if getattr(user, "is_authenticated", False) else None,
        digest=hashlib.blake2b(data, digest_size=16).hexdigest(),
    )  # fmt: skip
