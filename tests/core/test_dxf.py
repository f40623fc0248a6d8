"""DXF in: every kind of line, units, layers, holes, blocks, and what cannot be used."""

import io
import math

import ezdxf
import numpy as np
import pytest
from ezdxf import units

from velamen.core.artwork.dxf import NoUnit, is_dxf, read_dxf
from velamen.core.artwork.read import read_artwork
from velamen.core.errors import BadInput


def drawn(fill, unit=units.MM, version="R2010"):
    """A DXF of what a function adds to its model space."""
    made = ezdxf.new(version)
    made.units = unit
    fill(made.modelspace())
    text = io.StringIO()
    made.write(text)
    return text.getvalue().encode("utf-8")


def square(space, x=0.0, y=0.0, size=10.0, **attributes):
    space.add_lwpolyline(
        [(x, y), (x + size, y), (x + size, y + size), (x, y + size)], close=True, dxfattribs=attributes
    )


def areas(artwork):
    return sorted(round(one.region.area, 1) for one in artwork.drawn)


KINDS = {
    "circle": (lambda space: space.add_circle((5, 5), 10), np.pi * 100),
    "ellipse": (lambda space: space.add_ellipse((0, 0), (20, 0), 0.5), np.pi * 200),
    "polyline": (lambda space: square(space), 100),
    "old polyline": (lambda space: space.add_polyline2d([(0, 0), (10, 0), (10, 10), (0, 10)], close=True), 100),
    "bulges": (lambda space: space.add_lwpolyline([(0, 0, 1), (20, 0, 1)], format="xyb", close=True), np.pi * 100),
    "two arcs": (lambda space: (space.add_arc((0, 0), 10, 0, 180), space.add_arc((0, 0), 10, 180, 360)), np.pi * 100),
    "arc and line": (
        lambda space: (space.add_arc((0, 0), 10, 0, 180), space.add_line((-10, 0), (10, 0))),
        np.pi * 50,
    ),
    "hatch": (
        lambda space: space.add_hatch().paths.add_polyline_path([(0, 0), (10, 0), (10, 10), (0, 10)], is_closed=True),
        100,
    ),
}


@pytest.mark.parametrize("version", ["R12", "R2000", "R2018"])
@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_of_line(kind, version):
    fill, area = KINDS[kind]
    if version == "R12" and kind in ("ellipse", "polyline", "bulges", "hatch"):
        fill, area = KINDS["old polyline"]  # R12 knows none of these
    (one,) = read_dxf(drawn(fill, version=version), "mm").drawn
    assert one.region.area == pytest.approx(area, rel=3e-3) and one.region.is_valid


def test_a_spline_is_followed():
    points = [(10 * np.cos(t), 10 * np.sin(t)) for t in np.linspace(0, 2 * np.pi, 24)]
    (one,) = read_dxf(drawn(lambda space: space.add_spline(points))).drawn
    assert one.region.area == pytest.approx(np.pi * 100, rel=0.01)


@pytest.mark.parametrize(
    ("unit", "factor"), [(units.MM, 1), (units.CM, 10), (units.IN, 25.4), (units.M, 1000), (units.FT, 304.8)]
)
def test_the_header_says_the_unit(unit, factor):
    (one,) = read_dxf(drawn(lambda space: square(space, size=1.0), unit)).drawn
    assert one.region.area == pytest.approx(factor**2)


def test_a_unit_is_asked_for_when_absent_and_taken_when_given():
    data = drawn(lambda space: square(space), 0)
    with pytest.raises(NoUnit, match="choose mm, cm or inches"):
        read_dxf(data)
    assert areas(read_dxf(data, "in")) == [64516.0]
    with pytest.raises(BadInput, match="unit 'ell'"):
        read_dxf(data, "ell")


def test_lines_are_joined_end_to_end_within_a_hair():
    def fill(space):
        for begin, end in (
            ((0, 0), (10, 0.01)),
            ((10.02, 0), (10, 10)),
            ((0, 10.03), (10, 10)),
            ((0, 10), (0.01, 0)),
        ):
            space.add_line(begin, end)
        space.add_line((30, 30), (40, 40))

    artwork = read_dxf(drawn(fill))
    assert areas(artwork) == pytest.approx([100], abs=0.5) and artwork.notes == (
        "1 open line came in as a line: only closed outlines become cloth.",
    )


def test_outlines_in_one_another_are_holes_by_turns_on_their_layer():
    def fill(space):
        for size in (60, 40, 20):
            square(space, -size / 2, -size / 2, size, layer="Buoy")
        square(space, -5, -5, 10, layer="Lamp")

    artwork = read_dxf(drawn(fill))
    assert {one.name: round(one.region.area) for one in artwork.drawn} == {"Buoy 1": 2000, "Buoy 2": 400, "Lamp": 100}


def test_a_hatch_and_its_border_are_one():
    def fill(space):
        square(space)
        space.add_hatch().paths.add_polyline_path([(0, 0), (10, 0), (10, 10), (0, 10)], is_closed=True)

    assert areas(read_dxf(drawn(fill))) == [100]


def test_blocks_are_followed_and_y_points_up_in_a_drawing():
    made = ezdxf.new("R2010")
    made.units = units.MM
    block = made.blocks.new("FLAG")
    block.add_lwpolyline([(0, 0), (20, 0), (0, 30)], close=True)
    for x in (0, 50):
        made.modelspace().add_blockref("FLAG", (x, 0), dxfattribs={"xscale": 2, "yscale": 2})
    text = io.StringIO()
    made.write(text)
    artwork = read_dxf(text.getvalue().encode())
    assert areas(artwork) == [1200, 1200]
    assert artwork.drawn[0].region.centroid.y > 0  # the broad foot lies low on the cloth


BAD = {
    "solids": (lambda space: space.add_3dface([(0, 0, 0), (1, 0, 0), (1, 1, 5)]), "only solids or faces"),
    "text": (lambda space: space.add_text("TIDE"), "only text"),
    "open": (lambda space: space.add_line((0, 0), (9, 9)), "1 open line and no closed outline"),
    "empty": (lambda space: None, "no closed outline"),
    "crossing": (
        lambda space: space.add_lwpolyline(
            [
                (90 * math.cos(2.0 * math.pi * nth * 150 / 301), 90 * math.sin(2.0 * math.pi * nth * 150 / 301))
                for nth in range(301)
            ],
            close=True,
        ),
        "crosses itself in more than 5,000 places",
    ),
    "huge": (lambda space: square(space, size=9000.0), "beyond any sewing field"),
}


@pytest.mark.parametrize("kind", BAD)
def test_what_cannot_be_used_is_told(kind):
    fill, words = BAD[kind]
    with pytest.raises(BadInput, match=words):
        read_dxf(drawn(fill))


@pytest.mark.parametrize(
    "data",
    [
        b"0\nSECTION\n",
        b"0\nSECTION\n2\nENTITIES\n0\nLINE\n10\nabc\n0\nENDSEC\n0\nEOF\n",
        b"  0\r\nSECTION" + bytes(300),
        b"AutoCAD Binary DXF\r\n\x1a\x00" + bytes(50),
    ],
)
def test_broken_files_are_told(data):
    assert is_dxf(data)
    with pytest.raises(BadInput):
        read_artwork(data, "mm")


def test_the_kind_of_file_is_seen_by_what_is_in_it():
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="10mm" height="10mm" viewBox="0 0 10 10"><rect width="9" height="9"/></svg>'
    assert areas(read_artwork(svg)) == [81.0] and not is_dxf(svg)
    assert areas(read_artwork(b"999\nmade by hand\n" + drawn(lambda space: square(space)))) == [100]
