"""Edge stitches: what E-stitch, blanket and overedge declare alike."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from shapely import Polygon

from velamen.core.constructions.base import Construction, Ends, Work
from velamen.core.constructions.plain import BORDER, nothing_hidden, plain
from velamen.core.geometry.corners import CORNERS
from velamen.core.geometry.region import Area, band
from velamen.core.materials.records import UNDERLAYS
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import corners_left, edge_borders
from velamen.core.stitching.strand import Strand
from velamen.core.values.value import Values, choice, number

SHARES: Mapping[str, float] = {"outer": 0.0, "middle": 50.0, "inner": 100.0}
"""% of a border that lies off a shape, by what of a border found in a stitch file that shape is."""
Cover = Callable[[Work, Values], Area | None]


def sides(values: Values, name: str) -> tuple[float, float]:
    """How much of a border's width lies off the shape and on it, mm, by the first word of its settings' keys."""
    width, share = number(values, f"{name}_width"), number(values, f"{name}_share") / 100.0
    return width * share, width * (1.0 - share)


def outside(known: Mapping[str, Plain], name: str) -> float:
    """How far a border lies off the shape, mm, by the same."""
    return float(known[f"{name}_width"]) * float(known[f"{name}_share"]) / 100.0


def band_of(name: str) -> Cover:
    """The cover of a close border: its band."""
    return lambda work, values: band(work.region, *sides(values, name))


def reaching(name: str) -> dict[str, Any]:
    """How far a border lies outside, and whether its corners are pointed: arguments of a construction."""
    return {
        "beyond": lambda known: outside(known, name),
        "pointed": lambda known: known[f"{name}_corner"] != "rounded",
    }


def satin_settings(name: str, role: str) -> tuple[Setting, ...]:
    """Spacing, pull and underlay of a satin border; name: first words of the keys, role: of what it is sewn on."""
    return (
        Setting(f"{name}_spacing", "Spacing", "Border", "Between neighbouring penetrations on one rail.",
                low=0.15, high=3.0, step=0.01, role=role, measure="satin_spacing"),
        Setting(f"{name}_pull", "Pull, per side", "Border", "Added on either side, as stitches draw the fabric in.",
                low=0.0, high=1.0, step=0.01, role=role, measure="pull"),
        Setting(f"{name}_underlay", "Underlay", "Border", "Sewn first, under the satin.", kind="choice", unit="",
                choices=UNDERLAYS, role=role, measure="underlay"),
    )  # fmt: skip


def satin_values(values: Values, name: str) -> tuple[float, float, str]:
    """Spacing, pull and underlay by those settings."""
    return number(values, f"{name}_spacing"), number(values, f"{name}_pull"), choice(values, f"{name}_underlay")


def round_corners(work: Work, region: Polygon, sides: tuple[float, float], pull: float, corner: str) -> list[Finding]:
    """That some corners of a border stay round although its others do not.

    region: within its edge; sides: mm of the finished border off that and on it; pull: added to either.
    """
    off, on = sides
    places = corners_left(region, off + pull, on + pull, pull, corner)
    if not places:
        return []
    some = "A corner" if len(places) == 1 else f"{len(places)} corners"
    return [Finding(
        "corners_round", "info", work.piece,
        f"{some} of {work.name} cannot be {'lapped' if corner == 'lapped' else 'mitred'} at {sum(sides):.1f} mm and "
        f"{'stays' if len(places) == 1 else 'stay'} round: sides too short or ragged, or another edge too near.",
        tuple((round(x, 2), round(y, 2)) for x, y in places),
    )]  # fmt: skip


def edge(
    name: str, title: str, width: Setting, step: Setting, cover: Cover = nothing_hidden, corner: str = "edge_corner",
    **more: Any,
) -> Construction:  # fmt: skip
    """A construction of an edge stitch of stitching.border.

    width and step: its own two settings; corner: measure of its corners; more: as in Construction.
    """
    settings = (
        width,
        Setting(f"{name}_share", "Share outside", "Border", "How much of it lies off the shape.", unit="%", low=0,
                high=100, step=1, measure="edge_share"),
        step,
        Setting(f"{name}_corner", "Corners", "Border", "Turned round, or mitred on the diagonal.", kind="choice",
                unit="", choices=CORNERS[:3], measure=corner),
    )  # fmt: skip

    def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
        off, on = sides(values, name)
        how, apart = choice(values, f"{name}_corner"), number(values, step.key)
        strands = edge_borders(work.region, "border", name, off, on, apart, how, work.start)
        return f"{title} {off + on:.1f}", strands

    return plain(name, title, BORDER, settings, sewing, hides=cover, ends=Ends.LOOP, **reaching(name), **more)
