"""Pictures traced into regions of few colours, with holes and shared borders, their outlines curves."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.tracing.borders import borders
from velamen.core.artwork.tracing.colours import MOST_COLOURS, NOTHING, Palette, labelled, palette
from velamen.core.artwork.tracing.parts import outer_label, parts
from velamen.core.artwork.tracing.picture import Picture
from velamen.core.artwork.tracing.smoothing import curves
from velamen.core.errors import BadInput
from velamen.core.geometry.curves import flatten_nodes
from velamen.core.geometry.region import signed_area

MAX_REGIONS = 200


@dataclass(frozen=True)
class TraceSettings:
    """How a picture is traced.

    width: mm of the picture; colours: how many, 0 for as many as it shows; merge: pairs of a colour's
    number and that of the one it becomes; drop: colours left out, None for the background found at the
    picture's edge; specks: mm² under which a part goes to its neighbour; smoothing: mm of the bumps
    that go; tolerance: mm that a curve may leave the smoothed border.
    """

    width: float
    colours: int = 0
    merge: tuple[tuple[int, int], ...] = ()
    drop: frozenset[int] | None = None
    specks: float = 1.0
    smoothing: float = 0.1
    tolerance: float = 0.05


@dataclass(frozen=True)
class Region:
    """A traced region: number of its colour, nodes (n, 6) of each outline in mm, outer first, and its polygon."""

    colour: int
    nodes: tuple[Array, ...]
    region: Polygon


@dataclass(frozen=True)
class Traced:
    """What a picture came to: its palette and background, colours left out, regions from the largest."""

    palette: Palette
    background: int
    dropped: frozenset[int]
    regions: tuple[Region, ...]

    @property
    def points(self) -> int:
        """Curve nodes of all outlines together."""
        return sum(len(ring) for one in self.regions for ring in one.nodes)


def trace(picture: Picture, asked: TraceSettings) -> Traced:
    """A picture traced. Raises BadInput where nothing is left of it."""
    *_, (_, _, traced) = tracing(picture, asked)
    assert traced is not None
    return traced


def tracing(picture: Picture, asked: TraceSettings) -> Iterator[tuple[float, str, Traced | None]]:
    """The same step by step: how much is done (0 to 1), what comes next, and at last the result."""
    if not 1.0 <= asked.width <= 1000.0:
        raise BadInput(f"A picture {asked.width:g} mm wide is out of bounds: use 1 to 1000 mm.")
    if not 0 <= asked.colours <= MOST_COLOURS:
        raise BadInput(
            f"{asked.colours} colours are out of bounds: use 1 to {MOST_COLOURS}, or 0 for as many as there are."
        )
    yield 0.05, "Weighing colours", None
    known = palette(picture, asked.colours)
    yield 0.2, "Giving each pixel its colour", None
    labels = _merged(labelled(picture, known), asked.merge, len(known.colours))
    background = outer_label(labels)
    yield 0.5, "Finding parts and specks", None
    pixel = asked.width / picture.colours.shape[1]
    part, kind = parts(labels, asked.specks / pixel**2)
    dropped = frozenset({background}) - {NOTHING} if asked.drop is None else asked.drop
    kept = {nth for nth, label in enumerate(kind) if label != NOTHING and label not in dropped}
    if not kept:
        raise BadInput("Nothing is left of the picture: keep more colours, or drop fewer specks.")
    if len(kept) > MAX_REGIONS:
        raise BadInput(
            f"The picture comes to {len(kept):,} regions, at most {MAX_REGIONS} fit into a job: "
            "use fewer colours, drop some, or drop larger specks."
        )
    yield 0.7, "Following borders", None
    found = borders(part)
    yield 0.85, "Fitting curves", None
    fine = curves(found.lines, found.loops, pixel, asked.smoothing, asked.tolerance)
    middle = np.array(part.shape[::-1]) / 2.0
    mm = [((line.reshape(-1, 2) - middle) * pixel).reshape(-1, 6) for line in fine]
    regions = [
        one for nth, rings in found.rings.items() if nth in kept for one in _regions(int(kind[nth]), rings, mm)
    ]
    if not regions:
        raise BadInput("Nothing is left of the picture: keep more colours, or drop fewer specks.")
    regions.sort(key=lambda one: -Polygon(one.region.exterior).area)
    yield 1.0, "Done", Traced(known, background, dropped, tuple(regions))


def _merged(labels: NDArray[np.int16], merge: tuple[tuple[int, int], ...], count: int) -> NDArray[np.int16]:
    """Labels after colours have become others; chains of them are followed."""
    table = np.arange(count + 1)
    for one, other in merge:
        if 0 <= one < count and 0 <= other < count:
            table[one] = other
    for _ in range(count):
        table = table[table]
    table[count] = NOTHING
    return table[labels].astype(np.int16)


def _regions(colour: int, rings: list[list[int]], lines: list[Array]) -> list[Region]:
    """The region of one part; more than one where smoothing has pinched it, none where it has vanished."""
    nodes = [_ring(ring, lines) for ring in rings]
    flat = [(one, flatten_nodes(one)) for one in nodes if len(one) > 1]
    flat = [(one, ring) for one, ring in flat if len(ring) > 2]
    if not flat:
        return []
    flat.sort(key=lambda pair: -abs(signed_area(pair[1])))
    whole = Polygon(flat[0][1], [ring for _, ring in flat[1:]])
    if whole.is_valid:
        return [Region(colour, tuple(one for one, _ in flat), whole)] if whole.area > 0 else []
    mended = shapely.make_valid(whole, method="structure", keep_collapsed=False)
    found = [one for one in shapely.get_parts(mended) if one.geom_type == "Polygon" and one.area > 0.02 * whole.area]
    return [Region(colour, tuple(_cornered(ring) for ring in (one.exterior, *one.interiors)), one) for one in found]


def _ring(ring: list[int], lines: list[Array]) -> Array:
    """Nodes of a ring out of its lines, joined at their ends; a closed one ends on its first point."""
    found: list[Array] = []
    for name in ring:
        line = lines[name] if name >= 0 else lines[~name][::-1][:, [0, 1, 4, 5, 2, 3]]
        if found:
            found[-1][-1, 4:] = line[0, 4:]
            line = line[1:]
        found.append(line.copy())
    nodes = np.concatenate(found)
    nodes[0, 2:4] = nodes[-1, 2:4]
    return nodes[:-1]


def _cornered(ring: object) -> Array:
    """A ring of straight stretches as nodes."""
    points = shapely.get_coordinates(ring)[:-1]
    return np.tile(points, (1, 3))
