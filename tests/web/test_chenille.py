"""Chenille over the web: made of an appliqué by one button, its layers chosen, its channels proved."""

from django.urls import reverse
from shapely import box

from core.jobs import job_of
from velamen.web.jobs import history


def test_an_applique_is_made_chenille_by_one_button_and_its_layers_are_chosen(signed_in, shop, maren):
    job = history.create(shop, maren, job_of(box(-30, -30, 30, 30), base="felt", hoop="h200x300"))
    page = signed_in.get(reverse("piece", args=[job.pk, "p1"]), {"open": "sewing"}).content.decode()
    assert "Make it chenille" in page and "second tack-down, cover and their values are dropped" in page
    sent = {"do": "turn", "piece": "p1", "construct": "chenille", "revision": 1}
    assert signed_in.post(reverse("edit-stack", args=[job.pk]), sent).status_code == 200
    sent = {"key": "chenille_cloth_2", "chenille_cloth_2": "deck_cream", "revision": 2}
    assert signed_in.post(reverse("set-value", args=[job.pk, "p1"]), sent).status_code == 200
    job.refresh_from_db()
    (piece,) = job.head.read().pieces
    assert (piece.construct, piece.own) == ("chenille", {"chenille_cloth_2": "deck_cream"})
    page = signed_in.get(reverse("piece", args=[job.pk, "p1"]), {"open": "sewing"}).content.decode()
    assert "Make it chenille" not in page and "Channels can be cut" in page and "Deck cream" in page
    page = signed_in.get(reverse("prove", args=[job.pk])).content.decode()
    assert "Channels" in page and "m to cut, about" in page
    sent = {"key": "chenille_cloth_2", "chenille_cloth_2": "moss", "revision": 3}
    assert signed_in.post(reverse("set-value", args=[job.pk, "p1"]), sent).status_code == 422
