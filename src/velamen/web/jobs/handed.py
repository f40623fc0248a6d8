"""Versions handed over: their files as they were written, byte for byte, whatever comes later."""

from __future__ import annotations

from collections.abc import Mapping

from django.conf import settings
from django.db import models, transaction
from django.db.models import Max

from velamen.web.jobs.models import Job, Revision
from velamen.web.jobs.packing import unpacked, whole


class HandedOver(models.Model):
    """A version that was handed over. number: of the job's, from 1; version: of the program that wrote its files."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="handed")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="handed")
    number = models.PositiveIntegerField()
    version = models.CharField(max_length=32)
    stitches = models.PositiveIntegerField()

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_handed_number_a_job")]

    def __str__(self) -> str:
        return f"{self.job}, handed over {self.number}"


class HandedFile(models.Model):
    """One file of a version handed over, packed."""

    handed = models.ForeignKey(HandedOver, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=40)
    packed = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["handed", "name"], name="one_file_a_name")]

    def __str__(self) -> str:
        return self.name


class Order(models.Model):
    """An order that a version was handed over for: the first one, and each that repeats it."""

    handed = models.ForeignKey(HandedOver, on_delete=models.CASCADE, related_name="orders")
    note = models.CharField(max_length=80, blank=True)
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created", "-pk"]

    def __str__(self) -> str:
        return self.note or f"{self.handed}"


@transaction.atomic
def freeze(revision: Revision, files: Mapping[str, bytes], version: str, stitches: int) -> HandedOver:
    """A version handed over with its files; the one that is known already where nothing has changed since."""
    job = Job.objects.select_for_update().get(pk=revision.job_id)
    newest = job.handed.first()
    if newest and newest.revision.digest == revision.digest and newest.version == version:
        return newest
    last = job.handed.aggregate(last=Max("number"))["last"] or 0
    made = HandedOver.objects.create(job=job, revision=revision, number=last + 1, version=version, stitches=stitches)
    HandedFile.objects.bulk_create(
        [HandedFile(handed=made, name=name, packed=whole(data)) for name, data in files.items()]
    )
    return made


def file_of(handed: HandedOver, name: str) -> bytes | None:
    """A file as it was handed over; None where there is no such file."""
    found = handed.files.filter(name=name).first()
    return unpacked(bytes(found.packed)) if found else None
