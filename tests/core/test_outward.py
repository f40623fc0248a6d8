"""The order on a cap: from the centre out and bottom up, the stack's wherever pieces touch, and only there."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import Point, box

from core.jobs import job_of, order_of
from velamen.core.building.build import build_job
from velamen.core.fixes.job_fixes import mends
from velamen.core.job.document import Brief, change
from velamen.core.materials.hoops import overshoot
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.outward import outward
from velamen.core.timeline.placed import Placed
from velamen.core.timeline.refusals import violations
from velamen.core.values.advice import course_of


def placed(*regions, on=None):
    """Pieces of one operation each."""
    names = [f"p{nth}" for nth in range(len(regions))]
    return [Placed(name, name, (Operation(name, name, "line", region),), on=(on or {}).get(name, ""))
            for name, region in zip(names, regions, strict=True)]  # fmt: skip


def word(y, count=7):
    """Letters side by side in a line, the first at the left."""
    return [box(x, y, x + 8, y + 10) for x in np.arange(count) * 12.0 - 6 * count]


def order(pieces):
    return [one.id for one in outward(pieces)]


def test_a_word_is_sewn_from_its_middle_letter_to_one_side_and_then_to_the_other():
    assert order(placed(*word(0))) == ["p3", "p4", "p5", "p6", "p2", "p1", "p0"]


def test_the_lower_line_comes_first_whatever_the_stack_says():
    found = order(placed(*word(-20), *word(0)))
    assert found[:7] == ["p10", "p11", "p12", "p13", "p9", "p8", "p7"] and found[7] == "p3"


def test_what_touches_keeps_the_order_of_the_stack():
    ground, low, high = box(-30, -20, 30, 20), box(-5, 10, 5, 18), box(-5, -18, 5, -10)
    assert order(placed(ground, high, low)) == ["p0", "p2", "p1"]
    assert order(placed(high, low, ground)) == ["p1", "p0", "p2"]
    near = box(5.5, 10, 12, 18)
    assert order(placed(near, low)) == ["p0", "p1"]


def test_decoration_goes_with_its_cloth_and_in_the_same_way():
    cloth = box(-40, -30, 40, 30)
    pieces = placed(cloth, *word(-10), box(-3, -50, 3, -40), on={f"p{nth}": "p0" for nth in range(1, 8)})
    assert order(pieces) == ["p0", "p4", "p5", "p6", "p7", "p3", "p2", "p1", "p8"]


@given(st.data())
def test_nothing_is_lost_and_pieces_that_overlap_never_change_places(data):
    spot = st.tuples(st.integers(-40, 40), st.integers(-30, 30), st.integers(2, 25))
    spots = data.draw(st.lists(spot, min_size=1, max_size=12))
    hosts = {f"p{one}": f"p{data.draw(st.integers(0, len(spots) - 1))}"
             for one in data.draw(st.sets(st.integers(0, len(spots) - 1), max_size=4))}  # fmt: skip
    regions = [Point(x, y).buffer(size) for x, y, size in spots]
    plain = order(placed(*regions))
    assert sorted(plain) == sorted(f"p{nth}" for nth in range(len(spots)))
    for low in range(len(spots)):
        for high in range(low + 1, len(spots)):
            if regions[low].intersects(regions[high]):
                assert plain.index(f"p{low}") < plain.index(f"p{high}")
    assert sorted(order(placed(*regions, on=hosts))) == sorted(plain)


def cap(hoop="cap130x60", course="matched", lower=8.0):
    """A word of fills on a patch that is sewn onto a cap."""
    job = job_of(box(-40, lower - 30, 40, lower), *word(lower - 22, 5), base="cap", hoop=hoop)
    host, *letters = job.pieces
    pieces = [change(host, construct="patch", own={"patch_way": "direct"}),
              *(change(one, construct="fill", on=host.id) for one in letters)]  # fmt: skip
    return change(job, pieces=pieces, brief=change(job.brief, course=course))


@pytest.mark.parametrize(
    ("hoop", "course", "letters"),
    [("cap130x60", "matched", "45632"), ("cap130x60", "stack", "23456"), ("h130x180", "matched", "23456"),
     ("h130x180", "outward", "45632")],
)  # fmt: skip
def test_the_hoop_asks_for_it_and_the_brief_decides(hoop, course, letters):
    build = build_job(cap(hoop, course))
    assert order_of(build) == ["p1:ground", *(f"p{one}:decoration" for one in letters), "p1:border"]
    assert not violations(build.placed, build.operations)
    told = course_of(build.job.brief, build.library)
    assert told.value == ("outward" if letters == "45632" else "stack") and told.reasons


def test_an_order_of_ones_own_stands_over_it():
    wanted = ["p1:ground", *(f"p{one}:decoration" for one in "65432"), "p1:border"]
    assert order_of(build_job(change(cap(), order=wanted))) == wanted


@pytest.mark.parametrize("stitch", ["satin", "overedge"])
def test_the_border_of_a_patch_begins_and_ends_at_the_bottom_centre_of_a_cap(stitch):
    for hoop, bottom in (("cap130x60", True), ("h130x180", False)):
        job = cap(hoop)
        tall = job_of(box(-16, -30, 16, 8), base="cap", hoop=hoop)
        host = change(job.pieces[0], own={"patch_way": "direct", "patch_edge": stitch})
        built = build_job(change(tall, pieces=[host])).piece("p1")
        (border,) = [one for one in built.sewn if one.role == "border"]
        first, last = border.strands[0].xy[0], border.strands[-1].xy[-1]
        for end in (first, last):
            assert bool(abs(end[0]) < 7.0 and abs(end[1] - 8.0) < 4.0) is bottom, (hoop, end)
        assert built.values["patch_start"].value == ("bottom" if bottom else "calm")


def test_where_a_patch_leaves_the_curved_field_is_told_and_mended():
    build = build_job(cap(lower=24.0))
    (told,) = [one for one in build.findings if one.code == "outside_field"]
    assert told.message.startswith("piece 1 reaches") and "Cap 130" in told.message
    assert len(told.at) > 4 and all(overshoot(build.library.hoops["cap130x60"], np.array([one]))[0] > 0.05
                                    for one in told.at)  # fmt: skip
    (way,) = [one for one in mends(build, told) if one.label.startswith("Move")]
    assert way.label.endswith("mm up")
    after = build_job(way.job)
    assert not [one for one in after.findings if one.code == "outside_field"]
    assert after.figures.stitches == pytest.approx(build.figures.stitches, rel=0.01)


def test_a_design_too_large_for_the_field_is_made_smaller():
    build = build_job(change(cap(), brief=change(cap().brief, hoop="h100x100", hooping="hooped")))
    wide = change(build.job, shapes=[change(one, rings=[[(1.4 * x, y) for x, y in ring] for ring in one.rings])
                                     for one in build.job.shapes])  # fmt: skip
    build = build_job(wide)
    (told,) = [one for one in build.findings if one.code == "outside_field"]
    (way,) = [one for one in mends(build, told) if "smaller" in one.label]
    assert "outside_field" not in {one.code for one in build_job(way.job).findings}


def test_a_brief_of_earlier_days_takes_what_the_hoop_asks_for():
    assert Brief().course == "matched"
