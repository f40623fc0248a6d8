"""Regions out of closed subpaths, by fill rule; a single outline must not cross itself."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.errors import BadInput
from velamen.core.geometry.region import signed_area

LOOP = 0.1  # mm² a stray loop may enclose and still be dropped without a word


@dataclass(frozen=True)
class Subpath:
    """One flattened subpath: (n, 2) points in mm, and whether it is closed."""

    points: Array
    closed: bool


def regions_of_fill(rings: list[Array], evenodd: bool, name: str) -> list[Polygon]:
    """Painted regions of one element's closed rings, largest overlap resolved by its fill rule.

    rings: each (n, 2). Raises BadInput when a ring crosses itself by more than a stray loop.
    """
    whole: list[Polygon] = []
    turns: list[int] = []
    for ring in rings:
        outline = _simple(ring, name)
        if outline is not None:
            whole.append(outline)
            turns.append(1 if signed_area(ring) > 0 else -1)
    if not whole:
        return []
    if len(whole) == 1:
        return whole
    return _painted(whole, np.array(turns), evenodd)


def _simple(ring: Array, name: str) -> Polygon | None:
    """The ring as a region without holes, stray loops dropped; None when it encloses nothing."""
    outline = Polygon(ring)
    if outline.is_valid:
        return outline if outline.area > 0 else None
    mended = shapely.make_valid(outline, method="structure", keep_collapsed=False)
    parts = [part for part in shapely.get_parts(mended) if part.geom_type == "Polygon" and part.area > 0]
    if not parts:
        return None
    largest = max(parts, key=lambda part: part.area)
    rest = sum(part.area for part in parts) - largest.area
    holes = sum(Polygon(hole).area for hole in largest.interiors)
    if rest + holes > LOOP and not _touches_only(ring, parts):
        raise BadInput(_crossing(ring, name))
    if rest + holes > LOOP:
        return largest
    return Polygon(largest.exterior)


def _touches_only(ring: Array, parts: list[Polygon]) -> bool:
    """Whether the ring only touches itself: its turning area is all that it encloses."""
    area = sum(part.area for part in parts)
    return len(parts) == 1 and abs(abs(signed_area(ring)) - area) <= LOOP


def _crossing(ring: Array, name: str) -> str:
    reason = shapely.is_valid_reason(Polygon(ring))
    spot = re.search(r"\[([-+.\deE]+) ([-+.\deE]+)", reason)
    where = f" near x {float(spot[1]):.1f}, y {float(spot[2]):.1f} mm of the artwork" if spot else ""
    return f"The outline {name!r} crosses itself{where}: pull the crossing apart, then bring it in again."


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
