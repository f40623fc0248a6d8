"""Saving by append-only revisions: undo, redo, and conflicts that keep both versions."""

from __future__ import annotations

import hashlib
from typing import Any

from django.db import transaction
from django.db.models import Max

from velamen.core.job.document import Job as Document
from velamen.core.job.reading import write_job
from velamen.web.accounts.models import Shop
from velamen.web.jobs.models import Job, Revision


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


def save(job: Job, base: int, user: Any, document: Document, label: str) -> Job:
    """Appends a revision on top of revision number `base`.

    Raises Conflict when the job has moved on since; the version is kept aside then.
    """
    with transaction.atomic():
        job = _locked(job)
        if job.head.number == base:
            return _advance(job, user, document, label)
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


def _move(job: Job, base: int, where: Any) -> Job:
    with transaction.atomic():
        job = _locked(job)
        if job.head.number == base:
            target = where(job.head)
            if target is not None:
                job.head = target
                job.name = target.read().name
                job.save()
            return job
    raise Conflict(job.head, None)


def _advance(job: Job, user: Any, document: Document, label: str) -> Job:
    job.head = _append(job, job.head, user, document, label, aside=False)
    job.name = document.name
    job.save()
    return job


def _append(job: Job, parent: Revision | None, user: Any, document: Document, label: str, aside: bool) -> Revision:
    data = write_job(document)
    last = job.revisions.aggregate(last=Max("number"))["last"] or 0
    return Revision.objects.create(
        job=job, number=last + 1, parent=parent, document=data.decode(), label=label[:120], aside=aside,
        author=user if getattr(user, "is_authenticated", False) else None,
        digest=hashlib.blake2b(data, digest_size=16).hexdigest(),
    )  # fmt: skip
