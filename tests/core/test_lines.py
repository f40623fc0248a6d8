"""Line stitches, corners of borders, and edge stitches: lengths, sides, corners, and what they refuse."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.spatial import KDTree
from shapely import LineString, Point, box

from core.jobs import done_of, job_of, why_lost
from core.shapes import SHAPES
from core.ugly import KINDS, ugly
from velamen.core.artwork.read import read_artwork
from velamen.core.building.build import build_job
from velamen.core.constructions import constructions
from velamen.core.edits.shapes.bring_in import bring_in, sewn_line
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.job.shape import Shape
from velamen.core.stitching.border import SatinSewing, border_rails, edge_borders, satin_borders
from velamen.core.stitching.line import STITCHES, back_stitch, line_stitch, offset_line, rounds, sewn_lines, stem
from velamen.core.stitching.roles import CODE

WAVE = np.stack([np.linspace(-30, 30, 400), 8 * np.sin(np.linspace(-30, 30, 400) / 5)], axis=1)
CORNERED = np.array([[0.0, 0], [20, 0], [20, 15], [5, 15], [5, 6]])
HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">'


@pytest.mark.parametrize("stitch", [key for key, _ in STITCHES])
@pytest.mark.parametrize("line", ["wave", "cornered", "ring"])
def test_every_line_stitch_follows_its_line(stitch, line):
    points = {"wave": WAVE, "cornered": CORNERED, "ring": np.array(Point(0, 0).buffer(9, 40).exterior.coords)[:-1]}[
        line
    ]
    closed = line == "ring"
    (sewn,) = line_stitch([points], closed, stitch, "outline", 2.5)
    whole = LineString(np.concatenate([points, points[:1]]) if closed else points)
    aside = 0.45 if stitch == "stem" else 0.13
    assert shapely.distance(shapely.points(sewn.xy), whole).max() <= aside
    thread = LineString(sewn.xy)
    assert shapely.distance(shapely.points(shapely.get_coordinates(whole)), thread).max() <= aside
    step = np.linalg.norm(np.diff(sewn.xy, axis=0), axis=1)
    assert step.min() >= 0.29 and step.max() <= (5.1 if stitch in ("back", "stem") else 2.51)
    times = {"run": 1, "double": 2, "bean": 3, "back": 3, "stem": 3.2}[stitch]
    assert thread.length == pytest.approx(times * whole.length, rel=0.25)
    if line == "cornered" and stitch != "stem":
        assert KDTree(sewn.xy).query(points)[0].max() < 0.01


def test_runs_are_even_and_begin_where_asked():
    (sewn,) = line_stitch([CORNERED], False, "run", "outline", 2.5, start=(5.0, 6.0))
    assert np.linalg.norm(sewn.xy[0] - [5, 6]) < 0.01
    ring = np.array(box(-10, -10, 10, 10).exterior.coords)[:-1]
    for start in ((10.0, 3.0), (-2.0, -10.0)):
        (sewn,) = line_stitch([ring], True, "run", "outline", 2.5, start=start)
        assert np.linalg.norm(sewn.xy[0] - start) < 0.01
    inner = line_stitch([np.array([[0.0, 0], [9.1, 0]])], False, "run", "outline", 2.5)[0]
    steps = np.diff(inner.xy[inner.role == CODE["outline"], 0])
    assert np.ptp(steps) < 1e-6


def test_stem_slants_across_its_line_and_back_stitch_goes_two_on_one_back():
    points = stem(np.array([[0.0, 0], [30, 0]]), 3.0, 1.0)
    assert set(np.round(points[:, 1], 6)) == {-0.5, 0.5}
    assert np.diff(points[::2, 0]) == pytest.approx(1.5, abs=0.05)
    assert (points[1::2, 0] - points[::2, 0]) == pytest.approx(3.0, abs=0.1)
    assert back_stitch(np.arange(8.0).reshape(4, 2)).shape == (8, 2)


@pytest.mark.parametrize("inset", [-3.0, 0.0, 2.0])
def test_lines_lie_at_an_even_distance(inset):
    for region in (SHAPES["square"], SHAPES["ring"]):
        for sewn in sewn_lines(region, None, inset, "run", 2.5):
            off = shapely.distance(shapely.points(sewn.xy), region.boundary)
            assert np.abs(off - abs(inset)).max() < 0.12
    beside = offset_line(np.array([[0.0, 0], [20, 0]]), 2.0)
    assert np.abs(np.abs(beside[0][:, 1]) - 2).max() < 1e-9


@pytest.mark.parametrize("corner", ["rounded", "mitred", "lapped", "auto"])
@pytest.mark.parametrize("name", ["square", "star", "two_holes", "comb", "needles", "slit_3"])
def test_satins_cover_their_band_whatever_their_corners(name, corner):
    region = SHAPES[name]
    strands = satin_borders(region, "border", SatinSewing(1.2, 1.2, 0.4, 0.0, "none", corner))
    xy = np.concatenate([one.xy for one in strands])
    assert shapely.distance(shapely.points(xy), region.boundary).max() < 1.2 * 3.35
    band = region.buffer(1.1).difference(region.buffer(-1.1))
    thread = shapely.multilinestrings([LineString(one.xy) for one in strands])
    shapely.prepare(thread)
    spots = np.mgrid[-35:35:0.45, -35:35:0.45].reshape(2, -1).T
    spots = shapely.points(spots[shapely.contains_xy(band, spots[:, 0], spots[:, 1])])
    assert shapely.dwithin(spots, thread, 0.3).mean() > 0.985
    for one in strands:
        crowd = KDTree(one.xy[one.role == CODE["border"]]).query_ball_point(
            one.xy[one.role == CODE["border"]], 0.125, return_length=True
        )
        assert crowd.max() <= 4


def test_a_mitre_meets_on_the_diagonal_and_a_lap_covers_the_corner():
    square = box(-20, -20, 20, 20)
    rails = {how: border_rails(square, 1.5, 1.5, 0.0, how)[0] for how in ("rounded", "mitred", "lapped")}
    reach = {how: np.abs(one.outer).min(axis=1).max() for how, one in rails.items()}
    assert reach["rounded"] < 21.2 and reach["mitred"] > 21.2 and reach["lapped"] > 21.3
    near = np.abs(rails["mitred"].outer).min(axis=1) > 19
    along = (rails["mitred"].outer - rails["mitred"].inner)[near]
    size = np.linalg.norm(along, axis=1)
    square_on = np.abs(along[size > 0.3]).min(axis=1)
    assert np.quantile(square_on, 0.8) < 0.2  # stitches stay square to their side
    assert (np.diff(rails["lapped"].advance) >= 0).all()


ROUNDED = 0.2  # mm


@settings(max_examples=25)
@given(st.sampled_from(sorted(KINDS)), st.integers(0, 10**6), st.sampled_from(["mitred", "lapped", "auto"]))
@example("shard", 56124, "auto")
def test_corners_of_any_region_stay_near_it(kind, seed, corner):
    for region in ugly(kind, seed)[:1]:
        # A corner rounded by a little counts as the corner that its sides make: rows reach so far from that one.
        sharp = shapely.buffer(shapely.buffer(region, -ROUNDED), ROUNDED, join_style="mitre", mitre_limit=3.35)
        edge = shapely.union(region.boundary, sharp.boundary)
        for one in satin_borders(region, "border", SatinSewing(1.0, 1.0, 0.5, 0.1, "edge_run", corner)):
            assert np.isfinite(one.xy).all()
            assert shapely.distance(shapely.points(one.xy), edge).max() < 1.1 * 3.35


@pytest.mark.parametrize("stitch", ["estitch", "blanket", "overedge"])
@pytest.mark.parametrize("name", ["square", "star", "ring", "two_holes", "slit_01", "sliver", "comb"])
def test_edge_stitches_bite_inward_and_no_farther(name, stitch):
    region = SHAPES[name]
    strands = edge_borders(region, "border", stitch, 0.0, 3.0, 2.5 if stitch != "overedge" else 0.6, "auto")
    xy = np.concatenate([one.xy for one in strands])
    assert shapely.distance(shapely.points(xy), region.boundary).max() <= 3.1 * (1.42 if stitch == "blanket" else 1.2)
    assert shapely.distance(shapely.points(xy), region).max() <= 0.12
    if stitch != "overedge" and name in ("square", "ring"):
        deep = shapely.distance(shapely.points(xy), region.boundary) > 2.5
        rim = region.boundary.length
        assert deep.sum() == pytest.approx(rim / 2.5, rel=0.2)


def test_a_blanket_has_a_bite_on_every_corner():
    (one,) = edge_borders(box(-20, -20, 20, 20), "border", "blanket", 0.0, 3.0, 2.5, "auto")
    for x, y in ((20, 20), (20, -20), (-20, 20), (-20, -20)):
        goal = np.array([x, y]) * (1 - 3 / np.sqrt(2) / 20)
        assert np.linalg.norm(one.xy - goal, axis=1).min() < 0.3


def test_an_overedge_slants_and_overlaps():
    (one,) = edge_borders(box(-20, -20, 20, 20), "border", "overedge", 2.0, 2.0, 0.6, "rounded")
    step = np.diff(one.xy[one.role == CODE["border"]], axis=0)
    long = step[np.linalg.norm(step, axis=1) > 3]
    slant = np.minimum(np.abs(long[:, 0]), np.abs(long[:, 1])) / np.maximum(np.abs(long[:, 0]), np.abs(long[:, 1]))
    assert np.median(slant) > 0.35 and len(long) > 2 * 160 / 0.6


def test_an_impossible_line_is_told():
    with pytest.raises(BadInput, match=r"A stitch of 0 mm cannot be sewn: use 0.5 to 12"):
        line_stitch([WAVE], False, "run", "outline", 0.0)
    with pytest.raises(BadInput, match="nan mm cannot be sewn"):
        line_stitch([WAVE], False, "run", "outline", float("nan"))
    job = job_of(box(-2.5, -2.5, 2.5, 2.5))
    wide = change(job, pieces=[change(job.pieces[0], construct="satin_border", own={"border_width": 40.0})])
    assert "Width 40 is out of bounds: use 1 to 10 mm" in why_lost(wide)


def test_open_lines_are_sewn_by_what_sews_lines_and_refused_by_all_else():
    job = change(job_of(box(0, 0, 20, 20)), brief=job_of().brief)
    line = Shape("s9", "wave", [[(0.0, 30.0), (20.0, 34.0), (40.0, 30.0)]], open=True)
    job = sewn_line(change(job, shapes=[*job.shapes, line]), ["s9"])
    piece = job.pieces[-1]
    assert piece.construct == "run" and piece.shape == "s9"
    with pytest.raises(BadInput, match="not sewn yet"):
        sewn_line(job, ["s9"])
    for kind in constructions().values():
        changed = change(job, pieces=[job.pieces[0], change(piece, construct=kind.name)])
        if kind.lines:
            xy = done_of(build_job(changed).pieces[-1])[0].strands[0].xy
            far = {"outline": 1.6, "motif_line": 2.0}.get(kind.name, 0.6)
            assert shapely.distance(shapely.points(xy), LineString(line.rings[0])).max() < far
        else:
            assert f"open line, along which {kind.title} cannot be sewn" in why_lost(changed)


def test_artwork_of_lines_alone_comes_in_where_lines_are_sewn():
    svg = (HEAD + '<path fill="none" stroke="#000" d="M5 5 L30 20 L55 5"/></svg>').encode()
    with pytest.raises(BadInput, match="only open lines"):
        read_artwork(svg)
    artwork = read_artwork(svg, lines_alone=True)
    job = bring_in(Job(name="x"), artwork, "bean")
    assert artwork.size == (50.0, 15.0) and [piece.construct for piece in job.pieces] == ["bean"]
    assert build_job(job).figures.stitches > 60


def test_too_short_a_line_is_told():
    line = Shape("s1", "dot", [[(0.0, 0.0), (0.2, 0.0)]], open=True)
    assert "too short to sew" in why_lost(sewn_line(Job(name="x", shapes=[line]), ["s1"]))


@pytest.mark.parametrize("inside", [False, True])
@pytest.mark.parametrize("name", ["comb", "slit_3", "slit_01", "needles", "neck", "spiral", "coast", "star"])
def test_rounds_keep_their_distance_and_never_fall_on_one_line(name, inside):
    region = SHAPES[name]
    first, gap = 1.2, 1.2
    lines = [shapely.LinearRing(line) for line in rounds(region, -4.8 if inside else first, gap, 4)]
    whole = shapely.union_all(lines)
    for line in lines:
        others = shapely.union_all([one for one in lines if one is not line])
        assert others.is_empty or line.distance(others) > 0.3 * gap
        off = shapely.distance(shapely.points(shapely.get_coordinates(line.segmentize(0.5))), region.boundary)
        steps = np.round((off - first) / gap)
        assert np.abs(off - first - gap * steps)[off > first + 0.1].max(initial=0.0) < 0.45 * gap
    assert whole.is_empty or whole.length > 10
