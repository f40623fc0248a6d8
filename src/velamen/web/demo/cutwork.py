"""Demo job of cutwork: a boat of three openings in a napkin, its bars by guide and by number."""

from __future__ import annotations

from collections.abc import Mapping
from importlib.resources import files

import numpy as np

from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import bring_in
from velamen.core.job.document import Job, brief_for, change
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Line, Shape, plain
from velamen.core.setting import Plain

NAPKIN, WHITE = "Sail-window napkin", "103"
SEWN: Mapping[str, tuple[str, str, Mapping[str, Plain]]] = {
    "Main sail": ("cutwork", WHITE, {"bar_spacing": 9.0}),
    "Jib": ("cutwork", WHITE, {"bar_count": 6, "bar_angle": 18.0}),
    "Hull": ("cutwork", "118", {"bar_spacing": 8.0}),
    "Mast": ("column", "118", {}),
    "Pennant": ("fill", "140", {}),
}
"""Construction, thread and own values of each shape."""
BENT: Mapping[str, tuple[tuple[float, float], ...]] = {
    "Main sail": ((0.15, 0.02), (0.30, 0.30), (0.42, 0.60), (0.50, 0.98)),
    "Hull": ((0.0, 0.12), (0.2, 0.46), (0.5, 0.58), (0.8, 0.46), (1.0, 0.12)),
}
"""Guide lines, by shares of the width and height of their shape."""


def napkin_document() -> Job:
    """Three openings, mast and pennant on a linen napkin over a film that is washed away."""
    drawn = read_svg(files("velamen.web.demo").joinpath("sail-window.svg").read_bytes())
    brief = change(brief_for("firm_woven", "h130x180"), stabilizer="wash_away", stabilizer_layers=2, thread=WHITE)
    job = bring_in(Job(name=NAPKIN, brief=brief), drawn, "cutwork")
    made = {one.name: one for one in job.pieces}
    pieces = [change(made[name], construct=kind, thread=thread, own=dict(own))
              for name, (kind, thread, own) in SEWN.items()]  # fmt: skip
    guided = {made[name].shape: shares for name, shares in BENT.items()}
    shapes = [_guided(one, guided[one.id]) if one.id in guided else one for one in job.shapes]
    return change(job, shapes=shapes, pieces=pieces)


def _guided(shape: Shape, shares: tuple[tuple[float, float], ...]) -> Shape:
    """A shape with a guide line through shares of its box, softly bent."""
    left, top, right, bottom = region_of(shape).bounds
    along = np.linspace(0.0, len(shares) - 1.0, 25)
    corner, size = np.array([left, top]), np.array([right - left, bottom - top])
    points = np.stack([np.interp(along, np.arange(len(shares)), axis) for axis in np.array(shares).T], axis=1)
    return change(shape, lines=[Line("guide", plain([corner + points * size])[0])])
