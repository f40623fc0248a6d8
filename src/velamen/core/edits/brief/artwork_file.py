"""A vector file brought into a job, hoop and width as its brief asks."""

from __future__ import annotations

from velamen.core.artwork.read import read_artwork
from velamen.core.artwork.svg import Artwork
from velamen.core.constructions import usual
from velamen.core.edits.brief.finished_width import resized
from velamen.core.edits.shapes.bring_in import bring_in, fitting_hoop
from velamen.core.job.document import Job, change
from velamen.core.job.reading import check_job


def bring_in_file(document: Job, data: bytes, whole_brief: bool = False, unit: str = "") -> tuple[Job, Artwork]:
    """The document with the regions of a vector file added.

    whole_brief: also choose the hoop; unit: of a DXF that does not say its own.
    """
    artwork = read_artwork(data, unit)
    if whole_brief and (hoop := fitting_hoop(artwork, document.library)):
        document = change(document, brief=change(document.brief, hoop=hoop))
    wanted = document.brief.width if not document.pieces else 0.0
    document = check_job(bring_in(document, artwork, usual("area").name))
    return (resized(document, wanted) if wanted else document), artwork
