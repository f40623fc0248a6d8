"""Artwork and Build of one job, and the edits made there."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views import View
from django.views.decorators.http import condition, require_GET, require_POST

from velamen.core.artwork.dxf import NoUnit
from velamen.core.artwork.tracing.picture import Picture
from velamen.core.building.build import Build
from velamen.core.edits.shapes import copying
from velamen.core.edits.shapes.import_parts import backdrop_of
from velamen.core.edits.stack import makeup
from velamen.core.edits.stack.local_values import with_local
from velamen.core.edits.stack.own_values import with_own
from velamen.core.edits.stack.thread_routes import with_route
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.document import Piece, StitchFile
from velamen.core.job.reading import write_job
from velamen.core.numbers import read_number, read_whole
from velamen.core.outputs.plan_binary import plan_binary
from velamen.core.outputs.section_json import section_json
from velamen.web.jobs import history
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job, Source
from velamen.web.library import dies, motifs, presets, typefaces
from velamen.web.library.models import Preset
from velamen.web.library.rows import shop_library
from velamen.web.stages import edits
from velamen.web.stages.answers import after_edit, panels, refused, saved
from velamen.web.stages.board import art_context
from velamen.web.stages.chosen import beside, together
from velamen.web.stages.forms import ArtworkForm
from velamen.web.stages.panels import hooping_shown, piece_context, stage
from velamen.web.stages.plans import build_of, tag_of
from velamen.web.stages.reshaping import previewed, reshaped
from velamen.web.stages.shapes import burst_of
from velamen.web.stages.sources import (
    ARTWORK_FILES,
    STITCH_FILES,
    keep,
    keep_stitches,
    picture_of,
    read_upload,
    stitch_query,
)
from velamen.web.stages.typed import ids_of


class ArtworkView(View):
    """Shapes of the job; artwork is brought in here."""

    def get(self, request: HttpRequest, job_id: int) -> HttpResponse:
        return self._show(request, shop_job(request, job_id), None)

    def post(self, request: HttpRequest, job_id: int) -> HttpResponse:
        job = shop_job(request, job_id)
        form = ArtworkForm(request.POST, request.FILES)
        if not form.is_valid():
            return self._show(request, job, form, status=422)
        upload, unit = form.cleaned_data["artwork"], form.cleaned_data["unit"]
        listed = upload.name.lower().endswith(STITCH_FILES)
        try:
            data = read_upload(upload)
            if listed:
                return self._stitches(request, job, upload.name, data, form.cleaned_data)
            source, found = keep(request.shop, upload.name, data, unit)
            if isinstance(found, Picture):
                return self._behind(request, job, source, found)
            if "choose" in request.POST:
                return redirect("parts", job.pk, source.key)
            return self._bring(request, job, data, unit)
        except BadInput as error:
            form.add_error("artwork", str(error))
            asked = "columns" if listed else "unit" if isinstance(error, NoUnit) else ""
            return self._show(request, job, form, status=422, asked=asked)

    def _stitches(self, request: HttpRequest, job: Job, name: str, data: bytes, typed: Any) -> HttpResponse:
        """The parts of a stitch file are chosen on a page of their own."""
        source = keep_stitches(request.shop, name, data, typed["unit"], typed["columns"])
        file = StitchFile(source.key, source.name, typed["unit"], typed["columns"])
        return redirect(reverse("stitch-parts", args=(job.pk, source.key)) + stitch_query(file))

    def _bring(self, request: HttpRequest, job: Job, data: bytes, unit: str) -> HttpResponse:
        """All of a vector file comes in, chosen."""
        notes: list[str] = []
        before = edits.seen_document(request, job)

        def bring(document: Any) -> Any:
            changed, said = edits.with_file(document, data, not document.pieces, unit)
            notes.extend(said)
            return changed

        job = edits.save_edit(request, job, bring, "Artwork brought in")
        for note in notes:
            messages.info(request, note)
        edits.choose_new(request, before, job)
        return redirect("artwork", job.pk)

    def _behind(self, request: HttpRequest, job: Job, source: Source, picture: Picture) -> HttpResponse:
        """A picture goes behind the shapes, ready to be traced."""
        job = edits.save_edit(
            request,
            job,
            lambda document: backdrop_of(document, source.key, picture.width, picture.height),
            "Picture brought in",
        )
        return redirect("trace", job.pk)

    def _show(self, request: HttpRequest, job: Job, form: Any, status: int = 200, asked: str = "") -> HttpResponse:
        form = form or ArtworkForm(initial={"revision": job.head.number})
        chosen = request.session.pop("brought_in", [])
        context = stage(request, job, "artwork") | {"form": form, "asked": asked}
        return render(request, "stages/artwork.html", context | _board(request, job, chosen), status=status)


def _board(request: HttpRequest, job: Job, chosen: list[str]) -> dict[str, Any]:
    """The drawing board with its tools, and the picture behind it."""
    context = art_context(job.head.read(), shop_library(request.shop), chosen, typefaces.on_offer(request.shop))
    lies = context["document"].backdrop
    context["takes"] = ",".join((*ARTWORK_FILES, *STITCH_FILES))
    files = {one.key for one in context["document"].files}
    there = (
        set(Source.objects.filter(shop=request.shop, key__in=files).values_list("key", flat=True)) if files else set()
    )
    context["files"] = [(one, stitch_query(one)) for one in context["document"].files if one.key in there]
    source = Source.objects.filter(shop=request.shop, key=lies.picture).first() if lies else None
    if source is not None:
        rows, columns = picture_of(source).colours.shape[:2]
        context |= {"source": source, "lies": lies, "lies_height": lies.width * rows / columns}
    return context


@require_POST
def edit_shapes(request: HttpRequest, job_id: int) -> HttpResponse:
    """One edit of the chosen shapes; answers with the stage as it is then."""
    job = shop_job(request, job_id)
    before = edits.seen_document(request, job)
    chosen, wrong, library = ids_of(request.POST), "", shop_library(request.shop)
    try:
        if request.POST.get("do") == "keep-die":
            name = dies.keep(request.shop, before, chosen, request.POST.get("name", ""))
            return _art(request, job, chosen, said=f"{name} is among the cutting dies now.")
        after, label, chosen = reshaped(before, request.POST, request.unit, library)
        job = edits.save_edit(request, job, lambda _: after, label, burst_of(request.POST), follows=True)
    except BadInput as error:
        wrong = str(error)
    return _art(request, job, chosen, wrong)


def _art(request: HttpRequest, job: Job, chosen: list[str], wrong: str = "", said: str = "") -> HttpResponse:
    """The stage as it is after an edit, or why that could not be."""
    told = {"wrong": wrong, "said": said, "partial": True}
    context = stage(request, job, "artwork") | _board(request, job, chosen) | told
    return render(request, "stages/_art.html", context, status=422 if wrong else 200)


@require_GET
def copy_shapes(request: HttpRequest, job_id: int) -> HttpResponse:
    """Chosen shapes as a clip that another job can take."""
    document = shop_job(request, job_id).head.read()
    clip = copying.clip_of(document, ids_of(request.GET))
    return HttpResponse(write_job(clip), content_type="application/json")


@require_GET
def thinned(request: HttpRequest, job_id: int) -> HttpResponse:
    """How the chosen shapes would look simplified or smoothed, over how they are."""
    document = shop_job(request, job_id).head.read()
    try:
        found = previewed(document, request.GET, request.unit)
    except BadInput as error:
        return JsonResponse({"wrong": str(error)}, status=422)
    return JsonResponse(found)


@require_GET
def build(request: HttpRequest, job_id: int) -> HttpResponse:
    """Stack, cloth, values and Sew line."""
    job = shop_job(request, job_id)
    context = stage(request, job, "build") | piece_context(request, job, request.GET.get("piece"), beside(request))
    return render(request, "stages/build.html", context)


def _plan_tag(request: HttpRequest, job_id: int) -> str:
    return tag_of(shop_job(request, job_id).head)


def _whole_hooping(request: HttpRequest, build: Build) -> bool:
    """Whether every copy in the hoop is drawn: not where the one design is asked for, or where there are too many."""
    return request.GET.get("of") != "one" and hooping_shown(build)


@require_GET
@condition(etag_func=_plan_tag)
def plan_data(request: HttpRequest, job_id: int) -> HttpResponse:
    """The plan as a binary block for the canvas."""
    job = shop_job(request, job_id)
    build = build_of(job.head)
    data = plan_binary(build, hooping=_whole_hooping(request, build))
    answer = HttpResponse(data, content_type="application/octet-stream")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_GET
def piece_panel(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Stack and values with another piece chosen."""
    return panels(request, shop_job(request, job_id), piece)


@require_POST
def set_value(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Sets one value of a piece and those chosen with it, or takes the matched one again."""
    job = shop_job(request, job_id)
    key, ids = request.POST.get("key", ""), together(request, piece)
    text = None if "matched" in request.POST else request.POST.get(key, "")
    label = f"{key.replace('_', ' ')} {'matched' if text is None else text}"
    try:
        job = edits.save_edit(request, job, lambda doc: with_own(doc, ids, key, text), label)
    except BadInput as error:
        return refused(request, job, piece, key, error, text)
    return saved(request, job, piece)


@require_POST
def set_local(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Sets values of a piece at one place, or takes what it has there by itself again."""
    job = shop_job(request, job_id)
    try:
        x, y = (read_number(one, 1e4) for one in request.POST.get("at", "").split(","))
    except ValueError:
        return refused(request, job, piece, "places", BadInput("The place is not on the piece: reload the page."))
    key = request.POST.get("key", "")
    typed = {key: request.POST.get(key, "")} if key else {}
    label = f"{key.replace('_', ' ')} {typed[key]}" if key else "One place as found"
    return after_edit(request, job, piece, "places", lambda doc: with_local(doc, piece, (x, y), typed), label)


@require_POST
def set_makeup(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Name, cloth, thread and construction of a piece; of several all but the name, as far as something is chosen."""
    job, ids, library = shop_job(request, job_id), together(request, piece), shop_library(request.shop)
    name, cloth, thread, construct = (request.POST.get(key, "") for key in ("name", "cloth", "thread", "construct"))

    def made_up(document: Any) -> Any:
        if len(ids) == 1:
            return makeup.set_makeup(document, piece, name, cloth, thread, construct, library)
        for one in ids:
            document = makeup.set_makeup(document, one, "", cloth, thread, construct, library)
        return document

    label = f"{name}: cloth, thread or stitch" if len(ids) == 1 else f"{len(ids)} pieces: cloth, thread or stitch"
    return after_edit(request, job, piece, "makeup", made_up, label)


@require_POST
def set_route(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Makes, changes or takes apart the route that a piece is sewn on."""
    job = shop_job(request, job_id)
    do, start, end = (request.POST.get(key, "") for key in ("do", "start", "end"))
    edit = partial(with_route, piece_id=piece, do=do, start=start, end=end)
    return after_edit(request, job, piece, "route", edit, "Route changed")


@require_POST
def save_preset(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Saves a piece's own values as a preset of the shop."""

    def kept(document: Document, one: Piece, name: str) -> str:
        return f"Saved as {presets.save_preset(request.shop, name, one, document.brief.base).name}."

    return _keep(request, job_id, piece, kept)


@require_POST
def keep_motif(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Keeps the shape or line of a piece as a motif of the shop."""

    def kept(document: Document, one: Piece, name: str) -> str:
        return f"{motifs.keep(request.shop, document, one, name)} is a motif of the library now."

    return _keep(request, job_id, piece, kept)


def _keep(request: HttpRequest, job_id: int, piece: str, kept: Callable[[Document, Piece, str], str]) -> HttpResponse:
    """What keeps something of a piece in the library, under the name that was typed, and says so."""
    job = shop_job(request, job_id)
    document = job.head.read()
    one = makeup.wanted_piece(document, piece)
    try:
        told = kept(document, one, request.POST.get("name", ""))
    except BadInput as error:
        return refused(request, job, piece, "preset", error)
    return panels(request, job, piece, said={"key": "preset", "text": told})


@require_POST
def take_preset(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Sets a preset's values on a piece."""
    job = shop_job(request, job_id)
    try:
        key = read_whole(request.POST.get("preset", ""))
    except ValueError:
        key = 0
    preset = Preset.objects.filter(shop=request.shop, pk=key).first()
    if preset is None:
        raise BadInput("That preset is no longer in the library: reload the page.")
    ids = together(request, piece)
    with_it = partial(presets.with_preset, piece_ids=ids, preset=preset)
    return after_edit(request, job, piece, "preset", with_it, f"Preset {preset.name}")


@require_GET
def section_data(request: HttpRequest, job_id: int) -> HttpResponse:
    """The stack cut along a line, for the Section view."""
    job = shop_job(request, job_id)
    try:
        x, y, angle, length = (read_number(request.GET.get(key, "")) for key in ("x", "y", "angle", "length"))
    except ValueError:
        raise BadInput("The cut needs x, y, angle and length as numbers.") from None
    build = build_of(job.head)
    build = build.hooped if _whole_hooping(request, build) else build
    answer = HttpResponse(section_json(build, (x, y), angle, length), content_type="application/json")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_POST
def undo(request: HttpRequest, job_id: int) -> HttpResponse:
    """One revision back."""
    return _moved(request, job_id, history.undo)


@require_POST
def redo(request: HttpRequest, job_id: int) -> HttpResponse:
    """One revision forward."""
    return _moved(request, job_id, history.redo)


@require_POST
def take(request: HttpRequest, job_id: int, number: int) -> HttpResponse:
    """Makes a version kept from a conflict the newest."""
    job = shop_job(request, job_id)
    if not job.revisions.filter(number=number).exists():
        raise BadInput(f"There is no version {number} of this job: reload the page.")
    history.take(job, number, request.user)
    return _onward(request, job)


def _moved(request: HttpRequest, job_id: int, move: Any) -> HttpResponse:
    job = shop_job(request, job_id)
    move(job, edits.seen_revision(request, job))
    return _onward(request, job)


def _onward(request: HttpRequest, job: Job) -> HttpResponse:
    """Back to the stage the person works in."""
    where = request.POST.get("stage", "build")
    where = where if where in ("brief", "artwork", "build", "prove", "hand-over") else "build"
    answer = redirect(where, job.pk)
    if request.htmx:
        answer = HttpResponse(status=204, headers={"HX-Redirect": answer["Location"]})
    return answer
