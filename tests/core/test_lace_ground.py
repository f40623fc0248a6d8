"""Lace grounds: round any design or as a shape, before it, in one thread, and taken apart into net and borders."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.artwork.framed import FORMS
from velamen.core.building.build import build_job
from velamen.core.edits.stack.apart import taken_apart
from velamen.core.edits.stack.grounds import frozen, with_ground
from velamen.core.job.document import change

DESIGNS = {
    "two": [box(-12, -9, 12, 9), Point(0, -20).buffer(7)],
    "star": [SHAPES["star"]],
    "dots": [Point(16.0 * x, 3.0 * x * x).buffer(3) for x in range(-2, 3)],
}


def lace(name, **own):
    job = job_of(*DESIGNS[name], base="none", hoop="h360x200")
    job = change(job, pieces=[change(one, construct="fill") for one in job.pieces])
    job = with_ground(job, "lace_ground")
    own = {f"lace_{key}": value for key, value in own.items()}
    return change(job, pieces=[change(one, own=own) if one.construct == "lace_ground" else one for one in job.pieces])


@pytest.mark.parametrize("form", [key for key, _ in FORMS])
@pytest.mark.parametrize("name", DESIGNS)
def test_it_lies_under_the_design_with_a_margin_in_one_thread(name, form):
    build = build_job(lace(name, outline=form, margin=4.0))
    ground = next(one for one in build.pieces if one.piece.construct == "lace_ground")
    assert order_of(build)[0] == f"{ground.piece.id}:lace_net" and not build.lost
    design = shapely.union_all([one.work.region for one in build.pieces if one is not ground])
    edge = ground.work.region
    assert edge.is_valid and edge.contains(design)
    assert 2.9 <= shapely.distance(shapely.boundary(edge), design) <= 4.6
    (strand,) = ground.sewn[0].strands
    assert shapely.distance(shapely.points(strand.xy), edge).max() < 0.05
    roles = {one.role for one in build.plan.blocks}
    assert roles >= {"lace_net", "decoration"} and build.figures.changes == len(build.plan.threads) - 1


def test_it_follows_the_design_and_is_frozen():
    job = lace("two")
    wide = change(job, shapes=[change(one, rings=[[(1.5 * x, y) for x, y in ring] for ring in one.rings])
                               for one in job.shapes])  # fmt: skip
    narrow, broad = (next(one.work.region for one in build_job(each).pieces if one.piece.construct == "lace_ground")
                     for each in (job, wide))  # fmt: skip
    assert np.ptp(broad.bounds[::2]) == pytest.approx(np.ptp(narrow.bounds[::2]) + 12.0, abs=0.2)
    before, after = build_job(job), build_job(frozen(job, job.pieces[0].id))
    assert after.job.pieces[0].shape and after.figures.stitches == pytest.approx(before.figures.stitches, rel=0.01)


def test_it_is_taken_apart_into_a_net_and_two_border_rounds():
    job = lace("two", cell=2.5)
    plain = taken_apart(job, job.pieces[0].id)
    assert [one.construct for one in plain.pieces] == ["net", "run", "run", "fill", "fill"]
    assert plain.pieces[0].own["net_cell"] == 2.5 and plain.pieces[0].own["net_border"] == 0
    build = build_job(plain)
    assert not build.lost and build.figures.stitches == pytest.approx(build_job(job).figures.stitches, rel=0.05)


def test_on_a_shape_of_its_own_that_is_the_lace():
    job = job_of(SHAPES["coast"], base="none", hoop="h200x300")
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="lace_ground")]))
    assert build.pieces[0].work.region.equals(SHAPES["coast"]) or build.pieces[0].work.region.symmetric_difference(
        SHAPES["coast"]).area < 0.01  # fmt: skip
    assert build.figures.trims == 1 and build.pieces[0].values["lace_outline"].value == "own"


def test_net_and_border_rounds_in_one_thread_or_one_after_another():
    one, each = build_job(lace("two")), build_job(lace("two", parts="each"))
    passes = [list(build.pieces[0].sewn) for build in (one, each)]
    assert [item.role for item in passes[0]] == ["lace_net"]
    assert [item.role for item in passes[1]] == ["lace_net", "lace_border"] and len(passes[1][1].strands) == 2
    assert one.rinse.held and each.rinse.held
    job = lace("two", parts="each")
    pieces = [change(piece, threads={"lace_border": "116"}) if piece.construct == "lace_ground" else piece
              for piece in job.pieces]  # fmt: skip
    assert "116" in build_job(change(job, pieces=pieces)).plan.threads
