"""The lines of a curved net as a graph: stretches between the places where they meet, and those where they end."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from velamen.core.arrays import Array, Index, Mask
from velamen.core.geometry.polyline import line_length
from velamen.core.stitching.net_courses import FINE, Courses, longer

ONE = 0.4  # mm within which meetings are one place
HAIR = 3 * FINE  # mm of a line's end past the line it meets


@dataclass(frozen=True)
class Graph:
    """Stretches of a net. lines: (n, 2) each; ends: (m, 2) places each joins; places: (p, 2) mm; edge: (p,) whether a
    place lies on an outline."""

    lines: list[Array]
    ends: Index
    places: Array
    edge: Mask


def graph_of(found: Courses) -> Graph:
    """The graph of rings and bars, ends within 0.4 mm of each other one place."""
    drawn = [*(shapely.linestrings(ring) for ring in found.rings)]
    drawn += list(shapely.linestrings(longer(found.bars, FINE / 2)))
    if not drawn:
        return Graph([], np.zeros((0, 2), np.int64), np.zeros((0, 2)), np.zeros(0, bool))
    parts = shapely.get_parts(shapely.line_merge(shapely.union_all(drawn, grid_size=1e-4)))
    parts = shapely.get_parts(shapely.line_merge(shapely.multilinestrings(parts[shapely.length(parts) > HAIR])))
    lines = [shapely.get_coordinates(one) for one in parts]
    tips = np.array([line[[0, -1]] for line in lines]).reshape(-1, 2)
    number, places = _clustered(tips)
    ends = number.reshape(-1, 2)
    degree = np.bincount(ends.ravel(), minlength=len(places))
    kept = [nth for nth, line in enumerate(lines) if ends[nth, 0] != ends[nth, 1] or line_length(line) > 4 * ONE]
    return Graph([lines[nth] for nth in kept], ends[kept], places, degree == 1)


def _clustered(spots: Array) -> tuple[Index, Array]:
    """The place of each spot, and where the places lie."""
    pairs = cKDTree(spots).query_pairs(ONE, output_type="ndarray")
    graph = coo_array((np.ones(len(pairs)), pairs.T), (len(spots),) * 2)
    count, number = connected_components(graph, directed=False)
    total = np.bincount(number, minlength=count)
    places = np.stack([np.bincount(number, spots[:, axis], count) / total for axis in (0, 1)], axis=1)
    return np.asarray(number, np.int64), places
