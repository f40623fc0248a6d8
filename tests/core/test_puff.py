"""Puff: the foam-tear proof both ways, caps at open ends, foam laid for all and torn away, letters in one thread."""

import os
import string

import numpy as np
import pytest
import shapely
from shapely import Point, box
from shapely.affinity import translate

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.building.works import check_pieces
from velamen.core.constructions.puff.satin import CUTTING, RUNS, spots
from velamen.core.constructions.puff.typefaces import judged, judgement
from velamen.core.edits.shapes.arranging import moved as shapes_moved
from velamen.core.edits.shapes.drawing import draw_line, draw_text
from velamen.core.edits.stack.local_values import with_local as edit_local
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import mends
from velamen.core.job.document import Local, Route, change
from velamen.core.job.reading import read_job, write_job
from velamen.core.job.shape import Text
from velamen.core.outputs.report import report
from velamen.core.proofs.foam_tear import foam_edge, prove_foam_tear
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import Strand, strand

LONG = bool(os.environ.get("VELAMEN_LONG"))
EVERY = string.ascii_letters + string.digits  # every second of them unless there is time
FLAT = {"puff_ends": "flat", "puff_perforate": False}  # foam cut by rails alone
BAR = box(-15, -2.5, 15, 2.5)
RING = Point(0, 0).buffer(12).difference(Point(0, 0).buffer(7))


def puffed(*regions, **own):
    job = job_of(*regions, base="cap", hoop="h200x300", own=own)
    return change(job, pieces=[change(one, construct="puff") for one in job.pieces])


def strands_of(piece):
    return [each for passes in piece.passes.values() for one in passes for each in one.strands]


def sewn(region, **own):
    (piece,) = build_job(puffed(region, **own)).pieces
    return strands_of(piece)


def zigzag(pitch, length=30.0, high=5.0):
    """A bar in satin, `pitch` mm between the needle points of a rail."""
    x = np.arange(0.0, length, pitch / 2)
    return strand(np.stack([x, np.where(np.arange(len(x)) % 2, high, 0.0)], axis=1), "column")


def lengths(stretches):
    return [one.length for one in stretches]


def test_ends_stay_uncut_without_caps_and_caps_cut_them():
    bare = prove_foam_tear(sewn(BAR, **FLAT), CUTTING)
    assert not bare.held and lengths(bare.uncut) == pytest.approx([5.0, 5.0], abs=1.2)
    assert sorted(abs(one.at[0]) for one in bare.uncut) == pytest.approx([15, 15], abs=0.5)
    capped = prove_foam_tear(sewn(BAR), CUTTING)
    assert capped.held and capped.edge > 70


def test_caps_reach_past_the_end_are_sewn_before_what_covers_them_and_begin_under_it():
    (one,) = sewn(BAR)
    caps = np.flatnonzero(one.role == CODE["cap"])
    assert 0.4 < np.abs(one.xy[caps, 0]).max() - 15 < 0.65
    assert caps.max() < np.flatnonzero(one.role == CODE["column"]).min()
    assert (np.abs(one.xy[[0, -1]]) < [15, 2.7]).all()


@pytest.mark.parametrize("form", ["full", "tapered", "corners"])
def test_every_form_of_cap_cuts_the_end_each_in_its_own_way(form):
    (one,) = sewn(BAR, puff_cap=form, puff_ends="capped")
    assert prove_foam_tear([one], CUTTING, RUNS).held
    caps = one.xy[(one.role == CODE["cap"]) & (one.xy[:, 0] > 0)]
    outer, inner = caps[caps[:, 0] > 15.2], caps[caps[:, 0] < 14]
    wide = np.ptp(outer[:, 1])
    assert 3.6 < wide < 5.2
    if form == "full":
        assert np.ptp(inner[:, 1]) == pytest.approx(wide, abs=0.5)
    if form == "tapered":
        assert np.ptp(inner[:, 1]) == pytest.approx(0.6 * wide, abs=0.4)
    perforated = one.xy[(one.role == CODE["perforation"]) & (one.xy[:, 0] > 0)]
    if form == "corners":
        assert np.diff(np.sort(outer[:, 1])).max() > 1.4  # two caps, and between them a perforation
        assert len(perforated) >= 3 and np.abs(perforated[:, 0] - 14.85).max() < 0.25
    else:
        assert not len(perforated) and np.diff(np.sort(outer[:, 1])).max() < 0.6


def test_foam_edge_that_has_no_cap_is_perforated_where_that_is_wanted():
    (one,) = sewn(BAR, puff_ends="flat", puff_perforate=True)
    assert prove_foam_tear([one], CUTTING, RUNS).held
    assert not (one.role == CODE["cap"]).any() and (one.role == CODE["perforation"]).sum() > 8


HAND = {"H": 4, "E": 5, "T": 3, "O": 0, "A": 3, "S": 2, "C": 2, "I": 2, "X": 4, "L": 3}
CUT_BY_ROWS = {"A": 1, "S": 1}  # the flat apex and one terminal: rows end all along them


@pytest.mark.parametrize("letter", HAND)
def test_ends_that_get_caps_are_those_that_were_marked_by_hand(letter):
    (region,) = [each for one in lettering(letter, "rubik", 25) for each in one.regions]
    (piece,) = build_job(puffed(region, puff_foam="foam_2")).pieces
    assert len(spots(piece.work, piece.values)) == HAND[letter] - CUT_BY_ROWS.get(letter, 0)


def test_what_no_machine_sews_in_one_stitch_is_divided_along_a_perforated_middle():
    (one,) = sewn(box(-25, -6.8, 25, 6.8), puff_perforate=False)
    column = one.xy[one.role == CODE["column"]]
    gap = np.linalg.norm(np.diff(column, axis=0), axis=1)
    assert gap.max() < 7.6
    middle = np.sort(column[(np.abs(column[:, 1]) < 1.0) & (np.abs(column[:, 0]) < 22), 0])
    assert len(middle) > 150 and np.diff(middle).max() <= 1.0
    assert np.abs(column[np.abs(column[:, 1]) < 1.0, 1]).max() < 0.3  # one line, not a scatter


def railed(construct="puff", **own):
    """A crescent with a rail along either side, drawn the other way round."""
    turn = np.linspace(0.15, np.pi - 0.15, 40)
    outer = np.stack([20 * np.cos(turn), -20 * np.sin(turn)], axis=1)
    inner = np.stack([14 * np.cos(turn), -14 * np.sin(turn)], axis=1)[::-1]
    job = puffed(shapely.Polygon(np.concatenate([outer, inner])), **own)
    for line in (outer * [1, 0.5], outer, inner):  # the oldest of three gives way
        job = draw_line(job, line, "rail", "s1")
    return change(job, pieces=[change(one, construct=construct) for one in job.pieces]), outer, inner


@pytest.mark.parametrize("construct", ["puff", "column"])
def test_rows_lie_between_two_drawn_rails(construct):
    job, outer, inner = railed(construct)
    assert [line.kind for line in job.shapes[0].lines] == ["rail", "rail"]
    (piece,) = build_job(job).pieces
    (one,) = strands_of(piece)
    rows = one.xy[one.role == CODE["column"]]
    to_outer, to_inner = (shapely.distance(shapely.LineString(line), shapely.points(rows)) for line in (outer, inner))
    off = np.minimum(to_outer, to_inner)
    assert np.median(off) < 0.3 and off.max() < 1.3  # on one rail or the other, but for pull and short stitches
    across = rows[1:] - rows[:-1]
    radial = rows[:-1] / np.linalg.norm(rows[:-1], axis=1, keepdims=True)
    lean = np.abs((across * radial).sum(axis=1)) / np.linalg.norm(across, axis=1)
    assert np.quantile(lean, 0.05) > 0.98
    if construct == "puff":
        assert piece.proofs["foam_tear"].held, piece.proofs["foam_tear"].fails
        assert (one.role == CODE["cap"]).any()


def with_local(job, at, **own):
    return change(job, pieces=[change(one, local=[Local(at, own)]) for one in job.pieces])


def test_a_cap_is_switched_off_moved_and_sized_at_its_place_alone():
    job = puffed(BAR)
    found = build_job(with_local(job, (15.0, 0.2), cap_on=False)).pieces[0].proofs["foam_tear"]
    assert not found.held and [one.x > 14 for one in found.spots] == [True]

    def right(**own):
        (one,) = strands_of(build_job(with_local(job, (15.0, 0.0), **own)).pieces[0])
        caps = one.xy[one.role == CODE["cap"]]
        assert np.ptp(caps[caps[:, 0] < -15.2, 1]) == pytest.approx(4.5, abs=0.4)  # the other end is as it was
        return caps[caps[:, 0] > 14.95]

    assert np.ptp(right(cap_width=2.0)[:, 1]) == pytest.approx(2.0, abs=0.3)
    assert right(cap_beyond=1.0)[:, 0].max() == pytest.approx(16, abs=0.2)
    shift = right(cap_width=2.0, cap_shift=1.0)[:, 1].mean() - right(cap_width=2.0)[:, 1].mean()
    assert abs(shift) == pytest.approx(1.0, abs=0.2)


def test_what_is_set_at_a_place_moves_with_its_shape_and_is_taken_back():
    job = edit_local(puffed(BAR), "p1", (15.0, 0.0), {"cap_width": "3"})
    assert job.pieces[0].local == [Local((15.0, 0.0), {"cap_width": 3.0})]
    assert read_job(write_job(job)) == job
    moved = shapes_moved(job, ["s1"], np.eye(2), np.array([4.0, 2.0]))
    assert moved.pieces[0].local[0].at == (19.0, 2.0)
    job = edit_local(job, "p1", (14.9, 0.3), {"cap_shift": "-1"})
    assert job.pieces[0].local == [Local((15.0, 0.0), {"cap_width": 3.0, "cap_shift": -1.0})]
    assert edit_local(job, "p1", (15.0, 0.0), {}).pieces[0].local == []
    with pytest.raises(BadInput, match="Width 80 is out of bounds: use 0 to 20 mm"):
        edit_local(job, "p1", (15.0, 0.0), {"cap_width": "80"})
    with pytest.raises(BadInput, match="no value 'cover_width' at a place"):
        edit_local(job, "p1", (15.0, 0.0), {"cover_width": "3"})
    for own in ({"cap_width": 80.0}, {"cover_width": 3.0}):
        with pytest.raises(BadInput):
            check_pieces(with_local(job, (0.0, 0.0), **own))


@pytest.mark.parametrize("ends", ["flat", "capped"])
def test_what_has_no_open_end_needs_no_cap(ends):
    strands = sewn(RING, puff_ends=ends)
    assert prove_foam_tear(strands, CUTTING).held
    assert not any((one.role == CODE["cap"]).any() for one in strands)


@pytest.mark.parametrize(("pitch", "along"), [(1.0, 0), (1.4, 38)])
def test_needle_points_too_far_apart_on_a_rail_leave_foam_uncut(pitch, along):
    stretches = prove_foam_tear([zigzag(pitch)], CUTTING).uncut
    assert sum(1 for one in stretches if one.length == pytest.approx(pitch, abs=0.05)) >= along
    assert sum(1 for one in stretches if one.length < 4) <= along + 4 and len(stretches) >= 2


@pytest.mark.parametrize("seed", range(4))
def test_needle_points_taken_out_are_found(seed):
    (one,) = sewn(BAR)
    column = np.flatnonzero(one.role == CODE["column"])
    at = column[np.random.default_rng(seed).integers(30, len(column) - 50)]
    left = np.delete(np.arange(len(one.xy)), np.arange(at, at + 15))
    proof = prove_foam_tear([Strand(one.xy[left], one.role[left])], CUTTING)
    assert not proof.held
    assert min(Point(*each.at).distance(Point(one.xy[at + 7])) for each in (*proof.uncut, *proof.over)) < 4


def test_a_cap_taken_away_is_found():
    (one,) = sewn(BAR)
    left = ~((one.role == CODE["cap"]) & (one.xy[:, 0] > 0))
    proof = prove_foam_tear([Strand(one.xy[left], one.role[left])], CUTTING)
    assert lengths(proof.uncut) == pytest.approx([5.0], abs=1.2) and proof.uncut[0].at[0] > 14


def test_thread_between_two_bars_lies_over_foam_and_a_trimmed_one_does_not():
    (one,), (two,) = sewn(BAR), sewn(translate(BAR, 0, 20))
    assert prove_foam_tear([one, two], CUTTING).held
    way = Strand(two.xy[:1], np.array([CODE["travel"]], dtype=np.uint8))
    together = Strand(
        *(np.concatenate(part) for part in zip(*((s.xy, s.role) for s in (one, way, two)), strict=True))
    )
    proof = prove_foam_tear([together], CUTTING)
    line = shapely.LineString([one.xy[-1], two.xy[0]])
    bare = line.difference(shapely.union(BAR, translate(BAR, 0, 20)).buffer(0.2)).length
    assert bare > 14 and not proof.uncut and sum(lengths(proof.over)) == pytest.approx(bare, abs=0.6)


def test_a_failing_proof_offers_caps_and_they_end_it():
    job = puffed(BAR, **FLAT)
    build = build_job(job)
    (finding,) = [one for one in build.findings if one.code == "foam_uncut"]
    assert len(finding.at) == 2 and "2 stretches of foam edge are not cut" in finding.message
    (fix,) = build.pieces[0].proofs["foam_tear"].fixes
    assert fix.label == "caps at open ends" and fix.share == 1.0
    after = change(job, pieces=[change(job.pieces[0], own=dict(fix.values))])
    assert build_job(after).pieces[0].proofs["foam_tear"].held


@pytest.mark.parametrize(
    ("face", "letters"),
    [
        ("rubik", EVERY if LONG else EVERY[::2]),
        ("fredoka", "ABEGKMQRSXaegkmsy2358"),
        ("oswald", "AEGJKMRSWXZaegkrsw49"),
    ],
)
def test_letters_and_digits_tear_clean_each_connected_part_in_one_thread(face, letters):
    """At 25 mm, where nearly all strokes of these are 3 to 10 wide."""
    short = {}
    for text in letters:
        regions = [region for letter in lettering(text, face, 25) for region in letter.regions]
        for piece in build_job(puffed(*regions, puff_foam="foam_2")).pieces:
            proof, strands = piece.proofs["foam_tear"], strands_of(piece)
            long = max(float(np.linalg.norm(np.diff(one.xy, axis=0), axis=1).max()) for one in strands)
            if not proof.held or len(strands) > 1 or long > 12.1:
                short[piece.piece.name, text] = (proof.fails, len(strands), long)
    assert short == {}


MORE = {
    "bar": BAR,
    "cross": shapely.union(box(-20, -3, 20, 3), box(-3, -20, 3, 20)),
    "fork": shapely.union_all(
        [shapely.LineString([(0, 20), (0, 0), end]).buffer(3) for end in ((-14, -16), (14, -16))]
    ),
    "hook": shapely.LineString([(-15, -15), (-15, 15), (15, 15), (15, 0)]).buffer(3.5, cap_style="flat"),
}
NOT_STROKES = {"sliver"}  # a needle of 0.4: what fails is told
STROKES = {name: region for name, region in {**SHAPES, **MORE}.items() if name not in ("coast", "two_holes")}


@pytest.mark.parametrize("name", STROKES)
def test_shapes_tear_clean_with_caps_and_what_is_told_has_a_place_on_them(name):
    region = STROKES[name]
    (piece,) = build_job(puffed(region)).pieces
    proof = piece.proofs["foam_tear"]
    assert proof.held == (not proof.spots) and (proof.held or name in NOT_STROKES), proof.fails
    near = shapely.buffer(region, 1.5)
    assert all(near.contains(Point(one.x, one.y)) and one.length >= 0.05 for one in proof.spots)
    strands = strands_of(piece)
    assert len(strands) == 1 and np.linalg.norm(np.diff(strands[0].xy, axis=0), axis=1).max() <= 12.2


@pytest.mark.parametrize("name", [*MORE, "thin_ring", "leaf", "needles", "comb", "slit_01", "neck"])
def test_shapes_with_ends_fail_without_caps_and_those_without_do_not(name):
    (piece,) = build_job(puffed(STROKES[name], **FLAT)).pieces
    uncut = foam_edge(strands_of(piece), CUTTING, RUNS).uncut
    assert bool(uncut) == (name not in ("thin_ring", "leaf", "needles"))


def test_rows_divided_in_stitches_cover_what_lies_between_them():
    covered = foam_edge(sewn(SHAPES["square"], **FLAT), CUTTING).covered
    assert covered.geom_type == "Polygon" or len(covered.geoms) == 1
    assert covered.symmetric_difference(SHAPES["square"]).area < 0.02 * SHAPES["square"].area


def rows_between(left, right, low, high):
    """A zigzag whose rows end raggedly on either side."""
    y = np.arange(low, high, 0.1)
    ragged = np.where(np.arange(len(y)) % 4 < 2, 0.0, 0.15)
    x = np.where(np.arange(len(y)) % 2 == 0, left + ragged, right - ragged)
    return Strand(np.stack([x, y], axis=1), np.full(len(y), CODE["column"], dtype=np.uint8))


def test_a_window_left_bare_has_an_edge_of_its_own():
    sides = [(-8, 8, -8, -2.9), (-8, -2, -3, 3), (2, 8, -3, 3), (-8, 8, 2.9, 8)]
    covered = foam_edge([rows_between(*side) for side in sides], ["column"]).covered
    rings = shapely.get_rings(covered)
    assert len(rings) == 2
    assert shapely.polygons(rings[1]).area == pytest.approx(6 * 4, rel=0.08)


def test_what_leads_into_a_zigzag_is_no_row_of_it():
    whole = zigzag(0.4)
    led = Strand(np.concatenate([[[-6.0, 2.5]], whole.xy]), np.concatenate([whole.role[:1] * 0, whole.role]))
    assert foam_edge([led], ["column"]).covered.equals(foam_edge([whole], ["column"]).covered)
    (over,) = prove_foam_tear([led], ["column"]).over
    assert over.length == pytest.approx(6.0, abs=0.8) and over.at[0] < 0.0
    beside = Strand(np.concatenate([[[5.0, 2.5]], whole.xy]), led.role)
    assert not prove_foam_tear([beside], ["column"]).over


def test_satin_on_foam_is_close_undivided_and_has_no_zigzag_under_it():
    values = {2: "foam_2", 3: "foam_3"}
    spacing = {}
    for thick, foam in values.items():
        (piece,) = build_job(puffed(box(-15, -4.5, 15, 4.5), puff_foam=foam)).pieces
        (one,) = strands_of(piece)
        column = one.xy[one.role == CODE["column"]]
        rail = np.sort(column[column[:, 1] > 3, 0])
        spacing[thick] = np.median(np.diff(rail))
        assert np.median(np.linalg.norm(np.diff(column, axis=0), axis=1)) > 8.9  # each row in one stitch
        assert "zigzag" not in str(piece.values["puff_underlay"].value)
    assert spacing == {2: pytest.approx(0.2, abs=0.01), 3: pytest.approx(0.16, abs=0.01)}


def test_foam_is_laid_over_all_letters_and_torn_away_at_one_stop_each():
    job = puffed(BAR, translate(RING, 0, 16))
    build = build_job(job)
    assert [key.split(":")[1] for key in order_of(build)] == ["lay"] * 2 + ["column"] * 2 + ["tear"] * 2
    lay, tear = (stop.step for stop in build.plan.stops)
    ((sheet,),) = (effect.layers for effect in lay.effects)
    assert sheet.thickness == 3.0 and sheet.region.covers(shapely.box(-22.9, -10.4, 22.9, 35.9))
    assert not sheet.region.equals(build.pieces[0].work.region)
    assert [one.piece for one in tear.operations] == ["p1", "p2"]
    torn = [one for one in build.laid if one.layer.kind == "foam"][-1]
    for place in ((14, 1.0), (0, 25.5)):  # it stays under the satin of both, not in the counter
        assert torn.layer.region.contains(Point(place))
    assert not torn.layer.region.intersects(box(-3, 12, 3, 20))
    assert not [one for one in build.findings if "sewn on the foam" in one.message]


def test_two_sheets_raise_the_foot_twice_as_far_and_counters_are_named():
    job = puffed(BAR, translate(RING, 0, 16), puff_sheets=2)
    build = build_job(job)
    lay, tear = (stop.step for stop in build.plan.stops)
    assert "Raise the presser foot by 6.0 mm. Lay two sheets of foam 3 mm over piece 1 and piece 2" in lay.text
    assert "round piece 1 and piece 2 and out of the counters of piece 2;" in tear.text
    ((first, second),) = (effect.layers for effect in lay.effects)
    assert first.region.equals(second.region)
    assert "counters" not in build_job(puffed(BAR)).plan.stops[-1].step.text


def test_letters_under_one_sheet_are_sewn_from_the_centre_of_a_cap_out():
    job = puffed(*(box(x, -8, x + 7, 8) for x in (-34, -14, 6, 26)))
    order = [key for key in order_of(build_job(change(job, brief=change(job.brief, hoop="cap130x60"))))
             if key.endswith(":column")]  # fmt: skip
    assert order == [f"p{nth}:column" for nth in (3, 4, 2, 1)]
    assert [key for key in order_of(build_job(job)) if key.endswith(":column")] == [
        f"p{n}:column" for n in (1, 2, 3, 4)
    ]


def test_touching_letters_under_one_sheet_are_one_route_with_fewer_trims():
    regions = [each for one in lettering("Loft", "pacifico", 25, -1.5) for each in one.regions]
    job = puffed(*regions)
    build = build_job(change(job, routes=[Route([one.id for one in job.pieces])]))
    (route,) = build.routes
    assert (route.before, route.after) == (4, 1) and build.figures.trims == build_job(job).figures.trims - 3
    assert [key.split(":")[1] for key in order_of(build)] == [*["lay"] * 4, "column", *["tear"] * 4]
    assert all(one.proofs["foam_tear"].held for one in build.pieces)


def test_typefaces_are_judged_by_the_strokes_of_the_letters_at_a_height():
    assert judged("TIDE", "rubik", 25).fits and not judged("TIDE", "rubik", 9).fits
    assert judged("TIDE", "rubik", 9).narrow and judged("TIDE", "rubik", 60).wide
    thin = judged("TIDE", "graduate", 25)
    assert set(thin.narrow) == {"T", "D", "E"} and thin.low < 3 < thin.high
    assert "3 of 4 fall short (T, D, E), strokes 2.5 to" in judgement("TIDE", "graduate", 25).told


def test_live_text_too_narrow_for_foam_is_mended_by_another_typeface_or_size():
    job = draw_text(change(puffed(BAR), shapes=[], pieces=[]), Text("", "TIDE", "graduate", 25.0), "puff")
    assert {one.construct for one in job.pieces} == {"puff"}
    build = build_job(job)
    finding = next(one for one in build.findings if one.code == "puff_narrow")
    ways = mends(build, finding)
    assert [one.label.split()[0] for one in ways] == ["Set", "Set", "Make"] and "larger" in ways[-1].label
    for one in ways:
        assert not [each for each in build_job(one.job).findings if each.code in ("puff_narrow", "puff_wide")]


def test_without_foam_it_is_satin_alone():
    build = build_job(puffed(BAR, puff_foam="none"))
    assert order_of(build) == ["p1:column"] and "foam_tear" not in build.pieces[0].proofs


@pytest.mark.parametrize(("across", "code"), [(2.0, "puff_narrow"), (6.0, ""), (11.0, "puff_wide")])
def test_strokes_too_narrow_or_wide_for_foam_are_told(across, code):
    build = build_job(puffed(box(-20, -across / 2, 20, across / 2)))
    told = {one.code for one in build.findings if one.code.startswith("puff_")}
    assert told == ({code} if code else set())


def test_a_flat_piece_sewn_while_foam_lies_there_is_told():
    job = puffed(BAR, translate(BAR, 0, 4))
    flat = change(job.pieces[1], construct="column", own={})
    job = change(job, pieces=[job.pieces[0], flat])
    order = [key for key in order_of(build_job(job)) if not key.startswith("p2")]
    build = build_job(change(job, order=[order[0], "p2:column", *order[1:]]))
    assert order_of(build)[1] == "p2:column"
    assert any("sewn on the foam" in one.message for one in build.findings)


def test_the_report_tells_of_all_pieces_at_once():
    first, second = puffed(BAR, translate(BAR, 0, 30), **FLAT).pieces
    job = puffed(BAR, translate(BAR, 0, 30))
    told = report(build_job(change(job, pieces=[first, change(second, own={})])))["proofs"]["foam_tear"]
    assert not told["held"] and told["over_foam"] == []
    assert [one["piece"] for one in told["uncut"]] == ["p1", "p1"] and {"at", "length_mm"} < set(told["uncut"][0])
    assert [(one["piece"], one["values"]) for one in told["fixes"]] == [("p1", {"puff_ends": "capped"})]
    assert report(build_job(job))["proofs"]["foam_tear"] == {"held": True, "uncut": [], "over_foam": [], "fixes": []}
    assert report(build_job(puffed(BAR, puff_foam="none")))["proofs"]["foam_tear"] is None
