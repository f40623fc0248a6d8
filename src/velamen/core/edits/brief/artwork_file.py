"""A vector file brought into a job, hoop and width as its brief asks."""

from __future__ import annotations

from collections.abc import Callable

from velamen.core.artwork.read import read_artwork
from velamen.core.artwork.svg import Artwork
from velamen.core.edits.brief.finished_width import resized
from velamen.core.edits.shapes.bring_in import fitting_hoop
from velamen.core.edits.shapes.import_parts import sized_in
from velamen.core.edits.shapes.sorting_in import take_sorted
from velamen.core.job.document import Job, change
from velamen.core.job.reading import check_job


def bring_in_sorted(
    document: Job, artwork: Artwork, take: Callable[[Job], Job], width: float | None, fit: bool
) -> Job:
    """The document with what is taken of an artwork; an empty one in the hoop that holds it, at its finished width.

    width: mm of what is taken, None as the brief asks; fit: as large as the field instead.
    """
    if document.pieces or fit or width is not None:
        return sized_in(document, take, width, fit)
    if hoop := fitting_hoop(artwork, document.library):
        document = change(document, brief=change(document.brief, hoop=hoop))
    wanted, document = document.brief.width, sized_in(document, take, None, False)
    return resized(document, wanted) if wanted else document


def bring_in_file(document: Job, data: bytes, whole_brief: bool = False, unit: str = "") -> tuple[Job, Artwork]:
    """The document with the regions of a vector file added.

    whole_brief: also choose the hoop; unit: of a DXF that does not say its own.
    """
    artwork = read_artwork(data, unit)
    if whole_brief and (hoop := fitting_hoop(artwork, document.library)):
        document = change(document, brief=change(document.brief, hoop=hoop))
    wanted = document.brief.width if not document.pieces else 0.0
    document = check_job(take_sorted(document, artwork, {}))
    return (resized(document, wanted) if wanted else document), artwork
