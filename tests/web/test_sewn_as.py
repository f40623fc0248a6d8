"""Build: pieces sewn as any construction, routes of one thread, and open lines."""

import re
from pathlib import Path

import numpy as np
import pytest
from django.urls import reverse
from scipy.spatial import KDTree

from velamen.core.constructions import constructions
from velamen.core.edits.stack.thread_routes import neighbours
from velamen.core.job.document import Job as Document
from velamen.core.job.document import Piece
from velamen.core.job.shape import Shape
from velamen.core.outputs.stitch_picture import gallery_page, stitch_picture, texture_picture
from velamen.core.stitching.stagger import staggers
from velamen.web.jobs import history

ROOT = Path(__file__).resolve().parents[2]
PICTURES = ROOT / "src" / "velamen" / "web" / "static" / "velamen" / "stitches"
SQUARE = [(0.0, 0.0), (12.0, 0.0), (12.0, 9.0), (0.0, 9.0)]


def makeup(client, job, piece, construct, revision):
    data = {"revision": revision, "name": "Part", "cloth": "sail_red", "thread": "140", "construct": construct}
    return client.post(reverse("set-makeup", args=[job.pk, piece]), data, headers={"HX-Request": "true"})


@pytest.fixture
def three(shop, maren):
    """A job of two touching squares and an open line, all of one thread."""
    squares = [Shape(f"s{nth}", f"square {nth}", [[(x + 12.0 * nth, y) for x, y in SQUARE]]) for nth in (1, 2)]
    line = Shape("s3", "wave", [[(0.0, 20.0), (20.0, 24.0), (40.0, 20.0)]], open=True)
    pieces = [Piece(f"p{nth}", f"square {nth}", f"s{nth}", "fill", thread="140") for nth in (1, 2)]
    return history.create(shop, maren, Document(name="Three", shapes=[*squares, line], pieces=pieces))


def test_every_construction_can_be_chosen_with_its_picture_and_builds(signed_in, job):
    for nth, name in enumerate(sorted(constructions()), 1):
        answer = makeup(signed_in, job, "p1", name, job.head.number)
        assert answer.status_code == 200, name
        page = signed_in.get(reverse("piece", args=[job.pk, "p1"]), {"open": "stitches"}).content.decode()
        assert f'value="{name}" checked' in page and f"velamen/stitches/{name}" in page and nth
        job.refresh_from_db()
        assert job.head.read().pieces[0].construct == name
        assert signed_in.get(reverse("plan", args=[job.pk])).status_code == 200
        for stage in ("build", "prove", "hand-over"):
            assert signed_in.get(reverse(stage, args=[job.pk])).status_code == 200


def alike(made, kept):
    """Whether two pictures show the same stitches; machines round differently."""
    assert made.count("<path") >= 1 and "nan" not in made
    here, there = (np.array(re.findall(r"(-?\d+\.\d+) (-?\d+\.\d+)", text), dtype=float) for text in (made, kept))
    assert abs(len(here) - len(there)) <= 0.02 * len(here), "run ./velamen docs"
    for one, other in ((here, there), (there, here)):
        assert np.quantile(KDTree(one).query(other)[0], 0.99) < 0.25, "run ./velamen docs"


@pytest.mark.parametrize("name", sorted(constructions()))
def test_pictures_are_current(name):
    alike(stitch_picture(constructions()[name]), (PICTURES / f"{name}.svg").read_text(encoding="utf-8"))


@pytest.mark.parametrize("key", sorted(staggers()))
def test_textures_are_chosen_by_pictures_that_are_current(signed_in, job, key):
    alike(texture_picture(key), (PICTURES.parent / "textures" / f"{key}.svg").read_text(encoding="utf-8"))
    makeup(signed_in, job, "p1", "fill", 1)
    job.refresh_from_db()
    data = {"revision": job.head.number, "key": "fill_stagger", "fill_stagger": key}
    assert signed_in.post(reverse("set-value", args=[job.pk, "p1"]), data, HTTP_HX_REQUEST="true").status_code == 200
    page = signed_in.get(reverse("piece", args=[job.pk, "p1"]), {"open": "fill_stagger"}).content.decode()
    assert page.count("velamen/textures/") == len(staggers()) + 1 and f'value="{key}" checked' in page


def test_a_bean_is_bolder_than_a_run_in_the_chooser():
    bean, run = (stitch_picture(constructions()[name]) for name in ("bean", "run"))
    assert bean.count("M") > 2 * run.count("M")  # threads beside one another


def test_the_gallery_shows_every_construction():
    assert (ROOT / "docs" / "stitches.md").read_text(encoding="utf-8") == gallery_page(), "run ./velamen docs"
    assert all(f"`{name}`" in gallery_page() for name in constructions())
    assert {path.stem for path in PICTURES.iterdir()} == set(constructions())


def test_a_blend_offers_threads_of_the_library_and_refuses_others(signed_in, job):
    makeup(signed_in, job, "p1", "blend", 1)
    job.refresh_from_db()
    page = signed_in.get(reverse("piece", args=[job.pk, "p1"])).content.decode()
    assert 'id="v-blend_thread_2"' in page and "116 Lamp black</option>" in page

    def thread(key):
        job.refresh_from_db()
        data = {"revision": job.head.number, "key": "blend_thread_3", "blend_thread_3": key}
        return signed_in.post(reverse("set-value", args=[job.pk, "p1"]), data, headers={"HX-Request": "true"})

    assert thread("116").status_code == 200
    answer = thread("no such")
    assert answer.status_code == 422 and "no such" in answer.content.decode()
    job.refresh_from_db()
    assert job.head.read().pieces[0].own == {"blend_thread_3": "116"}


def route(client, job, do, piece="p1", **data):
    job.refresh_from_db()
    data = {"revision": job.head.number, "do": do, **data}
    return client.post(reverse("set-route", args=[job.pk, piece]), data, headers={"HX-Request": "true"})


def test_pieces_of_one_thread_are_sewn_as_a_route_and_taken_apart(signed_in, three):
    assert neighbours(three.head.read(), "p2") == ["p1", "p2"]
    page = signed_in.get(reverse("piece", args=[three.pk, "p1"])).content.decode()
    assert "Sew 2 pieces of this thread as one route" in page
    assert route(signed_in, three, "make").status_code == 200
    page = signed_in.get(reverse("piece", args=[three.pk, "p1"])).content.decode()
    assert "2 pieces sewn on as one route: <strong>1 trim</strong>, 2 without it" in page
    route(signed_in, three, "set", start="30, 4", end="")
    page = signed_in.get(reverse("piece", args=[three.pk, "p1"])).content.decode()
    assert 'value="30, 4"' in page
    three.refresh_from_db()
    assert three.head.read().routes[0].start == (30.0, 4.0)
    for bad in ("here", "1", "1, 2, 3", "nan, 1", "9999, 0"):
        answer = route(signed_in, three, "set", start=bad)
        assert answer.status_code == 422 and "The start" in answer.content.decode()
    route(signed_in, three, "drop")
    assert "Sew 2 pieces" in signed_in.get(reverse("piece", args=[three.pk, "p1"])).content.decode()
    three.refresh_from_db()
    assert three.head.read().routes == []
    assert (
        route(signed_in, three, "set").status_code == 422 and route(signed_in, three, "make", "p9").status_code == 422
    )


def test_a_job_with_a_route_outlives_the_removal_of_its_pieces(signed_in, three):
    route(signed_in, three, "make")
    three.refresh_from_db()
    data = {"revision": three.head.number, "do": "remove", "piece": "p1"}
    assert signed_in.post(reverse("edit-stack", args=[three.pk]), data).status_code == 200
    assert signed_in.get(reverse("build", args=[three.pk])).status_code == 200


def test_an_open_line_is_sewn_from_the_board_and_offers_lines_alone(signed_in, three):
    data = {"revision": three.head.number, "do": "sew-line", "ids": "s3"}
    answer = signed_in.post(reverse("edit-shapes", args=[three.pk]), data, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    three.refresh_from_db()
    piece = three.head.read().pieces[-1]
    assert (piece.shape, piece.construct) == ("s3", "run")
    page = signed_in.get(reverse("piece", args=[three.pk, piece.id]), {"open": "stitches"}).content.decode()
    assert 'value="stem"' in page and 'value="fill"' not in page and 'value="applique"' not in page
    answer = makeup(signed_in, three, piece.id, "fill", three.head.number)
    assert answer.status_code in (409, 422) and "cannot be sewn" in answer.content.decode()
    three.refresh_from_db()
    assert three.head.read().pieces[-1].construct == "run"
    assert makeup(signed_in, three, piece.id, "stem", three.head.number).status_code == 200
