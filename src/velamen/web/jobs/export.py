"""A shop as a ZIP of open files: every job, what its people brought in, and its own library."""

from __future__ import annotations

import json
import tempfile
import zipfile
from typing import IO

from django.utils.text import slugify

from velamen.web.accounts.models import Shop
from velamen.web.jobs.models import Job, Source

IN_MEMORY = 2_000_000  # bytes; more goes to a temporary file


def exported(shop: Shop) -> IO[bytes]:
    """The ZIP, to be read from its start. Jobs open with the build command, and in any other shop."""
    target = tempfile.SpooledTemporaryFile(IN_MEMORY)  # noqa: SIM115 (whoever sends it closes it)
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as folder:
        for job in Job.objects.filter(shop=shop).select_related("head__base").iterator(20):
            name = f"{slugify(job.name)[:60] or 'job'}-{job.pk}"
            where = "bin" if job.binned else "jobs"
            folder.writestr(f"{where}/{name}.json", job.head.whole)
        for source in Source.objects.filter(shop=shop).iterator(5):
            folder.writestr(f"artwork/{source.key[:8]}-{_file_name(source.name)}", bytes(source.data))
        folder.writestr("library.json", json.dumps(_library(shop), indent=1, ensure_ascii=False))
    target.seek(0)
    return target


def _library(shop: Shop) -> dict[str, object]:
    rows = [{"kind": one.kind, "key": one.key, **one.fields} for one in shop.rows.all()]
    presets = [
        {key: value for key, value in vars(one).items() if key[0] != "_" and key not in ("id", "shop_id")}
        for one in shop.presets.all()
    ]
    recipes = [json.loads(bytes(one.body)) for one in shop.recipes.all()]
    return {
        "shop": shop.name, "rows": rows, "presets": json.loads(json.dumps(presets, default=str)), "recipes": recipes,
    }  # fmt: skip


def _file_name(name: str) -> str:
    """A file name that stays in its folder, wherever it is unpacked."""
    stem, _, end = name.rpartition(".")
    return f"{slugify(stem or end)[:60] or 'file'}{'.' + slugify(end)[:8] if stem else ''}"
