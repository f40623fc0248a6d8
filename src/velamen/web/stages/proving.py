"""Prove: proofs and findings, the density map, ties and trims, and the fixes that are taken there."""

from __future__ import annotations

import msgspec
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import condition, require_GET, require_POST

from velamen.core.edits.stack.own_values import with_all_own
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import mended
from velamen.core.outputs.density_picture import density_png
from velamen.core.proofs.density import density_limit, density_map
from velamen.web.jobs.access import shop_job
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of, tag_of
from velamen.web.stages.prove_context import SHOWN, mends_of, proof_context


@require_GET
def prove(request: HttpRequest, job_id: int) -> HttpResponse:
    """Findings and proofs, over one of the pictures they are read from."""
    job = shop_job(request, job_id)
    asked = request.GET.get("show", "")
    shown = asked if asked in dict(SHOWN) else SHOWN[0][0]
    return render(request, "stages/prove.html", stage(request, job, "prove") | proof_context(job, shown))


def _tag(request: HttpRequest, job_id: int) -> str:
    return tag_of(shop_job(request, job_id).head)


@require_GET
@condition(etag_func=_tag)
def density_image(request: HttpRequest, job_id: int) -> HttpResponse:
    """The density map as a picture."""
    build = build_of(shop_job(request, job_id).head)
    limit = float(density_limit(build.job.brief, build.library).value)
    answer = HttpResponse(density_png(density_map(build.plan.xy[build.plan.sewn]), limit), content_type="image/png")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_GET
def finding_mends(request: HttpRequest, job_id: int) -> HttpResponse:
    """The ways out of one finding, asked for once it is looked at."""
    job = shop_job(request, job_id)
    code, piece = (request.GET.get(key, "") for key in ("code", "piece"))
    finding = {"code": code, "piece": piece, "mends": mends_of(build_of(job.head), code, piece)}
    return render(request, "stages/_mends.html", {"job": job, "finding": finding})


@require_POST
def apply_fix(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Sets the values that a finding or a proof offers."""
    job = shop_job(request, job_id)
    try:
        values = msgspec.json.decode(request.POST.get("values", ""), type=dict[str, float])
    except (ValueError, RecursionError):
        raise BadInput("That fix cannot be read: reload the page.") from None
    edits.save_edit(request, job, lambda doc: with_all_own(doc, piece, values), "Fix taken")
    return redirect("prove", job.pk)


@require_POST
def mend(request: HttpRequest, job_id: int) -> HttpResponse:
    """Takes the edit that ends a finding, by the finding's code and piece and the edit's words."""
    job = shop_job(request, job_id)
    code, piece, label = (request.POST.get(key, "") for key in ("code", "piece", "label"))
    edits.save_edit(request, job, lambda doc: mended(doc, code, piece, label), label[:120] or "Fix taken")
    return redirect("prove", job.pk)
