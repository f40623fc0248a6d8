"""Jobs put into the bin, put back, and deleted for good."""

from __future__ import annotations

from datetime import timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from velamen.web.accounts.models import Shop
from velamen.web.jobs.handed import HandedOver
from velamen.web.jobs.models import Job, Revision
from velamen.web.jobs.try_outs import TryOut

DAYS_IN_BIN = timedelta(days=30)


def put_in(job: Job) -> None:
    """Puts a job into the bin, from which it comes back as it was."""
    Job.objects.filter(pk=job.pk).update(binned=timezone.now())


def put_back(job: Job) -> None:
    """Takes a job out of the bin."""
    Job.objects.filter(pk=job.pk).update(binned=None)


@transaction.atomic
def delete(jobs: QuerySet[Job]) -> int:
    """Deletes jobs for good, with all their revisions; how many."""
    found = list(jobs.values_list("pk", flat=True))
    Job.objects.filter(pk__in=found).update(head=None)
    HandedOver.objects.filter(job__in=found).delete()
    TryOut.objects.filter(job__in=found).delete()
    revisions = Revision.objects.filter(job__in=found)
    revisions.update(parent=None, base=None)
    revisions.delete()
    Job.objects.filter(pk__in=found).delete()
    return len(found)


def put_shop_in(shop: Shop) -> None:
    """Puts a shop into the bin: nobody works in it until it comes back."""
    Shop.objects.filter(pk=shop.pk).update(binned=timezone.now())


def put_shop_back(shop: Shop) -> None:
    """Takes a shop out of the bin."""
    Shop.objects.filter(pk=shop.pk).update(binned=None)


def empty_bins() -> int:
    """Deletes the jobs, and shops, whose days in the bin are over; how many jobs."""
    for shop in Shop.objects.filter(binned__lt=timezone.now() - DAYS_IN_BIN):
        delete_shop(shop)
    return delete(Job.objects.filter(binned__lt=timezone.now() - DAYS_IN_BIN))


@transaction.atomic
def delete_shop(shop: Shop) -> None:
    """Deletes a shop for good, with its jobs, files, library and people."""
    delete(Job.objects.filter(shop=shop))
    User.objects.filter(member__shop=shop).delete()
    shop.delete()
