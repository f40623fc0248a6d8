"""Live shapes on Build: the text of lettering, and the outline of what goes round it, changed where it is sewn."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_POST

from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.web.jobs.access import shop_job
from velamen.web.library.rows import shop_library
from velamen.web.stages.answers import after_edit
from velamen.web.stages.makers import maker_of, maker_values
from velamen.web.stages.reshaping import reshaped

ASKS = {"text": "retype", "around": "around"}
"""The edit that changes a maker, by its kind."""


@require_POST
def set_live(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Changes what a form of Build shows of a piece's text or outline; the rest stays as it is."""
    job, library = shop_job(request, job_id), shop_library(request.shop)

    def changed(document: Job) -> Job:
        maker = maker_of(document, piece)
        if maker is None:
            raise BadInput("That shape follows nothing any more: its outline is changed on Artwork.")
        known = {key: str(value) for key, value in maker_values(maker).items()}
        asked = {**known, **{key: request.POST[key] for key in known if key in request.POST}}
        asked |= {"do": ASKS[known["kind"]], "maker": maker.id}
        return reshaped(document, asked, request.unit, library)[0]

    return after_edit(request, job, piece, "live", changed, "Text or outline changed")
