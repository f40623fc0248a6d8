"""No saved state shuts a door: pages of a job open whatever was once saved in it, and say what is wrong."""

import pytest
from django.urls import reverse
from shapely import box

from core.jobs import job_of
from velamen.core.edits.shapes import arranging
from velamen.core.job.document import Piece, change
from velamen.core.job.reading import write_job
from velamen.core.job.shape import Shape
from velamen.web.jobs import history
from velamen.web.jobs.models import Revision
from velamen.web.jobs.packing import whole

PAGES = ("brief", "artwork", "build", "prove", "hand-over", "plan", "picture", "density", "stack-saves")
GOOD = job_of(box(0, 0, 40, 40), box(60, 0, 90, 30))
BOW = [[(0.0, 0.0), (30.0, 30.0), (30.0, 0.0), (0.0, 30.0)]]


def with_shape(**fields):
    return change(GOOD, shapes=[GOOD.shapes[0], change(GOOD.shapes[1], **fields)])


def with_piece(**fields):
    return change(GOOD, pieces=[GOOD.pieces[0], change(GOOD.pieces[1], **fields)])


BROKEN = {
    "sized to nothing": (arranging.sized(GOOD, ["s1", "s2"], 0.6, None), "too small to sew"),
    "far away": (with_shape(rings=[[(1e20, 0.0), (1e20, 9.0), (0.0, 9.0)]]), "off the field"),
    "as wide as a street": (with_shape(rings=[[(-1900.0, 0.0), (1900.0, 0.0), (0.0, 9.0)]]), "mm across"),
    "crossing itself": (with_shape(rings=BOW), "crosses itself"),
    "a cloth that is gone": (with_piece(cloth="tin"), "no cloth"),
    "a thread that is gone": (with_piece(thread="0"), "no thread"),
    "a value that is gone": (with_piece(own={"cover_shine": 3.0}), "does not know"),
    "stitches too many": (with_piece(construct="cross_stitch", own={"cross_size": 0.01}), ""),
    "round what is broken": (
        change(with_shape(rings=BOW), pieces=[*GOOD.pieces, Piece("p3", "Ground", "", "knockdown", around=["p2"])]),
        "crosses itself",
    ),
    "a line too short": (
        change(GOOD, shapes=[*GOOD.shapes, Shape("s3", "Dot", [[(0.0, 0.0), (0.2, 0.0)]], open=True)],
               pieces=[*GOOD.pieces, Piece("p3", "Dot", "s3", "run")]),
        "too short to sew",
    ),
}  # fmt: skip


def saved(shop, maren, document):
    return history.create(shop, maren, document)


@pytest.mark.parametrize("name", BROKEN)
def test_every_page_of_a_job_opens_and_says_what_is_wrong(signed_in, shop, maren, name):
    document, words = BROKEN[name]
    job = saved(shop, maren, document)
    for page in PAGES:
        answer = signed_in.get(reverse(page, args=[job.pk]))
        assert answer.status_code == 200, (page, answer.content.decode()[:400])
    for page in ("build", "prove", "hand-over") if words else ():
        assert words in signed_in.get(reverse(page, args=[job.pk])).content.decode(), page
    if words:
        refused = signed_in.get(reverse("file", args=[job.pk, "stitches.csv"]))
        assert refused.status_code == 422 and words in refused.content.decode()
    assert signed_in.get(reverse("file", args=[job.pk, "job.json"])).content == write_job(document)
    assert signed_in.get(reverse("board")).status_code == 200


def test_a_broken_piece_does_not_keep_others_from_being_edited(signed_in, shop, maren):
    job = saved(shop, maren, BROKEN["far away"][0])
    heads = {"HX-Request": "true"}
    data = {"key": "cover_width", "cover_width": "4", "revision": 1}
    assert signed_in.post(reverse("set-value", args=[job.pk, "p1"]), data, headers=heads).status_code == 200
    data = {"do": "move", "ids": "s2", "dx": "900", "dy": "0", "revision": 2}
    assert signed_in.post(reverse("edit-shapes", args=[job.pk]), data, headers=heads).status_code == 422
    data = {"do": "remove", "piece": "p2", "revision": 2}
    assert signed_in.post(reverse("edit-stack", args=[job.pk]), data, headers=heads).status_code == 200
    job.refresh_from_db()
    document = job.head.read()
    assert [one.id for one in document.pieces] == ["p1"] and document.pieces[0].own == {"cover_width": 4.0}
    assert "set aside" not in signed_in.get(reverse("build", args=[job.pk])).content.decode()


def test_an_edit_may_not_break_a_job(signed_in, shop, maren):
    job = saved(shop, maren, GOOD)
    heads = {"HX-Request": "true"}
    clip = write_job(BROKEN["far away"][0]).decode()
    answer = signed_in.post(
        reverse("edit-shapes", args=[job.pk]), {"do": "paste", "clip": clip, "revision": 1}, headers=heads
    )
    assert answer.status_code == 422 and "off the field" in answer.content.decode()
    job.refresh_from_db()
    assert job.head.number == 1


def test_a_job_that_cannot_be_read_leaves_the_board_open(signed_in, shop, maren):
    good, bad = saved(shop, maren, GOOD), saved(shop, maren, GOOD)
    odd = saved(shop, maren, with_piece(construct="moss"))
    history.save(bad, 1, maren, change(GOOD, name="Torn"), "torn")
    Revision.objects.filter(job=bad, number=2).update(packed=whole(b'{"velamen_job": 2, "pieces": 7}'), base=None)
    page = signed_in.get(reverse("board")).content.decode()
    assert "Torn" in page and reverse("build", args=[good.pk]) in page
    assert signed_in.get(reverse("picture", args=[bad.pk])).status_code in (200, 422)
    for job, words in ((bad, "cannot be read"), (odd, "no construction")):
        answer = signed_in.get(reverse("build", args=[job.pk]))
        assert answer.status_code == 422 and words in answer.content.decode()
    assert "Back to the version before" in signed_in.get(reverse("build", args=[bad.pk])).content.decode()
    assert signed_in.post(reverse("undo", args=[bad.pk]), {"revision": 2}).status_code == 302
    assert signed_in.get(reverse("build", args=[bad.pk])).status_code == 200
