"""Laid foam, echo rings, borders on foam and flat shadows: what is done in which order, and what shows of it."""

import numpy as np
import pytest
import shapely
from shapely import Point, box
from shapely.affinity import translate

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.geometry.swept import TUCK, faces, swept
from velamen.core.job.document import change
from velamen.core.stitching.faces import MOVED
from velamen.core.stitching.roles import CODE

PLATE = box(-20, -15, 20, 15).difference(Point(0, 0).buffer(5))
DOWN_RIGHT = {"shadow_distance": 2.0, "shadow_direction": 45.0}
WORDS = [("rubik", "TIDE"), ("oswald", "R8a"), ("fredoka", "Surf"), ("merriweather", "Qg&")]


def built(region, construct, **own):
    job = job_of(region, hoop="h360x200", own=own)
    build = build_job(change(job, pieces=[change(one, construct=construct) for one in job.pieces]))
    return build, build.pieces[0]


def shadowed(*regions, **own):
    """Flat pieces and the shadow behind them: the shadow, and what casts it."""
    job = with_ground(job_of(*regions, hoop="h360x200"), "flat_shadow")
    shadow = change(job.pieces[0], own={**DOWN_RIGHT, **own})
    build = build_job(change(job, pieces=[shadow, *(change(one, construct="fill") for one in job.pieces[1:])]))
    return next(one for one in build.pieces if one.piece.id == shadow.id), shapely.union_all(regions)


def letters(face, text):
    return [region for letter in lettering(text, face, 25) for region in letter.regions]


def lines(strands, *roles):
    """Stitches of some roles, as lines."""
    found = [np.stack([one.xy[:-1], one.xy[1:]], axis=1)[np.isin(one.role[1:], [CODE[role] for role in roles])]
             for one in strands]  # fmt: skip
    return shapely.linestrings(np.concatenate(found))


def test_laid_foam_is_placed_laid_held_stitched_openly_perforated_and_torn_off():
    build, piece = built(PLATE, "laid_foam")
    assert order_of(build) == [f"p1:{part}" for part in
                               ("placement", "lay", "foam_tack", "decoration", "perforation", "tear")]  # fmt: skip
    step = {one.role: np.linalg.norm(np.diff(one.strands[0].xy[4:-4], axis=0), axis=1) for one in piece.sewn}
    assert np.median(step["placement"]) == pytest.approx(2.5, abs=0.3)
    assert np.median(step["foam_tack"]) == pytest.approx(4.0, abs=0.5)
    assert step["perforation"].max() <= 1.0 + 1e-6
    assert piece.proofs["foam_tear"].held
    tear = build.plan.stops[-1].step
    assert (
        "out of the counters of" in tear.text and "Raise the presser foot by 2.0 mm" in build.plan.stops[0].step.text
    )


@pytest.mark.parametrize("hold", ["rings", "rows"])
def test_what_holds_laid_foam_is_open_and_lies_on_it(hold):
    _, piece = built(PLATE, "laid_foam", laid_foam_hold=hold)
    (sewn,) = [one.strands for one in piece.sewn if one.role == "decoration"]
    open_ = shapely.union_all(lines(sewn, "decoration", "travel"))
    assert shapely.covers(PLATE.buffer(0.1), open_)
    assert 0.6 < open_.length * 4.0 / PLATE.buffer(-3).area < 1.8


@pytest.mark.parametrize("name", ["star", "coast", "comb", "ring", "slit_3", "two_holes"])
def test_foam_perforated_all_round_tears_and_perforated_too_openly_does_not(name):
    _, close = built(SHAPES[name], "laid_foam")
    assert close.proofs["foam_tear"].held, close.proofs["foam_tear"].fails
    build, wide = built(SHAPES[name], "laid_foam", laid_foam_perforation=1.6)
    runs = [each.xy for one in wide.sewn if one.role == "perforation" for each in one.strands]
    long = sum(int((np.linalg.norm(np.diff(xy, axis=0), axis=1) > 1.1).sum()) for xy in runs)
    assert 0.7 * long <= len(wide.proofs["foam_tear"].spots) <= long and long > 0
    (told,) = [one for one in build.findings if one.code == "perforation_open"]
    assert told.fix == {"laid_foam_perforation": 1.0}


@pytest.mark.parametrize("name", ["square", "star", "ring", "neck", "two_holes", "leaf"])
def test_a_border_on_foam_cuts_it_inside_and_outside(name):
    build, piece = built(SHAPES[name], "foam_border")
    assert order_of(build) == [f"p1:{part}" for part in ("lay", "foam_tack", "border", "tear")]
    assert piece.proofs["foam_tear"].held, piece.proofs["foam_tear"].fails
    assert "inside and outside" in build.plan.stops[-1].step.text
    assert float(piece.values["foam_border_spacing"].value) == pytest.approx(0.2, abs=0.011)


def test_echo_rings_keep_corners_leave_holes_out_grow_and_take_threads_by_turns():
    _, piece = built(PLATE, "echo", echo_rings=3, echo_first=2.0, echo_gap=0.25, echo_width=0.25, echo_width_last=0.45,
                     echo_thread_2="104")  # fmt: skip
    first, second = piece.sewn
    assert [one.thread for one in (first, second)] == [piece.piece.thread, "104"]
    assert [len(one.strands) for one in (first, second)] == [2, 1]  # no ring in the hole
    outer = shapely.box(-20, -15, 20, 15)
    off = [0.0, 2.0, 2.0 + 0.25 + 0.3, 2.0 + 0.25 + 0.3 + 0.25 + 0.4]
    for strand, far, wide in ((first.strands[0], off[1], 0.25), (second.strands[0], off[2], 0.35),
                              (first.strands[1], off[3], 0.45)):  # fmt: skip
        ring = outer.buffer(far, join_style="mitre").exterior
        sewn = strand.xy[strand.role == CODE["outline"]]
        assert shapely.distance(ring, shapely.points(sewn)).max() == pytest.approx(wide / 2, abs=0.12)
        corner = np.array([20 + far, 15 + far])
        assert np.linalg.norm(strand.xy - corner, axis=1).min() < 1.3


@pytest.mark.parametrize(("face", "text"), WORDS)
def test_a_shadow_covers_what_shows_of_it_and_its_ways_lie_under_the_letters(face, text):
    regions = letters(face, text)
    shadow, word = shadowed(*regions, shadow_second="104")
    way = 2.0 * np.array([np.sqrt(0.5), np.sqrt(0.5)])
    shown = swept(word, way).difference(word)
    strands = [each for one in shadow.sewn for each in one.strands]
    rows = lines(strands, "column")
    bare = shown.difference(shapely.union_all(shapely.buffer(rows, 0.25)))
    assert shown.area > 100 and bare.area < 0.008 * shown.area
    tucked = 2.0 + 2 * TUCK + 2 * float(shadow.values["shadow_pull"].value)
    assert shapely.length(rows).max() < tucked + MOVED
    ways = shapely.union_all(lines(strands, "travel"))
    assert ways.difference(word).length < 0.01 * max(ways.length, 100)
    parts = len(shapely.get_parts(shapely.union(word.buffer(0.01), shown)))
    assert len(strands) <= 2 * max(parts, len(regions))


def test_faces_of_two_colours_are_told_by_their_side_and_meet_at_the_corner():
    shadow, _ = shadowed(box(-10, -10, 10, 10), shadow_second="104")
    right, below = (shapely.union_all(lines(one.strands, "column")) for one in shadow.sewn)
    right, below = sorted((right, below), key=lambda one: one.centroid.y)
    assert right.bounds[0] > 9 and below.bounds[1] > 9
    corner = Point(11, 11)
    assert right.distance(corner) < 0.4 and below.distance(corner) < 0.4


def test_two_steps_lie_behind_one_another_the_second_sewn_first_in_its_thread():
    shadow, square = shadowed(box(-10, -10, 10, 10), shadow_steps=2, shadow_second="104")
    far, near = shadow.sewn
    assert (far.thread, near.thread) == ("104", shadow.piece.thread)
    far, near = (shapely.union_all(lines(one.strands, "column")) for one in (far, near))
    assert far.bounds[2] - near.bounds[2] == pytest.approx(np.sqrt(2.0), abs=0.4)
    assert square.exterior.distance(far) > 0.5


def test_a_shadow_is_sewn_before_the_foam_and_follows_its_letters():
    job = job_of(*letters("rubik", "IL"), base="cap", hoop="h200x300")
    job = with_ground(change(job, pieces=[change(one, construct="puff") for one in job.pieces]), "flat_shadow")
    order = order_of(build_job(job))
    assert order[0].endswith(":column") and [one.split(":")[1] for one in order[1:]] == [
        "lay", "lay", "column", "column", "tear", "tear"]  # fmt: skip
    before = build_job(job).pieces[0].work.region
    moved = change(job, shapes=[change(one, rings=[[(x + 9, y) for x, y in ring] for ring in one.rings])
                                for one in job.shapes])  # fmt: skip
    after = build_job(moved).pieces[0].work.region
    assert shapely.equals_exact(shapely.normalize(translate(before, 9, 0)), shapely.normalize(after), 0.01) or (
        translate(before, 9, 0).symmetric_difference(after).area < 0.1
    )


@pytest.mark.parametrize("name", SHAPES)
def test_any_shape_casts_a_shadow_of_short_stitches_outside_itself(name):
    shadow, area = shadowed(SHAPES[name])
    for one in (each for sewn in shadow.sewn for each in sewn.strands):
        gap = np.linalg.norm(np.diff(one.xy, axis=0), axis=1)
        assert gap.max() <= 12.2 and np.isfinite(one.xy).all()
    cast = faces(area, np.array([1.4142, 1.4142]), area)
    assert cast.difference(swept(area, np.array([1.4142, 1.4142])).buffer(0.01)).area < 1e-3
