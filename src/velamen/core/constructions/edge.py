"""Edge stitches: what E-stitch, blanket and overedge declare alike."""

from __future__ import annotations

from collections.abc import Callable

from velamen.core.constructions.base import Construction, Work
from velamen.core.constructions.plain import nothing_hidden, plain
from velamen.core.geometry.corners import CORNERS
from velamen.core.geometry.region import band
from velamen.core.layering import Area
from velamen.core.matching.value import Values, choice, number
from velamen.core.setting import Setting
from velamen.core.stitching.border import edge_borders
from velamen.core.stitching.strand import Strand

Cover = Callable[[Work, Values], Area | None]


def sides(values: Values, name: str) -> tuple[float, float]:
    """How much of a border's width lies off the shape and on it, mm, by the first word of its settings' keys."""
    width, share = number(values, f"{name}_width"), number(values, f"{name}_share") / 100.0
    return width * share, width * (1.0 - share)


def band_of(name: str) -> Cover:
    """The cover of a close border: its band."""
    return lambda work, values: band(work.region, *sides(values, name))


def edge(name: str, title: str, width: Setting, step: Setting, cover: Cover = nothing_hidden) -> Construction:
    """A construction of an edge stitch of stitching.border; width and step: its own two settings."""
    settings = (
        width,
        Setting(f"{name}_share", "Share outside", "Border", "How much of it lies off the shape.", unit="%", low=0,
                high=100, step=1, measure="edge_share"),
        step,
        Setting(f"{name}_corner", "Corners", "Border", "Turned round, or mitred on the diagonal.", kind="choice",
                unit="", choices=CORNERS[:3], measure="edge_corner"),
    )  # fmt: skip

    def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
        outside, inside = sides(values, name)
        corner, apart = choice(values, f"{name}_corner"), number(values, step.key)
        strands = edge_borders(work.region, "border", name, outside, inside, apart, corner, work.start)
        return f"{title} {outside + inside:.1f}", strands

    return plain(name, title, "border", settings, sewing, cover=cover)
