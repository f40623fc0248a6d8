"""Routes: short orders, hidden travel where pieces touch, hops where they do not, trims before and after."""

import itertools

import numpy as np
import pytest
import shapely
from shapely import LineString, Point, affinity, box

from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.job.document import Route, change
from velamen.core.job.reading import read_job, write_job
from velamen.core.outputs.report import report
from velamen.core.plan.routing import short_order
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.stitching.roles import CODE

PETALS = [affinity.rotate(affinity.scale(Point(11, 0).buffer(1), 9, 5), 60 * nth, origin=(0, 0)) for nth in range(6)]
STRIPS = [box(8 * nth, 0, 8 * nth + 8, 20 + 3 * nth) for nth in (0, 2, 4, 1, 3)]
APART = [box(12 * x, 12 * y, 12 * x + 8, 12 * y + 8) for y, x in itertools.product(range(3), (0, 3, 1, 2))]


def jobs(regions, construct, **route):
    job = job_of(*regions, base="felt")
    job = change(job, pieces=[change(piece, construct=construct, thread="140") for piece in job.pieces])
    return job, change(job, routes=[Route([piece.id for piece in job.pieces], **route)])


@pytest.mark.parametrize("construct", ["fill", "column", "satin_border"])
@pytest.mark.parametrize("name", ["petals", "strips"])
def test_touching_pieces_sew_as_one_thread(name, construct):
    regions = {"petals": PETALS, "strips": STRIPS}[name]
    plain, routed = map(build_job, jobs(regions, construct, start=(-30.0, 0.0)))
    (route,) = routed.routes
    assert plain.figures.trims >= 4 and routed.figures.trims == 1
    assert (route.before, route.after) == (plain.figures.trims, 1)
    assert sorted(route.pieces) == sorted(piece.id for piece in routed.job.pieces)
    assert report(routed)["routes"] == [
        {"pieces": list(route.pieces), "trims_before": route.before, "trims_after": 1}
    ]


def test_travel_between_touching_pieces_lies_under_what_comes_later():
    _, routed = map(build_job, jobs(STRIPS, "fill", start=(0.0, 0.0)))
    plan = routed.plan
    blocks = {block.piece: nth for nth, block in enumerate(plan.blocks)}
    regions = {built.piece.id: built.work.region for built in routed.pieces}
    bare = 0.0
    for nth, block in enumerate(plan.blocks):
        rows = np.arange(block.first, block.first + block.count)
        rows = rows[(plan.role[rows] == CODE["travel"]) & (plan.command[rows] == STITCH)]
        own = shapely.linestrings(np.stack([plan.xy[rows - 1], plan.xy[rows]], axis=1))
        later = shapely.union_all([regions[one] for one, at in blocks.items() if at >= nth]).buffer(0.3)
        bare += shapely.length(shapely.difference(own, later)).sum() if len(own) else 0.0
    assert bare < 3.0


def test_a_route_begins_and_ends_where_asked():
    for start, end in (((-5.0, 10.0), (45.0, 10.0)), ((45.0, 10.0), (-5.0, 10.0))):
        _, routed = map(build_job, jobs(STRIPS, "fill", start=start, end=end))
        first, last = (routed.piece(routed.routes[0].pieces[nth]).work.region for nth in (0, -1))
        assert first.distance(Point(start)) < 6 and last.distance(Point(end)) < 6
        sewn = routed.plan.xy[routed.plan.sewn]
        assert Point(sewn[-1]).distance(Point(end)) < 18


def test_hops_between_pieces_that_do_not_touch_are_short():
    regions = np.array(APART, dtype=object)
    order = short_order(regions, (0.0, 0.0))
    hops = [regions[one].distance(regions[other]) for one, other in itertools.pairwise(order)]
    assert sorted(order) == list(range(12)) and order[0] == 0 and max(hops) <= 4.0 + 1e-6
    plain, routed = map(build_job, jobs(APART, "run"))
    jump = [np.linalg.norm(np.diff(built.plan.xy, axis=0), axis=1)[~built.plan.sewn[1:]].sum()
            for built in (plain, routed)]  # fmt: skip
    assert routed.figures.trims <= plain.figures.trims and jump[1] < 0.75 * jump[0]


def test_orders_are_as_short_as_trying_them_all():
    chance = np.random.default_rng(4)
    for _ in range(6):
        regions = np.array([Point(*spot).buffer(2) for spot in chance.uniform(-40, 40, (7, 2))], dtype=object)
        far = shapely.distance(regions[:, None], regions[None])

        def length(order, far=far):
            return sum(far[one, other] for one, other in itertools.pairwise(order))

        start = tuple(shapely.get_coordinates(regions[0].centroid)[0])
        best = min(length([0, *rest]) for rest in itertools.permutations(range(1, 7)))
        assert length(short_order(regions, start)) <= 1.15 * best + 0.1


def test_routes_pass_over_what_cannot_be_routed():
    job, routed = jobs(STRIPS, "fill")
    lays = change(routed, pieces=[change(routed.pieces[0], construct="applique"), *routed.pieces[1:]])
    (route,) = build_job(lays).routes
    assert "p1" not in route.pieces and len(route.pieces) == 4
    other = change(routed, pieces=[*routed.pieces[:4], change(routed.pieces[4], thread="116")])
    assert "p5" not in build_job(other).routes[0].pieces
    gone = change(routed, pieces=routed.pieces[:1])
    assert build_job(gone).routes == ()
    assert read_job(write_job(routed)) == routed and build_job(job).routes == ()


def test_open_lines_touching_end_to_end_need_no_trim():
    from velamen.core.edits.shapes.bring_in import sewn_line
    from velamen.core.job.document import Job
    from velamen.core.job.shape import Shape

    lines = [[(0.0, 0.0), (20.0, 5.0)], [(20.0, 5.0), (40.0, 0.0)], [(40.0, 0.0), (40.0, 20.0)]]
    shapes = [Shape(f"s{nth}", f"line {nth}", [line], open=True) for nth, line in enumerate(lines, 1)]
    job = sewn_line(Job(name="lines", shapes=shapes), ["s1", "s2", "s3"])
    routed = build_job(change(job, routes=[Route([piece.id for piece in job.pieces], (0.0, 0.0))]))
    assert routed.figures.trims == 1
    thread = LineString(routed.plan.xy[routed.plan.sewn])
    assert thread.hausdorff_distance(shapely.union_all([LineString(line) for line in lines])) < 0.6
