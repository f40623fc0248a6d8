"""Parts of a stitch file on the Artwork stage: looked at, each dropped, kept or turned into a shape."""

from __future__ import annotations

from pathlib import PurePath
from typing import Any

import shapely
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.views import View
from django.views.decorators.http import require_GET

from velamen.core.building.job_materials import take_rows
from velamen.core.edits.shapes.stitch_parts import take_repeat, take_stitch_parts, thread_keys
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.document import StitchFile
from velamen.core.outputs.parts_binary import parts_binary
from velamen.core.outputs.recovered import cut_files
from velamen.core.recovery.cut_line import chosen, cut_line
from velamen.core.recovery.recovered import Recovered
from velamen.core.recovery.stitch_rows import UNITS
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job, Source
from velamen.web.library.rows import shop_library
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.part_rows import parts_context
from velamen.web.stages.sources import source_of, stitch_query, stitches_of
from velamen.web.stages.typed import Typed, numbers_of


class StitchPartsView(View):
    """The parts of a kept stitch file, chosen and brought in."""

    def get(self, request: HttpRequest, job_id: int, key: str) -> HttpResponse:
        return self._show(request, shop_job(request, job_id), key)

    def post(self, request: HttpRequest, job_id: int, key: str) -> HttpResponse:
        job = shop_job(request, job_id)
        source, file = _asked(request, key)
        before = edits.seen_document(request, job)
        try:
            found = stitches_of(source, file.unit, file.columns)
            job = edits.save_edit(request, job, lambda document: self._taken(request, document, found, file),
                                  f"Parts of {source.name[:60]}")  # fmt: skip
        except BadInput as error:
            return self._show(request, job, key, str(error))
        edits.choose_new(request, before, job)
        return redirect("artwork", job.pk)

    def _taken(self, request: HttpRequest, document: Document, found: Recovered, file: StitchFile) -> Document:
        """A document with what the form asks for."""
        library = shop_library(request.shop)
        threads = request.POST.get("threads", "").split() or thread_keys(found, library)
        if len(threads) <= int(found.rows.thread.max(initial=0)):
            raise BadInput("A colour of the file has no thread: choose one for each.")
        document = take_rows(document, library, {"threads": {one for one in threads if one in library.threads}})
        if "repeat" in request.POST:
            typed = Typed(request.POST, request.unit)
            lines = typed.length("repeat_from", "The first line"), typed.length("repeat_to", "The second line")
            if lines[0] is None or lines[1] is None:
                raise BadInput("One repeat needs both of its lines: type where they lie.")
            return take_repeat(
                document, found, file, (lines[0], lines[1]), request.POST.get("upright") == "yes", threads
            )
        wanted = {nth: way for nth, way in _pairs(request.POST.get("ways", "")) if way}
        cloths = {nth: "" if way == "cloth" else way for nth, way in _pairs(request.POST.get("cloths", ""))}
        if any(not 0 <= nth < len(found.proposals) for nth in cloths):
            raise BadInput("An appliqué is no longer among the parts: reload the page.")
        return take_stitch_parts(document, found, file, wanted, cloths, threads)

    def _show(self, request: HttpRequest, job: Job, key: str, wrong: str = "") -> HttpResponse:
        source, file = _asked(request, key)
        document, shop = job.head.read(), shop_library(request.shop)
        context: dict[str, Any] = {"source": source, "file": file, "units": list(UNITS), "wrong": wrong}
        try:
            context |= parts_context(stitches_of(source, file.unit, file.columns), shop)
        except BadInput as error:
            context["unread"] = str(error)
        context |= {"threads": {**document.library.threads, **shop.threads}.values(),
                    "query": stitch_query(file)}  # fmt: skip
        status = 422 if wrong or "unread" in context else 200
        return render(request, "stages/stitch_parts.html", stage(request, job, "artwork") | context, status=status)


@require_GET
def parts_data(request: HttpRequest, job_id: int, key: str) -> HttpResponse:
    """The rows of a stitch file for the canvas."""
    shop_job(request, job_id)
    source, file = _asked(request, key)
    found, library = stitches_of(source, file.unit, file.columns), shop_library(request.shop)
    colours = [library.threads[one].colour for one in thread_keys(found, library)]
    answer = HttpResponse(parts_binary(found, colours), content_type="application/octet-stream")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_GET
def parts_cut(request: HttpRequest, job_id: int, key: str, name: str) -> HttpResponse:
    """The cut line under chosen satins, as a file."""
    shop_job(request, job_id)
    source, file = _asked(request, key)
    found = stitches_of(source, file.unit, file.columns)
    names = [f"s{nth + 1}" for nth in numbers_of(request.GET.get("parts", ""))]
    if not names:
        raise BadInput("Choose the satins whose cut line is wanted first.")
    stem = PurePath(source.name).stem
    area = shapely.transform(cut_line(chosen(found.segments, names)), lambda points: points + found.shift)
    answer = HttpResponse(
        cut_files(area, stem)[name], content_type="image/svg+xml" if name[-3:] == "svg" else "image/vnd.dxf"
    )
    answer["Content-Disposition"] = f'attachment; filename="{slugify(stem)[:60] or "stitches"}-{name}"'
    return answer


def _asked(request: HttpRequest, key: str) -> tuple[Source, StitchFile]:
    """The kept file, and how it is to be read."""
    source = source_of(request.shop, key, "stitches")
    unit, columns = request.GET.get("unit", "")[:6], request.GET.get("columns", "")[:120]
    return source, StitchFile(key, source.name, unit, columns)


def _pairs(text: str) -> list[tuple[int, str]]:
    """Numbers with a word each, "3:keep", apart by blanks; others are passed over."""
    found = []
    for one in text.split():
        number, _, word = one.partition(":")
        if number.isdecimal() and len(number) < 7:
            found.append((int(number), word))
    return found
