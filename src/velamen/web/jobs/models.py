"""Jobs and their revisions."""

from django.conf import settings
from django.db import models

from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.reading import stored_job, write_job
from velamen.core.memo import worked_out
from velamen.web.accounts.models import Shop
from velamen.web.jobs.needle_lists import attached
from velamen.web.jobs.packing import unpacked


class Unreadable(BadInput):
    """A saved document that cannot be read any more."""


class Job(models.Model):
    """A piece of work of one shop; head is the revision that is shown.

    base, pieces, picture: of that revision, for the board; thumb: a picture as packed SVG, of the revision with the
    digest `thumb_of`; binned: when it was put into the bin, None while it is not there.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="jobs")
    name = models.CharField(max_length=80)
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    base = models.CharField(max_length=120, default="")
    pieces = models.PositiveIntegerField(default=0)
    picture = models.CharField(max_length=32, default="")
    thumb = models.BinaryField(default=b"")
    thumb_of = models.CharField(max_length=32, default="")
    binned = models.DateTimeField(null=True, default=None, db_index=True)
    created = models.DateTimeField(auto_now_add=True)
    updated = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-updated", "-id"]

    def __str__(self) -> str:
        return self.name


class Source(models.Model):
    """A file that was brought in to be chosen from or traced, as it came; shown: a picture made upright and small."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="sources")
    key = models.CharField(max_length=32)
    name = models.CharField(max_length=120)
    kind = models.CharField(
        max_length=8, choices=[("picture", "picture"), ("vector", "vector"), ("stitches", "stitches")]
    )
    unit = models.CharField(max_length=2, blank=True)
    data = models.BinaryField()
    shown = models.BinaryField(default=b"")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "key"], name="one_source_a_shop")]

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One state of a job, never changed, and never deleted while the job exists but for the steps of one burst.

    burst: names what quick edits after one another are one step of, as nudges of the same shapes are.
    aside: a version kept from a conflict, outside the line of undo and redo; packed: the document, as what differs
    from that of the revision `base` where there is one.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="children")
    packed = models.BinaryField(default=b"")
    base = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")
    digest = models.CharField(max_length=32)
    label = models.CharField(max_length=120)
    aside = models.BooleanField(default=False)
    burst = models.CharField(max_length=32, default="")
    author = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_number_a_job")]

    def __str__(self) -> str:
        return f"{self.job} {self.number}"

    @property
    def data(self) -> bytes:
        """The job document as it was written."""
        return unpacked(bytes(self.packed), self.base.data if self.base is not None else None)

    def read(self) -> Document:
        """The job document of this revision, read once: neither ever changes."""
        try:
            return self._document
        except BadInput as error:
            raise Unreadable(str(error)) from None

    @worked_out
    def _document(self) -> Document:
        return attached(self.job.shop_id, stored_job(self.data))

    @property
    def whole(self) -> bytes:
        """The job document with its needle points, as it goes elsewhere; as it was written where it has none."""
        try:
            return write_job(document) if (document := self.read()).needles else self.data
        except Unreadable:
            return self.data
