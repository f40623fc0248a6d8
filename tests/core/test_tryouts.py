"""Try-outs: lists read as people type them, variants built alike, figures counted from their own plans."""

import io

import numpy as np
import pytest
from PIL import Image
from shapely import box

from core.jobs import job_of
from velamen.core.constructions import construction
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.errors import BadInput
from velamen.core.variants.tryouts import close_box, common_box, listed, pictured, tried, variants


def blanket():
    return with_ground(job_of(box(-20, -20, 20, 20), base="fleece"), "knockdown")


def test_lists_are_read_as_people_type_them():
    margin, stitch = (construction("knockdown").setting(f"knockdown_{key}") for key in ("margin", "stitch"))
    assert listed(margin, "2.5, 3; 4 / 6") == [2.5, 3.0, 4.0, 6.0]
    assert listed(margin, "2 to 3 by 0.5") == [2.0, 2.5, 3.0] and listed(margin, "3; 3") == [3.0]
    assert listed(stitch, "Light rows; crosshatch") == ["rows", "crosshatch"]
    for setting, text in ((margin, "2 to 40 by 0.1"), (margin, "wide"), (margin, "99"), (stitch, "lasso"),
                          (margin, "2 to 3 by none"), (margin, "2 to 3 by -1")):  # fmt: skip
        with pytest.raises(BadInput):
            listed(setting, text)


def test_two_values_make_every_combination_and_each_is_built():
    job = blanket()
    ground = job.pieces[0].id
    found = variants(job, ground, [("knockdown_margin", "2.5; 4; 6"), ("knockdown_stitch", "crosshatch; light rows")])
    assert len(found) == 6 and found[1].label == "margin 2.5 mm, stitch light rows"
    results = [tried(one)[1] for one in found]
    assert results[0].figures.stitches < results[4].figures.stitches and results[0].thread < results[4].thread
    assert all(one.figures.stops == 2 and one.held for one in results)
    assert job.pieces[0].own == {}


def test_variants_are_pictured_at_one_scale():
    job = blanket()
    built = [tried(one) for one in variants(job, job.pieces[0].id, [("knockdown_margin", "2; 10")])]
    whole = common_box([one.box for _, one in built])
    sizes = {Image.open(io.BytesIO(pictured(build, whole))).size for build, _ in built}
    assert len(sizes) == 1 and whole[0] == min(one.box[0] for _, one in built)


def test_a_close_look_is_at_the_edge_of_what_is_tried():
    job = blanket()
    ground = job.pieces[0].id
    built = [tried(one) for one in variants(job, ground, [("knockdown_margin", "2; 10")])]
    whole = common_box([one.box for _, one in built])
    left, top, right, bottom = close_box(built[0][0], ground, whole)
    assert right - left == pytest.approx(24.0) and bottom - top == pytest.approx(12.0)
    edge = built[0][0].pieces[0].work.region.bounds[2]
    assert left < edge < right and left < 20 < right  # the cover's edge beside it
    pictures = [Image.open(io.BytesIO(pictured(one, (left, top, right, bottom)))).convert("L") for one, _ in built]
    assert (
        sum(abs(a - b) > 8 for a, b in zip(*(np.asarray(one).ravel().tolist() for one in pictures), strict=True))
        > 1000
    )
    assert close_box(built[0][0], "gone", whole) == whole


@pytest.mark.parametrize(("asked", "why"), [
    ([], "0 variants"), ([("knockdown_margin", "3")], "1 variants"), ([("lasso", "1; 2")], "has no value"),
    ([("knockdown_margin", "1;2;3;4;5;6;7;8;9")], "9 variants"),
    ([("knockdown_margin", "1;2;3"), ("knockdown_length", "3;4;5")], "9 variants"),
])  # fmt: skip
def test_impossible_try_outs_are_refused(asked, why):
    job = blanket()
    with pytest.raises(BadInput, match=why):
        variants(job, job.pieces[0].id, asked)
    with pytest.raises(BadInput, match="no longer"):
        variants(job, "gone", asked)
