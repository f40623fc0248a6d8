"""Chenille: layers in their order, channels in one thread with turns at their ends, and the walk of the scissors."""

import numpy as np
import pytest
import shapely
from shapely import Point, box

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.edits.stack.turned import turned_into
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.outputs.report import report
from velamen.core.proofs.channels import prove_channels
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import strand

LARGE = {"square": box(-30, -30, 30, 30), "disc": Point(0, 0).buffer(32), "coast": SHAPES["coast"],
         "ring": SHAPES["ring"], "star": SHAPES["star"], "two_holes": SHAPES["two_holes"], "leaf": SHAPES["leaf"],
         "neck": SHAPES["neck"]}  # fmt: skip
NARROW = ["wedge", "comb", "slit_3"]  # bands in which no channel lies as asked for, and one with a way round a slit


def chenille(region, base="felt", **own):
    job = job_of(region, base=base, hoop="h360x200", own=own)
    build = build_job(change(job, pieces=[change(one, construct="chenille") for one in job.pieces]))
    return build, build.pieces[0]


def strands_of(piece):
    return [each for one in piece.sewn if one.role == "channel" for each in one.strands]


def test_backing_is_held_and_trimmed_layers_laid_sewn_slit_and_trimmed():
    build, _ = chenille(LARGE["square"], chenille_layers=2, chenille_cloth_2="deck_cream")
    parts = ("placement", "lay", "tack", "trim", "press", "layers", "channel", "slit", "edge", "brush")
    assert order_of(build) == [f"p1:{part}" for part in parts]
    layers = build.plan.stops[-1].step
    assert (
        "Lay 2 layers over piece 1" in layers.text and "from below: sail red cotton, deck cream cotton" in layers.text
    )
    assert [one.kind for one in build.after_sewing[:3]] == ["slit", "trim", "brush"]
    left = [one for one in build.layers["p1:edge"] if "p1" in one.owners]
    assert [one.slit is not None for one in left] == [False, True, True]  # the backing stays whole
    assert all(one.region.covers(LARGE["square"].buffer(5)) for one in left[1:])


@pytest.mark.parametrize("name", LARGE)
def test_channels_lie_inside_the_trim_line_evenly_and_turn_as_travel(name):
    _, piece = chenille(LARGE[name])
    strands = strands_of(piece)
    inner = shapely.buffer(LARGE[name], -1.95)
    assert shapely.covers(inner, shapely.points(np.concatenate([one.xy for one in strands]))).all()
    turn = np.array([-1.0, 1.0]) / np.sqrt(2)
    for one in strands:
        sewn = one.role[1:] == CODE["channel"]
        assert np.abs((np.diff(one.xy, axis=0) @ turn)[sewn]).max() < 0.11
        level = np.sort((one.xy @ turn)[one.role == CODE["channel"]])
        step = np.diff(level)[np.diff(level) > 0.5]
        assert step == pytest.approx(np.round(step / 6.5) * 6.5, abs=0.1)


@pytest.mark.parametrize("name", LARGE)
def test_scissors_come_through_every_channel_that_the_proof_calls_open(name):
    """A disc moved along the middle from outside, step by step: it never touches a thread up to 5 mm from the end."""
    _, piece = chenille(LARGE[name])
    proof = piece.proofs["channels"]
    assert proof.held, proof.fails
    strands = strands_of(piece)
    threads = shapely.union_all([shapely.LineString(one.xy) for one in strands])
    for one in prove_channels(LARGE[name], strands, np.pi / 4, 5.0).every:
        line = np.array(one.line)
        way = (line[1] - line[0]) / np.linalg.norm(line[1] - line[0])
        walks = []
        for far, back in ((line[0] - 14 * way, line[1] - 5 * way), (line[1] + 14 * way, line[0] + 5 * way)):
            places = np.linspace(far, back, 60)
            inside = shapely.buffer(LARGE[name], 12).covers(shapely.points(places[-1]))
            walks.append(inside and shapely.distance(threads, shapely.points(places)).min() >= 2.45)
        assert any(walks) or name in ("ring", "two_holes", "star", "coast")  # where the way out is not straight


def test_channels_closed_at_both_ends_are_found_where_they_are():
    _, piece = chenille(LARGE["square"], channel_angle=0)
    (one,) = strands_of(piece)
    right = np.array([[28.0, y] for y in np.arange(-28, 28, 2.0)])
    left = right * [-1, 1]
    closed = prove_channels(LARGE["square"], [one, strand(right, "travel"), strand(left, "travel")], 0.0, 5.0)
    assert not closed.held and len(closed.closed) == len(closed.every) > 6 and closed.cut == 0
    half = prove_channels(LARGE["square"], [one, strand(right, "travel")], 0.0, 5.0)
    assert 0.3 * len(half.every) < len(half.closed) < 0.7 * len(half.every)


def test_scissors_that_meet_a_thread_on_their_way_come_to_a_stop():
    rows = [strand(np.stack([np.arange(-25, 25, 2.2), np.full(23, y)], axis=1), "channel") for y in (-6.5, 0.0, 6.5)]
    assert prove_channels(box(-30, -10, 30, 10), rows, 0.0, 5.0).held
    spur = strand(np.array([[0.0, 0.5], [0.0, 2.0], [0.0, 3.5], [0.0, 6.0]]), "travel")
    (open_, stuck) = sorted(
        prove_channels(box(-30, -10, 30, 10), [*rows, spur], 0.0, 5.0).every, key=lambda one: one.spot.at[1]
    )[:2]
    assert open_.open and stuck.length < 50


@pytest.mark.parametrize("name", NARROW)
def test_narrow_bands_fail_and_what_is_offered_opens_them(name):
    build, piece = chenille(SHAPES[name])
    proof = piece.proofs["channels"]
    assert not proof.held and any(one.code == "channels_closed" for one in build.findings)
    for fix in proof.fixes:
        _, after = chenille(SHAPES[name], **fix.values)
        assert after.proofs["channels"].held


def test_tight_channels_are_told_and_mended_and_the_report_has_the_proof():
    build, piece = chenille(LARGE["disc"], channel_spacing=5.0)
    (told,) = [one for one in build.findings if one.code == "channels_tight"]
    assert told.fix == {"channel_spacing": 6.0} and not piece.proofs["channels"].held
    found = report(build)["proofs"]["channels"]
    assert not found["held"] and set(found) >= {"closed", "narrow"}
    good, _ = chenille(LARGE["disc"])
    assert report(good)["proofs"]["channels"]["held"]


def test_an_applique_is_made_chenille_in_one_action_and_keeps_what_is_sewn_on_it():
    job = job_of(LARGE["square"], Point(0, 0).buffer(8), base="felt", own={"cover_width": 4.0})
    cloth, face = job.pieces
    job = change(job, pieces=[cloth, change(face, construct="fill", on=cloth.id, own={})])
    after = turned_into(job, cloth.id, "chenille")
    made, kept = after.pieces
    assert (made.construct, made.own, made.cloth) == ("chenille", {}, cloth.cloth) and kept == job.pieces[1]
    order = order_of(build_job(after))
    assert order.index("p1:channel") < order.index("p2:decoration") < order.index("p1:slit")
    assert "p1:cover" not in order and "p1:cover" in order_of(build_job(job))
    for wrong in (("p2", "chenille"), ("p1", "fill")):
        with pytest.raises(BadInput, match="cannot be made"):
            turned_into(job, *wrong)
