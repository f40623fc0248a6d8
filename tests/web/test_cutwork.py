"""Cutwork over the web: guide lines laid, bent and taken away, and where bars would lie while one is bent."""

import numpy as np
import pytest
from django.urls import reverse
from shapely import box

from core.jobs import job_of
from velamen.core.job.document import change
from velamen.web.jobs import history


@pytest.fixture
def napkin(shop, maren):
    document = job_of(box(-30, -15, 30, 15), base="firm_woven", hoop="h130x180")
    pieces = [change(one, construct="cutwork") for one in document.pieces]
    return history.create(shop, maren, change(document, pieces=pieces))


def guides(job):
    job.refresh_from_db()
    return [np.array(line.points) for line in job.head.read().shapes[0].lines]


def test_a_guide_line_is_laid_bent_and_taken_away(signed_in, napkin):
    address = reverse("set-guide", args=[napkin.pk, "p1"])
    assert signed_in.post(address, {"do": "lay", "revision": 1}).status_code == 200
    (laid,) = guides(napkin)
    assert laid[[0, -1], 0].tolist() == [-30.0, 30.0]
    page = signed_in.get(reverse("piece", args=[napkin.pk, "p1"]), {"open": "guides"}).content.decode()
    assert "Bend line 1" in page and "Lay a guide line" in page
    sent = {"do": "bend", "nth": "0", "points": "-30,0 0,8 30,0", "revision": 2}
    assert signed_in.post(address, sent).status_code == 200
    assert guides(napkin)[0].tolist() == [[-30, 0], [0, 8], [30, 0]]
    assert signed_in.post(address, {"do": "lay", "revision": 3}).status_code == 200
    assert len(guides(napkin)) == 2
    assert signed_in.post(address, {"do": "take", "nth": "0", "revision": 4}).status_code == 200
    assert len(guides(napkin)) == 1 and guides(napkin)[0].tolist() != [[-30, 0], [0, 8], [30, 0]]
    assert signed_in.post(reverse("undo", args=[napkin.pk]), {"revision": 5}).status_code in (200, 302)


@pytest.mark.parametrize(
    ("sent", "why"),
    [
        ({"do": "bend", "nth": "4", "points": "0,0 9,9"}, "gone"),
        ({"do": "bend", "nth": "x", "points": "0,0 9,9"}, "gone"),
        ({"do": "bend", "nth": "0", "points": "0,0 nan,9"}, "cannot be read"),
        ({"do": "bend", "nth": "0", "points": "0,0"}, "cannot be read"),
        ({"do": "bend", "nth": "0", "points": "0,0 0.1,0.1"}, "no length"),
        ({"do": "bend", "nth": "0", "points": "200,200 300,300"}, "lies off its shape"),
        ({"do": "take", "nth": "3"}, "gone"),
        ({"do": "draw"}, "not known"),
    ],
)
def test_what_cannot_be_a_guide_line_gets_a_sentence_and_changes_nothing(signed_in, napkin, sent, why):
    address = reverse("set-guide", args=[napkin.pk, "p1"])
    signed_in.post(address, {"do": "lay", "revision": 1})
    before = guides(napkin)[0].tolist()
    answer = signed_in.post(address, {**sent, "revision": 2})
    assert answer.status_code == 422 and why in answer.content.decode()
    assert guides(napkin)[0].tolist() == before
    if sent["do"] == "bend":
        asked = {key: sent[key] for key in ("nth", "points")}
        told = signed_in.get(reverse("led", args=[napkin.pk, "p1"]), asked)
        assert told.status_code == 422 and why in told.json()["wrong"]


def test_bars_follow_a_guide_that_is_bent_and_nothing_is_saved_by_it(signed_in, napkin):
    signed_in.post(reverse("set-guide", args=[napkin.pk, "p1"]), {"do": "lay", "revision": 1})
    address = reverse("led", args=[napkin.pk, "p1"])
    straight, bent = (
        signed_in.get(address, {"nth": 0, "points": points}).json()["lines"]
        for points in ("-30,0 30,0", "-30,-12 0,12 30,-12")
    )
    leaning = [[abs(line[-1][0] - line[0][0]) for line in lines] for lines in (straight, bent)]
    assert max(leaning[0]) < 0.2 and max(leaning[1]) > 2.0
    napkin.refresh_from_db()
    assert napkin.head.number == 2
    assert signed_in.get(reverse("led", args=[napkin.pk, "p9"]), {"nth": 0, "points": "0,0 9,9"}).status_code == 422


def test_stops_dragged_across_the_rows_are_set_together_and_rows_follow_meanwhile(signed_in, shop, maren):
    document = job_of(box(-30, -15, 30, 15), base="firm_woven", hoop="h130x180")
    own = {"blend_thread_2": "119", "blend_thread_3": "121", "blend_angle": 0.0}
    pieces = [change(one, construct="blend", thread="140", own=own) for one in document.pieces]
    job = history.create(shop, maren, change(document, pieces=pieces))
    page = signed_in.get(reverse("piece", args=[job.pk, "p1"])).content.decode()
    assert page.count('role="slider"') == 3 and 'aria-valuenow="50.0"' in page
    asked = {"blend_place_1": "0", "blend_place_2": "10", "blend_place_3": "20"}
    early = signed_in.get(reverse("led", args=[job.pk, "p1"]), asked).json()
    late = signed_in.get(reverse("led", args=[job.pk, "p1"]), {**asked, "blend_place_3": "90"}).json()
    assert len(set(early["colours"])) == 3
    last = early["colours"][-1]
    assert early["colours"].count(last) > 1.5 * late["colours"].count(last)
    sent = {**asked, "revision": 1}
    assert signed_in.post(reverse("set-stops", args=[job.pk, "p1"]), sent).status_code == 200
    job.refresh_from_db()
    own = job.head.read().pieces[0].own
    assert (own["blend_place_2"], own["blend_place_3"]) == (10, 20)  # the first lies where it would by itself
    wrong = signed_in.post(reverse("set-stops", args=[job.pk, "p1"]), {"blend_place_2": "400", "revision": 2})
    assert wrong.status_code == 422 and "out of bounds" in wrong.content.decode()
    assert signed_in.get(reverse("led", args=[job.pk, "p1"]), {"blend_place_2": "x"}).status_code == 422
