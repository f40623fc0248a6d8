"""Jobs as a person may reach them: those of the own shop alone."""

from __future__ import annotations

from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from velamen.web.jobs.models import Job


def shop_job(request: HttpRequest, job_id: int) -> Job:
    """A job of the person's own shop, asked for once a request; 404 for anybody else's, and for one in the bin."""
    if getattr(request, "job", None) is None:
        request.job = get_object_or_404(
            Job.objects.select_related("head__base").defer("thumb"), pk=job_id, shop=request.shop, binned=None
        )
    return request.job
