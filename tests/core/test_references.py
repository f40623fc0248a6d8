"""Every id a job holds names something in it: after reading, removing, copying within a job and into another."""

import json
from pathlib import Path

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import box

from core.jobs import job_of
from velamen.core.building.build import build_job
from velamen.core.building.job_materials import made_of
from velamen.core.building.works import check_pieces
from velamen.core.edits.shapes import arranging, copying, drawing
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.edits.stack import pieces as stack
from velamen.core.errors import BadInput
from velamen.core.job.document import FORMAT, Job, Piece, Route, brief_for, change
from velamen.core.job.reading import STEPS, check_job, read_job, write_job
from velamen.core.job.references import check_references
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Around, Line, Shape, Text
from velamen.core.materials.library import library_with, shipped

EARLIER = sorted((Path(__file__).parent / "formats").glob("*.json"))


def rich():
    """A job with every kind of reference: a host and its decoration, grounds, a text, an outline, routes, an order."""
    job = job_of(box(0, 0, 40, 40), box(10, 10, 20, 20), box(60, 0, 70, 10), box(60, 20, 70, 30))
    fills = [change(one, construct="fill", thread="140") for one in job.pieces[1:]]
    line = Shape("s9", "Line", [[(0.0, 60.0), (40.0, 60.0)]], open=True)
    job = change(
        job,
        shapes=[*job.shapes, line],
        pieces=[
            Piece("p20", "Under the hull", "", "knockdown", around=["p1"]),
            change(job.pieces[0], start=(0.0, 20.0)),
            change(fills[0], on="p1"), *fills[1:], Piece("p9", "Line", "s9", "stem"),
            Piece("p21", "Round all", "", "basting", around=["*"]),
        ],
        routes=[Route(["p3", "p4"], start=(60.0, 5.0))],
    )  # fmt: skip
    job = drawing.draw_text(job, Text("", "EBB", "rubik", 20.0, matrix=(1, 0, 0, 1, 0.0, 90.0)))
    job = drawing.offset(job, ["s3"], [3.0], False, 0, 0, True)
    job = arranging.grouped(job, ["s3", "s4"], True)
    built = build_job(job)
    keys = [one.key for one in built.operations if one.piece and one.when.value != "after"]
    return check_pieces(check_job(change(job, order=keys)))


RICH = rich()
EVERYTHING = [one.id for one in RICH.shapes]


def named(job):
    """All ids that records of a job name, with the record's own left out."""
    found = {key for one in job.pieces for key in (one.shape, one.on, *one.around)}
    found |= {key.split(":")[0] for key in job.order} | {key for one in job.routes for key in one.pieces}
    found |= {one.maker for one in job.shapes} | {
        key for one in job.makers if isinstance(one, Around) for key in one.sources
    }
    return found - {"", "*"}


def ids(job):
    return {one.id for kind in (job.shapes, job.pieces, job.makers) for one in kind}


@pytest.mark.parametrize(
    ("field", "words"),
    [
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s1", "on": "p7"}]}, "is sewn on the piece 'p7'"),
        ({"pieces": [{"id": "p1", "name": "x", "construct": "knockdown", "around": ["p7"]}]}, "goes round 'p7'"),
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s7"}]}, "refers to the shape 's7'"),
        ({"routes": [{"pieces": ["p1", "p7"]}]}, "takes in the piece 'p7'"),
        ({"order": ["p7:cover"]}, "The order names 'p7:cover'"),
        ({"makers": [{"type": "around", "id": "m1", "sources": ["s7"], "distance": 3}]}, "goes round the shape 's7'"),
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s1", "cloth": "tin"}]}, "no cloth 'tin'"),
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s1", "thread": "9999"}]}, "no thread '9999'"),
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s1", "threads": {"cover": "9999"}}]}, "no thread '9999'"),
    ],
)
def test_a_job_that_names_what_it_has_not_is_refused(field, words):
    good = json.loads(write_job(job_of(box(0, 0, 20, 20))))
    with pytest.raises(BadInput) as told:
        read_job(json.dumps(good | field).encode())
    assert words in str(told.value)


def test_dies_and_materials_in_values_of_ones_own_are_checked():
    job = job_of(box(0, 0, 20, 20))
    with pytest.raises(BadInput, match="no cutting die 'disc_14'"):
        check_job(change(job, shapes=[change(job.shapes[0], die="disc_14")]))
    with pytest.raises(BadInput, match="no foam 'cork'"):
        check_pieces(change(job, pieces=[change(job.pieces[0], own={"padding": "cork"})]))
    assert check_pieces(check_job(change(job, pieces=[change(job.pieces[0], own={"padding": "foam_2"})])))


@pytest.mark.parametrize("path", EARLIER, ids=[one.stem for one in EARLIER])
def test_documents_of_every_earlier_format_open_and_build(path):
    job = read_job(path.read_bytes())
    assert job.velamen_job == FORMAT and read_job(write_job(job)) == job
    assert build_job(job).plan.xy.size and named(job) <= ids(job)


def test_there_is_a_document_of_every_earlier_format():
    assert {int(one.name.split("-")[0]) for one in EARLIER} == set(STEPS) == set(range(1, FORMAT))
    with pytest.raises(BadInput, match="format 99"):
        read_job(b'{"velamen_job": 99}')


def test_what_the_first_format_passed_over_is_taken_away():
    job = read_job(next(one for one in EARLIER if "gone" in one.name).read_bytes())
    assert [one.id for one in job.pieces] == ["p8", "p1", "p2", "p3"]
    assert job.pieces[0].around == ["p1"] and job.pieces[2].on == "" and job.pieces[3].on == "p1"
    assert [one.pieces for one in job.routes] == [["p2", "p3"]]
    assert job.makers[0].sources == ["s2"] and job.order == ["p1:placement", "p2:fill"]


@settings(max_examples=25)
@given(st.sets(st.sampled_from([one.id for one in RICH.pieces]), min_size=1, max_size=6))
def test_nothing_names_a_piece_that_was_removed(gone):
    """Ids are given out again, so that what is left behind would hook onto a stranger."""
    after = followed(stack.removed(RICH, sorted(gone)))
    assert check_references(after) is after and not gone & named(after)
    again = drawing.draw_basic(after, "circle", {})
    assert again.pieces[-1].id not in named(after)


@settings(max_examples=25)
@given(st.sets(st.sampled_from(EVERYTHING), min_size=1))
def test_copies_name_copies_and_in_another_job_nothing_else(chosen):
    job = arranging.duplicated(RICH, sorted(chosen))
    assert check_pieces(check_job(followed(job)))
    new = ids(job) - ids(RICH)
    fresh = [one for one in job.pieces if one.id in new]
    hosts = {one.id: one for one in job.pieces}
    for one in fresh:
        assert one.shape in new | {""}
        if one.on and hosts[one.on].shape:
            assert (one.on in new) == ("s1" in chosen)  # beside its host's copy, or still on the host
    clip = read_job(write_job(copying.clip_of(RICH, sorted(chosen))))
    other = job_of(box(100, 0, 140, 40), box(100, 60, 140, 90))
    taken = copying.copied_from(other, clip, shipped())
    assert check_pieces(check_job(followed(taken)))
    strangers = ids(other)
    for one in taken.pieces[2:]:
        assert not strangers & {one.shape, one.on, *one.around}
    assert len(taken.shapes) == len(chosen) + 2


def test_what_named_a_shape_that_is_joined_to_another_names_what_they_became():
    far = [box(0, 0, 40, 40), box(10, 10, 20, 20), box(30, 0, 70, 10), box(60, 20, 70, 30)]
    job = job_of(*far)
    job = change(
        job,
        pieces=[
            *job.pieces[:3], change(job.pieces[3], construct="fill", on="p3"),
            Piece("p9", "Under", "", "knockdown", around=["p3", "p1", "s3"]),
        ],
        routes=[Route(["p3", "p4", "p1"])],
    )  # fmt: skip
    job = drawing.offset(job, ["s3"], [3.0], False, 0, 0, True)
    joined = followed(drawing.combined(job, ["s1", "s3"], "union"))
    pieces = {one.id: one for one in joined.pieces}
    assert "p3" not in pieces and pieces["p4"].on == "p1" and pieces["p9"].around == ["p1", "s1"]
    assert joined.routes[0].pieces == ["p1", "p4"] and joined.makers[0].sources == ["s1"]
    assert region_of(joined.shapes[-1]).bounds == pytest.approx(
        (-3, -3, 73, 43), abs=0.05
    )  # its outline is all round
    cut = followed(drawing.combined(job, ["s1", "s3"], "subtract"))
    assert next(one for one in cut.pieces if one.id == "p4").on == ""
    own = followed(drawing.combined(change(job, pieces=[change(job.pieces[0], on="p3"), *job.pieces[1:]]),
                                    ["s1", "s3"], "union"))  # fmt: skip
    assert check_pieces(check_job(own)).pieces[0].on == ""


def test_a_copied_decoration_goes_on_its_copied_cloth():
    job = arranging.duplicated(RICH, ["s1", "s2"])
    host, guest = (next(one for one in job.pieces if one.shape == job.shapes[nth].id) for nth in (-2, -1))
    assert guest.on == host.id != "p1" and host.start == (6.0, 26.0)
    ground = next(one for one in job.pieces if one.around == [host.id])
    assert ground.construct == "knockdown" and job.pieces.index(ground) < job.pieces.index(host)
    assert len({one.split(":")[0] for one in job.order} & {host.id, guest.id}) == 2
    alone = arranging.duplicated(RICH, ["s2"])
    assert alone.pieces[-1].on == "p1"  # it lies on the same cloth still
    pasted = copying.copied_from(job_of(box(0, 0, 9, 9)), copying.clip_of(RICH, ["s2"]), shipped())
    assert pasted.pieces[-1].on == ""


def test_copies_of_texts_outlines_lines_and_routes_live_on():
    job = arranging.duplicated(RICH, EVERYTHING)
    texts = [one for one in job.makers if isinstance(one, Text)]
    assert len(texts) == 2 and texts[1].matrix[4:] == (6.0, 96.0)
    outlines = [one for one in job.makers if isinstance(one, Around)]
    assert len(outlines) == 2 and not set(outlines[0].sources) & set(outlines[1].sources)
    assert len(job.routes) == 2 and job.routes[1].start == (66.0, 11.0)
    lines = [one.id for one in job.shapes if one.open]
    assert [one.construct for one in job.pieces if one.shape in lines] == ["stem", "stem"]
    moved = followed(arranging.moved(job, outlines[1].sources, np.eye(2), np.array([5.0, 0.0])))
    outline = next(one for one in moved.shapes if one.maker == outlines[1].id)
    source = next(one for one in moved.shapes if one.id in outlines[1].sources)
    assert region_of(outline).centroid.x == pytest.approx(region_of(source).centroid.x, abs=0.01)
    part = arranging.duplicated(RICH, [next(one.id for one in RICH.shapes if one.maker)])
    assert part.makers == RICH.makers and part.shapes[-1].maker == ""


def test_all_kinds_of_material_travel_with_copied_shapes():
    shop = library_with({
        "cloths": {"mended": {**shipped().fields("cloths", "sail_red"), "like": "weave"}},
        "bases": {"weave": {**shipped().fields("bases", "felt"), "name": "Weave"}},
        "foams": {"cork": {"name": "Cork 4 mm", "thickness": 4.0, "colour": "#c0a070"}},
        "dies": {"disc_14": {"name": "Disc 14", "outline": "M-7,-7H7V7H-7Z"}},
        "threads": {key: {**shipped().fields("threads", "140"), "name": key} for key in ("own1", "own2")},
    })  # fmt: skip
    job = job_of(box(0, 0, 40, 40))
    job = change(
        job, shapes=[change(job.shapes[0], die="disc_14")],
        pieces=[change(job.pieces[0], cloth="mended", thread="own1", threads={"cover": "own2"},
                       own={"padding": "cork"})],
        materials={kind: {key: shop.fields(kind, key) for key in keys} for kind, keys in (
            ("cloths", ["mended"]), ("bases", ["weave"]), ("foams", ["cork"]), ("dies", ["disc_14"]),
            ("threads", ["own1", "own2"]))},
    )  # fmt: skip
    check_pieces(check_job(job))
    taken = copying.copied_from(
        Job(brief=brief_for("felt")), read_job(write_job(copying.clip_of(job, ["s1"]))), shipped()
    )
    check_pieces(check_job(taken))
    assert made_of(taken) == made_of(job) and taken.materials == job.materials
    assert build_job(taken).library.foams["cork"].thickness == 4.0


def test_lines_drawn_on_shapes_are_copied_in_place():
    job = job_of(box(0, 0, 20, 20))
    job = change(job, shapes=[change(job.shapes[0], lines=[Line("guide", [(0.0, 10.0), (20.0, 10.0)])])])
    copy = arranging.duplicated(job, ["s1"]).shapes[-1]
    assert copy.lines[0].points == [(6.0, 16.0), (26.0, 16.0)]
    assert shapely.equals(region_of(copy), box(6, 6, 26, 26))
