"""A construction added from a file of these tests (made_up/raised.py) works everywhere, nothing else knowing of it."""

import io
import json

import pytest
from pypdf import PdfReader
from shapely import box

from core.jobs import job_of, order_of, why_lost
from velamen.core.building.build import build_job, section_of
from velamen.core.constructions import constructions
from velamen.core.edits.brief.finished_width import scaled
from velamen.core.edits.shapes.arranging import sized
from velamen.core.edits.stack.shared_stops import savings, shared
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import mended, mends
from velamen.core.job.document import change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.outputs.cut_file import cut_svg
from velamen.core.outputs.picture import preview_png
from velamen.core.outputs.plan_binary import plan_binary
from velamen.core.outputs.reference import rules_page, settings_page
from velamen.core.outputs.report import report
from velamen.core.outputs.run_sheet import run_sheet
from velamen.core.outputs.stitch_list import stitch_list
from velamen.core.outputs.stitch_picture import stitch_picture
from velamen.core.plan.section import FOREVER
from velamen.core.timeline.refusals import violations
from velamen.core.variants.tryouts import tried, variants

LEFT, RIGHT = box(-40, -15, -10, 15), box(10, -15, 40, 15)


def raised(*regions, **own):
    job = job_of(*(regions or (LEFT, RIGHT)), base="terry")
    return change(job, pieces=[change(one, construct="raised", own=own) for one in job.pieces])


def test_it_is_gone_once_nobody_looks_for_it():
    assert "raised" not in constructions()
    assert "no construction 'raised'" in why_lost(raised())


def test_it_is_built_in_order_and_written(made_up):
    job = check_job(read_job(write_job(raised())))
    build = build_job(job)
    assert order_of(build)[:4] == ["p1:lay", "p1:seam", "p1:tear", "p2:lay"] and order_of(build)[-1] == "p2:slit"
    rows = stitch_list(build.plan).splitlines()
    assert {row.split(",")[6] for row in rows if ",stitch," in row} == {"seam", "tie"}
    assert cut_svg(build).count('id="cut-') == 2 and preview_png(build)
    assert build.findings == () or all(one.piece == "" for one in build.findings)
    page = settings_page()
    assert "raised_inset" in page and "3 mm of foam pushes out" in rules_page() and stitch_picture(made_up)


def test_values_follow_what_it_has_laid_itself(made_up):
    (thin,), (thick,) = (build_job(raised(LEFT, raised_foam=key)).pieces for key in ("foam_2", "foam_3"))
    assert thin.values["raised_length"].value == 3.0 and thick.values["raised_length"].value == 2.0
    assert "pushes out" in thick.values["raised_length"].reasons[0]


def test_the_section_and_the_picture_show_what_it_lays_and_tears(made_up):
    build = build_job(raised(LEFT))
    (lay, tear) = build.plan.stops
    found = section_of(build, (-25.0, 0.0), 0.0, 60.0)
    kinds = [(one.laid.layer.kind, one.laid.from_row, one.laid.to_row) for one in found.sheets]
    assert kinds[3:] == [("foam", lay.row + 2, tear.row + 2), ("cloth", lay.row + 2, FOREVER),
                         ("cloth", lay.row + 2, FOREVER), ("foam", tear.row + 2, FOREVER)]  # fmt: skip
    foams = [one for one in found.sheets if one.laid.layer.kind == "foam"]
    assert foams[0].there.sum() > foams[1].there.sum() > 0
    header = plan_binary(build)
    data = json.loads(header[4 : 4 + int.from_bytes(header[:4], "little")])
    assert [len(one["states"]) for one in data["sheets"]] == [2, 1, 1]
    assert [one["symbol"] for one in data["stops"]] == ["hand-index", "hand-index"]


def test_the_report_and_the_run_sheet_tell_its_steps_and_its_proof(made_up):
    build = build_job(raised(LEFT, raised_length=4.0))
    told = report(build)
    assert [(one["kind"], one.get("when")) for one in told["steps"]] == [
        ("lay_topping", "before"), ("lay", None), ("tear_foam", None), ("slit", "after"), ("wash_away", "after")]  # fmt: skip
    (row,) = told["proofs"]["seam"]
    assert row["held"] is False and row["stitch_mm"] == 4.0 and row["fixes"][0]["values"] == {"raised_length": 2.5}
    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(run_sheet(build))).pages)
    words = " ".join(text.split())
    assert "Tear the foam away round piece 1." in words and "with tweezers" in words
    assert (
        words.index("Before the first stitch") < words.index("Stop 1: Lay foam 2 mm") < words.index("out of the hoop")
    )


def test_its_finding_is_mended_by_its_own_way(made_up):
    job = raised(LEFT, raised_length=4.0)
    build = build_job(job)
    (finding,) = [one for one in build.findings if one.code == "seam_open"]
    (way,) = mends(build, finding)
    after = build_job(mended(job, "seam_open", "p1", way.label))
    assert way.label == "Sew the seam closer" and after.pieces[0].proofs["seam"].held


def test_its_stops_are_shared_and_a_stitch_on_its_foam_is_refused_by_name(made_up):
    job = raised()
    assert savings(build_job(job)).stops == 2
    together = build_job(shared(job))
    assert [one.step.pieces for one in together.plan.stops] == [("p1", "p2"), ("p1", "p2")]
    line = job_of(LEFT, box(-30, -5, -20, 5), base="terry")
    pieces = [change(line.pieces[0], construct="raised"), change(line.pieces[1], construct="fill")]
    between = build_job(change(line, pieces=pieces, order=["p1:lay", "p1:seam", "p2:decoration", "p1:tear"]))
    assert [one.why for one in violations(between.placed, between.operations)] == [
        "Decoration of piece 2 would be sewn on the foam of piece 1."]  # fmt: skip


def test_resizing_grows_what_it_says_and_is_refused_where_it_says(made_up):
    job = raised(LEFT, raised_inset=2.0, raised_length=2.5)
    for larger in (sized(job, ["s1"], 60.0, None), scaled(job, 2.0)):
        assert larger.pieces[0].own == {"raised_inset": 4.0, "raised_length": 2.5}
    assert sized(job, ["s1"], 300.0, None).pieces[0].own["raised_inset"] == 8.0  # its bound
    fixed = change(job, shapes=[change(job.shapes[0], name="fixed frame")])
    for edit in (lambda: sized(fixed, ["s1"], 60.0, None), lambda: scaled(fixed, 2.0)):
        with pytest.raises(BadInput, match="raised as large as it is"):
            edit()


def test_it_is_tried_out_and_carried_by_the_command_line(made_up, tmp_path):
    from velamen.cli import main

    found = [tried(one)[1] for one in variants(raised(LEFT), "p1", [("raised_length", "2; 4")])]
    assert [one.held for one in found] == [True, False]
    (tmp_path / "a.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" '
                                    'viewBox="0 0 60 60"><path d="M5 5H55V55H5Z"/></svg>')  # fmt: skip
    assert main(["quick", str(tmp_path / "a.svg"), "--construct", "raised", "--base", "felt",
                 "--set", "raised_length=2", "--out", str(tmp_path / "out")]) == 0  # fmt: skip
    assert ",seam," in (tmp_path / "out" / "stitches.csv").read_text()
