"""Shapes out of stitch files: what was sewn is found again, on the plan's own places and on a needle grid of 0.1."""

from functools import cache
from itertools import pairwise

import numpy as np
import pytest
import shapely

from core.drawn_shapes import DRAWN
from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.plan.stitch_plan import JUMP, STITCH
from velamen.core.recovery.cut_line import chosen, cut_line
from velamen.core.recovery.proposals import proposals_of
from velamen.core.recovery.segments import segments_of
from velamen.core.recovery.stitch_rows import StitchRows

GRIDS = [0.001, 0.1]


@cache
def sewn(shape, kind):
    """The plan of one piece, and its values."""
    job = job_of(whole(shape), base="felt", hoop="h360x200")
    build = build_job(change(job, pieces=[change(piece, construct=kind) for piece in job.pieces]))
    return build.plan, {key: one.value for key, one in build.pieces[0].values.items()}


def rows_of(plan, grid=0.001):
    block = np.maximum(plan.block, 0)
    return StitchRows(np.round(plan.xy / grid) * grid, plan.command, np.zeros(len(block), dtype=np.int64))


def found(shape, kind, grid, wanted):
    """Segments of one kind that a piece comes back as."""
    plan, _ = sewn(shape, kind)
    return [one for one in segments_of(rows_of(plan, grid)) if one.kind == wanted]


def alike(one, other):
    return one.intersection(other).area / one.union(other).area


def whole(shape):
    return DRAWN[shape] if shape in DRAWN else max(shapely.get_parts(SHAPES[shape]), key=lambda part: part.area)


FILLED = ["square", "ring", "star", "needles", "slit_3", "neck", "coast", "comb", "spiral", "two_holes", "notch",
          "wedge", "leaf", *DRAWN]  # fmt: skip


@pytest.mark.parametrize("grid", GRIDS)
@pytest.mark.parametrize("shape", FILLED)
def test_a_fill_comes_back_with_outline_holes_angle_and_spacing(shape, grid):
    _, values = sewn(shape, "fill")
    fills = [one for one in found(shape, "fill", grid, "fill") if one.spacing < 2 * values["fill_spacing"]]
    way = np.radians(values["fill_angle"])
    along = float(values["fill_pull"]) * np.array([np.cos(way), np.sin(way)])
    wider = shapely.union_all([shapely.affinity.translate(whole(shape), *(part * along))
                               for part in np.linspace(-1, 1, 9)])  # fmt: skip
    area = shapely.union_all([one.area for one in fills])
    assert alike(area, wider) >= 0.97
    largest = max(fills, key=lambda one: one.area.area)
    assert abs((largest.angle - values["fill_angle"] + 90) % 180 - 90) < 1.0
    assert largest.spacing == pytest.approx(values["fill_spacing"], rel=0.03)
    assert largest.length is None or largest.length == pytest.approx(values["fill_length"], rel=0.05)
    assert largest.length is not None or shape in (
        "comb",
        "needles",
        "neck",
        "spiral",
        "wedge",
    )  # rows too short to tell
    wide = [ring for ring in whole(shape).interiors if shapely.Polygon(ring).area > 4]
    assert len(max(shapely.get_parts(area), key=lambda one: one.area).interiors) == len(wide)


BORDERED = ["square", "ring", "star", "neck", "comb", "spiral", "leaf", "thin_ring", "slit_3",
            *DRAWN]  # fmt: skip


@pytest.mark.parametrize("grid", GRIDS)
@pytest.mark.parametrize("shape", BORDERED)
def test_a_satin_border_comes_back_as_the_band_it_covers_with_two_rails(shape, grid):
    _, values = sewn(shape, "satin_border")
    satins = found(shape, "satin_border", grid, "satin")
    half = values["border_width"] / 2 + values["border_pull"]
    rings = (whole(shape).exterior, *whole(shape).interiors)
    sewn_band = shapely.union_all([shapely.buffer(ring, half, join_style="mitre") for ring in rings])
    # A grid of 0.1 itself takes 0.05 off either side of a band of 3.3: 3 % of it.
    assert alike(shapely.union_all([one.area for one in satins]), sewn_band) >= (0.98 if grid < 0.1 else 0.96)
    assert len(satins) == len(rings) and all(one.closed for one in satins)
    for one in satins:
        if shape != "gear":  # a row more at each of its corners
            assert one.spacing == pytest.approx(values["border_spacing"], rel=0.03)
        tight = 0.2 if shape == "sieve" else 0.0  # inner rails of 0.9 round its holes are ragged with short stitches
        assert one.width == pytest.approx(2 * half, abs=0.15 + grid + tight)
        assert shapely.LineString(one.line).hausdorff_distance(shapely.MultiLineString(list(one.rails))) < 2 * half


@pytest.mark.parametrize("letter", "RSA8&")
def test_wide_strokes_of_letters_come_back_as_satins_whose_stitches_are_divided(letter):
    regions = [region for one in lettering(letter, "rubik", 40) for region in one.regions]
    job = job_of(*regions, base="felt", hoop="h360x200")
    build = build_job(change(job, pieces=[change(piece, construct="column") for piece in job.pieces]))
    satins = [one for one in segments_of(rows_of(build.plan, 0.1)) if one.kind == "satin"]
    assert max(one.width for one in satins) > 8.0
    pull = float(build.pieces[0].values["column_pull"].value)
    assert (
        alike(shapely.union_all([one.area for one in satins]), shapely.buffer(shapely.union_all(regions), pull))
        > 0.96
    )


LINES = ["square", "ring", "star", "needles", "neck", "comb", "spiral", "leaf", "slit_3", "wedge", *DRAWN]


@pytest.mark.parametrize("grid", GRIDS)
@pytest.mark.parametrize("kind", ["run", "bean", "estitch"])
@pytest.mark.parametrize("shape", LINES)
def test_the_outline_that_a_line_of_stitches_follows_comes_back(shape, kind, grid):
    outlines = [shapely.LinearRing(ring.coords) for ring in (whole(shape).exterior, *whole(shape).interiors)]
    lines = found(shape, kind, grid, kind)
    assert len(lines) == len(outlines)
    for one in lines:
        assert one.closed
        assert min(one.area.exterior.hausdorff_distance(outline) for outline in outlines) < 0.25


@pytest.mark.parametrize("shape", LINES)
def test_a_zigzag_comes_back_with_width_and_spacing(shape):
    _, values = sewn(shape, "zigzag")
    for one in found(shape, "zigzag", 0.1, "zigzag"):
        few = shapely.LineString(one.line).length < 110  # whose stitches are sewn a little nearer, to go round even
        assert one.spacing == pytest.approx(values["zigzag_spacing"], rel=0.05 if few else 0.03)
        assert one.width == pytest.approx(values["zigzag_width"], abs=0.15)


def test_an_applique_comes_back_as_its_steps_in_their_order():
    kinds = [one.kind for one in segments_of(rows_of(sewn("neck", "applique")[0], 0.1))]
    told = [kind for kind in kinds if kind not in ("tie", "travel")]
    assert told[0] == "run" and told.index("zigzag") < told.index("satin") and told.count("satin") == 1


@pytest.mark.parametrize("shape", ["neck", "ring", "comb", "star", "spiral"])
def test_the_cut_line_of_satins_runs_along_their_outer_rails_and_inside_holes_along_the_inner(shape):
    _, values = sewn(shape, "satin_border")
    half = values["border_width"] / 2 + values["border_pull"]
    cut = cut_line(found(shape, "satin_border", 0.001, "satin"))
    wanted = shapely.buffer(whole(shape), half, join_style="mitre")
    assert alike(cut, wanted) > 0.99
    assert len(cut.interiors) == len(whole(shape).interiors)


def test_satins_that_meet_have_one_cut_line_and_others_none():
    rows = rows_of(sewn("neck", "satin_border")[0])
    moved = StitchRows(np.concatenate([rows.xy, rows.xy + np.array([0.0, 22.0])]), np.tile(rows.command, 2),
                       np.repeat([0, 1], len(rows.xy)))  # fmt: skip
    segments = segments_of(moved)
    satins = [f"s{nth}" for nth, one in enumerate(segments, 1) if one.kind == "satin"]
    cut = cut_line(chosen(segments, satins))
    assert len(satins) == 2 and cut.geom_type == "Polygon"
    with pytest.raises(BadInput, match="There is no part 's999'"):
        chosen(segments, ["s999"])
    run = next(f"s{nth}" for nth, one in enumerate(segments, 1) if one.kind == "run")
    with pytest.raises(BadInput, match=f"Part {run} is a run"):
        chosen(segments, [run])
    with pytest.raises(BadInput, match="go round nothing"):
        cut_line([one for one in found("spiral", "column", 0.1, "satin") if not one.closed])


CLOTHS = ["square", "ring", "star", "needles", "slit_3", "neck", "coast", "comb", "spiral", "thin_ring", "two_holes",
          "notch", "wedge", "leaf"]  # fmt: skip


@pytest.mark.parametrize("grid", GRIDS)
@pytest.mark.parametrize("shape", CLOTHS)
def test_an_applique_is_recognised_as_one_cloth_with_its_holes(shape, grid):
    segments = segments_of(rows_of(sewn(shape, "applique")[0], grid))
    (one,) = proposals_of(segments)
    assert alike(one.cloth, whole(shape)) > 0.96
    loops = 1 + len(whole(shape).interiors)
    assert len(one.placement) == loops and one.on_top == ()
    assert sorted(segments[nth].kind for nth in one.drops) == ["satin"] * loops + ["zigzag"] * loops


@pytest.mark.parametrize("kind", ["satin_border", "fill", "run", "bean", "zigzag", "estitch", "column", "blanket",
                                  "overedge", "emboss", "knockdown"])  # fmt: skip
def test_what_is_no_applique_is_not_taken_for_one(kind):
    for shape in ("neck", "ring", "comb", "leaf", "star"):
        assert proposals_of(segments_of(rows_of(sewn(shape, kind)[0], 0.1))) == [], shape


def test_cloths_beside_each_other_and_what_is_sewn_on_top_are_told_apart():
    job = job_of(shapely.box(-60, -20, -5, 20), shapely.box(5, -20, 60, 20), shapely.Point(-30, 0).buffer(8),
                 shapely.box(25, -8, 45, 8), base="felt", hoop="h360x200")  # fmt: skip
    ways = ("applique", "applique", "fill", "applique")
    job = change(job, pieces=[change(one, construct=way) for one, way in zip(job.pieces, ways, strict=True)])
    segments = segments_of(rows_of(build_job(job).plan, 0.1))
    left, right, laid = sorted(proposals_of(segments), key=lambda one: one.cloth.centroid.x)
    assert laid.cloth.area == pytest.approx(20 * 16, rel=0.02) and laid.cloth.within(right.cloth)
    assert left.cloth.area == pytest.approx(55 * 40, rel=0.02) and right.cloth.area == pytest.approx(
        55 * 40, rel=0.02
    )
    assert "fill" in {segments[nth].kind for nth in left.on_top}
    assert right.cloth.interiors[:] == [] and set(laid.drops) <= set(right.on_top)


def test_parts_are_told_apart_in_a_list_that_lost_its_jumps_and_colours():
    kinds = ["run", "fill", "zigzag", "bean", "satin_border", "estitch"]
    plans = [sewn("notch", kind)[0] for kind in kinds]
    places = [plan.xy[plan.command <= JUMP] + (30.0 * nth, 0.0) for nth, plan in enumerate(plans)]
    xy = np.round(np.concatenate(places), 1)
    rows = StitchRows(xy, np.full(len(xy), STITCH, dtype=np.uint8), np.zeros(len(xy), dtype=np.int64))
    segments = segments_of(rows)
    begins = np.cumsum([0, *(len(one) for one in places)])
    for kind, begin, end in zip(kinds, begins, begins[1:], strict=False):
        wanted = kind.removesuffix("_border")
        mine = [one for one in segments if begin <= one.first and one.last < end]
        largest = max(mine, key=lambda one: one.last - one.first)
        assert largest.kind == wanted, kind


@pytest.mark.parametrize("at", [40, 41, 77])
def test_a_zigzag_that_becomes_a_satin_is_cut_where_its_spacing_changes(at):
    steps = np.concatenate([np.full(at, 1.0), np.full(300, 0.2)])
    xy = np.stack([np.cumsum(steps), np.where(np.arange(len(steps)) % 2, 1.5, -1.5)], axis=1)
    rows = StitchRows(xy, np.full(len(xy), STITCH, dtype=np.uint8), np.zeros(len(xy), dtype=np.int64))
    kinds = [(one.kind, one.first) for one in segments_of(rows)]
    assert [kind for kind, _ in kinds] == ["zigzag", "satin"]
    assert abs(kinds[1][1] - at) <= 2


def test_segments_cover_every_stitch_once_and_in_order():
    for shape, kind in (("coast", "applique"), ("comb", "emboss"), ("star", "column")):
        rows = rows_of(sewn(shape, kind)[0], 0.1)
        segments = segments_of(rows)
        assert all(one.first <= one.last for one in segments)
        assert all(one.last < other.first for one, other in pairwise(segments))
        taken = np.concatenate([np.arange(one.first, one.last + 1) for one in segments])
        far = np.linalg.norm(np.diff(rows.xy, axis=0, prepend=rows.xy[:1]), axis=1)
        sewn_rows = np.flatnonzero((rows.command == STITCH) & (far > 0.2))
        assert np.isin(sewn_rows, taken).mean() > 0.999


@pytest.mark.parametrize("rows", [
    [(0, 0), (2, 0)], [(0, 0), (2, 0), (4, 0)], [(0, 0)] * 50, [(nth % 2, 0) for nth in range(200)],
    [(nth % 2, nth % 3) for nth in range(200)], [(nth, 0) for nth in range(12)],
])  # fmt: skip
def test_lists_of_hardly_anything_are_read_through(rows):
    xy = np.array(rows, dtype=np.float64)
    command = np.full(len(xy), STITCH, dtype=np.uint8)
    segments = segments_of(StitchRows(xy, command, np.zeros(len(xy), dtype=np.int64)))
    assert all(one.area is None or one.area.is_valid for one in segments)


def test_stitches_at_random_never_break_it():
    random = np.random.default_rng(5)
    for nth in range(60):
        count = int(random.integers(2, 400))
        xy = np.cumsum(random.normal(0, 1.5, (count, 2)), axis=0).round(1)
        command = random.choice([STITCH] * 20 + [JUMP, 2, 3, 4], count).astype(np.uint8)
        segments = segments_of(StitchRows(xy, command, np.cumsum(command == 4)))
        assert all(one.area is None or (one.area.is_valid and one.area.area >= 0) for one in segments), nth
