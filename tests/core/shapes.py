"""Shapes that real artwork brings: stars, slits, necks, coasts, slivers, nested holes."""

import numpy as np
import shapely
from shapely import Point, Polygon, box


def star(points=5, outer=30.0, inner=12.0):
    turn = np.arange(2 * points) * np.pi / points
    radius = np.where(np.arange(2 * points) % 2 == 0, outer, inner)
    return Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1))


def coast(points=1500, noise=0.12, seed=3):
    turn = np.linspace(0, 2 * np.pi, points, endpoint=False)
    rough = np.random.default_rng(seed).normal(0, noise, points)
    radius = 25 + 3 * np.sin(5 * turn) + 1.5 * np.sin(17 * turn) + rough
    whole = shapely.make_valid(Polygon(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)))
    return max(shapely.get_parts(whole), key=lambda part: part.area)


def comb(teeth=6):
    parts = [box(-30, -20, 30, -12)] + [box(-30 + 10 * nth, -14, -25 + 10 * nth, 20) for nth in range(teeth)]
    return shapely.union_all(parts)


def spiral():
    turn = np.linspace(0, 5 * np.pi, 400)
    radius = 4 + 1.6 * turn
    return shapely.LineString(np.stack([radius * np.cos(turn), radius * np.sin(turn)], axis=1)).buffer(2.2)


SHAPES = {
    "square": box(-20, -20, 20, 20),
    "ring": Point(0, 0).buffer(25, 64).difference(Point(0, 0).buffer(12, 64)),
    "star": star(),
    "needles": star(7, 32, 9),
    "slit_3": box(-25, -20, 25, 20).difference(box(-1.5, -20, 1.5, 10)),
    "slit_01": box(-14, -12, 14, 12).difference(box(-0.05, -12, 0.05, 4)),
    "neck": shapely.union_all([Point(-16, 0).buffer(12), Point(16, 0).buffer(12), box(-10, -1, 10, 1)]),
    "coast": coast(),
    "comb": comb(),
    "spiral": spiral(),
    "thin_ring": Point(0, 0).buffer(20, 64).difference(Point(0, 0).buffer(17.5, 64)),
    "sliver": Polygon([(-25, 0), (0, 1.5), (25, 0), (0, 0.5)]),
    "two_holes": box(-30, -20, 30, 20).difference(Point(-12, 0).buffer(8)).difference(star(5, 10, 5).buffer(0)),
    "notch": shapely.union_all([Point(-9, 0).buffer(10, 64), Point(9, 0).buffer(10, 64)]).intersection(
        box(-12, -9, 12, 30)
    ),
    "wedge": Polygon([(-12, 0), (8, 6), (8, -4)]),
    "leaf": Point(-14, 0).buffer(24, 64).intersection(Point(14, 0).buffer(24, 64)),
}
