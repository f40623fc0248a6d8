"""What is handed over: cut files, G-code, pictures and the run sheet agree with the plan."""

import io
import re

import ezdxf
import numpy as np
import pytest
import shapely
from PIL import Image
from pypdf import PdfReader
from shapely import Point, Polygon, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.job.document import Piece, change
from velamen.core.outputs.cut_file import cut_dxf, cut_svg
from velamen.core.outputs.cut_sheet import LABEL, LETTER, cuts_of
from velamen.core.outputs.folder import WRITERS, write_folder
from velamen.core.outputs.gcode import gcode
from velamen.core.outputs.picture import Easel, picture, preview_png, shown_box
from velamen.core.outputs.report import report
from velamen.core.outputs.run_sheet import run_sheet
from velamen.core.plan.stitch_plan import COLOR, JUMP, STITCH, STOP, TRIM


@pytest.fixture(scope="module")
def build():
    regions = SHAPES["two_holes"], shapely.affinity.translate(SHAPES["leaf"], 70, 0), Point(70, 0).buffer(5)
    job = job_of(*regions, base="fleece", name="Crew (blanket) ä", hoop="h360x200")
    makeup = (("sail_red", "140"), ("deck_cream", "104"), ("night_ink", "116"))
    pieces = [change(one, cloth=cloth, thread=thread, name=f"Part {nth}")
              for nth, (one, (cloth, thread)) in enumerate(zip(job.pieces, makeup, strict=True), 1)]  # fmt: skip
    ground = Piece("k", "Ground", "", "knockdown", "sail_red", "118", around=["*"])
    return build_job(change(job, pieces=[ground, pieces[0], change(pieces[1], own={"fusible": True}), pieces[2]]))


def test_gcode_says_what_the_stitch_list_says(build):
    lines = gcode(build).splitlines()
    assert lines[0] == lines[-1] == "%" and "G21 G90" in lines and lines[-2] == "M2"
    moves = [line for line in lines if line.startswith(("G0 ", "G1 "))]
    plan = build.plan
    rows = np.flatnonzero(np.isin(plan.command, (STITCH, JUMP)))
    assert len(moves) == len(rows)
    told = np.array([[float(one) for one in re.findall(r"[XY](-?[\d.]+)", line)] for line in moves])
    assert np.abs(told - plan.xy[rows]).max() < 0.0006
    assert [line[:2] == "G1" for line in moves] == (plan.command[rows] == STITCH).tolist()
    assert sum(line.startswith("M0 ") for line in lines) == (plan.command == STOP).sum() == build.figures.stops
    assert sum(line.startswith("M6 ") for line in lines) == (plan.command == COLOR).sum() + 1
    assert lines.count("(trim)") == (plan.command == TRIM).sum()
    assert all(line.isascii() and line.count("(") <= 1 for line in lines)


def test_the_cut_dxf_has_a_layer_a_cloth_at_true_size(build):
    document = ezdxf.read(io.StringIO(cut_dxf(build)))
    assert document.units == 4  # mm
    found = {}
    for line in document.modelspace().query("LWPOLYLINE"):
        assert line.closed
        points = np.array([point[:2] for point in line.get_points()]) * [1, -1]
        found.setdefault(line.dxf.layer, []).append(Polygon(points))
    assert (
        set(found) == {"CUT_SAIL_RED", "CUT_DECK_CREAM", "CUT_NIGHT_INK"} and len(found["CUT_SAIL_RED"]) == 2
    )  # its hole is one ring
    outer = max(found["CUT_SAIL_RED"], key=lambda one: one.area)
    assert shapely.hausdorff_distance(outer, Polygon(build.piece("p1").outline.exterior)) < 0.01
    assert {text.dxf.text for text in document.modelspace().query("TEXT")} == {
        "Part 1",
        "Part 2 (mirrored)",
        "Part 3",
    }


def test_a_piece_with_web_is_mirrored_and_labels_lie_off_every_cut(build):
    lopsided = Polygon([(0, 0), (40, 0), (40, 8), (10, 8), (0, 30)])
    job = job_of(lopsided, base="felt")
    plain, webbed = (cuts_of(build_job(change(job, pieces=[change(job.pieces[0], own=own)])))[0]
                     for own in ({}, {"fusible": True}))  # fmt: skip
    assert not plain.mirrored and webbed.mirrored and webbed.label.endswith("(mirrored)")
    assert (
        shapely.hausdorff_distance(Polygon(webbed.rings[0]), shapely.affinity.scale(Polygon(plain.rings[0]), -1))
        < 0.01
    )
    assert 'data-side="back"' in cut_svg(build)
    cuts = cuts_of(build)
    edges = shapely.union_all([shapely.LinearRing(ring) for cut in cuts for ring in cut.rings])
    boxes = [
        box(cut.at[0], cut.at[1] - LABEL, cut.at[0] + len(cut.label) * LABEL * LETTER, cut.at[1]) for cut in cuts
    ]
    assert not shapely.intersects(edges, boxes).any()
    assert not any(one.intersects(other) for nth, one in enumerate(boxes) for other in boxes[:nth])


def test_the_picture_shows_cloth_where_it_lies_and_its_holes_open(build):
    image = Image.open(io.BytesIO(preview_png(build)))
    left, top, right, bottom = shown_box(build)
    assert max(image.size) == 1400 and abs(image.width / image.height - (right - left) / (bottom - top)) < 0.01
    scale = image.width / (right - left)

    def at(x, y):
        across, down = int((x - left) * scale), int((y - top) * scale)
        return np.asarray(image.convert("RGB"))[down - 4 : down + 5, across - 4 : across + 5].mean(
            axis=(0, 1)
        )  # of a weave

    red = np.array([int(build.library.cloths["sail_red"].colour[nth : nth + 2], 16) for nth in (1, 3, 5)])
    cloth = build.piece("p1").outline.buffer(-3.5)
    inner = [(x, y) for x in np.arange(left, right, 1.5) for y in np.arange(top, bottom, 1.5)]
    inner = [one for one in inner if shapely.contains_xy(cloth, *one)]
    assert len(inner) > 40 and np.abs(np.mean([at(*one) for one in inner], axis=0) - red).max() < 12
    assert np.abs(at(-12.7, 0.9).astype(int) - red).max() > 40  # its hole


def test_a_hole_is_open_wherever_its_outline_begins():
    hole = [(-12, -8), (12, -8), (12, 8), (-12, 8)]
    shown = []
    for begin in range(4):
        ring = Polygon(box(-25, -20, 25, 20).exterior, [hole[begin:] + hole[:begin]])
        sewn = build_job(job_of(ring, own={"precut": True}))
        shown.append(np.asarray(picture(sewn, next(stop.row for stop in sewn.plan.stops) + 2, 400)).astype(int))
    assert all((np.abs(one - shown[0]).max(axis=2) > 40).sum() < 15 for one in shown[1:])


def test_at_a_stop_cloth_lies_as_it_does_before_the_hands(build):
    lay, trim = (stop.row for stop in build.plan.stops[:2])
    before, laid, after = (np.asarray(picture(build, row, 400)).astype(int) for row in (lay, lay + 2, trim + 2))
    red = np.array([int(build.library.cloths["sail_red"].colour[nth : nth + 2], 16) for nth in (1, 3, 5)])
    counts = [int((np.abs(one - red).max(axis=2) < 14).sum()) for one in (before, laid, after)]
    assert counts[0] < 300 and counts[1] > 1.3 * counts[2] > 0


def test_pictures_drawn_on_are_those_drawn_afresh(build):
    for own in ({}, {"cover_kind": "raw", "trim_when": "after"}):
        pieces = [change(one, own={**one.own, **own}) if one.shape else one for one in build.job.pieces]
        job = build_job(change(build.job, pieces=pieces))
        easel, whole = Easel(job, 300), len(job.plan.xy)
        rows = [*(stop.row + extra for stop in job.plan.stops for extra in (1, 2, 40)), whole]
        for row in [*sorted(min(one, whole) for one in rows), rows[0]]:
            assert easel.at(row).tobytes() == picture(job, row, 300).tobytes(), row


def test_the_run_sheet_has_every_stop(build):
    data = run_sheet(build)
    assert data.startswith(b"%PDF") and data.rstrip().endswith(b"%%EOF")
    assert data.count(b"/Subtype /Image") == build.figures.stops + 1
    assert run_sheet(build) == data  # the same job, the same file


def test_a_folder_has_every_file(tmp_path, build):
    write_folder(build.job, tmp_path)
    assert {one.name for one in tmp_path.iterdir()} == set(WRITERS)
    assert all(one.stat().st_size > 100 for one in tmp_path.iterdir())


def words_of(build):
    """The words of a run sheet, in order."""
    pages = PdfReader(io.BytesIO(run_sheet(build))).pages
    return " ".join(" ".join(page.extract_text() for page in pages).split())


def test_a_thread_that_comes_back_is_taken_up_again():
    job = job_of(box(-40, -10, -20, 10), box(-10, -10, 10, 10), box(20, -10, 40, 10), base="felt")
    threads = ("104", "140", "104")
    job = change(job, pieces=[change(one, thread=key, construct="satin_border")
                              for one, key in zip(job.pieces, threads, strict=True)])  # fmt: skip
    build = build_job(job)
    told = report(build)
    assert [(one["thread"], one["again"]) for one in told["loads"]] == [("104", False), ("140", False), ("104", True)]
    assert [one["first_row"] for one in told["loads"]] == [block["first_row"] for block in told["blocks"]]
    assert [one["key"] for one in told["threads"]] == ["104", "140"]
    words = words_of(build)
    first, second = words.index("Thread 104"), words.index("Thread 140")
    assert first < second < words.index("once more") and words.count("Thread 104") == 2


def test_the_run_sheet_goes_from_the_topping_laid_to_the_basting_pulled_out():
    job = job_of(box(-20, -15, 20, 15), base="terry", own={"cover_kind": "raw", "trim_when": "after"})
    build = build_job(change(job, brief=change(job.brief, hold="basting")))
    told = [(one["kind"], one.get("when")) for one in report(build)["steps"]]
    assert told == [("lay_topping", "before"), ("lay", None), ("trim", "after"), ("pull_basting", "after"),
                    ("wash_away", "after")]  # fmt: skip
    rows = [one["row"] for one in report(build)["steps"]]
    assert rows[0] == 1 and rows[-1] == len(build.plan.xy) and rows == sorted(rows)
    assert build.figures.stops == 2 and len(build.plan.stops) == 2  # what is done off the machine is no stop
    words = words_of(build)
    places = [words.index(one) for one in (
        "Before the first stitch", "Lay wash-away topping", "Stop 1: Lay", "Stop 2: Trim", "out of the hoop",
        "Snip the basting", "wash the rest out",
    )]  # fmt: skip
    assert places == sorted(places)
