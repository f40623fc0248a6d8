"""The job board, new jobs and their pictures."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import condition, require_GET
from django.views.generic import FormView

from velamen.core.artwork.tracing.picture import Picture
from velamen.core.building.job_materials import with_materials
from velamen.core.edits.shapes.import_parts import backdrop_of
from velamen.core.edits.shapes.sorting_in import sorts_of
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.document import brief_for, change
from velamen.web.board.forms import NewJobForm
from velamen.web.jobs import history
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job
from velamen.web.jobs.packing import unpacked, whole
from velamen.web.jobs.pictures import job_picture
from velamen.web.library import recipes
from velamen.web.library.rows import shop_library
from velamen.web.stages.edits import with_file
from velamen.web.stages.plans import build_ahead
from velamen.web.stages.sources import STITCH_FILES, keep, keep_stitches, read_upload

SHOWN = 200  # jobs on the board


@require_GET
def board(request: HttpRequest) -> HttpResponse:
    """All jobs of the shop, newest first, narrowed by a search."""
    words = request.GET.get("q", "").strip()
    every = Job.objects.filter(shop=request.shop)
    jobs = every.filter(binned=None).select_related("head").defer("thumb", "head__packed")
    if words:
        jobs = jobs.filter(name__icontains=words)
    context = {"jobs": jobs[:SHOWN], "words": words, "binned": every.exclude(binned=None).count()}
    return render(request, "jobs/board.html", context)


class NewJobView(FormView):
    """Begins a job, with artwork or without."""

    template_name = "jobs/new.html"
    form_class = NewJobForm

    def get_form_kwargs(self) -> dict[str, Any]:
        return super().get_form_kwargs() | {"library": shop_library(self.request.shop)}

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        return super().get_context_data(**kwargs) | {"recipes": recipes.on_offer(self.request.shop)}

    def form_valid(self, form: NewJobForm) -> HttpResponse:
        library = shop_library(self.request.shop)
        document = Document(name=form.cleaned_data["name"])
        brief, recipe = brief_for(form.cleaned_data["base"], library=library), None
        if form.cleaned_data["recipe"]:
            try:
                recipe = recipes.wanted(self.request.shop, form.cleaned_data["recipe"])
            except BadInput as error:
                form.add_error("recipe", str(error))
                return self.form_invalid(form)
            brief = recipes.brief_of(recipe, library) or brief
        document = with_materials(change(document, brief=brief), library)
        upload = form.cleaned_data["artwork"]
        onward, listed, parts = "artwork", None, ""
        try:
            if upload and upload.name.lower().endswith(STITCH_FILES):
                listed = keep_stitches(self.request.shop, upload.name, read_upload(upload), "", "")
            elif upload:
                data = read_upload(upload)
                source, found = keep(self.request.shop, upload.name, data)
                if isinstance(found, Picture):
                    onward, document = "trace", backdrop_of(document, source.key, found.width, found.height)
                elif recipe is None and len(sorts_of(found)) > 1:  # what each colour comes in as is for them to say
                    parts = source.key
                else:
                    onward, (document, _) = "build", with_file(document, data, whole_brief=recipe is None)
                    document = recipes.put_round(document, recipe, library, []) if recipe else document
                    recipe = None
        except BadInput as error:
            form.add_error("artwork", str(error))
            return self.form_invalid(form)
        job = history.create(self.request.shop, self.request.user, document)
        if recipe:
            messages.info(self.request, f"Once there is a design, Build puts {recipe.name} round it.")
        if onward == "build":
            try:
                build_ahead(job.head)
            except BadInput as error:
                onward = "artwork"
                messages.warning(self.request, str(error))
        if parts:
            return redirect("parts", job.pk, parts)
        if listed is not None:
            return redirect("stitch-parts", job.pk, listed.key)
        return redirect(reverse(onward, args=[job.pk]))


def _tag(request: HttpRequest, job_id: int) -> str:
    return f'"{shop_job(request, job_id).head.digest}"'


@require_GET
@condition(etag_func=_tag)
def picture(request: HttpRequest, job_id: int) -> HttpResponse:
    """Picture of a job as SVG."""
    job = shop_job(request, job_id)
    if job.thumb_of == job.head.digest:
        drawn = unpacked(bytes(job.thumb))
    else:
        drawn = job_picture(job.head.read()).encode()
        Job.objects.filter(pk=job.pk).update(thumb=whole(drawn), thumb_of=job.head.digest)
    return HttpResponse(drawn, content_type="image/svg+xml")


def not_found(request: HttpRequest, exception: Http404 | None = None) -> HttpResponse:
    """What stands where nothing is, or nothing of one's own."""
    return render(request, "not_found.html", status=404)
