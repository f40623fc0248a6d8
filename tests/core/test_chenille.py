"""Chenille: layers in their order, channels in one thread with turns at their ends, and the walk of the scissors."""

import numpy as np
import pytest
import shapely
from scipy import ndimage
from scipy.spatial import KDTree
from shapely import Point, affinity, box

from core.jobs import job_of, order_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job, section_of
from velamen.core.building.job_materials import with_materials
from velamen.core.edits.stack.turned import turned_into
from velamen.core.errors import BadInput
from velamen.core.fixes.job_fixes import mends
from velamen.core.job.document import change
from velamen.core.materials.library import library_with
from velamen.core.outputs.laid import fluff_sheets, ridges_of
from velamen.core.outputs.report import report
from velamen.core.proofs.channels import prove_channels
from velamen.core.relief.fluff import tufts
from velamen.core.relief.relief import relief
from velamen.core.stitching.channels import Asked, channels, is_band, room_of
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.strand import strand


def twice(name):
    return affinity.scale(SHAPES[name], 2, 2)


LARGE = {"square": box(-30, -30, 30, 30), "disc": Point(0, 0).buffer(32), "coast": SHAPES["coast"],
         "ring": SHAPES["ring"], "star": SHAPES["star"], "two_holes": SHAPES["two_holes"], "leaf": SHAPES["leaf"],
         "neck": SHAPES["neck"], "wide ring": twice("ring"), "large star": twice("star"),
         "plate": twice("two_holes"), "rake": twice("comb"), "bone": twice("neck"),
         "crescent": Point(0, 0).buffer(34) - Point(18, 0).buffer(30),
         "arch": Point(0, 0).buffer(30).difference(Point(0, 0).buffer(16)).difference(box(-40, 0, 40, 40))}  # fmt: skip
FACE = shapely.union_all([Point(-10, -4).buffer(6), Point(10, -4).buffer(6), box(-12, 8, 12, 12)])
STRIPE = box(-34, -5, 34, 5)
NARROW = ["wedge", "comb", "spiral"]  # bands too narrow for a channel
DIAGONAL = Asked(6.5, np.pi / 4, 2.3, 5.0)


def chenille(region, base="felt", **own):
    job = job_of(region, base=base, hoop="h360x200", own=own)
    build = build_job(change(job, pieces=[change(one, construct="chenille") for one in job.pieces]))
    return build, build.pieces[0]


def strands_of(piece):
    return [each for one in piece.sewn if one.role == "channel" for each in one.strands]


def test_backing_is_held_and_trimmed_layers_laid_sewn_slit_and_trimmed():
    build, _ = chenille(LARGE["square"], chenille_layers=2, chenille_cloth_2="deck_cream")
    parts = ("placement", "lay", "tack", "trim", "press", "layers", "channel", "slit", "edge", "brush")
    assert order_of(build) == [f"p1:{part}" for part in parts]
    layers = build.plan.stops[-1].step
    assert (
        "Lay 2 layers over piece 1" in layers.text and "from below: sail red cotton, deck cream cotton" in layers.text
    )
    assert [one.kind for one in build.after_sewing[:3]] == ["slit", "trim", "brush"]
    left = [one for one in build.layers["p1:edge"] if "p1" in one.owners]
    assert [one.slit is not None for one in left] == [False, True, True]  # the backing stays whole
    assert all(one.region.covers(LARGE["square"].buffer(5)) for one in left[1:])


@pytest.mark.parametrize("name", LARGE)
def test_channels_lie_inside_the_trim_line_in_one_thread_evenly_and_turn_as_travel(name):
    strands = channels(LARGE[name], DIAGONAL)
    inner = shapely.buffer(LARGE[name], -1.95)
    assert len(strands) - len(room_of(LARGE[name])) == (name == "plate")  # there one thread would close a channel
    assert shapely.covers(inner, shapely.points(np.concatenate([one.xy for one in strands]))).all()
    turn = np.array([-1.0, 1.0]) / np.sqrt(2)
    bands = [part.buffer(0.1) for part in room_of(LARGE[name]) if is_band(part)]
    for one in strands:
        if any(shapely.covers(part, shapely.LineString(one.xy)) for part in bands):
            continue  # along it
        sewn = one.role[1:] == CODE["channel"]
        assert np.abs((np.diff(one.xy, axis=0) @ turn)[sewn]).max() < 0.11
        level = np.sort((one.xy @ turn)[one.role == CODE["channel"]])
        step = np.diff(level)[np.diff(level) > 0.5]
        assert step == pytest.approx(np.round(step / 6.5) * 6.5, abs=0.1)


class Scissors:
    """Where a disc of the scissors' width may be: cells of 0.25 mm that hang together, told from samples of threads."""

    def __init__(self, region, threads):
        spots = np.concatenate([
            shapely.get_coordinates(shapely.segmentize(one, 0.1)) for one in shapely.get_parts(threads)
        ])  # fmt: skip
        left, top, right, bottom = np.array(region.bounds) + 8.0 * np.array([-1, -1, 1, 1])
        self.corner = np.array([left, top])
        x, y = np.meshgrid(np.arange(left, right, 0.25), np.arange(top, bottom, 0.25))
        self.tree = KDTree(spots)
        far = self.tree.query(np.stack([x.ravel(), y.ravel()], axis=1), distance_upper_bound=2.45)[0]
        self.parts, _ = ndimage.label(np.isinf(far).reshape(x.shape))
        holes = [shapely.Polygon(ring).buffer(-4.0) for part in shapely.get_parts(region) for ring in part.interiors]
        inside = shapely.union_all([one for one in holes if not one.is_empty])
        self.outside = {self.parts[0, 0], *np.unique(self.parts[shapely.contains_xy(inside, x, y)])} - {0}

    def come_through(self, line):
        """Whether they get along a middle from one end to within 5 mm of the other, having come from outside."""
        path = shapely.LineString(line)
        along = np.linspace(0.0, path.length, 60)
        spots = np.array([path.interpolate(at).coords[0] for at in along])
        free = self.tree.query(spots)[0] >= 2.4
        cells = np.round((spots - self.corner) / 0.25).astype(int)
        comes = np.isin(self.parts[cells[:, 1], cells[:, 0]], list(self.outside))
        for order in (slice(None), slice(None, None, -1)):
            went = free[order][along <= max(path.length - 5.0, 0.0)]
            if went.all() and comes[order][: max(len(went) // 2, 6)].any():
                return True
        return False


@pytest.mark.parametrize("name", [*LARGE, "face", "stripe"])
def test_scissors_come_through_every_channel_that_the_proof_calls_open(name):
    over = {"face": FACE, "stripe": STRIPE}.get(name)
    region = LARGE["square"] if over is not None else LARGE[name]
    strands = channels(region, DIAGONAL, over)
    proof = prove_channels(region, strands, DIAGONAL, over)
    assert proof.every and (proof.held or name == "face")  # what lies between two eyes and a mouth is trapped
    threads = [shapely.LineString(one.xy) for one in strands] + ([over] if over is not None else [])
    if proof.every and not any(is_band(part) for part in room_of(region)):
        rims = [np.asarray(ring.coords) for part in room_of(region) for ring in (part.exterior, *part.interiors)]
        sealed = prove_channels(region, [*strands, *(strand(ring, "travel") for ring in rims)], DIAGONAL, over)
        assert not sealed.held and len(sealed.closed) == len(sealed.every)  # an edge sewn round it
    scissors = Scissors(region, shapely.union_all(threads))
    for one in proof.every:
        assert scissors.come_through(np.array(one.line)) == one.open, one


def test_decoration_divides_channels_and_threads_turn_under_it():
    region = LARGE["square"]
    (one,) = channels(region, DIAGONAL, STRIPE)
    travel = np.flatnonzero(one.role == CODE["travel"])
    under = shapely.covers(STRIPE.buffer(0.1), shapely.points(one.xy[travel]))
    assert under.sum() >= 6
    proof = prove_channels(region, [one], DIAGONAL, STRIPE)
    whole = prove_channels(region, channels(region, DIAGONAL), DIAGONAL)
    assert proof.held and len(proof.every) > len(whole.every) and proof.cut < whole.cut
    assert not shapely.intersects(STRIPE, shapely.MultiLineString([one.line for one in proof.every]))
    # Channels sewn as if nothing lay on them leave some closed there: they must know it.
    assert not prove_channels(region, channels(region, DIAGONAL), DIAGONAL, STRIPE).held


def test_a_piece_sewn_on_chenille_divides_its_channels_and_moving_it_off_joins_them():
    job = job_of(LARGE["square"], box(-26, -4, 26, 4), base="felt")
    cloth, stripe = (change(one, construct=kind) for one, kind in zip(job.pieces, ("chenille", "fill"), strict=True))
    on = build_job(change(job, pieces=[cloth, change(stripe, on=cloth.id)]))
    off = build_job(change(job, pieces=[cloth]))
    counts = [int(build.pieces[0].proofs["channels"].about.split()[0]) for build in (on, off)]
    assert counts[0] > counts[1] and on.pieces[0].work.decorated.contains(box(-26, -4, 26, 4))
    order = order_of(on)
    assert order.index("p1:channel") < order.index("p2:decoration") < order.index("p1:slit")


def test_a_border_over_the_edge_seals_the_channels_and_is_offered_to_be_left_out():
    job = job_of(LARGE["disc"], LARGE["disc"], base="felt", hoop="h360x200")
    cloth, border = (
        change(one, construct=kind) for one, kind in zip(job.pieces, ("chenille", "satin_border"), strict=True)
    )
    build = build_job(change(job, pieces=[cloth, change(border, name="Rim", on=cloth.id)]))
    assert not build.pieces[0].proofs["channels"].held
    (told,) = [one for one in build.findings if one.code == "edge_sealed"]
    assert "Rim" in told.message and told.piece == "p1"
    (way,) = mends(build, told)
    assert way.label == "Leave out Rim" and build_job(way.job).pieces[0].proofs["channels"].held
    inner = job_of(LARGE["disc"], Point(0, 0).buffer(9), base="felt", hoop="h360x200")
    cloth, ring = (change(one, construct=kind) for one, kind in zip(inner.pieces, ("chenille", "run"), strict=True))
    build = build_job(change(inner, pieces=[cloth, change(ring, on=cloth.id)]))
    assert build.pieces[0].work.decorated.area < 60 and not any(one.code == "edge_sealed" for one in build.findings)


def test_a_mirrored_angle_gives_the_mirror_image_of_the_other_one_of_a_pair():
    left = affinity.rotate(SHAPES["leaf"], 20)
    right = affinity.scale(left, -1, 1, origin=(0, 0))
    one, two = (
        shapely.MultiLineString([list(each.line) for each in
                                 prove_channels(shape, channels(shape, asked), asked).every])
        for shape, asked in ((left, Asked(6.5, 0.6, 2.3, 5.0)), (right, Asked(6.5, -0.6, 2.3, 5.0)))
    )  # fmt: skip
    assert shapely.hausdorff_distance(affinity.scale(one, -1, 1, origin=(0, 0)), two) < 0.3
    job = job_of(left, right, base="felt", own={"channel_angle": 30.0})
    first, other = job.pieces
    mirrored = change(other, own={"channel_angle": 30.0, "channel_mirrored": True})
    build = build_job(change(job, pieces=[change(one, construct="chenille") for one in (first, mirrored)]))
    ways = []
    for piece in build.pieces:
        sewn = strands_of(piece)[0]
        steps = np.diff(sewn.xy, axis=0)[sewn.role[1:] == CODE["channel"]]
        ways.append(np.median(np.mod(np.degrees(np.arctan2(steps[:, 1], steps[:, 0])), 180)))
    assert ways == pytest.approx([30.0, 150.0], abs=1.0)


def test_channels_closed_at_both_ends_are_found_where_they_are():
    level = Asked(6.5, 0.0, 2.3, 5.0)
    (one,) = channels(LARGE["square"], level)
    right = np.array([[28.0, y] for y in np.arange(-28, 28, 2.0)])
    left = right * [-1, 1]
    closed = prove_channels(LARGE["square"], [one, strand(right, "travel"), strand(left, "travel")], level)
    assert not closed.held and len(closed.closed) == len(closed.every) > 6 and closed.cut == 0
    half = prove_channels(LARGE["square"], [one, strand(right, "travel")], level)
    assert 0.3 * len(half.every) < len(half.closed) < 0.7 * len(half.every)


def test_scissors_that_meet_a_thread_on_their_way_come_to_a_stop():
    rows = [strand(np.stack([np.arange(-25, 25, 2.2), np.full(23, y)], axis=1), "channel") for y in (-6.5, 0.0, 6.5)]
    level = Asked(6.5, 0.0, 2.3, 5.0)
    assert prove_channels(box(-30, -10, 30, 10), rows, level).held
    spur = strand(np.array([[0.0, 0.5], [0.0, 2.0], [0.0, 3.5], [0.0, 6.0]]), "travel")
    (open_, stuck) = sorted(
        prove_channels(box(-30, -10, 30, 10), [*rows, spur], level).every, key=lambda one: one.spot.at[1]
    )[:2]
    assert open_.open and stuck.length < 50


@pytest.mark.parametrize("name", NARROW)
def test_narrow_bands_fail_and_what_is_offered_opens_them(name):
    build, piece = chenille(SHAPES[name])
    proof = piece.proofs["channels"]
    assert not proof.held and any(one.code == "channels_closed" for one in build.findings)
    for fix in proof.fixes:
        _, after = chenille(SHAPES[name], **fix.values)
        assert after.proofs["channels"].held == (fix.share == 1.0)


def test_tight_channels_are_told_and_mended_and_the_report_has_the_proof():
    build, piece = chenille(LARGE["disc"], channel_spacing=5.0)
    (told,) = [one for one in build.findings if one.code == "channels_tight"]
    assert told.fix == {"channel_spacing": 6.0} and not piece.proofs["channels"].held
    found = report(build)["proofs"]["channels"]
    assert not found["held"] and set(found) >= {"closed", "narrow"}
    good, _ = chenille(LARGE["disc"])
    assert report(good)["proofs"]["channels"]["held"]


def test_an_applique_is_made_chenille_in_one_action_and_keeps_what_is_sewn_on_it():
    job = job_of(LARGE["square"], Point(0, 0).buffer(8), base="felt", own={"cover_width": 4.0})
    cloth, face = job.pieces
    job = change(job, pieces=[cloth, change(face, construct="fill", on=cloth.id, own={})])
    after = turned_into(job, cloth.id, "chenille")
    made, kept = after.pieces
    assert (made.construct, made.own, made.cloth) == ("chenille", {}, cloth.cloth) and kept == job.pieces[1]
    order = order_of(build_job(after))
    assert order.index("p1:channel") < order.index("p2:decoration") < order.index("p1:slit")
    assert "p1:cover" not in order and "p1:cover" in order_of(build_job(job))
    for wrong in (("p2", "chenille"), ("p1", "fill")):
        with pytest.raises(BadInput, match="cannot be made"):
            turned_into(job, *wrong)


def test_scissors_are_a_tool_of_the_library_that_travels_with_the_job():
    own = library_with({"tools": {"slitting_scissors": {"name": "Duckbills", "width": 6.2}}})
    job = job_of(LARGE["disc"], base="felt")
    job = with_materials(change(job, pieces=[change(one, construct="chenille") for one in job.pieces]), own)
    assert job.materials["tools"]["slitting_scissors"]["width"] == 6.2
    value = build_job(job).pieces[0].values["channel_scissors"]
    assert value.value == 6.2 and "duckbills" in value.reasons[0]
    plain = with_materials(change(job, pieces=[change(one, construct="fill") for one in job.pieces]), own)
    assert "tools" not in plain.materials


def test_once_all_is_sewn_layers_lie_trimmed_and_slit_and_the_lowest_is_whole():
    build, _ = chenille(LARGE["disc"], chenille_layers=2)
    row = len(build.plan.xy)
    for at, slit in ((row - 1, False), (row, True)):
        cut = section_of(build, (0.0, 0.0), -np.pi / 4, 60.0)
        lying = [
            one for one in cut.sheets if one.laid.layer.kind == "cloth" and one.laid.from_row <= at < one.laid.to_row
        ]
        gaps = [int((np.diff(one.there.astype(int)) == -1).sum()) for one in lying]
        assert gaps[0] == 0 and all((gap >= 6) == slit for gap in gaps[1:])
    finished = [one.layer for one in build.laid if one.layer.kind == "cloth" and one.from_row == row]
    assert all(LARGE["disc"].buffer(0.01).covers(one.region) for one in finished)


def test_fluff_stands_in_ridges_over_the_lines_in_the_colours_of_its_layers_and_beside_what_decorates_it():
    job = job_of(LARGE["disc"], Point(0, 0).buffer(6), base="felt", hoop="h360x200")
    cloth, face = job.pieces
    own = {"chenille_cloth_1": "deck_cream", "chenille_cloth_3": "night_ink"}
    cloth, face = change(cloth, construct="chenille", own=own), change(face, construct="fill", on=cloth.id)
    build = build_job(change(job, pieces=[cloth, face]))
    (sheet,) = fluff_sheets(build)
    colours = sheet.ridges.colours
    assert (colours[0], colours[2]) == (
        build.library.cloths["deck_cream"].colour,
        build.library.cloths["night_ink"].colour,
    )
    spines = shapely.MultiLineString(list(sheet.ridges.spines))
    assert not spines.intersects(Point(0, 0).buffer(5.9))
    (ridge,) = ridges_of(build)
    found = relief(build.plan, build.laid, [], len(build.plan.xy), (-30.0, -30.0, 30.0, 30.0), ridges=[ridge])
    flat = relief(build.plan, build.laid, [], len(build.plan.xy), (-30.0, -30.0, 30.0, 30.0))
    raised = found.height - flat.height
    y, x = np.indices(raised.shape) * found.step - 30.0 + found.step / 2
    far = shapely.distance(spines, shapely.points(x, y))
    assert raised[far < 0.5].mean() > 3 * max(raised[(far > 2.8) & (far < 3.3)].mean(), 1e-9)
    drawn = tufts(sheet.ridges.spines, sheet.ridges.reaches, 3)
    middle = drawn.ends.reshape(-1, 2, 2).mean(axis=1)
    out = [shapely.distance(spines, shapely.points(middle[drawn.layer == layer])).mean() for layer in range(3)]
    assert out[0] > out[1] > out[2]  # the lowest layer outermost
