"""What was chosen of a traced picture or of artwork, taken into a job."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import replace

import numpy as np
import shapely

from velamen.core.artwork.svg import Artwork, Drawn
from velamen.core.artwork.tracing.picture import read_picture
from velamen.core.artwork.tracing.trace import Traced, TraceSettings, trace
from velamen.core.constructions import usual
from velamen.core.edits.shapes.arranging import fitted, moved
from velamen.core.edits.shapes.bring_in import free_name, with_region
from velamen.core.errors import BadInput
from velamen.core.job.document import WIDEST, Job, Piece, change
from velamen.core.job.shape import Backdrop
from velamen.core.materials.colour import matching_cloths, nearest_thread


def take_traced(job: Job, traced: Traced, lies: Backdrop, skipped: Collection[int] = ()) -> Job:
    """The job with the traced regions where their picture lies, those skipped by number left out.

    Each gets a plain cloth near its colour, another one for every colour, and its outlines as curves.
    """
    wanted = [one for nth, one in enumerate(traced.regions) if nth not in set(skipped)]
    if not wanted:
        raise BadInput("Every region is left out: take at least one.")
    angle = np.radians(lies.turn)
    spin = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    place = np.array([lies.x, lies.y])
    used = sorted({one.colour for one in wanted})
    cloths = dict(zip(used, matching_cloths([traced.palette.names[one] for one in used], job.library), strict=True))
    for one in wanted:
        cloth = cloths[one.colour]
        like = Piece("", "", "", usual("area").name, cloth.key, nearest_thread(cloth.colour, job.library).key)
        region = shapely.transform(one.region, lambda points: points @ spin + place)
        nodes = [(ring.reshape(-1, 2) @ spin + place).reshape(-1, 6) for ring in one.nodes]
        job = with_region(job, free_name(job, cloth.name), region, like=like, nodes=nodes)
    return job


def picture_artwork(data: bytes, width: float = 0.0, colours: int = 0) -> Artwork:
    """A picture traced as artwork: every region but the background's, named by its colour.

    width: mm of the picture, 0 as it says itself; colours: how many, 0 for as many as it shows.
    """
    check_width(width)
    picture = read_picture(data)
    traced = trace(picture, TraceSettings(width or picture.width, colours))
    names = traced.palette.names
    return _centred(
        [Drawn(names[one.colour], one.region, names[one.colour]) for one in traced.regions], picture.notes
    )


def check_width(width: float) -> None:
    """Raises BadInput where no picture can be so many mm wide."""
    if not 0 <= width <= WIDEST:
        raise BadInput(f"A picture cannot be {width:g} mm wide: use up to {WIDEST:g}, or 0 for as wide as it says.")


def sized_in(job: Job, take: Callable[[Job], Job], width: float | None, fit: bool) -> Job:
    """The job with what is taken into it in the middle of the field, at a width in mm or as large as the field."""
    before = {shape.id for shape in job.shapes}
    job = take(job)
    new = [shape for shape in job.shapes if shape.id not in before]
    ids = [shape.id for shape in new]
    if fit:
        return fitted(job, ids)
    left, top, right, bottom = shapely.total_bounds(np.array([shapely.linestrings(one.rings[0]) for one in new]))
    scale = 1.0 if width is None else width / (right - left)
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    return moved(job, ids, np.eye(2) * scale, -middle * scale)


def _centred(parts: list[Drawn], notes: tuple[str, ...] = ()) -> Artwork:
    left, top, right, bottom = shapely.total_bounds(np.array([part.region for part in parts], dtype=object))
    shift = np.array([(left + right) / 2, (top + bottom) / 2])
    return Artwork(
        tuple(replace(part, region=shapely.transform(part.region, lambda points: points - shift)) for part in parts),
        notes,
    )


def backdrop_of(job: Job, picture: str, width: float, height: float) -> Job:
    """The job with a picture behind its shapes, in the middle, within the sewing field."""
    hoop = job.library.hoops[job.brief.hoop]
    share = min(1.0, 0.92 * hoop.width / width, 0.92 * hoop.height / height)
    return change(job, backdrop=Backdrop(picture, 0.0, 0.0, round(width * share, 2)))
