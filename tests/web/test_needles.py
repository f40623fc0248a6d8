"""Needle points on Build: sent, edited, kept as a motif, and a piece turned into them."""

import json

import numpy as np
import pytest
from django.urls import reverse

from velamen.core.building.build import build_job
from velamen.core.edits.stack.needle_points import EDITS
from velamen.core.job.document import change
from velamen.web.jobs import history
from velamen.web.jobs.models import Revision


@pytest.fixture
def run(shop, maren, job):
    """A job whose piece is a run."""
    document = job.head.read()
    pieces = [change(document.pieces[0], construct="run")]
    return history.create(shop, maren, change(document, pieces=pieces))


def points(client, job, piece="p1"):
    data = client.get(reverse("needle-data", args=[job.pk, piece])).content
    size = int.from_bytes(data[:4], "little")
    header = json.loads(data[4 : 4 + size])
    xy = np.frombuffer(data[4 + size :], dtype="<f4", count=2 * header["rows"]).reshape(-1, 2)
    return xy, header["counts"]


def send(client, job, what="edit-needles", piece="p1", **sent):
    job.refresh_from_db()
    answer = client.post(
        reverse(what, args=[job.pk, piece]), {"revision": job.head.number, **sent}, headers={"HX-Request": "true"}
    )
    job.refresh_from_db()
    return answer


@pytest.fixture
def listed(signed_in, run):
    assert send(signed_in, run, "turn-into-needles").status_code == 200
    assert run.head.read().pieces[0].construct == "stitches"
    return run


def test_points_are_sent_as_they_are_sewn(signed_in, run):
    xy, counts = points(signed_in, run)
    sewn = build_job(run.head.read()).pieces[0].sewn[0].strands
    assert counts == [len(one.xy) for one in sewn]
    assert np.allclose(xy, np.concatenate([one.xy for one in sewn]), atol=1e-3)
    assert signed_in.get(reverse("needle-data", args=[run.pk, "p9"])).status_code in (400, 422)


def test_an_edit_says_what_is_chosen_then_and_is_undone(signed_in, listed):
    before, _ = points(signed_in, listed)
    answer = send(signed_in, listed, do="move", points="8-11 20", dx="3", dy="-2")
    assert 'id="needles-next" value="8-11 20-20"' in answer.content.decode() and answer["X-Edited"]
    after, _ = points(signed_in, listed)
    moved = np.abs(after - before).max(axis=1) > 1.0
    assert np.flatnonzero(moved).tolist() == [8, 9, 10, 11, 20]
    assert listed.head.label == "Needle points moved"
    signed_in.post(reverse("undo", args=[listed.pk]), {"revision": listed.head.number})
    listed.refresh_from_db()
    assert np.array_equal(points(signed_in, listed)[0], before)


@pytest.mark.parametrize("do", sorted(EDITS))
def test_every_edit_is_answered(signed_in, listed, do):
    _, counts = points(signed_in, listed)
    chosen = f"8-{min(counts[0], 24)}" if do != "cut" else "12"
    answer = send(signed_in, listed, do=do, points=chosen, dx="5", dy="0", degrees="20", least="4")
    assert answer.status_code == (422 if do == "join" else 200), answer.content[-600:]


def test_inches_are_understood(signed_in, listed, client):
    before, _ = points(signed_in, listed)
    signed_in.post(reverse("set-unit"), {"unit": "in"})
    send(signed_in, listed, do="move", points="8", dx="0.1", dy="0")
    after, _ = points(signed_in, listed)
    assert after[8, 0] - before[8, 0] == pytest.approx(2.54, abs=1e-2)


@pytest.mark.parametrize("sent", [
    {"do": "move", "points": "", "dx": "1"}, {"do": "move", "points": "1-x", "dx": "1"}, {"do": "fly", "points": "8"},
    {"do": "move", "points": "99999", "dx": "1"}, {"do": "move", "points": "8", "dx": "far"},
    {"do": "thin", "points": "8-12", "least": ""}, {"do": "turn", "points": "8", "degrees": "nan"},
    {"do": "move", "points": "8", "dx": "1001"}, {},
])  # fmt: skip
def test_what_cannot_be_is_told_in_the_panel_and_not_saved(signed_in, listed, sent):
    count = Revision.objects.count()
    answer = send(signed_in, listed, **sent)
    assert answer.status_code == 422 and 'role="alert"' in answer.content.decode(), sent
    assert Revision.objects.count() == count


def test_a_matched_piece_shows_what_was_changed_by_hand_and_lets_it_go(signed_in, run):
    assert send(signed_in, run, do="delete", points="8").status_code == 200
    page = signed_in.get(reverse("build", args=[run.pk]) + "?open=needles").content.decode()
    assert "1 by hand" in page and "Let go of hand changes" in page and "Turn into needle points" in page
    assert "turn it into needle points" in send(signed_in, run, do="thin", points="8-12", least="4").content.decode()
    send(signed_in, run, "turn-into-needles", do="let_go")
    assert run.head.read().pieces[0].by_hand == []


def test_a_stretch_is_kept_as_a_motif(signed_in, listed, shop):
    answer = send(signed_in, listed, "keep-points", points="5-45", name="Rope end")
    assert answer.status_code == 200 and "is a motif of the library now" in answer.content.decode()
    assert shop.rows.filter(kind="motifs").exists()
    for wrong in ({"points": "5", "name": "x"}, {"points": "5-14", "name": ""}, {"points": "5-8 12-14", "name": "x"}):
        assert send(signed_in, listed, "keep-points", **wrong).status_code == 422


def test_an_applique_does_not_become_needle_points(signed_in, job):
    answer = send(signed_in, job, "turn-into-needles")
    assert answer.status_code == 422 and "by hand between its passes" in answer.content.decode()
