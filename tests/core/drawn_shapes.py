"""More shapes for tests: letters, a gear, a sieve of holes."""

import numpy as np
import shapely

from velamen.core.artwork.lettering import lettering


def _letter(text):
    return max((one for letter in lettering(text, "fredoka", 45) for one in letter.regions), key=lambda one: one.area)


def _gear():
    angle = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    radius = 22 + 3 * np.sign(np.sin(18 * angle))
    return shapely.buffer(shapely.Polygon(np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)), 0)


HOLES = [shapely.Point(x, y).buffer(2.5) for x in range(-24, 25, 12) for y in range(-14, 15, 14)]
DRAWN = {f"letter_{one}": _letter(one) for one in "BeSR4"} | {
    "gear": _gear(), "sieve": shapely.box(-30, -20, 30, 20).difference(shapely.union_all(HOLES))
}  # fmt: skip
