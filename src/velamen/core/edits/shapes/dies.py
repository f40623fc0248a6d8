"""Cutting dies of the library as shapes whose outline and size stay fixed."""

from __future__ import annotations

from functools import lru_cache

from shapely import Polygon
from shapely.affinity import translate

from velamen.core.arrays import Place
from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import free_name, with_region
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.materials.library import pick
from velamen.core.materials.records import Die


def draw_die(job: Job, key: str, at: Place = (0.0, 0.0)) -> Job:
    """The job with a die's outline about a place in mm."""
    die = pick(job.library.dies, key, "cutting die")
    job = with_region(job, free_name(job, die.name), translate(die_region(die), *at))
    return change(job, shapes=[*job.shapes[:-1], change(job.shapes[-1], die=key)])


@lru_cache(maxsize=128)
def die_region(die: Die) -> Polygon:
    """The region that a die cuts, its middle on the origin."""
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="400mm" height="400mm" viewBox="-200 -200 400 400">' \
          f'<path fill-rule="evenodd" d="{_safe(die.outline)}"/></svg>'  # fmt: skip
    try:
        drawn = read_svg(svg.encode()).drawn
    except BadInput:
        raise BadInput(
            f"The outline of the die {die.name!r} cannot be read: write it as an SVG path in mm."
        ) from None
    if len(drawn) != 1:
        raise BadInput(f"The die {die.name!r} has {len(drawn)} outlines apart: a die cuts one shape.")
    return drawn[0].region


def _safe(path: str) -> str:
    """A path without anything that is none: letters of its commands, figures, commas, spaces."""
    if not path or set(path) - set("MmLlHhVvCcSsQqTtAaZz0123456789.,+-eE "):
        raise BadInput("An outline is an SVG path in mm, like M-30,-20L30,-20L0,40Z.")
    return path
