"""Nets: one thread through all of them, every line there and back, crossings that lock, nothing over the edge."""

from collections import Counter

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely import LineString, Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.stitching.net import net
from velamen.core.stitching.one_thread import rounds
from velamen.core.stitching.roles import CODE

ROLES = "lace_net", "lace_border"
UGLY = {
    **SHAPES,
    "tiny hole": box(-20, -15, 20, 15).difference(Point(0.7, 0.4).buffer(0.5)),
    "islands of holes": box(-25, -25, 25, 25).difference(
        shapely.union_all([Point(x, y).buffer(0.6) for x in (-12, -1, 11) for y in (-9, 2, 10)])
    ),
    "narrower than a cell": box(-30, -0.9, 30, 0.9),
}


def sewn(name, **more):
    asked = {"cell": 3.0, "angle": 0.7, "stitch": 2.2, "border": 2, **more}
    return net(UGLY[name], ROLES, **asked)


def stitches_of(one):
    """The stitches of the lines of a net, (x, y, x, y) each, whichever way they are sewn."""
    rows = np.flatnonzero(one.role[1:] == CODE["lace_net"])
    ends = one.xy.round(3).tolist()
    return [(*min(ends[row], ends[row + 1]), *max(ends[row], ends[row + 1])) for row in rows]


@pytest.mark.parametrize("name", UGLY)
@pytest.mark.parametrize("cell", [2.5, 4.0])
def test_one_thread_there_and_back_and_nothing_over_the_edge(name, cell):
    (one,) = sewn(name, cell=cell)
    gap = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
    body = (one.role[1:] == CODE["lace_net"]) | (one.role[1:] == CODE["lace_border"])
    assert gap.max() < 2.75 and gap[body].min() > 0.25
    assert shapely.distance(shapely.points(one.xy), UGLY[name]).max() < 0.05
    assert all(times % 2 == 0 for times in Counter(stitches_of(one)).values())  # each stitch of a line is sewn back


@pytest.mark.parametrize("name", UGLY)
@pytest.mark.parametrize("cell", [2.5, 4.0])
def test_a_curved_net_is_one_thread_too_and_every_line_is_sewn_back(name, cell):
    (one,) = sewn(name, cell=cell, curved=True)
    gap = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
    body = (one.role[1:] == CODE["lace_net"]) | (one.role[1:] == CODE["lace_border"])
    assert gap.max() < 2.75 and gap[body].min() > 0.25
    assert shapely.distance(shapely.points(one.xy), UGLY[name]).max() < 0.1
    assert all(times % 2 == 0 for times in Counter(stitches_of(one)).values())


@pytest.mark.parametrize("cell", [2.5, 3.0, 4.0])
@pytest.mark.parametrize("name", ["coast", "star", "comb", "neck", "two_holes", "ring"])
def test_inner_cells_of_a_curved_net_are_alike(name, cell):
    region = UGLY[name]
    (one,) = sewn(name, cell=cell, curved=True, border=0)
    drawn = shapely.union_all(shapely.linestrings(np.stack([one.xy[:-1], one.xy[1:]], axis=1)), grid_size=1e-3)
    faces = shapely.get_parts(shapely.polygonize([drawn]))
    faces = faces[shapely.contains(region, shapely.point_on_surface(faces))]
    wide = 2 * shapely.length(shapely.maximum_inscribed_circle(faces, tolerance=0.02))
    inner = (shapely.distance(faces, shapely.boundary(region)) > 0.75) & (wide > 0.3 * cell)
    alike = (wide[inner] >= 0.7 * cell - 0.1) & (wide[inner] <= 1.4 * cell + 0.1)
    assert inner.sum() < 5 or alike.mean() >= 0.9
    assert wide.max() <= 1.5 * cell


def test_a_curved_net_follows_a_guide_that_is_sewn_itself():
    guide = np.stack([np.linspace(-12, 12, 30), 5 * np.sin(np.linspace(-12, 12, 30) / 5)], axis=1)
    (one,) = sewn("square", curved=True, guides=(guide,))
    drawn = shapely.union_all(shapely.linestrings(np.stack([one.xy[:-1], one.xy[1:]], axis=1)))
    assert shapely.distance(shapely.points(guide), drawn).max() < 0.15
    beside = shapely.offset_curve(LineString(guide), 3.0)
    near = shapely.distance(shapely.line_interpolate_point(beside, np.linspace(2, beside.length - 2, 30)), drawn)
    assert np.mean(near < 0.25) > 0.8


@pytest.mark.parametrize("name", ["square", "ring", "star", "coast", "comb", "two_holes"])
def test_crossings_lie_between_needle_points(name):
    (one,) = sewn(name)
    shapes = shapely.linestrings(np.array(sorted(set(stitches_of(one)))).reshape(-1, 2, 2))
    first, second = shapely.STRtree(shapes).query(shapes, predicate="crosses")
    meet = shapely.intersection(shapes[first], shapes[second])
    ends = shapely.multipoints(shapely.get_coordinates(shapes).reshape(-1, 2, 2))
    off = shapely.distance(meet, ends[first])
    assert len(off) > 20 and np.quantile(off, 0.02) > 0.15  # a crossing locks from .15 on


def test_border_rounds_go_round_every_outline():
    length = {}
    for border in (0, 1, 2):
        (one,) = sewn("two_holes", border=border)
        gap = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
        length[border] = gap[one.role[1:] == CODE["lace_border"]].sum()
    around = UGLY["two_holes"].length
    assert length[0] == pytest.approx(around, rel=0.03)
    assert length[1] == pytest.approx(2 * around, rel=0.03) and length[2] == pytest.approx(3 * around, rel=0.05)


@given(st.data())
def test_all_that_hangs_together_is_one_closed_round(data):
    sizes = data.draw(st.lists(st.integers(1, 7), min_size=1, max_size=4))
    following, group = [], []
    for nth, size in enumerate(sizes):
        first = len(following)
        following += [first + (one + 1) % size for one in range(size)]
        group += [nth] * size
    place = st.integers(0, len(following) - 1)
    lines = data.draw(st.lists(st.tuples(place, place).filter(lambda ends: ends[0] != ends[1]), max_size=14))
    found = rounds(following, lines)
    root = list(range(len(sizes)))

    def find(one):
        return one if root[one] == one else find(root[one])

    for one, other in lines:
        root[find(group[one])] = find(group[other])
    assert len(found) == len({find(one) for one in range(len(sizes))})
    steps = [step for way in found for step in way]
    assert Counter(step.line for step in steps if step.arc < 0) == dict.fromkeys(range(len(lines)), 2)
    assert sorted(step.arc for step in steps if step.arc >= 0) == list(range(len(following)))
    for way in found:
        places = []
        for step in way:
            ends = lines[step.line] if step.arc < 0 else (step.arc, following[step.arc])
            places.append(ends if step.ahead else ends[::-1])
        assert all(one[1] == other[0] for one, other in zip(places, places[1:] + places[:1], strict=True))


def test_figures_out_of_bounds_are_refused():
    for wrong in ({"cell": 0.2}, {"stitch": 9.0}, {"cell": float("nan")}):
        with pytest.raises(BadInput):
            sewn("square", **wrong)


@pytest.mark.parametrize(("base", "border"), [("none", 2), ("terry", 1)])
def test_a_net_is_a_construction_with_its_reasons(base, border):
    job = job_of(SHAPES["two_holes"], base=base)
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="net")]))
    (piece,) = build.pieces
    assert piece.values["net_border"].value == border and piece.values["net_cell"].reasons
    assert build.figures.trims == 1 and not [one for one in build.findings if one.piece]
    assert {one.role for one in build.plan.blocks} == {"lace_net"}
