"""Lace for tests: jobs on no base, some that hold once rinsed, and some that do not."""

from shapely import LineString, Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.job.document import change
from velamen.core.job.shape import Shape


def lace(*made, base="none"):
    """A job of regions or lines, each with its construction and own values."""
    job = job_of(*(region if region.geom_type == "Polygon" else box(0, 0, 1, 1) for region, *_ in made), base=base)
    shapes = [
        one
        if made[nth][0].geom_type == "Polygon"
        else Shape(one.id, one.name, [list(made[nth][0].coords)], open=True)
        for nth, one in enumerate(job.shapes)
    ]
    pieces = [change(one, construct=made[nth][1], own=made[nth][2] if len(made[nth]) > 2 else {})
              for nth, one in enumerate(job.pieces)]  # fmt: skip
    return change(job, shapes=shapes, pieces=pieces)


def across(*heights):
    return [(LineString([(-6, y - 0.2), (6, y + 0.25)]), "run") for y in heights]


LEFT, RIGHT, MIDDLE = box(-20, -8, -3, 8), box(3, -8, 20, 8), box(-12, -9, 12, 9)
RINGS = [Point(5.2 * nth, 0).buffer(3) for nth in range(-2, 3)]
HOLDING = {
    "net": lace((MIDDLE, "net")),
    "net on a coast": lace((SHAPES["coast"], "net")),
    "two nets, two lines between": lace((LEFT, "net"), (RIGHT, "net"), *across(-3, 3)),
    "two nets, three lines between": lace((LEFT, "net"), (RIGHT, "net"), *across(-4, 0, 4)),
    "satin over a net": lace((MIDDLE, "net"), (box(-10, -1.5, 10, 1.5), "column", {"column_underlay": "none"})),
    "fill over a net": lace((MIDDLE, "net"), (box(-9, -6, 9, 6), "fill", {"fill_underlay": "none"})),
    "satin over its own run": lace((box(-12, -1.5, 12, 1.5), "column", {"column_underlay": "centre_run"})),
    "satin frame": lace((MIDDLE, "net"), (MIDDLE, "satin_border")),
    "strips that overlap": lace((box(-20, -6, 0.8, 6), "net"), (box(-0.8, -6, 20, 6), "net")),
    "figures that overlap": lace((SHAPES["coast"], "motif_fill")),
    "rings that overlap": lace(*((one, "bean") for one in RINGS)),
    "wreath on a ring": lace((Point(0, 0).buffer(14), "motif_line"), (Point(0, 0).buffer(14.6), "bean")),
}
FAILING = {
    "net cut through": (lace((LEFT, "net"), (RIGHT, "net")), "lace_apart"),
    "one line between": (lace((LEFT, "net"), (RIGHT, "net"), *across(0)), "lace_hinge"),
    "floating figure": (lace((MIDDLE.difference(box(-4, -4, 4, 4)), "net"), (Point(0, 0).buffer(3), "run")), "lace_apart"),
    "satin alone": (lace((MIDDLE, "satin_border", {"border_underlay": "none"})), "lace_bare"),
    "cells too wide": (lace((MIDDLE, "net", {"net_cell": 7.5})), "lace_sags"),
    "strips side by side": (lace((box(-20, -6, -0.3, 6), "net"), (box(0.3, -6, 20, 6), "net")), "lace_apart"),
    "rings that touch": (lace(*((Point(6 * nth, 0).buffer(2.95), "run") for nth in range(3))), "lace_apart"),
    "figures apart": (lace((MIDDLE, "motif_line", {"motif_gap": 1.0, "motif_times": 1}),
                           (Point(0, 0).buffer(3), "bean")), "lace_apart"),
}  # fmt: skip
