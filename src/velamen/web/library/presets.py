"""Presets: own values saved from a piece, and set on another of the same construction."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import IntegrityError, transaction

from velamen.core.constructions import construction, sewn_pieces
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, Piece, change
from velamen.web.accounts.models import Shop
from velamen.web.library.models import Preset

MOST_PRESETS = 200


def for_piece(shop: Shop, piece: Piece, base: str) -> list[Preset]:
    """Presets that fit a piece, those made on its base first."""
    found = Preset.objects.filter(shop=shop, construct=piece.construct)
    return sorted(found, key=lambda one: (one.base != base, one.name))


def save_preset(shop: Shop, name: str, piece: Piece, base: str) -> Preset:
    """Saves a piece's own values under a name; a preset of that name is replaced."""
    name = " ".join(name.split())[:60]
    if not name:
        raise BadInput("A preset needs a name.")
    if not piece.own:
        raise BadInput(f"{piece.name} has no own values to save: all of it is matched.")
    if Preset.objects.filter(shop=shop).count() >= MOST_PRESETS:
        raise BadInput(f"A shop keeps at most {MOST_PRESETS} presets: remove one in the library first.")
    try:
        with transaction.atomic():
            preset, _ = Preset.objects.update_or_create(
                shop=shop, name=name,
                defaults={"construct": piece.construct, "base": base, "values": piece.own},
            )  # fmt: skip
    except IntegrityError:
        raise BadInput(f"A preset called {name!r} was saved just now: choose another name.") from None
    return preset


def with_preset(document: Job, piece_ids: Sequence[str], preset: Preset) -> Job:
    """The document with a preset's values set on those of the pieces that have its construction."""
    kind = construction(preset.construct)
    fitting = {one.id for one in sewn_pieces(document) if one.id in piece_ids and one.construct == preset.construct}
    if not fitting:
        raise BadInput(f"The preset {preset.name} is for {kind.title}.")
    known = {key: setting.read(value) for key, value in preset.values.items() if (setting := kind.setting(key))}
    pieces = [change(one, own={**one.own, **known}) if one.id in fitting else one for one in sewn_pieces(document)]
    return change(document, pieces=pieces)
