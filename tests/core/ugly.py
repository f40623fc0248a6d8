"""Ugly regions at random: what real artwork throws at a digitizer."""

import numpy as np
import shapely
from shapely import LineString, Point, Polygon, box


def _blobs(rng):
    count = rng.integers(2, 8)
    discs = [
        Point(*rng.uniform(-25, 25, 2)).buffer(rng.uniform(1, 14), int(rng.integers(2, 24))) for _ in range(count)
    ]
    return shapely.union_all(discs)


def _boxes(rng):
    corners = rng.uniform(-25, 20, (rng.integers(2, 9), 2))
    return shapely.union_all([box(*corner, *(corner + rng.uniform(0.3, 20, 2))) for corner in corners])


def _walk(rng):
    """A random walk for a radius: a coastline with slivers, spikes and near touches."""
    count = int(rng.integers(20, 700))
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    radius = 20 + np.cumsum(rng.normal(0, 0.15, count))
    radius -= (radius[-1] - radius[0]) * turn / (2 * np.pi)
    return Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)).buffer(0)


def _sieve(rng):
    holes = [Point(*rng.uniform(-24, 24, 2)).buffer(rng.uniform(0.3, 7)) for _ in range(rng.integers(1, 12))]
    return box(-25, -25, 25, 25).difference(shapely.union_all(holes))


def _ribbon(rng):
    return LineString(rng.uniform(-25, 25, (int(rng.integers(3, 9)), 2))).buffer(rng.uniform(0.2, 4))


def _spikes(rng):
    count = int(rng.integers(5, 40))
    turn = np.arange(2 * count) * np.pi / count
    radius = np.where(np.arange(2 * count) % 2 == 0, 25, rng.uniform(3, 24))
    return Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1))


def _comb(rng):
    teeth = [box(-25, y, 25, y + rng.uniform(0.05, 3)) for y in range(-20, 20, 4)]
    return shapely.union_all([*teeth, box(-25, -20, -22, 20)])


def _shard(rng):
    return Polygon(rng.uniform(-25, 25, (4, 2))).buffer(0).buffer(rng.uniform(0, 1))


def _whisker(rng):
    return Point(0, 0).buffer(rng.uniform(0.4, 4)).union(box(0, -0.06, 20, 0.06))


KINDS = {
    "blobs": _blobs, "boxes": _boxes, "walk": _walk, "sieve": _sieve, "ribbon": _ribbon,
    "spikes": _spikes, "comb": _comb, "shard": _shard, "whisker": _whisker,
}  # fmt: skip


def ugly(kind, seed):
    """Polygons of one kind that are large enough to sew."""
    drawn = KINDS[kind](np.random.default_rng(seed))
    return [part for part in shapely.get_parts(drawn) if part.geom_type == "Polygon" and part.area > 0.6]
