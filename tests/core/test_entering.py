"""Where sewing begins and ends: entry and exit of every construction that offers them, on shapes with holes and necks."""

import numpy as np
import pytest
import shapely

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.constructions import constructions
from velamen.core.job.document import change
from velamen.core.stitching.roles import CODE

NAMES = ("square", "ring", "star", "neck", "coast", "two_holes", "leaf", "comb", "slit_3", "wedge")
PLAIN = sorted(
    name
    for name, kind in constructions().items()
    if kind.ends and not (kind.around and kind.around.first) and kind.areas
)
# Every construction on every shape, by the one test or by the other.
PAIRS = [[(name, construct) for nth, construct in enumerate(PLAIN) for other, name in enumerate(NAMES)
          if (nth + other) % 2 == side] for side in (0, 1)]  # fmt: skip
REACH = {
    "column": 9.0,
    "stipple": 6.0,
    "cross_stitch": 6.0,
    "crosshatch": 5.0,
    "contour": 9.0,
    "fill": 4.0,
    "motif_fill": 12.0,
}
"""mm from the place asked for within which sewing begins: rows, crosses, strokes and figures have places of their own."""


def ends_of(region, turn):
    """Two places on an outline, a third of it apart."""
    ring = region.exterior
    at = [shapely.line_interpolate_point(ring, share * ring.length) for share in (0.1 + turn, 0.45 + turn)]
    return [tuple(np.round(shapely.get_coordinates(one)[0], 1).tolist()) for one in at]


def job(name, construct, **places):
    made = job_of(SHAPES[name], base="felt")
    return change(made, pieces=[change(made.pieces[0], construct=construct, **places)])


def points(built):
    return np.concatenate([part.xy for part in built.sewn[-1].strands])


def off(one, other):
    return float(np.linalg.norm(np.asarray(one) - np.asarray(other)))


@pytest.mark.parametrize(("name", "construct"), PAIRS[0])
def test_sewing_begins_where_it_is_asked_to(name, construct):
    start, _ = ends_of(SHAPES[name], 0.0)
    (built,) = build_job(job(name, construct, start=start)).pieces
    assert off(points(built)[0], start) <= REACH.get(construct, 3.6)


@pytest.mark.parametrize(("name", "construct"), PAIRS[1])
def test_it_ends_where_it_is_asked_to_and_is_led_there_from_the_entry(name, construct):
    start, end = ends_of(SHAPES[name], 0.05)
    plain = points(build_job(job(name, construct)).pieces[0])
    (built,) = build_job(job(name, construct, start=start, end=end)).pieces
    both = points(built)
    begins = [off(one.xy[0], start) for one in built.sewn[-1].strands]
    assert min(begins) <= 3.0 and (begins[0] <= 3.0 or SHAPES[name].interiors)  # other boundaries may come first
    if construct != "column":  # that ends at the tip of a stroke
        assert off(both[-1], end) <= REACH.get(construct, 3.6) + 1.0
    assert len(both) < 2.2 * len(plain) + 60
    way = built.sewn[-1].strands[int(np.argmin(begins))]
    if construct == "applique":  # under its cover, never across the cloth
        assert (way.role == CODE["travel"]).any()
        edge = shapely.boundary(SHAPES[name])
        led = way.xy[: int(np.flatnonzero(way.role == CODE["travel"])[-1])]
        assert shapely.distance(shapely.points(led), edge).max() < 1.0


def test_boundaries_are_sewn_from_the_entry_to_the_exit():
    region = SHAPES["ring"]
    outer, inner = (ring.coords[10] for ring in (region.exterior, region.interiors[0]))
    for start, end in ((outer, inner), (inner, outer)):
        (built,) = build_job(job("ring", "satin_border", start=start, end=end)).pieces
        strands = built.sewn[-1].strands
        assert len(strands) == 2
        assert off(strands[0].xy[0], start) < 3.0 and off(strands[-1].xy[-1], end) < 3.6


def test_an_open_line_ends_where_it_is_asked_to():
    from velamen.core.job.document import Job, Piece
    from velamen.core.job.shape import Shape

    line = Shape("s1", "wave", [[(0.0, 0.0), (20.0, 6.0), (40.0, 0.0)]], open=True)
    for end in ((0.0, 0.0), (40.0, 0.0)):
        made = Job(shapes=[line], pieces=[Piece("p1", "wave", "s1", "bean", end=end)])
        (built,) = build_job(made).pieces
        assert off(points(built)[-1], end) < 1.0
