"""Try-outs as they stand in the database: what was asked, and what has come of it so far."""

from __future__ import annotations

from django.db import models

from velamen.web.jobs.models import Job, Revision

KEPT_PER_SHOP = 24


class TryOut(models.Model):
    """Values of a piece tried on a revision. asked: pairs of a value's key and the list as it was typed."""

    token = models.CharField(max_length=32, unique=True)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="try_outs")
    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="try_outs")
    piece = models.CharField(max_length=80)
    name = models.CharField(max_length=120)  # of the piece
    asked = models.JSONField()
    count = models.PositiveSmallIntegerField()
    wrong = models.TextField(default="")  # why there is no answer
    ready = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]

    def __str__(self) -> str:
        return f"{self.name}, {self.count} variants"


class TriedVariant(models.Model):
    """What came of one variant. figures: as its row shows them; box, close_box: mm that its pictures show."""

    try_out = models.ForeignKey(TryOut, on_delete=models.CASCADE, related_name="tried")
    nth = models.PositiveSmallIntegerField()
    figures = models.JSONField()
    box = models.JSONField(default=list)
    close_box = models.JSONField(default=list)
    picture = models.BinaryField(default=b"")
    close = models.BinaryField(default=b"")

    class Meta:
        ordering = ["nth"]
        constraints = [models.UniqueConstraint(fields=["try_out", "nth"], name="one_variant_a_place")]

    def __str__(self) -> str:
        return f"{self.try_out}: {self.nth}"


def forget_old(job: Job) -> None:
    """Drops the try-outs of a shop that nobody will come back to."""
    old = TryOut.objects.filter(job__shop=job.shop_id).values_list("pk", flat=True)[KEPT_PER_SHOP:]
    TryOut.objects.filter(pk__in=list(old)).delete()
