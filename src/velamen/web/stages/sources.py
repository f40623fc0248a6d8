"""Files that people bring in: read once, kept for the shop, pictures made ready to be shown and traced."""

from __future__ import annotations

import hashlib
from functools import lru_cache
from io import BytesIO
from typing import Any

from django.http import Http404
from django.utils.http import urlencode
from PIL import Image

from velamen.core.artwork.read import is_picture
from velamen.core.artwork.svg import MAX_BYTES, Artwork
from velamen.core.artwork.tracing.picture import Picture
from velamen.core.errors import BadInput
from velamen.core.job.document import StitchFile
from velamen.core.recovery.recovered import Recovered
from velamen.web.accounts.models import Shop
from velamen.web.jobs.models import Source
from velamen.web.work import tasks
from velamen.web.work.outside import outside

SHOWN = 1400  # pixels of the longer side of a picture on the board
NAMES = 120
ARTWORK_FILES = (".svg", ".dxf", ".png", ".jpg", ".jpeg", ".webp")
STITCH_FILES = (".csv", ".tsv", ".txt", ".gcode", ".nc", ".ngc")


def read_upload(upload: Any) -> bytes:
    """The bytes of an upload, when they are not too many."""
    if upload.size > MAX_BYTES:
        raise BadInput(f"The file is {upload.size / 1e6:.0f} MB: at most {MAX_BYTES // 1_000_000} MB are read.")
    return bytes(upload.read())


def keep(shop: Shop, name: str, data: bytes, unit: str = "") -> tuple[Source, Picture | Artwork]:
    """A file kept for the shop, once however often it comes, and what was read of it."""
    key = hashlib.blake2b(data + unit.encode(), digest_size=16).hexdigest()
    if is_picture(data):
        picture = _picture(data)
        found: Picture | Artwork = picture
        fields = {"kind": "picture", "shown": _shown(picture)}
    else:
        found = _artwork(data, unit)
        fields = {"kind": "vector", "unit": unit}
    fields |= {"name": name[:NAMES] or "File", "data": data}
    source, _ = Source.objects.get_or_create(shop=shop, key=key, defaults=fields)
    return source, found


def source_of(shop: Shop, key: str, kind: str) -> Source:
    """A file that the shop has kept; 404 for anybody else's."""
    source = Source.objects.filter(shop=shop, key=key, kind=kind).first()
    if source is None:
        raise Http404
    return source


def picture_of(source: Source) -> Picture:
    """The picture in a kept file."""
    return _picture(bytes(source.data))


def artwork_of(source: Source) -> Artwork:
    """The artwork in a kept file."""
    return _artwork(bytes(source.data), source.unit)


def stitches_of(source: Source, unit: str, columns: str) -> Recovered:
    """The stitch file in a kept file, taken apart."""
    return _stitches(bytes(source.data), unit, columns)


@lru_cache(maxsize=4)
def _stitches(data: bytes, unit: str, columns: str) -> Recovered:
    return outside("Finding the parts", tasks.stitch_file, data, unit, columns)


def keep_stitches(shop: Shop, name: str, data: bytes, unit: str, columns: str) -> Source:
    """A stitch file kept for the shop, once it could be read."""
    _stitches(data, unit, columns)
    key = hashlib.blake2b(data, digest_size=16).hexdigest()
    fields = {"kind": "stitches", "name": name[:NAMES] or "File", "data": data}
    return Source.objects.get_or_create(shop=shop, key=key, defaults=fields)[0]


def stitch_query(file: StitchFile) -> str:
    """How a stitch file is to be read, as the query of its page's address."""
    asked = {name: value for name, value in (("unit", file.unit), ("columns", file.columns)) if value}
    return f"?{urlencode(asked)}" if asked else ""


def _artwork(data: bytes, unit: str) -> Artwork:
    return outside("Reading the artwork", tasks.artwork, data, unit)


@lru_cache(maxsize=4)
def _picture(data: bytes) -> Picture:
    return outside("Reading the picture", tasks.picture, data)


def _shown(picture: Picture) -> bytes:
    """A picture as the board shows it, a WebP."""
    image = Image.fromarray(picture.colours)
    if not picture.there.all():
        image.putalpha(Image.fromarray(picture.there.astype("uint8") * 255))
    image.thumbnail((SHOWN, SHOWN))
    target = BytesIO()
    image.save(target, "WEBP", quality=86)
    return target.getvalue()
