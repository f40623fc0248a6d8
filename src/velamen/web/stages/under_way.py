"""What is being worked out for a person: how far it is, and ending it."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views import View

from velamen.web.jobs.access import shop_job
from velamen.web.work.outside import Asker, Work, works_of


class UnderWayView(View):
    """Tasks under way for the person who asks, in one job or in any."""

    def get(self, request: HttpRequest, job_id: int | None = None) -> HttpResponse:
        return JsonResponse({"works": [_told(one) for one in works_of(_asker(request, job_id))]})

    def post(self, request: HttpRequest, job_id: int | None = None) -> HttpResponse:
        """Ends all of them, but for others who wait for the same."""
        asker = _asker(request, job_id)
        for one in works_of(asker):
            one.left(asker)
        return HttpResponse(status=204)


def _asker(request: HttpRequest, job_id: int | None) -> Asker:
    if job_id is not None:
        shop_job(request, job_id)
    return Asker(request.shop.pk, request.user.pk, job_id)


def _told(work: Work) -> dict[str, object]:
    share, at = work.share
    return {"what": work.what, "share": share, "at": at, "seconds": round(work.seconds, 1)}
