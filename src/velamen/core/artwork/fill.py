"""Regions out of closed subpaths, by fill rule, those that cross themselves too."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.artwork.crossings import Entangled, check_entangled
from velamen.core.errors import BadInput
from velamen.core.geometry.region import signed_area

MANY = 2_000  # points of an element
MOST_CROSSINGS = 5_000  # of the outlines of one element
LOOP = 0.1  # mm² a stray loop may enclose and still be dropped without a word


@dataclass(frozen=True)
class Subpath:
    """One flattened subpath: (n, 2) points in mm, and whether it is closed."""

    points: Array
    closed: bool


class Fill(NamedTuple):
    """What an element paints."""

    regions: list[Polygon]
    mended: bool = False  # whether an outline crossed itself


def regions_of_fill(rings: list[Array], evenodd: bool, name: str) -> Fill:
    """Painted regions of one element's closed rings, overlaps resolved by its fill rule.

    rings: each (n, 2). Raises BadInput when they cross themselves in more places than can be told apart.
    """
    try:
        if sum(map(len, rings)) > MANY:  # telling whether such an outline is sound can take long itself
            check_entangled(rings, MOST_CROSSINGS, all_of_them=False)
        whole = [Polygon(ring) for ring in rings]
        broken = [nth for nth, outline in enumerate(whole) if not outline.is_valid]
        if broken:
            check_entangled([rings[nth] for nth in broken], MOST_CROSSINGS)
    except Entangled:
        raise BadInput(
            f"The outline {name!r} crosses itself in more than {MOST_CROSSINGS:,} places: "
            "redraw it, or trace a picture of it."
        ) from None
    for nth in broken:
        whole[nth] = _without_loops(whole[nth], abs(signed_area(rings[nth])))
    if any(outline is None for outline in whole):
        return Fill(_wound(rings, evenodd), True)
    known = [(outline, 1 if signed_area(ring) > 0 else -1) for outline, ring in zip(whole, rings, strict=True)
             if outline.area > 0]  # fmt: skip
    if len(known) < 2:
        return Fill([outline for outline, _ in known])
    outlines, turns = zip(*known, strict=True)
    return Fill(_painted(list(outlines), np.array(turns), evenodd))


def _without_loops(outline: Polygon, gone_round: float) -> Polygon | None:
    """A broken outline without its stray loops; None where it crosses itself in earnest.

    gone_round: mm² that its ring encloses, as often as it goes round them.
    """
    mended = shapely.make_valid(outline, method="structure", keep_collapsed=False)
    parts = [part for part in shapely.get_parts(mended) if part.geom_type == "Polygon" and part.area > 0]
    if not parts:
        return Polygon()
    largest = max(parts, key=lambda part: part.area)
    rest = sum(part.area for part in parts) - largest.area
    holes = sum(Polygon(hole).area for hole in largest.interiors)
    once = Polygon(largest.exterior)
    return once if rest + holes <= LOOP and abs(gone_round - once.area) <= 2 * LOOP else None


def _wound(rings: list[Array], evenodd: bool) -> list[Polygon]:
    """Regions that rings paint which cross themselves: faces between their lines, by how often each is gone round."""
    edges = np.concatenate([np.stack([ring, np.roll(ring, -1, axis=0)], axis=1) for ring in rings])
    noded = shapely.union_all(shapely.linestrings(edges))
    faces = shapely.get_parts(shapely.polygonize([noded]))
    faces = faces[shapely.area(faces) > 0]
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    beyond = np.column_stack([np.full(len(spots), edges[..., 0].max() + 1.0), spots[:, 1]])
    spot, edge = shapely.STRtree(shapely.linestrings(edges)).query(
        shapely.linestrings(np.stack([spots, beyond], axis=1))
    )  # of edges whose box a ray to the right meets, those it crosses count, up or down
    (x0, y0), (x1, y1) = edges[edge, 0].T, edges[edge, 1].T
    x, y = spots[spot].T
    crossed = (y0 <= y) != (y1 <= y)
    at = x0 + (y - y0) * (x1 - x0) / np.where(crossed, y1 - y0, 1.0)
    way = np.where(crossed & (at > x), np.where(y1 > y0, 1, -1), 0)
    winding = np.bincount(spot, way, len(faces)).round().astype(np.int64)
    painted = faces[winding % 2 == 1 if evenodd else winding != 0]
    found = [part for part in shapely.get_parts(shapely.union_all(painted)) if part.geom_type == "Polygon"]
    return sorted(found, key=lambda part: -part.area)


def _painted(whole: list[Polygon], turns: NDArray[np.int64], evenodd: bool) -> list[Polygon]:
    """Faces between the rings' lines that the fill rule paints, joined to regions."""
    if not evenodd and (turns > 0).all() | (turns < 0).all():
        return _in_order(shapely.union_all(whole), whole)
    lines = shapely.union_all(shapely.boundary(np.array(whole)))
    faces = shapely.get_parts(shapely.polygonize([lines]))
    spots = shapely.point_on_surface(faces)
    face, ring = shapely.STRtree(whole).query(spots, predicate="within")
    winding = np.zeros(len(faces), dtype=np.int64)
    np.add.at(winding, face, np.ones(len(ring), dtype=np.int64) if evenodd else turns[ring])
    painted = winding % 2 == 1 if evenodd else winding != 0
    return _in_order(shapely.union_all(faces[painted]), whole)


def _in_order(painted: object, whole: list[Polygon]) -> list[Polygon]:
    """Parts of a painted area in the order in which their rings were drawn."""
    parts = [part for part in shapely.get_parts(painted) if part.geom_type == "Polygon"]
    tree = shapely.STRtree(whole)
    first = [min(tree.query(part, predicate="intersects"), default=0) for part in parts]
    return [part for _, part in sorted(zip(first, parts, strict=True), key=lambda pair: pair[0])]
