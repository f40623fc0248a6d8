"""Reading and changing a shop's library."""

from __future__ import annotations

import re
from typing import Any

from django.db import transaction

from velamen.core.artwork.motif import figure_of
from velamen.core.edits.shapes.dies import die_region
from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.core.materials.library import Library, library_with, pick, shipped
from velamen.core.materials.records import KINDS, Die, Kind, Motif
from velamen.web.accounts.models import Shop
from velamen.web.library.models import Row

MOST_ROWS = 400  # rows of a shop's own


def shop_library(shop: Shop) -> Library:
    """The materials a shop knows: its own rows over the shipped ones."""
    return library_with(_own(shop))


def library_for(shop: Shop, document: Job) -> Library:
    """The shop's library with the rows that only a job still knows."""
    own, library = _own(shop), shop_library(shop)
    for kind, known in document.materials.items():
        gone = {key: fields for key, fields in known.items() if key not in library.rows(kind)}
        own[kind] = {**gone, **own.get(kind, {})}
    return library_with(own)


def kind_of(key: str) -> Kind:
    """A kind of material by key."""
    return pick(KINDS, key, "kind of material")


def listed(shop: Shop, kind: Kind) -> list[dict[str, Any]]:
    """All rows of a kind with where each comes from: shipped, changed or own."""
    own = set(Row.objects.filter(shop=shop, kind=kind.key).values_list("key", flat=True))
    known = shipped().rows(kind.key)
    return [
        {"row": row, "key": key, "state": ("changed" if key in known else "own") if key in own else "shipped"}
        for key, row in shop_library(shop).rows(kind.key).items()
    ]


@transaction.atomic
def save_row(shop: Shop, kind: Kind, key: str, fields: dict[str, Any]) -> None:
    """Saves a row when the whole library holds together with it; BadInput otherwise."""
    record = kind.read(key, fields)
    if isinstance(record, Die):
        die_region(record)
    if isinstance(record, Motif):
        figure_of(record)
    own = _own(shop)
    own.setdefault(kind.key, {})[key] = fields
    library_with(own)
    if not Row.objects.filter(shop=shop, kind=kind.key, key=key).exists():
        if Row.objects.filter(shop=shop).count() >= MOST_ROWS:
            raise BadInput(f"A library holds at most {MOST_ROWS} rows of its own: remove one first.")
        if key not in shipped().rows(kind.key) and not re.fullmatch(r"[a-z0-9_]{1,40}", key):
            raise BadInput(f"A row cannot be called {key[:40]!r}: use letters and numbers.")
    Row.objects.update_or_create(shop=shop, kind=kind.key, key=key, defaults={"fields": fields})


@transaction.atomic
def restore(shop: Shop, kind: Kind, key: str) -> None:
    """Takes a changed row back to how it is shipped; removes one of the shop's own."""
    own = _own(shop)
    own.get(kind.key, {}).pop(key, None)
    try:
        library_with(own)
    except BadInput as error:
        raise BadInput(f"{error} Change that first.") from None
    Row.objects.filter(shop=shop, kind=kind.key, key=key).delete()


def free_key(library: Library, kind: Kind, name: str) -> str:
    """A key for a new row, made of its name."""
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")[:30] or kind.one
    rows = library.rows(kind.key)
    return next(key for key in (stem, *(f"{stem}_{nth}" for nth in range(2, MOST_ROWS + 99))) if key not in rows)


def _own(shop: Shop) -> dict[str, dict[str, dict[str, Any]]]:
    rows: dict[str, dict[str, dict[str, Any]]] = {}
    for row in Row.objects.filter(shop=shop):
        rows.setdefault(row.kind, {})[row.key] = row.fields
    return rows
