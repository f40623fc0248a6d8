"""Stitch files are read whoever wrote them, and what nobody could sew is turned away in one sentence."""

import json

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Polygon

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.cli import main
from velamen.core.artwork.svg import read_svg
from velamen.core.building.build import build_job
from velamen.core.errors import BadInput
from velamen.core.outputs.gcode import gcode
from velamen.core.outputs.stitch_list import stitch_list
from velamen.core.plan.stitch_plan import COLOR, JUMP, STITCH, TRIM
from velamen.core.recovery.read import read_stitches


@pytest.fixture(scope="module")
def build():
    return build_job(job_of(SHAPES["notch"], base="felt"))


@pytest.fixture(scope="module")
def listed(build):
    return stitch_list(build.plan)


def sewn(rows):
    return rows.xy[rows.command == STITCH]


def test_our_own_list_and_our_own_gcode_say_the_same(build, listed):
    one, other = read_stitches(listed.encode()), read_stitches(gcode(build).encode())
    assert np.abs(sewn(one) - np.round(build.plan.xy[build.plan.command == STITCH], 3)).max() < 1e-9
    assert np.abs(sewn(one) - sewn(other)).max() < 1e-9
    assert len(np.unique(one.thread)) == len(np.unique(other.thread)) == len(build.plan.threads)


LINE = [(nth * 2.0, nth % 3 * 1.0) for nth in range(30)]


def csv(rows, head="", apart=","):
    return ("" if not head else head + "\n") + "\n".join(apart.join(map(str, row)) for row in rows) + "\n"


@pytest.mark.parametrize(("data", "options"), [
    (csv(LINE), {}),
    (csv(LINE, "x,y"), {}),
    (csv(LINE, "\ufeffX;Y", apart=";").replace(",", ";"), {}),
    (csv([(nth, *row) for nth, row in enumerate(LINE)], "nr\tx\ty", apart="\t"), {}),
    (csv([(nth, *row) for nth, row in enumerate(LINE)]), {}),
    (csv([(x / 10, y / 10) for x, y in LINE], "x_cm,y_cm"), {}),
    (csv([(x / 25.4, y / 25.4) for x, y in LINE], "x [in],y [in]"), {}),
    (csv([(x / 25.4, y / 25.4) for x, y in LINE], "x,y"), {}),
    (csv([(round(x * 10), round(y * 10)) for x, y in LINE], "x,y"), {}),
    (csv([(x / 25.4, y / 25.4) for x, y in LINE], "x,y"), {"unit": "in"}),
    (csv([(y, x, "STITCH") for x, y in LINE], "a,b,c"), {"columns": "b,a,c"}),
    (csv([("STITCH", y, x) for x, y in LINE]), {"columns": "3,2,1"}),
    (csv([(x, y, "sew") for x, y in LINE], "x,y,kind"), {}),
    ("G21 G90\nM6 T1\n" + "\n".join(f"N{nth} G1 X{x} Y{y}" for nth, (x, y) in enumerate(LINE)) + "\nM30\n", {}),
    ("G20 G90\n" + "\n".join(f"G01 X{x / 25.4:.5f} Y{y / 25.4:.5f} ; a stitch" for x, y in LINE) + "\nM2\n", {}),
    ("G21 G91\nG0 X0 Y0\n" + "\n".join(f"G1 X{x - was_x} Y{y - was_y}" for (was_x, was_y), (x, y)
                                     in zip([(0, 0), *LINE], LINE, strict=False)) + "\n(end)\n", {}),
])  # fmt: skip
def test_places_are_read_in_any_unit_and_column(data, options):
    rows = read_stitches(data.encode(), **options)
    assert np.abs(sewn(rows) - LINE).max() < 0.01


def test_commands_and_colours_are_told_by_any_usual_word():
    rows = read_stitches(b"x,y,command,thread\n0,0,jump,red\n1,0,stitch,red\n2,0,SEW,red\n,,trim,red\n5,0,MOVE,blue\n"
                         b"6,0,Stitch,blue\n7,0,stitch,blue\n")  # fmt: skip
    assert rows.command.tolist() == [JUMP, STITCH, STITCH, TRIM, JUMP, STITCH, STITCH]
    assert rows.thread.tolist() == [0, 0, 0, 0, 1, 1, 1] and rows.xy[3].tolist() == [2.0, 0.0]
    plain = read_stitches(b"x,y\n0,0\n1,0\n2,0\n40,0\n41,0\n42,0\n")
    assert plain.command.tolist() == [STITCH, STITCH, STITCH, JUMP, STITCH, STITCH]
    changed = read_stitches(b"x,y,cmd\n0,0,stitch\n1,0,stitch\n2,0,color\n3,0,stitch\n4,0,stitch\n")
    assert changed.command[2] == COLOR and changed.thread.tolist() == [0, 0, 1, 1, 1]


REFUSED = {
    "nothing": (b"", "no rows"),
    "prose": (b"Dear shop,\nplease find the badge enclosed.\nYours\n", "columns of x and y"),
    "text for a place": (b"x,y\n0,0\n1,zero\n2,0\n", "Row 3"),
    "no number": (b"x,y\n0,0\nnan,1\n2,0\n", "not a number"),
    "without end": (b"x,y\n0,0\ninf,1\n2,0\n", "not a number"),
    "a place lost": (b"x,y\n0,0\n1\n2,0\n", "Row 3"),
    "an unknown command": (b"x,y,command\n0,0,stitch\n1,0,weld\n", "'weld'"),
    "jumps only": (("x,y,command\n" + "1,2,jump\n" * 5000).encode(), "no stitches"),
    "all breaks": (("x,y,command\n" + "1,2,jump\n3,2,stitch\n" * 20_002).encode(), "breaks off 20,002 times"),
    "kilometres": (b"x_mm,y_mm\n0,0\n1,0\n2000000,0\n2000001,5\n", "unit"),
    "a speck": (b"x_mm,y_mm\n0,0\n0.001,0\n0.002,0\n", "unit"),
    "an arc": (b"G21 G90\nG0 X0 Y0\nG2 X5 Y5 I2 J2\nG1 X6 Y6\n", "Line 3"),
    "a milling job": (b"G21 G90\nG0 X0 Y0 Z5\nM3 S1000\nG1 Z-1\nG1 X5 Y5\n", "milling"),
    "no move": (b"G21\nG90\nM30\n", "moves nowhere"),
    "a place before a move": (b"G21 G90\nG90 X5 Y5\nG1 X6 Y6\nG1 X7 Y7\n", "Line 2"),
    "a picture": (b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + bytes(200), "no text"),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_nobody_could_sew_is_turned_away_in_a_sentence(name):
    data, why = REFUSED[name]
    with pytest.raises(BadInput) as told:
        read_stitches(data)
    assert why in str(told.value) and str(told.value).endswith(".") and "\n" not in str(told.value)


@pytest.mark.parametrize("options", [{"unit": "ell"}, {"columns": "x"}, {"columns": "x,nowhere"}, {"columns": "0,1"},
                                     {"columns": "1,99"}])  # fmt: skip
def test_columns_and_units_that_are_none_are_told(options):
    with pytest.raises(BadInput):
        read_stitches(csv(LINE, "x,y").encode(), **options)


@settings(max_examples=150)
@given(st.binary(max_size=400) | st.text(max_size=300).map(str.encode)
       | st.lists(st.sampled_from(["G1 X1 Y2", "G0", "X", "M6 T", "G91", "G20", "(", "M30", "N1 G1 X9e9 Y.", "%"]))
       .map(lambda lines: "\n".join(["G21", "G90", *lines]).encode()))  # fmt: skip
def test_whatever_comes_in_is_read_or_turned_away(data):
    try:
        rows = read_stitches(data)
    except BadInput as told:
        assert str(told).endswith(".")
    else:
        assert np.isfinite(rows.xy).all() and len(rows.xy) == len(rows.command) == len(rows.thread)


@settings(max_examples=100)
@given(st.data())
def test_a_list_with_damage_is_read_or_turned_away(data):
    whole = bytearray(csv([(x, y, "stitch") for x, y in LINE], "x,y,command").encode())
    for _ in range(data.draw(st.integers(1, 4))):
        at = data.draw(st.integers(0, len(whole) - 1))
        whole[at : at + data.draw(st.integers(0, 3))] = data.draw(st.binary(max_size=3))
    try:
        read_stitches(bytes(whole))
    except BadInput as told:
        assert str(told).endswith(".")


def test_the_command_writes_segments_and_their_outlines(tmp_path, listed, capsys):
    (tmp_path / "badge.csv").write_text(listed, encoding="utf-8")
    assert main(["recover", str(tmp_path / "badge.csv"), "--out", str(tmp_path / "out")]) == 0
    segments = json.loads((tmp_path / "out" / "segments.json").read_text())
    assert {"run", "zigzag", "satin", "tie"} <= {one["kind"] for one in segments}
    satin = next(one for one in segments if one["kind"] == "satin")
    assert satin["closed"] and len(satin["outline"]) > 10 and len(satin["holes"]) == 1 and len(satin["rails"]) == 2
    assert not (tmp_path / "out" / "cut.svg").exists()
    (cloth,) = json.loads((tmp_path / "out" / "appliques.json").read_text())
    assert satin["id"] in cloth["drops"] and len(cloth["outline"]) > 10
    wanted = ["recover", str(tmp_path / "badge.csv"), "--cut", satin["id"], "--out", str(tmp_path / "out")]
    assert main(wanted) == 0
    (cut,) = read_svg((tmp_path / "out" / "cut.svg").read_bytes()).drawn
    area, outline = cut.region.area, Polygon(satin["outline"]).area
    assert area == pytest.approx(outline, rel=0.01) and "CUT_CLOTH" in (tmp_path / "out" / "cut.dxf").read_text()
    drawn = (tmp_path / "out" / "shapes.svg").read_text()
    assert f'id="{satin["id"]}"' in drawn
    (tmp_path / "bad.csv").write_text("x,y\n1,one\n2,3\n", encoding="utf-8")
    assert main(["recover", str(tmp_path / "bad.csv"), "--out", str(tmp_path / "none")]) == 2
    assert capsys.readouterr().err.count("\n") == 1 and not (tmp_path / "none").exists()
