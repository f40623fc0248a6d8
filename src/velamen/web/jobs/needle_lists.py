"""Needle points of a shop's jobs, kept once by content beside the documents that name them."""

from __future__ import annotations

from collections import OrderedDict
from threading import Lock

import msgspec
from django.db import models

from velamen.core.job.document import Job as Document
from velamen.core.job.needles import Needles
from velamen.core.job.reading import needles_named, with_needles
from velamen.web.accounts.models import Shop
from velamen.web.jobs.packing import unpacked, whole

AT_HAND = 64  # lists kept in memory


class NeedleList(models.Model):
    """A list of needle points, packed, under the name that its content gives it. Never changed."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="needle_lists")
    key = models.CharField(max_length=32)
    packed = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["shop", "key"], name="one_needle_list_a_shop")]

    def __str__(self) -> str:
        return self.key


_known: OrderedDict[tuple[int, str], Needles] = OrderedDict()  # by shop and name, those wanted last at the end
_guard = Lock()


def keep(shop_id: int, document: Document) -> None:
    """Keeps the needle points that a document names, as far as they are not kept yet."""
    named = [key for key in needles_named(document) if key in document.needles]
    with _guard:
        new = [key for key in named if (shop_id, key) not in _known]
    there = (
        set(NeedleList.objects.filter(shop_id=shop_id, key__in=new).values_list("key", flat=True)) if new else set()
    )
    NeedleList.objects.bulk_create(
        [NeedleList(shop_id=shop_id, key=key, packed=whole(msgspec.json.encode(document.needles[key])))
         for key in new if key not in there],
        ignore_conflicts=True,
    )  # fmt: skip


def attached(shop_id: int, document: Document) -> Document:
    """A document with the needle points that it names."""
    named = needles_named(document)
    if not named:
        return document
    with _guard:
        found = {key: _known[shop_id, key] for key in named if (shop_id, key) in _known}
    for row in NeedleList.objects.filter(shop_id=shop_id, key__in=[key for key in named if key not in found]):
        found[row.key] = msgspec.json.decode(unpacked(bytes(row.packed)), type=Needles)
    with _guard:
        for key, needles in found.items():
            _known[shop_id, key] = needles
            _known.move_to_end((shop_id, key))
        while len(_known) > AT_HAND:
            _known.popitem(last=False)
    return with_needles(document, found)
