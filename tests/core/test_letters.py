"""Letters as columns: even thread, no knots, nothing left bare, alike where they are alike (satin of 0.40)."""

import numpy as np
import pytest
import shapely
from shapely import Polygon, box

from core.sewn_density import PLAIN, bare, density, density_at, knot, piled, stitches
from core.shapes import SHAPES
from velamen.core.artwork.lettering import lettering
from velamen.core.geometry.chords import chords
from velamen.core.geometry.strokes import strokes_of
from velamen.core.stitching.column import columns, for_a_fill, lanes_of, planned
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.roles import CODE

# typeface, height, letters: serifs and slabs, joins, rings, script; small, middle and large
LETTERS = [
    ("merriweather", 40, "HREgQ&"), ("merriweather", 15, "Hmka8"), ("alfa-slab-one", 40, "HnBYut"),
    ("alfa-slab-one", 15, "HM4"), ("graduate", 30, "RKk6"), ("oswald", 15, "KXAY8"), ("rubik", 40, "RMWX8t"),
    ("courgette", 40, "aRN8"), ("pacifico", 15, "BkRS"), ("fredoka", 8, "Aegn"), ("fredoka", 40, "D8"),
]  # fmt: skip
OVERLAP = 1.6  # mm from a cut: half of two strokes' overlap, and half a cell
GOOD, ONE = 0.98, 0.94  # of the area beside overlaps, within 0.8 to 1.6 of plain satin; of each letter's


def regions(text, typeface, height):
    return [region for letter in lettering(text, typeface, height) for region in letter.regions]


def sewn(region, pull=0.0, **more):
    (strand,) = columns(region, Sewing("column", 0.4, pull, underlay="edge_run", **more))
    return strand


def beside_overlaps(region, spots):
    """Which of some places (n, 2) of a letter lie off all overlaps of its strokes."""
    edge = shapely.buffer(shapely.boundary(region), 0.06)
    cuts = shapely.union_all([shapely.difference(one.region.boundary, edge) for one in strokes_of(region).strokes])
    return ~shapely.dwithin(shapely.points(spots), cuts, OVERLAP) if not cuts.is_empty else np.ones(len(spots), bool)


def evenness(region, strand):
    """Whether thread lies within 0.8 to 1.6 of plain satin, in cells of three spacings beside overlaps: (n,)."""
    share, spots = density_at(region, stitches(strand, "column")[0], 0.2, 6)
    return ((share >= 0.8 * PLAIN) & (share <= 1.6 * PLAIN))[beside_overlaps(region, spots)]


@pytest.mark.parametrize(("typeface", "height", "text"), LETTERS)
def test_thread_lies_evenly_in_letters(typeface, height, text):
    whole = []
    for letter in regions(text, typeface, height):
        strand = sewn(letter)
        rows, _ = stitches(strand, "column")
        even = evenness(letter, strand)
        assert even.mean() >= ONE
        whole.append(even)
        assert density(letter, rows, 0.2, 4).max() <= 4.0 * PLAIN
        assert (density(letter, rows, 0.25, 2) > 15).sum() * 0.25**2 <= 1.0  # mm² of wire
        assert piled(strand) <= 2.0  # mm² where all thread counts: two layers of satin and what lies under them
        assert knot(strand) <= 5
        assert bare(strand, "column", "underlay", "travel") <= 4.0  # mm
    assert np.concatenate(whole).mean() >= GOOD


@pytest.mark.parametrize(
    ("typeface", "height", "letter"),
    [
        ("graduate", 15, "a"),
        ("graduate", 40, "P"),
        ("rubik", 40, "8"),
        ("merriweather", 8, "8"),
        ("pacifico", 8, "u"),
    ],
)
def test_a_thread_is_tied_at_both_ends_however_its_first_stitches_turn(typeface, height, letter):
    for region in regions(letter, typeface, height):
        for strand in columns(region, Sewing("column", 0.4, 0.2, 0.2, underlay="edge_run")):
            tied = strand.role == CODE["tie"]
            assert tied[1:4].sum() >= 2 and tied[-3:].all()
            for ends in (strand.xy[:4], strand.xy[-4:]):
                step = np.linalg.norm(np.diff(ends, axis=0), axis=1)
                assert step.min() >= 0.3 and np.sort(step)[1] <= 0.51


def test_serifs_are_part_of_a_stem_or_a_stroke_across_it_all_alike():
    for height, strokes in ((15, 3), (40, 7)):
        (letter,) = regions("H", "merriweather", height)
        assert len(strokes_of(letter).strokes) == strokes
    for typeface, letter in (("alfa-slab-one", "H"), ("alfa-slab-one", "I")):
        (region,) = regions(letter, typeface, 15)
        assert len(strokes_of(region).strokes) == {"H": 3, "I": 1}[letter]


def test_equal_letters_of_a_word_are_sewn_the_same_to_the_last_stitch():
    words = [[sewn(region).xy for region in letter.regions] for letter in lettering("minimi", "merriweather", 15)]
    for one, other in ((0, 4), (1, 3), (3, 5)):
        for mine, its in zip(words[one], words[other], strict=True):
            assert mine.shape == its.shape
            assert np.abs((mine - mine.min(axis=0)) - (its - its.min(axis=0))).max() < 1e-9


def test_a_letter_beside_its_mirror_image_is_taken_apart_alike():
    for letter in "THAMYXWB":
        (region,) = regions(letter, "rubik", 30)
        mirrored = shapely.affinity.scale(region, -1, 1)
        found, other = strokes_of(region), strokes_of(mirrored)
        areas, others = (sorted(round(one.region.area) for one in each.strokes) for each in (found, other))
        assert len(areas) == len(others)
        assert np.abs(np.array(areas) - others).max() <= 0.12 * max(areas)


def test_a_stroke_that_ends_at_another_is_sewn_under_it_and_runs_on_by_0_8_to_1_2():
    tee = shapely.union(box(-20, -2, 20, 2), box(-2, 2, 2, 25))
    found = strokes_of(tee)
    (contact,) = found.contacts
    assert found.strokes[contact.branch].region.bounds[3] == pytest.approx(25, abs=0.01)
    strand = sewn(tee)
    rows, when = stitches(strand, "column")
    stem = (np.abs(rows[..., 0]).max(axis=1) <= 2.2) & (rows[..., 1].min(axis=1) > 0.5)
    bar = np.abs(rows[..., 1]).max(axis=1) <= 2.01
    assert when[stem].max() < when[bar & ~stem].max()
    assert 0.8 <= 2.0 - rows[stem][..., 1].min() <= 1.2


def test_underlay_keeps_off_cuts_and_no_thread_crosses_to_where_satin_begins():
    tee = shapely.union(box(-20, -3, 20, 3), box(-3, 3, 3, 25))
    strand = sewn(tee)
    under, _ = stitches(strand, "underlay")
    both = box(-2.5, 1.8, 2.5, 4.2)  # about the cut; one way leads out over it, and the stem comes back in satin
    assert 2.4 <= shapely.length(shapely.intersection(shapely.linestrings(under), both)).sum() <= 3.0
    begun = np.flatnonzero((strand.role[1:] == CODE["column"]) & (strand.role[:-1] == CODE["underlay"]))
    assert len(begun) == 2
    assert np.linalg.norm(strand.xy[begun + 1] - strand.xy[begun], axis=1).max() < 3.0  # of 6 across


@pytest.mark.parametrize(
    ("typeface", "height", "letter"),
    [("courgette", 40, "z"), ("courgette", 15, "b"), ("merriweather", 40, "g"), ("pacifico", 40, "k")],
)
def test_no_row_runs_on_into_another_limb(typeface, height, letter):
    """Bends, ends that run on past a cut, and ends that meet their own stroke look along what leads away there."""
    (region,) = regions(letter, typeface, height)
    for lane in lanes_of(region):
        width = np.linalg.norm(lane.rails.outer - lane.rails.inner, axis=1)
        assert width.max() <= 2.2 * np.median(width)


@pytest.mark.parametrize("height", [15, 40])
def test_one_stroke_of_a_slab_x_goes_through_and_two_end_at_it(height):
    (region,) = regions("x", "alfa-slab-one", height)
    assert len(strokes_of(region).strokes) == 3
    assert piled(sewn(region)) <= 1.0


@pytest.mark.parametrize(
    ("typeface", "height", "letter"),
    [("oswald", 40, "M"), ("oswald", 40, "w"), ("rubik", 40, "N"), ("fredoka", 40, "w"), ("pacifico", 27, "R")],
)
def test_no_stroke_is_reached_or_left_across_finished_rows(typeface, height, letter):
    """Past an acute mitre, and where an end that runs on comes by the place at which another stroke ends."""
    (region,) = regions(letter, typeface, height)
    assert bare(sewn(region), "column", "underlay", "travel") <= 0.5  # mm; 2 to 11 where it was sewn from its tip


@pytest.mark.parametrize("height", [8, 15, 40])
def test_every_valley_and_peak_of_a_w_is_a_mitre(height):
    (region,) = regions("w", "fredoka", height)
    found = strokes_of(region)
    assert len(found.strokes) == 4 and all(contact.cut.mitre for contact in found.contacts)
    left, peak, right = sorted(float(contact.cut.middle[0]) for contact in found.contacts)
    assert abs(peak) < 0.01 * right and left == pytest.approx(-right, rel=0.03)


def test_gears_and_coasts_are_for_a_fill_and_letters_are_not():
    gear = shapely.union_all([shapely.Point(0, 0).buffer(20, 64), *(
        shapely.affinity.rotate(box(18, -1.5, 25, 1.5), turn, (0, 0)) for turn in range(0, 360, 15))])  # fmt: skip
    assert for_a_fill(gear) and for_a_fill(SHAPES["coast"]) and not for_a_fill(SHAPES["comb"])
    for text, typeface in (("R&g8", "merriweather"), ("HB", "alfa-slab-one")):
        assert not any(for_a_fill(region) for region in regions(text, typeface, 40))


def test_last_rows_lie_along_a_slanted_end_and_pull_and_push_are_told_on_it():
    slanted = Polygon([(-25, -2), (21, -2), (25, 2), (-21, 2)])
    pull, push = 0.3, 0.4
    plain, wide = (columns(slanted, Sewing("column", 0.4, *added))[0] for added in ((0.0, 0.0), (pull, push)))
    for strand, out in ((plain, 0.0), (wide, pull)):
        rows, _ = stitches(strand, "column")
        way = rows[:, 1] - rows[:, 0]
        turn = np.degrees(np.abs(np.arctan2(way[:, 0], way[:, 1])))
        turn = np.minimum(turn, 180 - turn)
        middle = np.abs(rows[..., 0].mean(axis=1))
        assert np.median(turn[middle < 8]) < 6 and np.median(turn[middle > 21.5]) > 35
        reach = np.abs(rows[middle < 8][..., 1]).max(axis=1)
        assert np.abs(reach - 2.0 - out).max() < 0.03
    # square to the end edge the rows stop short of it by the push
    off = [np.abs((strand.xy[strand.role == CODE["column"]] - [23, 0]) @ [np.sqrt(0.5), -np.sqrt(0.5)]).min()
           for strand in (plain, wide)]  # fmt: skip
    assert off[1] - off[0] == pytest.approx(push, abs=0.12)


def test_short_columns_and_butting_ends_keep_their_length_under_push():
    tee = shapely.union(box(-20, -2, 20, 2), box(-2, 2, 2, 3.5))
    strand = columns(box(0, 0, 4, 1.2), Sewing("column", 0.4, 0.2, 0.8))[0]
    rows = strand.xy[strand.role == CODE["column"]]
    assert np.ptp(rows, axis=0).max() > 2.35  # at most a fifth of its length is left off at either end
    whole = columns(tee, Sewing("column", 0.4, 0.2, 0.8))[0]
    assert whole.xy[:, 1].max() > 2.6
    stem = shapely.union(box(-20, -2, 20, 2), box(-2, 2, 2, 25))
    under = stitches(columns(stem, Sewing("column", 0.4, 0.2, 0.8))[0], "column")[0]
    end = under[(np.abs(under[..., 0]).max(axis=1) <= 2.3) & (under[..., 1].min(axis=1) > 0.5)][..., 1]
    assert end.min() < 1.3 and end.max() == pytest.approx(24.2, abs=0.3)  # push at the tip alone


def test_chords_are_those_of_the_polygon():
    rng = np.random.default_rng(4)
    region = SHAPES["comb"]
    left, top, right, bottom = region.bounds
    place = rng.uniform([left, top], [right, bottom], (400, 2))
    angle = rng.uniform(0, np.pi, 400)
    way = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    found = chords(region, place, way, np.zeros(400))
    inside = shapely.contains_xy(region, place[:, 0], place[:, 1])
    assert (np.isnan(found[:, 0]) == ~inside).all()
    ends = place[inside, None] + found[inside][..., None] * way[inside, None]
    lines = shapely.linestrings(ends)
    assert shapely.covers(region.buffer(1e-6), lines).all()
    assert shapely.distance(shapely.points(ends.reshape(-1, 2)), region.boundary).max() < 1e-6


def test_axes_lie_in_the_middle_of_their_strokes():
    plan = planned(shapely.union(box(-20, -2, 20, 2), box(-2, 2, 2, 25)))
    for axis in plan.axes:
        body = axis.place[axis.body[0] : axis.body[1] + 1]
        across = body[:, 1] if np.ptp(body[:, 0]) > np.ptp(body[:, 1]) else body[:, 0]
        assert np.abs(across).max() < 0.05 and np.abs(axis.half - 2.0).max() < 0.1
