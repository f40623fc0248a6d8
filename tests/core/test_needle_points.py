"""Parts of a stitch file taken into a job: kept to the last needle point, or as shapes that sew the same."""

import numpy as np
import pytest
import shapely

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.constructions import constructions
from velamen.core.constructions.base import FoundPart
from velamen.core.edits.shapes import arranging, copying, drawing
from velamen.core.edits.shapes.stitch_parts import sewn_like, take_stitch_parts, thread_keys
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, StitchFile, change
from velamen.core.job.needles import Needles, needles_key
from velamen.core.job.reading import read_job, with_needles, without_needles, write_job
from velamen.core.job.regions import region_of
from velamen.core.outputs.folder import file_of
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.recovery.recovered import recovered
from velamen.core.recovery.ways import DROP, INNER, KEEP, MIDDLE, OUTER, OUTLINE, ways_of
from velamen.core.stitching.roles import CODE

FILE = StitchFile("abc", "old.csv")


def listed(shape, construct, own=None):
    """A piece sewn, and its stitch file taken apart."""
    whole = max(shapely.get_parts(SHAPES[shape]), key=lambda part: part.area)
    job = job_of(whole, base="felt", hoop="h360x200", own=own)
    build = build_job(change(job, pieces=[change(piece, construct=construct) for piece in job.pieces]))
    return build, recovered(file_of(build, "stitches.csv"))


def taken(found, wanted, cloths=None, job=None):
    return take_stitch_parts(
        job or Job(name="Test"), found, FILE, wanted, cloths or {}, thread_keys(found, Job().library)
    )


def all_kept(found):
    return {nth: KEEP for nth in range(len(found.segments)) if found.listed(nth)}


@pytest.fixture(scope="module")
def applique():
    return listed("ring", "applique")


AREAS = sorted(name for name, kind in constructions().items() if kind.areas)
SPREAD = sorted(set(SHAPES) - {"sliver", "thin_ring", "slit_01"})


@pytest.mark.parametrize(("shape", "construct"), [
    ("star", "fill"), ("coast", "satin_border"), ("ring", "applique"), ("square", "blend"), ("two_holes", "crosshatch"),
    *((SPREAD[5 * nth % len(SPREAD)], name) for nth, name in enumerate(AREAS)),
])  # fmt: skip
def test_what_is_kept_whole_is_sewn_to_the_last_point_as_it_came(shape, construct):
    build, found = listed(shape, construct)
    again = build_job(taken(found, all_kept(found)))
    assert not again.lost
    before, after = (without_standing(plan.xy[plan.command == STITCH]) for plan in (build.plan, again.plan))
    assert before.shape == after.shape and np.abs(before - after).max() < 1e-9


def without_standing(xy):
    """Needle points but those in the hole of the one before, which a list of stitches does not keep."""
    return xy[np.concatenate([[True], np.linalg.norm(np.diff(xy, axis=0), axis=1) > 0.05])]


def test_the_threads_of_a_file_are_its_own_where_it_names_them(applique):
    build, found = applique
    assert thread_keys(found, build.library) == list(dict.fromkeys(one.thread for one in build.plan.blocks))
    plain = recovered(b"x,y,colour\n0,0,#ffffff\n2,0,#ffffff\n4,1,#ffffff\n9,9,red\n11,9,red\n12,10,red\n")
    first, second = thread_keys(plain, build.library)
    assert build.library.threads[first].colour > "#e0" and first != second


def test_a_part_cut_out_of_a_thread_is_tied_at_both_ends(applique):
    _, found = applique
    satin = next(nth for nth, one in enumerate(found.segments) if one.kind == "satin")
    build = build_job(taken(found, {satin: KEEP}))
    assert "thread_loose" not in [one.code for one in build.findings]
    (strand,) = build.pieces[0].sewn[0].strands
    ties = strand.role == CODE["tie"]
    assert ties[1:4].any() and ties[-3:].any() and not ties[8:-8].any()


def test_an_applique_becomes_one_cloth_and_keeps_what_lies_on_top():
    job = job_of(SHAPES["square"], shapely.affinity.scale(SHAPES["square"], 0.4, 0.4), base="felt", hoop="h360x200")
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill")])
    found = recovered(file_of(build_job(job), "stitches.csv"))
    (proposal,) = found.proposals
    after = taken(
        found,
        dict.fromkeys(filter(found.listed, proposal.on_top), KEEP) | dict.fromkeys(proposal.drops, KEEP),
        {0: ""},
    )
    cloth, *top = after.pieces
    assert (cloth.construct, [one.construct for one in top]) == ("applique", ["stitches"])
    region = region_of(after.shapes[0])
    assert region.intersection(SHAPES["square"]).area / region.union(SHAPES["square"]).area > 0.99
    assert cloth.own["cover_width"] == pytest.approx(build_job(job).pieces[0].values["cover_width"].value, abs=0.4)
    fluffy = taken(found, {}, {0: "chenille"})
    assert [one.construct for one in fluffy.pieces] == ["chenille"] and not build_job(fluffy).lost


def test_rails_and_middle_of_a_satin_sew_the_same_border():
    _, found = listed("square", "satin_border")
    nth = next(nth for nth, one in enumerate(found.segments) if one.kind == "satin")
    sewn = found.segments[nth].area
    for way in (OUTER, MIDDLE):
        again = build_job(taken(found, {nth: way}))
        assert again.pieces[0].piece.construct == "satin_border"
        covered = next(one.area for one in recovered(file_of(again, "stitches.csv")).segments if one.kind == "satin")
        assert covered.intersection(sewn).area / covered.union(sewn).area > 0.97, way
    inner = taken(found, {nth: INNER})
    assert region_of(inner.shapes[0]).area < region_of(taken(found, {nth: OUTER}).shapes[0]).area


def test_a_fill_turned_into_a_shape_has_its_angle_and_spacing():
    _, found = listed("star", "fill", {"fill_angle": 30.0, "fill_spacing": 0.5})
    nth = next(nth for nth, one in enumerate(found.segments) if one.kind == "fill" and one.spacing < 1.0)
    job = taken(found, {nth: OUTLINE})
    assert job.pieces[0].construct == "fill"
    assert job.pieces[0].own == {"fill_angle": pytest.approx(30.0, abs=0.5), "fill_spacing": 0.5, "fill_pull": 0.0,
                                   "fill_length": pytest.approx(4.0, abs=0.2)}  # fmt: skip
    assert job.shapes[0].nodes and len(job.shapes[0].nodes[0]) < 40


@pytest.mark.parametrize("construct", ["run", "bean", "estitch", "zigzag"])
def test_lines_become_shapes_that_are_sewn_alike(construct):
    _, found = listed("square", construct)
    nth = next(nth for nth, one in enumerate(found.segments) if one.kind == construct)
    way = OUTLINE if OUTLINE in ways_of(found.segments[nth]) and construct != "zigzag" else MIDDLE
    assert taken(found, {nth: way}).pieces[0].construct == construct


def test_parts_of_one_thread_that_follow_one_another_are_one_piece(applique):
    _, found = applique
    kept = all_kept(found)
    assert len(taken(found, kept).pieces) < len(kept)
    assert len(taken(found, {nth: way for nth, way in kept.items() if nth % 2 == 0}).pieces) >= 2


def test_a_file_that_lies_off_the_field_comes_to_its_middle():
    found = recovered(b"x,y,command\n" + b"".join(b"%d,%d,stitch\n" % (500 + 3 * n, 300 + n % 2) for n in range(40)))
    job = taken(found, all_kept(found))
    assert region_of(job.shapes[0]).centroid.distance(shapely.Point(0, 0)) < 1.0
    assert not build_job(job).lost


def test_what_cannot_be_taken_is_refused_in_a_sentence(applique):
    _, found = applique
    for wanted in ({}, {0: DROP}, {0: "elsewhere"}, {10_000: KEEP}, {-1: KEEP}):
        with pytest.raises(BadInput, match=r"Part|part"):
            taken(found, wanted)


@pytest.fixture(scope="module")
def kept(applique):
    """A job of needle points alone."""
    _, found = applique
    return taken(found, all_kept(found))


def test_needle_points_lie_beside_the_document_by_content(kept):
    bare = without_needles(kept)
    assert len(write_job(bare)) < len(write_job(kept)) / 5
    assert with_needles(bare, kept.needles) == kept
    assert all(key == needles_key(one) for key, one in kept.needles.items())
    assert read_job(write_job(kept)) == kept
    with pytest.raises(BadInput, match="needle points"):
        read_job(write_job(bare))
    assert "needle points" in " ".join(one.why for one in build_job(bare).lost)
    moved = arranging.moved(kept, [kept.shapes[0].id], np.eye(2), np.array([5.0, 0.0]))
    assert moved.needles == kept.needles


@pytest.mark.parametrize("wrong", [
    {"xy": b"123"}, {"counts": [3]}, {"roles": []}, {"role": b"\x09" * 4}, {"counts": [1, 3]},
    {"xy": np.full(8, 2**31 - 1, dtype="<i4").tobytes()},
])  # fmt: skip
def test_lists_that_cannot_be_are_told(kept, wrong):
    plain = {"xy": np.zeros(8, dtype="<i4").tobytes(), "role": bytes(4), "roles": ["needle"], "counts": [4]}
    job = change(kept, needles={**kept.needles, "0": Needles(**{**plain, **wrong})})
    with pytest.raises(BadInput, match="needle points"):
        read_job(write_job(job))


def test_needle_points_are_moved_turned_mirrored_and_copied(kept):
    ids = [one.id for one in kept.shapes]
    before = build_job(kept).plan
    sewn = before.xy[before.command == STITCH]

    def points(job):
        plan = build_job(job).plan
        return plan.xy[plan.command == STITCH]

    assert np.allclose(
        points(arranging.moved(kept, ids, np.eye(2), np.array([5.0, -3.0]))), sewn + np.array([5.0, -3.0]), atol=2e-3
    )
    assert np.allclose(points(arranging.turned(kept, ids, 90.0))[:, 0], -sewn[:, 1], atol=0.8)
    mirrored = points(arranging.mirrored(kept, ids, "sideways"))
    assert np.allclose(mirrored[:, 1], sewn[:, 1], atol=2e-3) and np.allclose(
        np.ptp(mirrored, axis=0), np.ptp(sewn, axis=0)
    )
    assert len(points(arranging.duplicated(kept, ids))) >= 2 * len(sewn)
    clip = copying.clip_of(kept, ids)
    assert len(points(copying.copied_from(Job(name="Other"), clip, kept.library))) == len(sewn)


def test_sizing_needle_points_by_more_than_a_tenth_is_told(kept):
    ids = [one.id for one in kept.shapes]
    low, high = np.array(kept.shapes[0].rings[0]).min(axis=0), np.array(kept.shapes[0].rings[0]).max(axis=0)
    width = float((high - low)[0])
    for factor, told in ((1.05, False), (0.94, False), (1.3, True), (0.5, True)):
        findings = build_job(arranging.sized(kept, ids[:1], factor * width, None)).findings
        assert ("needles_sized" in [one.code for one in findings]) == told, factor


def test_the_outline_of_needle_points_is_not_edited_until_they_are_sewn_as_something_else(kept):
    first = kept.shapes[0]
    with pytest.raises(BadInput, match="needle points"):
        drawing.mended(kept, [first.id], lambda region: [region.buffer(1)])
    filled = change(kept, pieces=[change(one, construct="fill") for one in kept.pieces])
    after = drawing.mended(filled, [first.id], lambda region: [region.buffer(1)])
    assert after.shapes[0].needles == "" and not build_job(after).lost


@pytest.mark.parametrize("shape", ["square", "ring", "star", "coast", "slit_3"])
def test_the_outline_of_needle_points_is_what_they_cover(shape):
    _, found = listed(shape, "fill")
    job = taken(found, all_kept(found))
    whole = max(shapely.get_parts(SHAPES[shape]), key=lambda part: part.area)
    region = region_of(job.shapes[0])
    assert region.intersection(whole).area / region.union(whole).area > 0.85


def test_every_construction_that_reads_parts_sets_values_it_knows():
    for kind in ("run", "bean", "estitch", "zigzag", "satin", "fill"):
        for way in (OUTLINE, OUTER, MIDDLE, INNER, "cloth"):
            made, own = sewn_like(FoundPart(kind, way, 0.4, 3.0, 20.0), line=False)
            assert all(made.setting(key).read(value) == value for key, value in own.items())
    assert any(one.needles for one in constructions().values())


def test_a_drawn_shape_is_sewn_point_by_point():
    job = job_of(SHAPES["square"], base="felt")
    build = build_job(change(job, pieces=[change(job.pieces[0], construct="stitches")]))
    corners = shapely.get_coordinates(SHAPES["square"])
    assert all(np.abs(build.plan.xy - corner).max(axis=1).min() < 1e-3 for corner in corners)
