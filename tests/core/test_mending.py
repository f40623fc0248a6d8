"""Ways to end a finding: each is built here and the finding is gone, nothing else having come."""

from collections import Counter

import pytest
from shapely import Point, box
from shapely.geometry import Polygon

from core.jobs import job_of, order_of
from core.laces import FAILING, lace
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.constructions import constructions
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import WAYS, mended, mends
from velamen.core.job.document import Piece, change


def reordered(job, key, before):
    """A job whose unit `key` is sewn before another one."""
    keys = order_of(build_job(job))
    keys.remove(key)
    keys.insert(keys.index(before), key)
    return change(job, order=keys)


def sewn_over_the_waste():
    job = job_of(box(-30, -20, 10, 20), Point(12, 0).buffer(8), base="felt")
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill")])
    return reordered(job, "p2:decoration", "p1:trim")


def cover_before_tack():
    return reordered(job_of(box(-40, -10, -20, 10), box(20, -10, 40, 10)), "p1:cover", "p1:tack")


def ground_last():
    job = job_of(box(-40, -10, -20, 10), box(20, -10, 40, 10))
    return change(job, pieces=[*job.pieces, Piece("k", "Ground", "", "knockdown", around=["*"])])


def loose_margin():
    own = {"cover_kind": "raw", "trim_when": "after"}
    return job_of(box(-30, -20, 0, 20), box(2, -10, 30, 10), base="felt", own=own)


def small_hole():
    return job_of(Polygon(box(-30, -20, 30, 20).exterior, [box(-3, -3, 3, 3).exterior]), base="felt")


def two_fills():
    job = job_of(box(-25, -15, 25, 15), base="terry")
    fill = change(job.pieces[0], construct="fill", own={"fill_length": 1.5, "fill_spacing": 0.2})
    return change(job, pieces=[fill, change(fill, id="p2", name="piece 2")])


def too_small():
    job = job_of(box(-20, -20, 20, 20), Point(0, 0).buffer(0.4), base="felt")
    return change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="cross_stitch")])


def wide_column():
    job = job_of(SHAPES["coast"], base="firm_woven")
    return change(job, pieces=[change(job.pieces[0], construct="column")])


def crowded_patch():
    job = job_of(Point(0, 0).buffer(30), box(-24, -18, 24, 18), base="none")
    host, guest = job.pieces
    return change(job, pieces=[change(host, construct="patch"), change(guest, construct="fill", on=host.id)])


def off_the_field():
    return job_of(box(60, -20, 108, 20), base="firm_woven")


def large_figures():
    job = job_of(SHAPES["star"], base="felt", own={"motif_size": 14.0})
    return change(job, pieces=[change(job.pieces[0], construct="motif_fill")])


def sagging():
    return lace((box(-12, -9, 12, 9), "motif_column", {"motif_times": 1.0}), (box(-12, -9, 12, 9), "satin_border"))


def puffs(*regions):
    job = job_of(*regions, base="firm_woven")
    return change(job, pieces=[change(one, construct="puff") for one in job.pieces])


def wide_opening():
    job = job_of(box(-20, -16, 20, 16), base="firm_woven")
    return change(job, pieces=[change(job.pieces[0], construct="cutwork")])


def sewn_before_the_cut():
    job = job_of(box(-20, -6, 20, 6), box(-12, -12, 12, 12), base="firm_woven")
    return change(job, pieces=[change(one, construct=kind) for one, kind in
                               zip(job.pieces, ("fill", "cutwork"), strict=True)])  # fmt: skip


def sealed_chenille():
    job = job_of(Point(0, 0).buffer(30), Point(0, 0).buffer(30), base="felt")
    cloth, rim = (
        change(one, construct=kind) for one, kind in zip(job.pieces, ("chenille", "satin_border"), strict=True)
    )
    return change(job, pieces=[cloth, change(rim, on=cloth.id)])


BROKEN = {
    "edge_sealed": (sealed_chenille, "Leave out piece 2"),
    "opening_sewn": (sewn_before_the_cut, "Cut piece 2 first"),
    "bars_sag": (wide_opening, "Add cross bars"),
    "puff_narrow": (lambda: puffs(box(-20, -1.3, 20, 1.3)), "Make it 18 % larger"),
    "puff_wide": (lambda: puffs(box(-30, -5.5, 30, 5.5)), "Make it 11 % smaller"),
    "column_wide": (wide_column, "Sew piece 1 as a fill"),
    "trim_blocked": (sewn_over_the_waste, "Sew on once piece 1 is trimmed"),
    "order_wrong": (cover_before_tack, "Sew piece 1 where the stack has it"),
    "order_wrong ground": (ground_last, "Sew Ground first"),
    "lay_not_flat": (loose_margin, "Trim piece 1 in the hoop"),
    "notch_narrow": (lambda: job_of(SHAPES["slit_3"], base="felt"), "Use pre-cut cloth"),
    "cutout_small": (small_hole, "Close the cut-outs too small for scissors"),
    "density_stiff": (two_fills, "Open the spacing of piece"),
    "nothing_sewn": (too_small, "Take piece 2 out of the stack"),
    "clearance_small": (crowded_patch, "Make the design"),
    "outside_field": (off_the_field, "Move the design 10.2 mm left"),
    "motif_open": (large_figures, "Figures of "),
    "lace_apart": (lambda: FAILING["floating figure"][0], "Sew a bridge to it"),
    "lace_hinge": (lambda: FAILING["one line between"][0], "Sew a bridge at the weakest place"),
    "lace_bare": (lambda: FAILING["satin alone"][0], "Sew a run under piece 1"),
    "lace_sags": (sagging, "Put a net under all of it"),
}


@pytest.mark.parametrize("name", BROKEN)
def test_every_way_offered_ends_its_finding_and_brings_no_other(name):
    code, (made, label) = name.split()[0], BROKEN[name]
    job = made()
    build = build_job(job)
    (finding, *_) = [one for one in build.findings if one.code == code]
    ways = mends(build, finding)
    assert any(one.label.startswith(label) for one in ways), [one.label for one in ways]
    was = Counter((one.code, one.piece) for one in build.findings)
    for way in ways:
        after = mended(job, code, finding.piece, way.label)
        now = Counter((one.code, one.piece) for one in build_job(after).findings)
        assert now[code, finding.piece] < was[code, finding.piece] and not now - was, way.label


def test_every_kind_of_finding_with_a_way_out_is_tried_here():
    declared = {code for kind in constructions().values() for code in kind.ways}
    assert {name.split()[0] for name in BROKEN} | {"density_high"} == set(WAYS) | declared | {"column_wide"}


def test_a_finding_without_a_safe_way_offers_none_and_one_that_is_gone_says_so():
    holed = Polygon(box(-30, -20, 30, 20).exterior, [box(-3, -3, 3, 3).exterior])
    sound = job_of(box(-30, -20, 30, 20), base="felt")
    with pytest.raises(BadInput, match="gone"):
        mended(sound, "cutout_small", "p1", "Use pre-cut cloth")
    job = job_of(holed, base="felt", own={"cover_width": 1.4})
    build = build_job(job)
    (edge,) = [one for one in build.findings if one.code == "edge_bare"]
    assert mends(build, edge) == []  # it has fixes of its own, sewn and proved
