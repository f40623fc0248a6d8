"""The Brief: what a job is sewn on, what follows, and what a change of it would change."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views import View
from django.views.decorators.http import require_POST

from velamen.core.building.build import build_job
from velamen.core.building.job_materials import with_materials
from velamen.core.building.matched import sample_values
from velamen.core.edits.brief.brief_changes import Change, changes_between, taken
from velamen.core.edits.brief.finished_width import resized
from velamen.core.edits.stack.grounds import rethreaded
from velamen.core.errors import BadInput
from velamen.core.job.document import MATCHED, Brief, brief_for, change, check_brief
from velamen.core.job.document import Job as Document
from velamen.core.job.reading import check_job
from velamen.core.lengths import show_length
from velamen.core.materials.hoops import hoop_around
from velamen.core.materials.library import Library
from velamen.core.proofs.materials import field_findings, sewn_of
from velamen.core.values.advice import Sewn, advice, brief_cautions
from velamen.core.values.value import matters
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job
from velamen.web.library.rows import library_for, shop_library
from velamen.web.stages import edits
from velamen.web.stages.forms import BriefForm
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of


class BriefView(View):
    """What the job is sewn on, and what follows from it."""

    def get(self, request: HttpRequest, job_id: int) -> HttpResponse:
        job = shop_job(request, job_id)
        return self._show(request, job, BriefForm(*_known(request, job), initial=_initial(job)))

    def post(self, request: HttpRequest, job_id: int) -> HttpResponse:
        job = shop_job(request, job_id)
        library, unit = _known(request, job)
        form = BriefForm(library, unit, request.POST)
        if not form.is_valid():
            return self._show(request, job, form, status=422)
        before = edits.seen_document(request, job)
        try:
            after = _changed(before, form, library, unit, "asked" in request.POST)
        except BadInput as error:
            form.add_error(None, str(error))
            return self._show(request, job, form, status=422)
        changes = changes_between(before, after)
        decided = request.POST.get("decided", "")
        if changes and not decided:
            return self._preview(request, job, form, changes)
        wanted = {one.id for one in changes} if decided == "all" else set(request.POST.getlist("take"))
        if decided == "none":
            wanted = set()
        edits.save_edit(request, job, lambda _: taken(after, changes, wanted), "Brief changed")
        return redirect("brief", job.pk)

    def _show(self, request: HttpRequest, job: Job, form: BriefForm, status: int = 200) -> HttpResponse:
        document = job.head.read()
        context = stage(request, job, "brief") | {
            "form": form,
            "base_colours": form.base_colours,
            "stale": _stale(document, shop_library(request.shop)),
            **_follows(request, job, document.brief, document.library),
        }
        return render(request, "stages/brief.html", context, status=status)

    def _preview(self, request: HttpRequest, job: Job, form: BriefForm, changes: list[Change]) -> HttpResponse:
        pieces: dict[str, list[Change]] = {}
        for one in changes:
            pieces.setdefault(one.piece, []).append(one)
        sent = [(key, value) for key in form.fields for value in request.POST.getlist(key)]
        context = stage(request, job, "brief") | {
            "pieces": pieces.values(),
            "count": len(changes),
            "own": sum(one.own for one in changes),
            "sent": [*sent, ("asked", "1")] if "asked" in request.POST else sent,
        }
        return render(request, "stages/preview.html", context)


@require_POST
def follows(request: HttpRequest, job_id: int) -> HttpResponse:
    """What would follow from the form as it stands, unsaved."""
    job = shop_job(request, job_id)
    library, unit = _known(request, job)
    form = BriefForm(library, unit, request.POST)
    context: dict[str, Any] = {"job": job, "unsaved": True}
    if form.is_valid():
        before = job.head.read()
        try:
            after = _changed(before, form, library, unit, False)
            context |= _follows(request, job, form.brief(), library)
            context["changes"] = len(changes_between(before, after))
        except BadInput as error:
            context["wrong"] = str(error)
    return render(request, "stages/_follows.html", context, status=200)


@require_POST
def fix_brief(request: HttpRequest, job_id: int) -> HttpResponse:
    """Takes the brief that a finding offers, by its code, with every value following, and goes back to the stage."""
    job = shop_job(request, job_id)
    code = request.POST.get("code", "")

    def fixed(document: Document) -> Document:
        found = next((one for one in build_job(document).findings if one.code == code and one.brief), None)
        if found is None:
            raise BadInput("That finding is gone: reload the page.")
        fields = {key: int(value) if key == "stabilizer_layers" else value for key, value in found.brief.items()}
        brief = check_brief(change(document.brief, **fields), document.library)
        return change(document, brief=brief)

    edits.save_edit(request, job, fixed, "Brief: fix taken")
    return redirect("build" if request.POST.get("back") == "build" else "prove", job.pk)


def _known(request: HttpRequest, job: Job) -> tuple[Library, str]:
    """The shop's library with the rows that only the job still knows, and the person's unit."""
    return library_for(request.shop, job.head.read()), request.unit


def _initial(job: Job) -> dict[str, Any]:
    document = job.head.read()
    known = {key: getattr(document.brief, key) for key in Brief.__struct_fields__}
    width = build_of(job.head).figures.width if document.pieces else document.brief.width
    known["base_colour"] = document.library.bases[document.brief.base].colour
    return {**known, "width": width or "", "name": document.name, "revision": job.head.number}


def _changed(before: Document, form: BriefForm, library: Library, unit: str, asked: bool) -> Document:
    """The document under the form's brief, on the library's rows, at its finished width."""
    brief = form.brief()
    if asked:
        wanted = brief_for(brief.base, brief.hoop, library)
        brief = change(wanted, thread=brief.thread, width=brief.width, course=brief.course,
                       base_colour=brief.base_colour)  # fmt: skip
    after = change(before, name=form.cleaned_data["name"], brief=brief)
    after = rethreaded(before, check_job(with_materials(after, library)))
    if not before.pieces or not brief.width:
        return change(after, brief=change(brief, width=brief.width if not before.pieces else 0.0))
    sewn = build_job(before).figures.width
    after = change(after, brief=change(brief, width=0.0))
    if show_length(sewn, unit) == show_length(brief.width, unit):
        return after
    return resized(after, brief.width)


def _follows(request: HttpRequest, job: Job, brief: Brief, library: Library) -> dict[str, Any]:
    """Recommendations, cautions and values of a middling piece under a brief."""
    build = build_of(job.head)
    points = build.plan.xy[build.plan.sewn]
    sewn = sewn_of(build.operations, build.plan) if build.pieces else Sewn()
    told = brief_cautions(brief, library, sewn)
    fitting = hoop_around(library, points) if len(points) else None
    values = sample_values(brief, library)
    return {
        "build": build,
        "advised": _advised(brief, library, sewn),
        "cautions": told,
        "field": field_findings(build.plan, library.hoops[brief.hoop], library, {}),
        "fitting": fitting,
        "hoop": library.hoops[brief.hoop],
        "values": [value for value in values.values() if matters(value, values) and value.setting.measure],
    }


def _advised(brief: Brief, library: Library, sewn: Sewn) -> list[dict[str, Any]]:
    """Each recommendation with its reason, and what the form would take for it where it differs."""
    found = advice(brief, library, sewn)
    sheet, topping = (str(found[key].value) for key in ("advised_stabilizer", "advised_topping"))
    layers = int(float(found["advised_layers"].value))
    fields: dict[str, dict[str, Any]] = {
        "advised_stabilizer": {"stabilizer": sheet, "stabilizer_layers": layers},
        "advised_topping": {"topping": topping},
        "advised_hooping": {"hooping": found["advised_hooping"].value},
        "advised_hold": {"hold": found["advised_hold"].value},
        "advised_course": {"course": found["advised_course"].value},
    }
    names = {
        "advised_stabilizer": f"{layers} × {library.stabilizers[sheet].name.lower()}",
        "advised_topping": library.toppings[topping].name,
    }
    rows = []
    for key, value in found.items():
        if key == "advised_layers":
            continue
        wanted = fields.get(key, {})
        reasons = value.reasons + (found["advised_layers"].reasons[1:] if key == "advised_stabilizer" else ())
        rows.append({
            "label": value.setting.label, "shown": names.get(key, value.shown), "reasons": reasons,
            "so": all(getattr(brief, name) in (one, MATCHED) for name, one in wanted.items()), "fields": wanted,
        })  # fmt: skip
    return rows


def _stale(document: Document, library: Library) -> list[str]:
    """Names of rows that the library has changed since the job took them."""
    fresh = with_materials(document, library)
    names = []
    for kind in {*document.materials, *fresh.materials}:
        was, now = document.materials.get(kind, {}), fresh.materials.get(kind, {})
        for key in {*was, *now}:
            if was.get(key) != now.get(key):
                names.append(str({**was.get(key, {}), **now.get(key, {})}.get("name", key)))
    return sorted(names)
