"""Artwork sorted before it comes in: colours kept, small parts sewn so that no trim stop is wasted, gaps closed."""

import pytest
import shapely

from core.shapes import SHAPES
from velamen.core.artwork.dxf import read_dxf
from velamen.core.artwork.lettering import lettering
from velamen.core.artwork.svg import read_svg
from velamen.core.building.build import build_job
from velamen.core.edits.shapes.sorting_in import offered, sorts_of, suiting, take_sorted
from velamen.core.errors import BadInput
from velamen.core.geometry.healing import healed
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, brief_for
from velamen.core.job.regions import region_of
from velamen.core.materials.colour import nearest_thread


def path(region, colour="", name=""):
    told = "".join("M" + "L".join(f"{x:.3f},{y:.3f}" for x, y in ring) + "Z" for ring in rings_of(region))
    return f'<path id="{name}" d="{told}" fill-rule="evenodd"{f" fill={colour!r}" if colour else ""}/>'


def svg(*parts):
    body = "".join(parts)
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="200mm" viewBox="0 0 200 200">{body}</svg>'


def artwork(*parts):
    return read_svg(svg(*parts).encode())


def word(text="Tidelight harbour crew", height=7.0):
    return [
        shapely.affinity.translate(one, 100, 100)
        for letter in lettering(text, "rubik", height)
        for one in letter.regions
    ]


@pytest.mark.parametrize(("told", "colour"), [
    ("#b8453c", "#b8453c"), ("rgb(184, 69, 60)", "#b8453c"), ("tomato", "#ff6347"), ("#FFF", "#ffffff"), ("url(#fade)", ""),
    ("currentcolor", ""), ("nonsense", ""),
])  # fmt: skip
def test_the_colours_of_a_drawing_are_read_however_they_are_told(told, colour):
    (one,) = artwork(path(shapely.box(10, 10, 60, 60), told)).drawn
    assert one.colour == colour
    styled = f'<g style="fill:{told}">{path(shapely.box(10, 10, 60, 60))}</g>'
    assert artwork(styled).drawn[0].colour == colour


def test_layers_of_a_dxf_give_its_colours():
    import io

    import ezdxf

    drawing = ezdxf.new(units=4)
    drawing.layers.add("Sails", color=1)
    drawing.layers.add("Hull").rgb = (40, 90, 130)
    for nth, layer in enumerate(("Sails", "Hull", "0")):
        ring = [(60 * nth, 0), (60 * nth + 40, 0), (60 * nth + 40, 40), (60 * nth, 40)]
        drawing.modelspace().add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})
    text = io.StringIO()
    drawing.write(text)
    found = {one.name: one.colour for one in read_dxf(text.getvalue().encode()).drawn}
    assert found == {"Sails": "#ff0000", "Hull": "#285a82", "Outline": ""}


def test_parts_are_sorted_by_colour_and_width():
    found = sorts_of(artwork(
        path(shapely.box(10, 10, 90, 90), "#b8453c"), path(shapely.box(20, 20, 80, 22), "#b8453c"),
        path(shapely.box(20, 30, 80, 30.5), "#b8453c"), path(shapely.box(100, 10, 140, 17.5), "#28323f"),
        *(path(one, "#28323f") for one in word()),
    ))  # fmt: skip
    assert [(one.colour, one.way, one.letters) for one in found] == [
        ("#b8453c", "applique", False), ("#b8453c", "column", False), ("#b8453c", "run", False),
        ("#28323f", "fill", False), ("#28323f", "column", True),
    ]  # fmt: skip
    assert found[0].area == pytest.approx(6400) and found[1].narrowest == pytest.approx(1.94, abs=0.02)
    assert len(found[4].parts) >= 20


@pytest.mark.parametrize("stroke", [0.1, 0.79, 0.8, 2.0, 3.49, 3.5, 20.0])
@pytest.mark.parametrize("short", [0.5, 7.9, 8.0, 200.0])
def test_one_construction_suits_whatever_the_size(stroke, short):
    assert sum(one.sorted_as.suits(stroke, short) for one in offered()) == 1
    assert suiting(stroke, short) in offered()


def test_a_line_of_small_text_is_one_group_without_a_trim_stop():
    job = take_sorted(Job(brief=brief_for("firm_woven", "h360x200")), artwork(
        path(shapely.box(10, 10, 190, 90), "#b8453c", "Banner"), *(path(one, "#f4efe4") for one in word())), {})  # fmt: skip
    groups = {shape.group for shape in job.shapes[1:]}
    assert len(groups) == 1 and "" not in groups and job.shapes[0].group == ""
    assert {piece.construct for piece in job.pieces[1:]} == {"column"}
    assert len(build_job(job).plan.stops) <= 2


def test_cloth_and_thread_are_the_nearest_to_the_colour_of_the_artwork():
    job = take_sorted(Job(), artwork(
        path(shapely.box(10, 10, 60, 60), "#b8453c"), path(shapely.box(70, 10, 120, 60), "#28323f"),
        path(shapely.box(70, 70, 120, 72), "#7fa3b5"), path(shapely.box(10, 70, 60, 120))), {})  # fmt: skip
    red, black, line, plain = job.pieces
    assert (red.cloth, black.cloth) == ("sail_red", "night_ink") and plain.construct == "applique"
    assert line.construct == "column" and line.thread == nearest_thread("#7fa3b5", job.library).key


def test_sorts_are_left_out_sewn_otherwise_and_parts_taken_out_one_by_one():
    drawn = artwork(path(shapely.box(10, 10, 60, 60), "#b8453c", "One"), path(shapely.box(70, 10, 120, 60), "#b8453c", "Two"),
                    path(shapely.box(10, 70, 60, 120), "#28323f", "Three"))  # fmt: skip
    assert [one.name for one in take_sorted(Job(), drawn, {1: ""}).pieces] == ["One", "Two"]
    after = take_sorted(Job(), drawn, {0: "fill"}, left={1})
    assert [(one.name, one.construct) for one in after.pieces] == [("One", "fill"), ("Three", "applique")]
    with pytest.raises(BadInput, match="at least one"):
        take_sorted(Job(), drawn, {0: "", 1: ""})


def test_every_way_that_is_offered_is_sewn():
    drawn = artwork(path(shapely.box(10, 10, 60, 60), "#b8453c"))
    for one in offered():
        build = build_job(take_sorted(Job(brief=brief_for("terry", "h200x300")), drawn, {0: one.name}))
        assert not build.lost and build.figures.stitches > 0, one.name


def test_holes_and_notches_under_what_lies_over_them_are_closed():
    plate = shapely.box(0, 0, 60, 40)
    eye, ear = shapely.Point(20, 20).buffer(6), shapely.Point(60, 20).buffer(8)
    cut = plate.difference(eye).difference(ear)
    whole = healed(cut, shapely.union_all([eye, ear]))
    assert whole.symmetric_difference(plate).area < 0.02 * plate.area
    assert healed(cut, eye).interiors[:] == [] and healed(cut, eye).area < plate.area - 60
    window = plate.difference(shapely.box(40, 5, 50, 12))  # a window that nothing lies in stays
    assert len(healed(window.difference(eye), eye).interiors) == 1
    assert healed(cut, shapely.Point(500, 500).buffer(5)) is cut


@pytest.mark.parametrize("shape", sorted(SHAPES))
def test_closing_what_lies_underneath_never_grows_past_what_lies_there(shape):
    whole = max(shapely.get_parts(SHAPES[shape]), key=lambda part: part.area)
    above = shapely.union_all([shapely.Point(*whole.exterior.coords[nth]).buffer(5) for nth in (0, 2)])
    left = whole.difference(above)
    if left.is_empty:
        return
    left = max(shapely.get_parts(left), key=lambda part: part.area)
    found = healed(left, above)
    assert found.is_valid and found.geom_type == "Polygon"
    assert found.difference(shapely.union_all([left, above]).buffer(0.4)).area < 0.02 * left.area + 0.2


def test_artwork_is_closed_under_what_lies_over_it():
    eye = shapely.Point(50, 50).buffer(9)
    drawn = artwork(path(shapely.box(10, 10, 90, 90).difference(eye), "#b8453c"), path(eye, "#28323f"))
    assert len(region_of(take_sorted(Job(), drawn, {}).shapes[0]).interiors) == 1
    assert len(region_of(take_sorted(Job(), drawn, {}, close_under=True).shapes[0]).interiors) == 0
