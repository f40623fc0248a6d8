"""Pictures traced: true outlines, sharp corners, shared borders, few colours and few points."""

import io

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely import Point, Polygon, box

from core.pictures import encoded, off, painted, pixel_edge
from core.shapes import SHAPES, star
from velamen.core.artwork.lettering import lettering
from velamen.core.artwork.read import is_picture
from velamen.core.artwork.tracing.colours import labelled, palette
from velamen.core.artwork.tracing.parts import parts
from velamen.core.artwork.tracing.picture import Picture, read_picture
from velamen.core.artwork.tracing.trace import MAX_REGIONS, TraceSettings, trace, tracing
from velamen.core.artwork.typeface import TYPEFACES
from velamen.core.edits.shapes.import_parts import backdrop_of, take_traced
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, brief_for
from velamen.core.job.reading import check_job
from velamen.core.job.regions import region_of
from velamen.core.job.shape import Backdrop

RED, BLUE, PAPER = "#b8453c", "#2b5d7d", "#f6f1e4"
LIMIT = 0.15  # mm that an outline may lie off the pixel edge


def picture_of(regions, **more):
    return read_picture(encoded(painted(regions, **more)))


def traced_regions(regions, asked=None, **more):
    return trace(picture_of(regions, **more), asked or TraceSettings(60.0)).regions


@pytest.mark.parametrize("name", sorted(set(SHAPES) - {"slit_01", "sliver", "coast"}))
def test_shapes_come_back_as_they_were_painted(name):
    truth = SHAPES[name]
    image = painted([(truth, RED)], size=(700, 700))
    found = trace(read_picture(encoded(image)), TraceSettings(70.0)).regions
    assert len(found) == 1 and len(found[0].region.interiors) == len(truth.interiors)
    assert off(found[0].region, pixel_edge(image, RED)) < LIMIT
    assert found[0].region.area == pytest.approx(truth.area, rel=0.015)


@pytest.mark.parametrize(("typeface", "letter"), [
    (typeface, "OS8"[nth % 3]) for nth, typeface in enumerate(TYPEFACES)
])  # fmt: skip
def test_a_plain_letter_needs_few_points(typeface, letter):
    (one,) = lettering(letter, typeface, 40.0)
    (truth,) = one.regions
    middle = np.array(truth.envelope.centroid.coords[0])
    truth = shapely.transform(truth, lambda points: points - middle)
    image = painted([(truth, BLUE)])
    (found,) = trace(read_picture(encoded(image)), TraceSettings(60.0)).regions
    assert sum(len(ring) for ring in found.nodes) < 60
    assert off(found.region, pixel_edge(image, BLUE)) < LIMIT


@pytest.mark.parametrize("degrees", [0, 7, 30, 45])
def test_corners_stay_sharp(degrees):
    truth = shapely.affinity.rotate(star(5, 25, 11), degrees)
    (found,) = traced_regions([(truth, RED)])
    near = shapely.distance(shapely.points(truth.exterior.coords), shapely.multipoints(found.nodes[0][:, :2]))
    assert near.max() < 0.3 and len(found.nodes[0]) <= 24
    sides = found.nodes[0]
    assert (np.linalg.norm(sides[:, :2] - sides[:, 4:], axis=1) < 1e-6).mean() > 0.7  # straight ones have no handles


def test_neighbours_share_their_border_without_gaps():
    wedges = [Polygon([(0, 0), (40, -40 + 20 * nth), (40, -20 + 20 * nth)]) for nth in range(4)]
    colours = ["#b8453c", "#2b5d7d", "#5d7a3a", "#c99a1c"]
    found = traced_regions(list(zip(wedges, colours, strict=True)), asked=TraceSettings(60.0, drop=frozenset()))
    whole = shapely.union_all([one.region for one in found])
    assert whole.area == pytest.approx(sum(one.region.area for one in found), abs=0.01)
    assert whole.area == pytest.approx(3600, abs=0.1)  # where more than two meet, a pixel's corner may be lost


def test_blended_edges_make_no_colours_of_their_own():
    regions = [(Point(-8, 0).buffer(12), RED), (Point(10, 4).buffer(9), BLUE), (box(-20, 14, 20, 16), "#22303a")]
    found = palette(picture_of(regions))
    assert len(found.colours) == 4
    for text in (RED, BLUE, PAPER, "#22303a"):
        wanted = [int(text[at : at + 2], 16) for at in (1, 3, 5)]
        assert np.abs(found.colours.astype(int) - wanted).max(axis=1).min() <= 3
    assert found.shares.sum() == pytest.approx(1.0) and (np.diff(found.shares) <= 0).all()


def test_a_colour_between_two_others_is_kept_where_it_is_meant():
    pink = "#d79d90"  # halfway between red and paper, as a blend would be
    picture = picture_of([(Point(-12, 0).buffer(10), RED), (Point(14, 0).buffer(8), pink)])
    found = palette(picture, 3)
    labels = labelled(picture, found)
    assert len(trace(picture, TraceSettings(60.0, 3)).regions) == 2
    middle = labels[300, 440]
    assert (labels[290:310, 430:450] == middle).all() and (labels == middle).mean() < 0.06


def test_colours_are_merged_kept_and_left_out():
    regions = [(Point(0, 0).buffer(20), RED), (Point(0, 0).buffer(10), "#8e2c22"), (box(20, 20, 26, 26), BLUE)]
    picture = picture_of(regions)
    plain = trace(picture, TraceSettings(60.0))
    names = plain.palette.names
    assert len(plain.regions) == 3 and names[plain.background] != BLUE
    dark = next(nth for nth, name in enumerate(names) if name.startswith("#8"))
    red = next(nth for nth, name in enumerate(names) if name.startswith("#b"))
    merged = trace(picture, TraceSettings(60.0, merge=((dark, red),)))
    assert len(merged.regions) == 2 and not merged.regions[0].region.interiors
    left = trace(picture, TraceSettings(60.0, drop=frozenset({plain.background, dark})))
    assert len(left.regions) == 2 and len(left.regions[0].region.interiors) == 1
    everything = trace(picture, TraceSettings(60.0, drop=frozenset()))
    assert sum(one.region.area for one in everything.regions) == pytest.approx(3600)


def test_specks_go_to_their_neighbour():
    dust = [(Point(*spot).buffer(0.3), "#22303a") for spot in np.random.default_rng(2).uniform(-28, 28, (25, 2))]
    regions = [(box(-20, -20, 20, 20), RED), *dust]
    clean = traced_regions(regions, asked=TraceSettings(60.0, specks=1.0))
    assert len(clean) == 1 and clean[0].region.area == pytest.approx(1600, rel=0.01)
    assert len(traced_regions(regions, asked=TraceSettings(60.0, specks=0.05))) > 15


def test_smoothing_calms_a_rough_edge_and_leaves_corners():
    turn = np.linspace(0, 2 * np.pi, 500, endpoint=False)
    rough = 20 + np.random.default_rng(1).normal(0, 0.15, 500)
    truth = Polygon(np.stack([rough * np.cos(turn), rough * np.sin(turn)], axis=1))
    (fine,), (calm,) = (
        traced_regions([(truth, RED)], asked=TraceSettings(60.0, smoothing=one)) for one in (0.0, 1.5)
    )
    assert len(calm.nodes[0]) < 0.5 * len(fine.nodes[0]) and calm.region.length < fine.region.length
    (square,) = traced_regions([(box(-20, -20, 20, 20), RED)], asked=TraceSettings(60.0, smoothing=1.5))
    assert square.region.area == pytest.approx(1600, rel=0.002) and len(square.nodes[0]) == 4


def test_transparent_ground_is_no_colour():
    image = painted([(Point(0, 0).buffer(20), RED)], ground=PAPER).convert("RGBA")
    there = np.linalg.norm(np.indices((600, 600)) - 299.5, axis=0) < 200
    image.putalpha(Image.fromarray((there * 255).astype(np.uint8)))
    found = trace(read_picture(encoded(image)), TraceSettings(60.0))
    assert [one.region.area for one in found.regions] == [pytest.approx(np.pi * 400, rel=0.01)]
    assert found.palette.names == ["#b8453c"]


def test_tracing_tells_how_far_it_is():
    steps = list(tracing(picture_of([(Point(0, 0).buffer(20), RED)]), TraceSettings(60.0)))
    shares = [share for share, _, _ in steps]
    assert shares == sorted(shares) and shares[-1] == 1.0 and len({what for _, what, _ in steps}) == len(steps) > 4
    assert all(found is None for *_, found in steps[:-1]) and steps[-1][2].points < 20


@pytest.mark.parametrize(
    ("asked", "words"),
    [
        (TraceSettings(0.2), "0.2 mm wide is out of bounds"),
        (TraceSettings(float("nan")), "out of bounds"),
        (TraceSettings(60.0, colours=99), "99 colours are out of bounds"),
        (TraceSettings(60.0, drop=frozenset(range(9))), "Nothing is left"),
    ],
)
def test_what_cannot_be_traced_is_told(asked, words):
    with pytest.raises(BadInput, match=words):
        trace(picture_of([(Point(0, 0).buffer(20), RED)], size=(200, 200), pixel=0.3), asked)


def test_too_many_regions_are_told_before_they_are_drawn():
    grid = np.indices((90, 90)).sum(axis=0) % 2 * 255
    with pytest.raises(BadInput, match=f"at most {MAX_REGIONS} fit into a job: use fewer colours"):
        trace(read_picture(encoded(Image.fromarray(grid.astype(np.uint8)))), TraceSettings(60.0, specks=0.0))


def test_sizes_and_turns_of_pictures():
    image = painted([(box(-20, -10, 20, 10), RED)], size=(600, 300))
    assert read_picture(encoded(image, dpi=(254, 254))).width == pytest.approx(60, abs=0.1)
    assert read_picture(encoded(image)).width == 120  # no resolution: a usual size
    assert read_picture(encoded(image, dpi=(1, 1))).width == 120
    upright = Image.Exif()
    upright[0x0112] = 6  # lies on its side
    lying = read_picture(encoded(image, "JPEG", exif=upright.tobytes(), dpi=(254, 254)))
    assert lying.colours.shape[:2] == (600, 300) and lying.width == pytest.approx(30, abs=0.1)
    small = read_picture(encoded(painted([], size=(900, 300))), longest=300)
    assert small.colours.shape == (100, 300, 3) and "300 on its longer side" in small.notes[0]


def bomb():
    """A PNG whose header promises 60,000 x 60,000 pixels."""
    import struct
    import zlib

    head = struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
    chunk = struct.pack(">I", 13) + b"IHDR" + head + struct.pack(">I", zlib.crc32(b"IHDR" + head))
    return b"\x89PNG\r\n\x1a\n" + chunk + struct.pack(">I", 0) + b"IDAT" + struct.pack(">I", zlib.crc32(b"IDAT"))


PLAIN = encoded(painted([(box(-9, -9, 9, 9), RED)], size=(120, 120), pixel=0.3))
BAD = {
    "a bomb": (bomb(), "million pixels"),
    "cut short": (PLAIN[:200], "damaged or cut short"),
    "tiny": (encoded(Image.new("RGB", (3, 3))), "too few to trace"),
    "transparent": (encoded(Image.new("RGBA", (30, 30), (0, 0, 0, 0))), "wholly transparent"),
    "no picture": (b"\x89PNG\r\n\x1a\n" + bytes(300), "no picture that is read"),
    "another format": (encoded(Image.new("RGB", (30, 30)), "GIF"), "no picture that is read"),
    "heavy": (b"\xff\xd8\xff" + bytes(21_000_000), "at most 20 MB"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_pictures_are_told(name):
    data, words = BAD[name]
    with pytest.raises(BadInput, match=words):
        read_picture(data)


def test_printing_colours_and_sixteen_bits_are_taken_with_a_word():
    image = painted([(box(-9, -9, 9, 9), RED)], size=(200, 200), pixel=0.3)
    for kind in ("PNG", "JPEG", "WEBP"):
        assert is_picture(encoded(image, kind)) and not is_picture(b"<svg/>")
    four = read_picture(encoded(image.convert("CMYK"), "JPEG"))
    assert "printing colours" in four.notes[0] and len(trace(four, TraceSettings(60.0)).regions) == 1
    deep = Image.fromarray(np.asarray(image.convert("L")).astype(np.uint16) * 200)
    found = read_picture(encoded(deep))
    assert "16 bits" in found.notes[0] and len(trace(found, TraceSettings(60.0, 2)).regions) == 1


@settings(max_examples=60)
@given(st.data())
def test_any_broken_picture_is_read_or_refused(data):
    source = bytearray(
        data.draw(st.sampled_from([PLAIN, encoded(Image.new("RGB", (40, 40)), "WEBP"), BAD["tiny"][0]]))
    )
    for _ in range(data.draw(st.integers(1, 12))):
        source[data.draw(st.integers(0, len(source) - 1))] = data.draw(st.integers(0, 255))
    try:
        picture = read_picture(bytes(source[: data.draw(st.integers(1, len(source)))]))
        trace(picture, TraceSettings(60.0))
    except BadInput as error:
        assert str(error).endswith(".") and len(str(error)) < 300


@settings(max_examples=60)
@given(st.integers(0, 10**6), st.integers(2, 5), st.floats(0.0, 3.0))
def test_any_blots_are_divided_without_gap_or_overlap(seed, count, specks):
    rng = np.random.default_rng(seed)
    coarse = rng.integers(0, count, rng.integers(2, 9, 2))
    colours = rng.integers(0, 255, (count, 3)).astype(np.uint8)
    blots = np.kron(colours[coarse].transpose(2, 0, 1), np.ones((12, 12), dtype=np.uint8)).transpose(1, 2, 0)
    height, width = blots.shape[:2]
    picture = Picture(blots, np.ones((height, width), dtype=bool), 60.0, 60.0 * height / width)
    try:
        found = trace(picture, TraceSettings(60.0, count, drop=frozenset(), specks=specks, smoothing=0.0))
    except BadInput:
        return
    regions = [one.region for one in found.regions]
    assert all(region.is_valid for region in regions)
    whole = shapely.union_all(np.array(regions, dtype=object))
    assert whole.area == pytest.approx(60.0 * 60.0 * height / width, rel=1e-3)
    assert sum(region.area for region in regions) == pytest.approx(whole.area, rel=1e-3)


def test_parts_hang_together_by_their_sides():
    labels = np.array([[0, 1, 1], [1, 0, 0], [1, 0, 2]], dtype=np.int16)
    part, kind = parts(labels, 0.0)
    assert len(kind) == 5 and len(np.unique(part[labels == 1])) == 2
    merged, kinds = parts(labels, 2.0)
    assert len(kinds) == 2 and merged[0, 0] == merged[0, 1] == merged[2, 0] and kinds[merged[2, 2]] == 0


def test_what_is_taken_lies_where_its_picture_lies():
    picture = picture_of([(Point(0, 0).buffer(20), RED), (box(-6, -6, 6, 6), BLUE), (box(20, 20, 28, 26), BLUE)])
    found = trace(picture, TraceSettings(60.0))
    lies = Backdrop("x", 10.0, -5.0, 60.0, 90.0)
    job = check_job(take_traced(Job(brief=brief_for("felt", "h200x300")), found, lies, [1]))
    assert [shape.name for shape in job.shapes] == ["Sail red cotton", "Harbour blue cotton"]
    red, blue = (region_of(shape) for shape in job.shapes)
    assert red.centroid.distance(Point(10, -5)) < 0.1 and blue.centroid.distance(Point(10 - 23, -5 + 24)) < 0.1
    assert all(len(shape.nodes) == len(shape.rings) for shape in job.shapes)
    with pytest.raises(BadInput, match="take at least one"):
        take_traced(job, found, lies, [0, 1, 2])
    wide = backdrop_of(job, "x", 600.0, 300.0)
    assert wide.backdrop.width == pytest.approx(0.92 * job.library.hoops[job.brief.hoop].width)


@pytest.mark.parametrize(("mode", "kind"), [("RGB", "JPEG"), ("P", "PNG"), ("I;16", "PNG"), ("RGBA", "WEBP")])
def test_a_large_picture_is_made_smaller_before_anything_else_and_keeps_its_size(mode, kind):
    patches = np.random.default_rng(1).integers(0, 255, (30, 50), dtype=np.uint8)
    grey = Image.fromarray(np.kron(patches, np.ones((90, 90), dtype=np.uint8)))  # 4,500 x 2,700 pixels
    image = Image.fromarray(np.asarray(grey).astype(np.uint16) * 257) if mode == "I;16" else grey.convert(mode)
    out = io.BytesIO()
    image.save(out, kind, **({"dpi": (300, 300)} if kind != "WEBP" else {}))
    picture = read_picture(out.getvalue())
    assert picture.colours.shape == (1200, 2000, 3)
    size = (120.0, 72.0) if kind == "WEBP" else (381.0, 228.6)  # the usual one where it does not say its own
    assert (picture.width, picture.height) == pytest.approx(size, abs=0.05)
    assert any("4500 × 2700 pixels: 2000 on its longer side" in note for note in picture.notes)
    shown = picture.colours[20::40, 20::40, 0]
    assert np.corrcoef(shown.ravel(), patches.ravel())[0, 1] > 0.97
