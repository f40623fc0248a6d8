"""Regions combined: joined, taken from one another, divided, offset evenly, mended and broken up."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.region import boundaries

SPECK = 0.5  # mm²; what is smaller is dropped
ROUND = 0.01  # mm that an arc's chords may leave it


def union(regions: Sequence[Polygon]) -> list[Polygon]:
    """All of them as one, in as many parts as hang together."""
    return parts_of(shapely.union_all(np.array(regions, dtype=object)))


def subtract(regions: Sequence[Polygon]) -> list[Polygon]:
    """The first without all the others."""
    first, *rest = regions
    return parts_of(shapely.difference(first, shapely.union_all(np.array(rest, dtype=object))))


def intersect(regions: Sequence[Polygon]) -> list[Polygon]:
    """What all of them share."""
    return parts_of(shapely.intersection_all(np.array(regions, dtype=object)))


def divide(regions: Sequence[Polygon], cuts: Sequence[object] = ()) -> list[Polygon]:
    """Every piece that their outlines, and lines drawn over them, cut one another into, none overlapping."""
    outlines = shapely.boundary(np.array(regions, dtype=object))
    lines = shapely.union_all(np.concatenate([outlines, np.array(cuts, dtype=object)]))
    faces = shapely.get_parts(shapely.polygonize([lines]))
    tree = shapely.STRtree(list(regions))
    inside = np.unique(tree.query(shapely.point_on_surface(faces), predicate="within")[0])
    return [face for face in faces[inside] if face.area >= SPECK]


def offset(
    regions: Sequence[Polygon], distance: float, sharp: bool = False, close: float = 0.0, calm: float = 0.0
) -> list[Polygon]:
    """An even outline round all of them, `distance` mm out (or in, where negative).

    sharp: corners mitred instead of round; close: mm of gaps and notches that are closed;
    calm: mm of bumps and notches that are smoothed away, the outline never coming nearer than
    half the distance.
    """
    join = "mitre" if sharp else "round"
    whole = shapely.union_all(np.array(regions, dtype=object))
    area = shapely.buffer(whole, distance, join_style=join, quad_segs=arc(distance), mitre_limit=4.0)
    # two steps one way are one
    steps = ([close / 2, -close / 2] if close > 0 else []) + ([calm, -2 * calm, calm] if calm > 0 else [])
    for by in steps:
        area = shapely.buffer(area, by, quad_segs=arc(by))
    if calm > 0 and distance > 0:
        area = shapely.union(area, shapely.buffer(whole, distance / 2, quad_segs=arc(distance)))
    return parts_of(shapely.simplify(area, 0.01))


def fill_holes(region: Polygon, below: float = np.inf) -> Polygon:
    """A region without its holes under an area in mm²."""
    kept = [hole for hole in region.interiors if Polygon(hole).area >= below]
    return Polygon(region.exterior, kept)


def simplified(region: Polygon, tolerance: float) -> Polygon:
    """A region with as few points as stay within a tolerance in mm of its outline."""
    for share in (1.0, 0.5, 0.25):
        rings = [_thinned(ring, share * tolerance) for ring in boundaries(region)]
        if len(rings[0]) > 3:
            calm = Polygon(rings[0], [ring for ring in rings[1:] if len(ring) > 3])
            if calm.is_valid:
                return calm
    return region


def _thinned(ring: Array, tolerance: float) -> Array:
    """A ring thinned as a line from its farthest corner, which stays: a ring as such may lose it."""
    far = int(np.argmax(np.linalg.norm(ring - ring.mean(axis=0), axis=1)))
    line = shapely.linestrings(np.concatenate([ring[far:], ring[: far + 1]]))
    return np.asarray(shapely.get_coordinates(shapely.simplify(line, tolerance, preserve_topology=False)))


def parts_of(area: object) -> list[Polygon]:
    """The parts of an area that are no specks, largest first."""
    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area >= SPECK]
    return sorted(parts, key=lambda part: -part.area)


def arc(radius: float) -> int:
    """Segments of a quarter circle of a radius in mm.

    >>> arc(20.0), arc(3.0)
    (25, 10)
    """
    return int(np.ceil(np.pi / 4 / np.arccos(1.0 - ROUND / max(abs(radius), 2 * ROUND))))
