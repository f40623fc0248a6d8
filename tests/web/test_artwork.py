"""Edits of shapes on the Artwork stage: what is sent, saved, chosen after, and refused."""

import numpy as np
import pytest
from django.urls import reverse

from velamen.core.edits.shapes.dies import die_region
from velamen.core.materials.library import shipped
from velamen.web.stages.shapes import EDITS
from velamen.web.stages.typed import NUMBERS


def edit(client, job, do, revision=1, ids=("s1",), **numbers):
    data = {"do": do, "ids": " ".join(ids), "revision": revision, **numbers}
    return client.post(reverse("edit-shapes", args=[job.pk]), data, headers={"HX-Request": "true"})


def names(job):
    job.refresh_from_db()
    return [shape.name for shape in job.head.read().shapes]


TEXT = {
    "text": "TIDE",
    "typeface": "rubik",
    "letter_height": "20",
    "letter_spacing": "1",
    "fit_width": "0",
    "letter_arch": "6",
    "letter_circle": "0",
    "as": "letters",
}
OUTLINE = {"distance": "4", "corners": "sharp", "close": "0", "calm": "1.5"}
LINE = {"outline": "-40 5,0 6 c,40 -3", "line": "line"}
GOOD = {
    "draw": {"basic": "star", "points": "7", "diameter": "2 in", "inner": "40"},
    "die": {"die": "whale_95"},
    "offset": {**OUTLINE, "distance": "3; 6 -2.5"},
    "around": {**OUTLINE, "maker": "m1", "distance": "7"},
    "free": {},
    "move": {"dx": "3", "dy": "-2 mm"},
    "turn": {"degrees": "-30"},
    "mirror": {"across": "upright"},
    "size": {"width": "2.5 in"},
    "fit": {},
    "align": {"edge": "left"},
    "distribute": {"across": "sideways"},
    "combine": {"how": "union"},
    "apart": {"overlap": "1"},
    "break": {},
    "group": {},
    "ungroup": {},
    "lock": {},
    "unlock": {},
    "hide": {},
    "show": {},
    "repeat": {"columns": "2", "rows": "2", "gap": "4"},
    "round": {"count": "5", "radius": "40"},
    "fill": {"below": "500"},
    "simplify": {"tolerance": "0.2"},
    "rename": {"name": "Deck buoy"},
    "smooth": {"amount": "2"},
    "curves": {"tolerance": "0.1"},
    "pen": {"outline": "0 0,30 0 c,30 30,0 30 c"},
    "clear-lines": {},
    "join-lines": {},
    "sew-line": {},
    "widen": {"line_width": "4"},
    "duplicate": {},
    "text": TEXT,
    "retype": {**TEXT, "maker": "m1", "text": "EBB", "as": "word"},
    "kern": {"dx": "1.5 mm"},
    "move-points": {"points": "0.1", "dx": "2", "dy": "-1 mm", "reach": "4"},
    "move-handle": {"points": "0.1", "side": "after", "dx": "2", "dy": "-1 mm"},
    "make-points": {"points": "0.1 0.2", "kind": "smooth"},
    "add-point": {"x": "3 mm", "y": "25"},
    "remove-points": {"points": "1.1"},
    "straighten": {"points": "1.0 1.2"},
    "split": {"points": "0.0 0.2"},
    "hole": {"points": "1.0", "keep": "1"},
    "backdrop": {"opacity": "30", "x": "5", "y": "-2 mm", "width": "90", "degrees": "12", "shown": "yes"},
    "remove": {},
}
FIRST = {
    "around": ("offset", {**OUTLINE, "live": "1"}),
    "retype": ("text", TEXT),
    "kern": ("text", TEXT),
    "free": ("die", GOOD["die"]),
    "unlock": ("lock", {}),
    "split": ("fill", {"all": "1"}),
    "show": ("hide", {}),
    "clear-lines": ("pen", {**LINE, "line": "rail"}),
    "join-lines": ("pen", {"outline": "-40 5,0 26 c,40 -3", "line": "line"}),
    "sew-line": ("pen", LINE),
    "widen": ("pen", LINE),
    "move-handle": ("curves", {"tolerance": "0.1"}),
    "make-points": ("curves", {"tolerance": "0.1"}),
    **dict.fromkeys(
        ("distribute", "combine", "group", "align"), ("repeat", {"columns": "3", "rows": "1", "gap": "4"})
    ),
    "apart": ("repeat", {"columns": "3", "rows": "1", "gap": "-8"}),
    "ungroup": ("repeat", {"columns": "2", "rows": "1", "gap": "4"}),
}


def chosen_in(answer):
    return [row["shape"].id for row in answer.context["rows"] if row["chosen"]]


@pytest.mark.parametrize("do", sorted({*EDITS, "cloth"} - {"backdrop"}))
def test_every_edit_is_one_revision_and_can_be_undone(signed_in, job, do):
    ids = ["s1"]
    if do in FIRST:
        what, numbers = FIRST[do]
        ids = chosen_in(edit(signed_in, job, what, **numbers))
        ids = [*ids, "s1"] if do in ("combine", "apart", "distribute", "group", "align") else ids[-1:]
    job.refresh_from_db()
    before, number = job.head.read(), job.head.number
    answer = edit(signed_in, job, do, number, ids, **({"cloth": "night_ink"} if do == "cloth" else GOOD[do]))
    assert answer.status_code == 200 and 'id="art"' in answer.content.decode()
    job.refresh_from_db()
    unchanged = do in ("simplify", "smooth", "distribute", "ungroup")
    assert job.head.number == (number if unchanged and job.head.number == number else number + 1) and job.head.label
    assert unchanged or job.head.read() != before
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": job.head.number, "stage": "artwork"})
    if job.head.number > number:
        job.refresh_from_db()
        assert job.head.read() == before


def test_what_is_made_is_chosen_after(signed_in, job):
    answer = edit(signed_in, job, "draw", basic="heart")
    assert [row["shape"].name for row in answer.context["rows"] if row["chosen"]] == ["Heart"]
    again = edit(signed_in, job, "draw", 2, basic="heart")
    assert [row["shape"].name for row in again.context["rows"] if row["chosen"]] == ["Heart 2"]
    both = edit(signed_in, job, "combine", 3, ids=["s2", "s3"], how="union")
    assert names(job) == ["Buoy", "Heart"] and [row["chosen"] for row in both.context["rows"]] == [False, True]
    three = edit(signed_in, job, "repeat", 4, ids=["s2"], columns="3", rows="1", gap="2")
    assert sum(row["chosen"] for row in three.context["rows"]) == 2
    spread = edit(signed_in, job, "distribute", 5, ids=["s1", "s2", "s3"], across="sideways")
    assert spread.status_code == 200


@pytest.mark.parametrize(
    ("do", "numbers", "words"),
    [
        ("draw", {"basic": "spiral"}, "no basic shape"),
        ("draw", {"basic": "circle", "diameter": "-4"}, "Across -4 is out of bounds"),
        ("offset", {"distance": "0", "close": "0", "calm": "0"}, "at least 0.1 mm"),
        ("offset", {"distance": "-30", "close": "0", "calm": "0"}, "nothing is left"),
        ("offset", {"distance": "4"}, "Close gaps cannot be"),
        ("move", {"dx": "far", "dy": "0"}, "The way to the right cannot be"),
        ("move", {"dx": "9999", "dy": "0"}, "out of bounds"),
        ("turn", {"degrees": "nan"}, "Turn by cannot be &#x27;nan&#x27;"),
        ("mirror", {"across": "inside"}, "no way to mirror"),
        ("size", {}, "needs a width or a height"),
        ("size", {"width": "0.2"}, "too small"),
        ("align", {"edge": "under"}, "no way to line up"),
        ("combine", {"how": "union"}, "Choose at least 2 shapes"),
        ("combine", {"how": "weld"}, "no way to combine"),
        ("repeat", {"columns": "40", "rows": "40", "gap": "1"}, "too many"),
        ("repeat", {"columns": "25", "rows": "25", "gap": "1"}, "25 × 25 repeats are too many"),
        ("simplify", {"tolerance": "40"}, "Tolerance 40 is out of bounds"),
        ("fly", {}, "no edit of shapes"),
        ("text", {**TEXT, "text": " "}, "Type 1 to 60 letters"),
        ("text", {**TEXT, "text": "A" * 61}, "Type 1 to 60 letters"),
        ("text", {**TEXT, "text": "潮"}, "has no letter"),
        ("text", {**TEXT, "typeface": "sans"}, "no typeface"),
        ("text", {**TEXT, "as": "monogram"}, "has three letters"),
        ("retype", {**TEXT, "maker": "m9"}, "has become plain shapes"),
        ("kern", {"dx": "1"}, "only letters of a live text"),
        ("around", {**OUTLINE, "maker": "m9"}, "follows nothing any more"),
        ("die", {"die": "anchor"}, "no cutting die"),
        ("pen", {**LINE, "outline": "0 0"}, "at least two points"),
        ("pen", {**LINE, "line": "direction", "outline": "90 90,99 99"}, "does not cross"),
        ("pen", {**LINE, "line": "wavy"}, "no line &#x27;wavy&#x27;"),
        ("join-lines", {}, "Only open lines"),
        ("widen", {"line_width": "4"}, "is no open line"),
        ("move-handle", GOOD["move-handle"], "has no curve nodes"),
        ("split", {"points": "0.0"}, "Choose two points"),
        ("split", {"points": "0.0 0.1"}, "does not cut"),
        ("backdrop", GOOD["backdrop"], "no picture behind"),
        ("paste", {"clip": "{}}"}, "cannot be put in"),
        ("paste", {"clip": '{"velamen_job": 1, "shapes": [{"id": "x"}]}'}, "cannot be put in"),
        ("text", {**TEXT, "letter_arch": "nan"}, "Arch cannot be &#x27;nan&#x27;"),
        ("pen", {"outline": "0 0,30 0"}, "at least three points"),
        ("pen", {"outline": "0 0,30 x,4 4"}, "cannot be read"),
        ("pen", {"outline": "0 0,nan 0,4 4"}, "The outline cannot be read"),
        ("pen", {"outline": "0 0,9000 0,4 4"}, "far off the field"),
        ("pen", {"outline": "0 0,90 90,90 0,0 90"}, "crosses itself"),
        ("pen", {"outline": "0 0,1 0,1 1"}, "draw it larger"),
        ("pen", {"outline": "90 90,99 90,99 99", "cut": "1"}, "does not lie on"),
        ("pen", {"outline": "-90 -90,99 -90,99 99,-90 99", "cut": "1"}, "Nothing is left|Nothing would be left"),
        ("move-points", {"points": "0.1", "dx": "60", "dy": "60", "reach": "0"}, "would cross itself"),
        ("move-points", {"points": "0.99", "dx": "1", "dy": "1", "reach": "0"}, "no longer in the shape"),
        ("move-points", {"dx": "1", "dy": "1", "reach": "0"}, "Choose a point first"),
        ("remove-points", {"points": "a.b"}, "cannot be read"),
        ("remove-points", {"points": "0.0 0.1"}, "at least three points"),
        ("straighten", {"points": "0.0"}, "Choose two points"),
        ("hole", {"points": "0.0"}, "no longer in the shape"),
    ],
)
def test_bad_edits_are_told_and_save_nothing(signed_in, job, do, numbers, words):
    answer = edit(signed_in, job, do, **numbers)
    assert answer.status_code == 422 and any(one in answer.content.decode() for one in words.split("|"))
    job.refresh_from_db()
    assert job.head.number == 1


def test_shapes_that_are_gone_and_edits_in_between_are_told(signed_in, job):
    assert "no longer in the job" in edit(signed_in, job, "remove", ids=["s9"]).content.decode()
    edit(signed_in, job, "turn", degrees="10")
    assert edit(signed_in, job, "turn", 1, degrees="20").status_code == 409


def test_numbers_of_the_tools_are_within_their_own_bounds():
    for key, setting in NUMBERS.items():
        assert setting.key == key and setting.low < setting.high and setting.help


def drawing(units=4):
    """A DXF of a ring and a square made of four lines."""
    import io

    import ezdxf

    made = ezdxf.new("R2010")
    made.units = units
    space = made.modelspace()
    space.add_circle((0, 0), 20)
    space.add_circle((0, 0), 8)
    for begin, end in (((40, 0), (60, 0)), ((60, 0), (60, 20)), ((40, 20), (60, 20)), ((40, 20), (40, 0))):
        space.add_line(begin, end)
    text = io.StringIO()
    made.write(text)
    return text.getvalue()


def bring(client, job, upload, text, revision=1, **more):
    data = {"revision": revision, "artwork": upload(text, "anchor.dxf"), **more}
    return client.post(reverse("artwork", args=[job.pk]), data, follow=True)


def test_a_dxf_is_brought_in_and_chosen(signed_in, job, upload):
    page = bring(signed_in, job, upload, drawing())
    assert names(job) == ["Buoy", "Outline 1", "Outline 2"]
    assert [row["shape"].name for row in page.context["rows"] if row["chosen"]] == ["Outline 1", "Outline 2"]
    assert not any(row["chosen"] for row in signed_in.get(reverse("artwork", args=[job.pk])).context["rows"])


def test_the_unit_of_a_dxf_is_asked_for_when_it_does_not_say(signed_in, job, upload):
    page = bring(signed_in, job, upload, drawing(units=0))
    assert (
        page.status_code == 422
        and "choose mm, cm or inches" in page.content.decode()
        and 'id="id_unit"' in page.content.decode()
    )
    page = bring(signed_in, job, upload, drawing(units=0), unit="cm")
    square = page.context["rows"][-1]["box"]
    assert square[2] - square[0] == pytest.approx(200)
    assert 'id="id_unit"' not in signed_in.get(reverse("artwork", args=[job.pk])).content.decode()


def test_fitting_to_the_field(signed_in, job):
    from velamen.core.building.build import build_job

    edit(signed_in, job, "fit")
    job.refresh_from_db()
    made = build_job(job.head.read())
    assert 95 < made.figures.width <= 100 and "outside_field" not in {one.code for one in made.findings}


def test_a_shape_is_kept_as_a_die_and_placed_like_any_other(signed_in, job, shop):
    answer = edit(signed_in, job, "keep-die", name="Buoy 50")
    page = answer.content.decode()
    assert answer.status_code == 200 and "Buoy 50 is among the cutting dies now." in page
    (row,) = shop.rows.filter(kind="dies")
    assert f'data-die="{row.key}"' in page
    job.refresh_from_db()
    assert job.head.number == 1  # nothing of the job has changed
    edit(signed_in, job, "die", die=row.key)
    job.refresh_from_db()
    first, placed = job.head.read().shapes
    size = [np.ptp(np.array(one.rings[0]), axis=0) for one in (first, placed)]
    assert np.allclose(*size, atol=0.02) and placed.die == row.key and len(placed.rings) == len(first.rings)
    for wrong in (
        {"name": ""},
        {"name": "x", "ids": ("s1", "s2")},
        {"name": "x", "ids": ()},
        {"name": "x", "ids": ("s9",)},
    ):
        told = edit(signed_in, job, "keep-die", 2, **wrong)
        assert told.status_code == 422 and "board-wrong" in told.content.decode(), wrong


def test_shipped_dies_cut_one_shape_each_and_many_are_small():
    sizes = [np.ptp(np.array(die_region(one).exterior.coords), axis=0).max() for one in shipped().dies.values()]
    assert sum(size < 60 for size in sizes) >= 14
