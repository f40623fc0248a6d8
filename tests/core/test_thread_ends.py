"""Threads from tie to trim: the list agrees with the plan, and a thread that nothing holds is found."""

from dataclasses import replace

import numpy as np
import pytest
from shapely import Point, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.core.outputs.density_picture import density_png, steps_of
from velamen.core.plan.stitch_plan import TRIM, plan_of
from velamen.core.proofs.density import densest, density_limit, density_map
from velamen.core.proofs.thread_ends import end_findings, threads_of
from velamen.core.stitching.roles import CODE

CONSTRUCTS = ("applique", "fill", "cross_stitch", "contour", "blend", "satin_border", "stipple")


@pytest.mark.parametrize("construct", CONSTRUCTS)
@pytest.mark.parametrize("shape", ["two_holes", "comb"])
def test_every_thread_is_listed_once_and_tied_at_both_ends(construct, shape):
    job = job_of(SHAPES[shape], base="felt")
    job = change(job, pieces=[change(piece, construct=construct) for piece in job.pieces])
    plan = build_job(job).plan
    found = threads_of(plan)
    assert len(found) == int((plan.command == TRIM).sum()) > 0
    assert sum(one.stitches for one in found) == int(plan.sewn.sum())
    assert all(one.tied_in and one.tied_off for one in found) and end_findings(plan) == []
    assert found[-1].then == "end"
    for one in found:
        points = plan.xy[one.first - 1 : one.last + 1]
        assert one.length == pytest.approx(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())
        assert one.begins == pytest.approx(points[0], abs=0.01) and one.ends == pytest.approx(points[-1], abs=0.01)


def test_what_cuts_each_thread_is_told():
    build = build_job(job_of(box(-40, -10, -20, 10), box(20, -10, 40, 10), base="felt"))
    found = threads_of(build.plan)
    assert sum(one.then == "stop" for one in found) == build.figures.stops
    hops = [one for one in found if one.then == "jump"]
    assert hops and all(one.onward > 3.0 for one in hops)


@pytest.mark.parametrize("end", [0, -1])
def test_a_thread_whose_tie_is_lost_is_found_where_it_comes_undone(end):
    build = build_job(job_of(Point(0, 0).buffer(20), base="felt"))
    cover = build.passes["p1:cover"][0]
    (strand,) = cover.strands
    role = strand.role.copy()
    ties = np.flatnonzero(role == CODE["tie"])
    half = ties[ties < len(role) / 2] if end == 0 else ties[ties > len(role) / 2]
    role[half] = CODE["cover"]
    plan = plan_of([("p1:cover", replace(cover, strands=(replace(strand, role=role),)))])
    (finding,) = end_findings(plan)
    assert finding.severity == "error" and finding.at[0] == pytest.approx(strand.xy[end], abs=0.01)
    assert end_findings(build.plan) == []


def test_the_densest_places_name_what_is_sewn_there_and_are_peaks_of_the_map():
    job = job_of(box(-25, -15, 25, 15), base="terry")
    fill = change(job.pieces[0], construct="fill")
    build = build_job(change(job, pieces=[fill, change(fill, id="p2", own={"fill_spacing": 0.2})]))
    found = density_map(build.plan.xy[build.plan.sewn])
    places = densest(build.plan)
    assert places[0].value == pytest.approx(found.values.max(), abs=0.01)
    gaps = [np.hypot(a.x - b.x, a.y - b.y) for nth, a in enumerate(places) for b in places[:nth]]
    assert min(gaps) >= 8.0
    for place in places:
        assert sum(share for _, share in place.sewn) == pytest.approx(1.0)
        assert build.plan.blocks[place.sewn[0][0]].piece == "p2"  # twice as dense as the other
    assert densest(build_job(job_of(base="terry")).plan) == []


def test_the_density_picture_is_clear_where_nothing_is_sewn_and_hatched_where_it_is_too_much():
    import io

    from PIL import Image

    build = build_job(job_of(box(-10, -10, 10, 10), base="felt"))
    found = density_map(build.plan.xy[build.plan.sewn])
    limit = float(density_limit(build.job.brief, build.library).value)
    for line, hatched in ((limit, (found.values > limit).any()), (0.5, True)):
        pixels = np.asarray(Image.open(io.BytesIO(density_png(found, line))))[::4, ::4]
        assert ((pixels[..., 3] == 0) == (found.values == 0)).all()
        red = pixels[..., 0].astype(int) > pixels[..., 2].astype(int) + 40
        assert (red == (found.values > line)).all() and red.any() == hatched
    assert [low for low, _ in steps_of(5.0)] == [0.0, 1.0, 2.0, 3.0, 4.0]
