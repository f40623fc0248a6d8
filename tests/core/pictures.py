"""Pictures for tests: regions painted with soft edges, as a scan or a drawing program would."""

from io import BytesIO

import numpy as np
import shapely
from PIL import Image, ImageDraw

SOFT = 4  # pixels painted for each one kept, so that edges are blended


def painted(regions, size=(600, 600), pixel=0.1, ground="#f6f1e4"):
    """An image of coloured regions in mm about its middle: pairs of a polygon and "#rrggbb"."""
    image = Image.new("RGB", (size[0] * SOFT, size[1] * SOFT), ground)
    pen = ImageDraw.Draw(image)
    for region, colour in regions:
        for nth, ring in enumerate((region.exterior, *region.interiors)):
            points = (np.asarray(ring.coords) / pixel + np.array(size) / 2) * SOFT - 0.5
            pen.polygon([tuple(one) for one in points], fill=colour if nth == 0 else ground)
    return image.resize(size, Image.Resampling.BOX)


def encoded(image, kind="PNG", **more):
    """An image as a file."""
    target = BytesIO()
    image.save(target, kind, **more)
    return target.getvalue()


def pixel_edge(image, colour, pixel=0.1):
    """The region in mm that a colour's pixels cover, those blended half and more among them."""
    values = np.asarray(image.convert("RGB")).astype(float)
    ground = values[0, 0]
    wanted = np.array([int(colour[at : at + 2], 16) for at in (1, 3, 5)], dtype=float)
    share = (values - ground) @ (wanted - ground) / ((wanted - ground) @ (wanted - ground))
    step = np.diff(np.pad(share >= 0.5, ((0, 0), (1, 1))).astype(int), axis=1)
    (row, left), (_, right) = np.nonzero(step == 1), np.nonzero(step == -1)
    whole = shapely.union_all(shapely.box(left, row, right, row + 1))
    whole = max(shapely.get_parts(whole), key=lambda part: part.area)  # without pixels that hang on by a corner
    return shapely.transform(whole, lambda points: (points - np.array(image.size) / 2) * pixel)


def off(region, truth):
    """How far in mm an outline lies off another at most, seen from every point of either."""
    both = [shapely.segmentize(one.boundary, 0.2) for one in (region, truth)]
    return max(
        float(shapely.distance(shapely.points(shapely.get_coordinates(one)), other).max())
        for one, other in (both, both[::-1])
    )
