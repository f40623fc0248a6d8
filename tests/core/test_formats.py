"""The files: stitch list, cut file, report, binary plan, job; and the commands that write them."""

import csv
import io
import json
import struct
import subprocess
import sys
from xml.etree import ElementTree

import numpy as np
import pytest
import shapely
from shapely import Polygon, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen import cli
from velamen.core.artwork.svg import read_svg
from velamen.core.building.build import build_job
from velamen.core.errors import BadInput
from velamen.core.job.reading import read_job, write_job
from velamen.core.outputs.cut_file import cut_svg
from velamen.core.outputs.plan_binary import plan_binary
from velamen.core.outputs.report import report_json
from velamen.core.outputs.stitch_list import HEADER, stitch_list
from velamen.core.stitching.roles import ROLES

ART = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="80mm" viewBox="0 0 100 80">'
    '<path id="anchor" fill-rule="evenodd" d="M10 10H90V70H10Z M30 25H60V50H30Z"/></svg>'
)


@pytest.fixture(scope="module")
def build():
    return build_job(job_of(SHAPES["two_holes"], SHAPES["star"], name="Harbour <test>"))


def test_stitch_list_is_the_plan(build):
    rows = list(csv.DictReader(io.StringIO(stitch_list(build.plan))))
    assert tuple(rows[0]) == HEADER and HEADER[:8] == (
        "n",
        "x_mm",
        "y_mm",
        "command",
        "thread",
        "block",
        "role",
        "piece",
    )
    assert [int(row["n"]) for row in rows] == list(range(1, len(rows) + 1))
    assert {row["command"] for row in rows} <= {"stitch", "jump", "trim", "stop", "color", "end"}
    assert rows[-1]["command"] == "end"
    assert all(row["role"] in ROLES for row in rows if row["command"] == "stitch")
    assert all(len(row["x_mm"].split(".")[1]) == 3 and row["x_mm"] != "-0.000" for row in rows)
    stops = [row for row in rows if row["command"] == "stop"]
    assert len(stops) == build.figures.stops and all(row["note"].endswith(".") for row in stops)
    assert all(not row["note"] for row in rows if row["command"] != "stop")
    sewn = np.array([[float(row["x_mm"]), float(row["y_mm"])] for row in rows if row["command"] == "stitch"])
    assert np.allclose(sewn, build.plan.xy[build.plan.sewn], atol=5e-4)


def test_cut_file_holds_the_outlines_at_true_size(build):
    text = cut_svg(build)
    root = ElementTree.fromstring(text)
    width, _, _ = root.get("width").partition("mm")
    box = [float(number) for number in root.get("viewBox").split()]
    assert float(width) == pytest.approx(box[2])
    paths = {node.get("id"): node.get("d") for node in root.iter() if node.tag.endswith("path")}
    for built in build.pieces:
        rings = [
            [tuple(map(float, pair.split(","))) for pair in ring.strip("MZ").split("L")]
            for ring in paths[f"cut-{built.piece.id}"].split("Z")[:-1]
        ]
        again = Polygon(rings[0], rings[1:])
        assert shapely.hausdorff_distance(again, built.outline) < 0.01
    # labels stay outside their own cut
    for node in root.iter():
        if node.tag.endswith("text"):
            assert not any(shapely.contains_xy(b.work.region, float(node.get("x")), float(node.get("y")))
                           for b in build.pieces[:1])  # fmt: skip


def test_cut_file_comes_back_as_artwork(build):
    drawn = read_svg(cut_svg(build).replace('fill="none"', 'fill="#000"').encode()).drawn
    areas = sorted(one.region.area for one in drawn)
    assert areas == pytest.approx(sorted(built.outline.area for built in build.pieces), rel=1e-3)


def test_report_keeps_its_contract(build):
    told = json.loads(report_json(build))
    assert told["stitches"] == build.figures.stitches and told["stops"] == 4
    assert told["size_mm"] == [build.figures.width, build.figures.height]
    assert sum(block["stitches"] for block in told["blocks"]) == told["stitches"]
    for row in told["values"]:
        assert set(row) >= {"piece", "key", "value", "unit", "source", "reasons"}
        assert row["source"] in ("matched", "own") and row["reasons"]
    assert [proof["piece"] for proof in told["proofs"]["edge_cover"]] == ["p1", "p2"]
    assert all({"code", "severity", "piece", "message", "at"} <= set(row) for row in told["findings"])


def test_binary_plan_reads_back(build):
    data = plan_binary(build)
    (size,) = struct.unpack("<I", data[:4])
    header = json.loads(data[4 : 4 + size])
    rows = header["rows"]
    xy = np.frombuffer(data, "<f4", 2 * rows, 4 + size).reshape(-1, 2)
    command = np.frombuffer(data, "u1", rows, 4 + size + 8 * rows)
    assert len(data) == 4 + size + 9 * rows and size % 4 == 0
    assert np.allclose(xy, build.plan.xy, atol=1e-4) and (command == build.plan.command).all()
    assert header["pieces"][0]["laid"] < header["pieces"][0]["trimmed"]


def test_job_round_trip_and_bad_jobs(build):
    data = write_job(build.job)
    assert read_job(data) == build.job and write_job(read_job(data)) == data
    good = json.loads(data)
    for change, words in (
        ({"velamen_job": 99}, "format 99"),
        ({"brief": {"base": "marble"}}, "no base 'marble'"),
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s9"}]}, "'s9', which is not in the job"),
        ({"shapes": "none"}, "shapes"),
        ({"colour": 3}, "colour"),
        ({"pieces": [{"id": "p1", "name": "x", "shape": "s1"}] * 2}, "two pieces"),
    ):
        with pytest.raises(BadInput) as told:
            read_job(json.dumps(good | change).encode())
        assert words in str(told.value)
    for broken in (b"", b"{", b"[1]", b"\xff\xfe", b"{" * 5000):
        with pytest.raises(BadInput, match="cannot be read"):
            read_job(broken)


@pytest.mark.parametrize("change", [{"start": [1e6, 0]}, {"end": [0, -3000]}])
def test_a_place_far_off_the_field_is_refused(change):
    job = json.loads(write_job(job_of(box(0, 0, 20, 20))))
    with pytest.raises(BadInput, match="more than 2 m off the field"):
        read_job(json.dumps(job | {"pieces": [job["pieces"][0] | change]}).encode())
    with pytest.raises(BadInput, match="A route begins or ends"):
        read_job(json.dumps(job | {"routes": [{"pieces": ["p1"]} | change]}).encode())


def test_a_byte_order_mark_is_passed_over():
    data = write_job(job_of(box(0, 0, 20, 20)))
    assert read_job(b"\xef\xbb\xbf" + data) == read_job(data)


def run(*arguments):
    return subprocess.run([sys.executable, "-m", "velamen.cli", *map(str, arguments)], capture_output=True, text=True)


def test_quick_writes_all_files_and_the_job(tmp_path):
    art = tmp_path / "anchor.svg"
    art.write_text(ART)
    done = run("quick", art, "--construct", "applique", "--base", "terry", "--set", "cover_width=4",
               "--job", tmp_path / "job.json", "--out", tmp_path / "out")  # fmt: skip
    assert (done.returncode, done.stderr) == (0, "")
    told = json.loads((tmp_path / "out/report.json").read_text())
    width = next(row for row in told["values"] if row["key"] == "cover_width")
    assert (width["value"], width["source"]) == (4.0, "own")
    # true size, centred on the origin: 80 x 60 and half the cover with its pull on either side
    assert told["size_mm"] == pytest.approx([80 + 2 * 2.8, 60 + 2 * 2.8], abs=0.15)
    again = run("build", tmp_path / "job.json", "--out", tmp_path / "again")
    assert again.returncode == 0
    for name in ("stitches.csv", "cut.svg", "report.json"):
        assert (tmp_path / "again" / name).read_bytes() == (tmp_path / "out" / name).read_bytes()


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["quick", "missing.svg", "--out", "o"], "cannot be read"),
        (["quick", "art.svg", "--base", "marble", "--out", "o"], "no base 'marble'"),
        (["quick", "art.svg", "--construct", "moss", "--out", "o"], "no construction 'moss'"),
        (
            ["quick", "art.svg", "--set", "cover_width=400", "--out", "o"],
            "Width 400 is out of bounds: use 1 to 10 mm",
        ),
        (["quick", "art.svg", "--set", "cover_width=nan", "--out", "o"], "Width cannot be 'nan': use 1 to 10 mm"),
        (["quick", "art.svg", "--set", "cover_spacing=0", "--out", "o"], "Spacing 0 is out of bounds"),
        (["quick", "art.svg", "--set", "depth=3", "--out", "o"], "no value 'depth'"),
        (["quick", "art.svg", "--set", "depth", "--out", "o"], "KEY=VALUE"),
        (
            ["quick", "art.svg", "--construct", "outline", "--set", "outline_rounds=2.5", "--out", "o"],
            "no whole number",
        ),
        (["quick", "art.svg", "--width", "nan", "--out", "o"], "cannot be nan mm wide"),
        (["quick", "art.svg", "--unit", "furlong", "--out", "o"], "unit 'furlong' is not known"),
        (["quick", "art.svg", "--job", "none/job.json", "--out", "o"], "no folder none"),
        (["quick", "bad.svg", "--out", "o"], "path data is broken"),
        (["build", "bad.svg", "--out", "o"], "job file cannot be read"),
    ],
)
def test_commands_refuse_with_one_sentence(tmp_path, monkeypatch, capsys, arguments, words):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "art.svg").write_text(ART)
    (tmp_path / "bad.svg").write_text(ART.replace("M10 10H90V70H10Z", "M10 10L90 70V10L10"))
    assert cli.main(arguments) == 2
    told = capsys.readouterr().err.strip()
    assert words in told and "\n" not in told
    assert not (tmp_path / "o").exists()
