"""Typefaces that a shop has brought in, each with what its licence says: on its own shelf, and for its jobs alone."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from contextvars import ContextVar
from functools import lru_cache

from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse

from velamen.core.artwork.typeface import MOST_BYTES, OWN, SHELVES, TYPEFACES
from velamen.core.errors import BadInput
from velamen.web.accounts.models import Shop
from velamen.web.library.models import Typeface
from velamen.web.work import tasks
from velamen.web.work.outside import outside

MOST = 60  # typefaces of a shop
ASKING: ContextVar[int | None] = ContextVar("asking", default=None)  # the shop whose request is answered


class ShelfMiddleware:
    """Has lettering know the typefaces of the shop that asks, and no other's."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        shop = getattr(request, "shop", None)
        known = ASKING.set(shop.pk if shop else None)
        try:
            return self.get_response(request)
        finally:
            ASKING.reset(known)


def on_shelf(key: str) -> tuple[str, bytes] | None:
    """Name and file of a typeface of the shop that asks."""
    shop = ASKING.get()
    return _file(shop, key) if shop is not None and key.startswith(OWN) else None


@lru_cache(maxsize=32)
def _file(shop: int, key: str) -> tuple[str, bytes] | None:
    found = Typeface.objects.filter(shop_id=shop, key=key).first()
    return (found.name, bytes(found.data)) if found else None


SHELVES.append(on_shelf)


def on_offer(shop: Shop) -> dict[str, str]:
    """Names by key: the shop's own typefaces, then those that are shipped."""
    return {**dict(Typeface.objects.filter(shop=shop).values_list("key", "name")), **TYPEFACES}


def keep(shop: Shop, upload: UploadedFile, licence: str, allowed: bool) -> Typeface:
    """Keeps a typeface for a shop. Raises BadInput where the file is none, or nobody says that it may be sewn."""
    size = upload.size or 0
    if size > MOST_BYTES:
        raise BadInput(f"The typeface is {size / 1e6:.0f} MB: at most {MOST_BYTES // 1_000_000} MB are read.")
    licence = " ".join(licence.split())[:200]
    if not allowed or not licence:
        raise BadInput("Say what the licence of the typeface is, and that it lets you sew with it.")
    data = upload.read()
    name = outside("Reading the typeface", tasks.typeface, data)
    key = OWN + hashlib.blake2b(data, digest_size=12).hexdigest()
    if Typeface.objects.filter(shop=shop).exclude(key=key).count() >= MOST:
        raise BadInput(f"A shop keeps at most {MOST} typefaces: remove one first.")
    kept, _ = Typeface.objects.update_or_create(
        shop=shop, key=key, defaults={"name": name, "licence": licence, "data": data}
    )
    _file.cache_clear()
    return kept


def remove(shop: Shop, key: str) -> None:
    """Takes a typeface off the shelf; letters that were set in it stay as they are."""
    Typeface.objects.filter(shop=shop, key=key).delete()
    _file.cache_clear()
