"""Cutting dies of the library as shapes whose outline and size stay fixed."""

from __future__ import annotations

from functools import lru_cache

from shapely import Polygon
from shapely.affinity import translate

from velamen.core.arrays import Place
from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import with_region
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.materials.library import pick
from velamen.core.materials.records import Die


def draw_die(job: Job, key: str, at: Place = (0.0, 0.0)) -> Job:
    """The job with a die's outline about a place in mm."""
    die = pick(job.library.dies, key, "cutting die")
    job = with_region(job, _name(job, die), translate(die_region(die), *at))
    return change(job, shapes=[*job.shapes[:-1], change(job.shapes[-1], die=key)])


def _name(job: Job, die: Die) -> str:
    """A free name for a shape of a die, whose own number is its size and stays."""
    known = {shape.name for shape in job.shapes}
    names = (f"{die.name}, {nth}" if nth > 1 else die.name for nth in range(1, len(known) + 2))
    return next(one for one in names if one not in known)


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
