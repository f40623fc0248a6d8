"""Live shapes: text typed anew and kerned, outlines that follow, both turned into plain shapes."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of
from velamen.core.artwork.framed import FORMS
from velamen.core.artwork.lettering import monogram
from velamen.core.artwork.typeface import smallest_height
from velamen.core.building.build import build_job
from velamen.core.edits.brief.finished_width import resized
from velamen.core.edits.shapes import arranging, drawing
from velamen.core.edits.shapes.live_shapes import followed, released, remade
from velamen.core.edits.stack import grounds
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, brief_for, change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Around, Text

EMPTY = Job(brief=brief_for("felt", "h200x300"))
TIDE = Text("m1", "TIDE", "rubik", 20.0)
WORD = drawing.draw_text(EMPTY, TIDE)


def boxes(job, names="TIDE"):
    known = {shape.name: region_of(shape).bounds for shape in job.shapes}
    return [known[name] for name in names]


def around(job, distance=4.0, ids=("s1",)):
    return drawing.offset(job, list(ids), [distance], False, 0.0, 0.0, True)


def test_text_stays_what_was_typed_through_a_job_file():
    again = read_job(write_job(WORD))
    assert again == WORD and again.makers == [TIDE] and {shape.maker for shape in again.shapes} == {"m1"}


def test_typing_anew_keeps_place_pieces_and_cloth():
    moved = arranging.moved(WORD, [shape.id for shape in WORD.shapes], np.eye(2), np.array([30.0, -12.0]))
    moved = change(moved, pieces=[change(piece, cloth="night_ink") for piece in moved.pieces])
    other = check_job(drawing.retyped(moved, Text("m1", "EBB", "rubik", 20.0)))
    assert [shape.name for shape in other.shapes] == ["E", "B", "B"] or len(other.shapes) == 3
    assert {piece.cloth for piece in other.pieces} == {"night_ink"}
    middle = np.mean([region_of(shape).centroid.coords[0] for shape in other.shapes], axis=0)
    assert np.linalg.norm(middle - (30.0, -12.0)) < 6
    longer = drawing.retyped(other, Text("m1", "EBB TIDE", "rubik", 20.0))
    assert len(longer.shapes) == len(longer.pieces) == 7 and len({piece.cloth for piece in longer.pieces}) == 1


def test_text_turns_and_sizes_as_a_whole_and_is_still_text():
    ids = [shape.id for shape in WORD.shapes]
    job = arranging.sized(arranging.turned(WORD, ids, 30.0), ids, 120.0, None)
    before = [region_of(shape) for shape in job.shapes]
    again = followed(job)
    assert job.makers[0].matrix != TIDE.matrix and again.makers == job.makers
    for one, other in zip(before, (region_of(shape) for shape in again.shapes), strict=True):
        assert one.symmetric_difference(other).area < 0.5


def test_a_letter_moved_or_mended_by_itself_makes_the_text_plain_shapes():
    first = WORD.shapes[0].id
    for job in (
        arranging.moved(WORD, [first], np.eye(2), np.array([1.0, 0.0])),
        drawing.mended(WORD, [first], lambda region: [region.buffer(0.2)]),
        arranging.removed(WORD, [first]),
        arranging.freed(WORD, [first]),
    ):
        assert job.makers == [] and not any(shape.maker for shape in job.shapes) and check_job(job)
        assert len({shape.group for shape in job.shapes}) == 1  # they still go together
    assert followed(arranging.removed(WORD, [shape.id for shape in WORD.shapes])).makers == []


@pytest.mark.parametrize("turn", [0.0, 90.0, 200.0])
def test_kerning_moves_a_letter_and_all_after_it(turn):
    ids = [shape.id for shape in WORD.shapes]
    job = arranging.turned(WORD, ids, turn)
    kerned = drawing.kerned(job, ids[2], 3.0)
    shift = [np.array(region_of(b).centroid.coords[0]) - region_of(a).centroid.coords[0]
             for a, b in zip(job.shapes, kerned.shapes, strict=True)]  # fmt: skip
    way = np.array([np.cos(np.radians(turn)), np.sin(np.radians(turn))])
    assert np.abs(shift[:2]).max() < 0.01 and np.allclose(shift[2:], 3.0 * way, atol=0.01)
    assert kerned.makers[0].kerns == {"2": 3.0}
    assert drawing.kerned(kerned, ids[2], -1.0).makers[0].kerns == {"2": 2.0}


def test_kerning_counts_letters_of_several_parts():
    job = drawing.draw_text(EMPTY, Text("m1", "iäi", "rubik", 30.0))
    ids = [shape.id for shape in job.shapes]
    assert len(ids) == 7  # dots are parts of their own
    kerned = drawing.kerned(job, ids[3], 2.0)
    assert kerned.makers[0].kerns == {"1": 2.0}
    joined = drawing.draw_text(EMPTY, Text("m1", "tide", "pacifico", 30.0, joined=True))
    with pytest.raises(BadInput, match="as single letters"):
        drawing.kerned(joined, joined.shapes[0].id, 1.0)
    with pytest.raises(BadInput, match="only letters of a live text"):
        drawing.kerned(job_of(box(0, 0, 9, 9)), "s1", 1.0)


@pytest.mark.parametrize("typeface", ["rubik", "merriweather", "pacifico"])
def test_a_monogram_fills_its_circle(typeface):
    letters = monogram("ORL", typeface, 60.0)
    points = np.concatenate([np.asarray(region.exterior.coords) for letter in letters for region in letter.regions])
    assert np.linalg.norm(points, axis=1).max() <= 30.01 and np.abs(points[:, 1]).max() > 28
    wide = [max(region.bounds[2] for region in letter.regions) - min(region.bounds[0] for region in letter.regions)
            for letter in letters]  # fmt: skip
    assert wide[1] > max(wide[0], wide[2]) and all(region.is_valid for one in letters for region in one.regions)
    job = drawing.draw_text(EMPTY, Text("m1", "orl", typeface, 60.0, style="monogram"))
    assert check_job(job) and len(job.shapes) >= 3
    for text in ("OR", "ORLE", ""):
        with pytest.raises(BadInput, match="three letters"):
            monogram(text, typeface, 60.0)


def test_an_outline_follows_its_shapes():
    job = around(job_of(box(-10, -10, 10, 10), Point(40, 0).buffer(6)))
    outline = job.shapes[-1]
    assert [piece.shape for piece in job.pieces] == [outline.id, "s1", "s2"]
    assert region_of(outline).area == pytest.approx(400 + 4 * 80 + np.pi * 16, abs=1)
    moved = followed(arranging.moved(job, ["s1"], np.eye(2), np.array([5.0, 0.0])))
    assert region_of(moved.shapes[-1]).bounds == pytest.approx((-9, -14, 19, 14), abs=0.02)
    wide = followed(arranging.sized(job, ["s1"], 30.0, None))
    assert region_of(wide.shapes[-1]).bounds == pytest.approx((-19, -19, 19, 19), abs=0.02)  # the margin stays 4
    whole = followed(arranging.moved(job, ["s1", outline.id], np.eye(2) * 2, np.zeros(2)))
    assert whole.makers and region_of(whole.shapes[-1]).bounds == pytest.approx((-24, -24, 24, 24), abs=0.02)


def test_an_outline_parts_and_joins_as_its_shapes_do():
    job = around(job_of(box(0, 0, 10, 10), box(14, 0, 24, 10)), ids=("s1", "s2"))
    job = change(job, pieces=[change(job.pieces[0], cloth="harbour_blue"), *job.pieces[1:]])
    apart = followed(arranging.moved(job, ["s2"], np.eye(2), np.array([40.0, 0.0])))
    assert len(apart.shapes) == 4 and sum(piece.cloth == "harbour_blue" for piece in apart.pieces) == 2
    again = followed(arranging.moved(apart, ["s2"], np.eye(2), np.array([-40.0, 0.0])))
    assert len(again.shapes) == len(again.pieces) == 3 and check_job(again)


def test_an_outline_is_frozen_when_its_shapes_go_or_it_is_moved_itself():
    job = around(job_of(box(-10, -10, 10, 10), box(30, 30, 40, 40)))
    outline = job.shapes[-1]
    gone = followed(arranging.removed(job, ["s1"]))
    assert gone.makers == [] and region_of(gone.shapes[-1]).equals(region_of(outline))
    assert arranging.moved(job, [outline.id], np.eye(2), np.array([1.0, 0.0])).makers == []
    frozen = released(job, [outline.id])
    later = followed(arranging.sized(frozen, ["s1"], 40.0, None))
    assert region_of(later.shapes[-1]).equals(region_of(outline))
    inset = around(job, -3.0)
    small = followed(arranging.sized(inset, ["s1"], 5.0, None))
    assert len(small.makers) == 1 and check_job(small)  # nothing is left inside: what it was stays


def test_an_outline_round_a_text_follows_the_typing():
    ids = [shape.id for shape in WORD.shapes]
    job = drawing.offset(WORD, ids, [4.0], False, 6.0, 0.0, True)
    assert job.shapes[-1].name == "TIDE outline"
    before = region_of(job.shapes[-1]).bounds
    after = drawing.retyped(job, Text("m1", "TIDE", "rubik", 30.0))
    outline = next(shape for shape in after.shapes if shape.maker == "m2")
    assert region_of(outline).bounds[2] > before[2] + 5 and check_job(after)


def test_several_outlines_come_at_once_the_widest_lowest():
    job = drawing.offset(job_of(box(0, 0, 20, 20)), ["s1"], [2.0, 5.0, -3.0], False, 0.0, 0.0, True)
    areas = [region_of(next(shape for shape in job.shapes if shape.id == piece.shape)).area for piece in job.pieces]
    assert areas == sorted(areas, reverse=True)[:2] + areas[2:] and len(job.makers) == 3


def test_a_finished_width_keeps_texts_and_outlines_live():
    job = around(WORD, 3.0, [shape.id for shape in WORD.shapes])
    sized = resized(job, 150.0)
    assert len(sized.makers) == 2 and build_job(sized).figures.width == pytest.approx(150.0, abs=0.3)
    assert followed(sized).shapes == sized.shapes


def test_letters_set_too_small_are_found():
    least = smallest_height("merriweather")
    for height, found in ((least + 0.2, False), (least - 1.0, True)):
        job = drawing.draw_text(EMPTY, Text("m1", "Orm", "merriweather", height))
        codes = [one.code for one in build_job(job).findings]
        assert ("lettering_small" in codes) is found
    shrunk = arranging.sized(WORD, [shape.id for shape in WORD.shapes], 12.0, None)
    (finding,) = [one for one in build_job(shrunk).findings if one.code == "lettering_small"]
    assert "'TIDE'" in finding.message and finding.at and finding.piece in {piece.id for piece in shrunk.pieces}
    plain = arranging.freed(shrunk, [shrunk.shapes[0].id])
    assert "lettering_small" not in [one.code for one in build_job(plain).findings]


@pytest.mark.parametrize(
    ("job", "words"),
    [
        (change(WORD, makers=[]), "belongs to a text or outline"),
        (change(WORD, makers=[TIDE, TIDE]), "two texts or outlines with one id"),
        (change(WORD, makers=[change(TIDE, height=float("nan"))]), "figure out of bounds"),
        (change(WORD, makers=[change(TIDE, kerns={"1": float("inf")})]), "figure out of bounds"),
    ],
)
def test_broken_makers_are_told(job, words):
    with pytest.raises(BadInput, match=words):
        check_job(job)


def any_edit(job, what, nth, by):
    one = [job.shapes[nth % len(job.shapes)].id] if job.shapes else []
    if what == "move":
        return arranging.moved(job, one, np.eye(2), np.array([by, 2.0]))
    if what == "size":
        return arranging.sized(job, [shape.id for shape in job.shapes], abs(by) + 5, None)
    if what == "turn":
        return arranging.turned(job, [shape.id for shape in job.shapes if shape.maker == "m1"], by)
    return drawing.kerned(job, one[0], by) if what == "kern" and one else arranging.removed(job, one)


@settings(max_examples=40)
@given(
    st.lists(
        st.tuples(st.sampled_from(["move", "size", "turn", "kern", "remove"]), st.integers(0, 5), st.floats(-30, 30)),
        max_size=7,
    )
)
def test_any_edits_leave_a_sound_job(edits):
    job = drawing.offset(WORD, [WORD.shapes[0].id, WORD.shapes[1].id], [3.0], False, 0.0, 0.0, True)
    for edit in edits:
        try:
            edited = any_edit(job, *edit)
            before, job = job, followed(edited)
        except BadInput:
            continue
        assert followed(edited, before) == job  # what has not changed need not be made again
        assert check_job(job) and len(job.shapes) == len(job.pieces)
        made = {shape.maker for shape in job.shapes if shape.maker}
        assert made == {maker.id for maker in job.makers}  # no maker without shapes, no shape without its maker


PANEL_OF_TIDE = grounds.with_panel(WORD, [shape.id for shape in WORD.shapes])


def panel_of(job):
    maker = next(one for one in job.makers if isinstance(one, Around))
    return maker, [shape for shape in job.shapes if shape.maker == maker.id]


def test_a_panel_holds_all_letters_of_a_text_that_grows_and_one_that_shrinks():
    for words in ("TIDELINE CREW", "EBB"):
        job = check_job(drawing.retyped(PANEL_OF_TIDE, Text("m1", words, "rubik", 20.0)))
        maker, (panel,) = panel_of(job)
        letters = [region_of(shape) for shape in job.shapes if shape.maker == "m1"]
        assert set(maker.sources) == {shape.id for shape in job.shapes if shape.maker == "m1"}
        low, high = shapely.total_bounds(letters)[:2] - 10.0, shapely.total_bounds(letters)[2:] + 10.0
        assert np.allclose(region_of(panel).bounds, [*low, *high], atol=0.02)
        assert job.pieces[0].shape == panel.id and job.pieces[0].construct == "panel"


def test_what_goes_round_chosen_letters_goes_round_those_that_come_with_more_words():
    pieces = [one.id for one in WORD.pieces]
    job = grounds.with_ground(WORD, "knockdown", pieces)
    longer = drawing.retyped(job, Text("m1", "TIDES", "rubik", 20.0))
    (ground,) = [one for one in longer.pieces if one.around]
    assert len(ground.around) == 5 and set(ground.around) == {one.id for one in longer.pieces if one is not ground}
    one_only = drawing.retyped(grounds.with_ground(WORD, "knockdown", pieces[:1]), Text("m1", "TIDES", "rubik", 20.0))
    assert [one.around for one in one_only.pieces if one.around] == [pieces[:1]]


@pytest.mark.parametrize("form", [key for key, _ in FORMS if key != "calm"])
def test_an_outline_takes_a_form_holds_its_letters_and_is_never_smaller_than_asked(form):
    maker, _ = panel_of(PANEL_OF_TIDE)
    letters = shapely.union_all([region_of(shape) for shape in WORD.shapes])
    for distance, wide, high in ((6.0, 0.0, 0.0), (6.0, 160.0, 0.0), (2.0, 0.0, 170.0)):
        job = remade(PANEL_OF_TIDE, change(maker, form=form, distance=distance, wide=wide, high=high))
        region = region_of(panel_of(job)[1][0])
        left, top, right, bottom = region.bounds
        assert right - left >= wide - 0.02 and bottom - top >= high - 0.02
        kept = 0.7 * distance if form in ("oval", "rounded") else distance
        assert shapely.covers(region, letters) and shapely.distance(letters, region.exterior) > kept - 0.05
    with pytest.raises(BadInput, match="lies outside"):
        remade(PANEL_OF_TIDE, change(maker, form=form, distance=-1.0))
    with pytest.raises(BadInput, match="cannot be 'blob'"):
        remade(PANEL_OF_TIDE, change(maker, form="blob"))


def test_longer_words_are_set_smaller_where_they_may_only_be_so_wide():
    def size(words, within):
        made = drawing.draw_text(EMPTY, Text("", words, "rubik", 20.0, within=within))
        left, top, right, bottom = shapely.total_bounds([region_of(shape) for shape in made.shapes])
        return right - left, bottom - top

    free, held = size("MAXIMILIAN", 0.0), size("MAXIMILIAN", 90.0)
    assert held[0] == pytest.approx(90.0, abs=0.01) and held[1] / free[1] == pytest.approx(90.0 / free[0], abs=0.001)
    assert size("BO", 90.0) == size("BO", 0.0)


def test_names_follow_words_where_nobody_has_named_a_piece():
    named = change(WORD, pieces=[change(WORD.pieces[0], name="Anchor"), *WORD.pieces[1:]])
    other = drawing.retyped(named, Text("m1", "KELP", "rubik", 20.0))
    assert [one.name for one in other.pieces] == ["Anchor", "E", "L", "P"]
    assert [one.name for one in other.shapes] == ["K", "E", "L", "P"]
