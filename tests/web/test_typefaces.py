"""Typefaces of a shop: brought in with their licence, set and judged by its people, known to no other shop."""

import io
from importlib.resources import files

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from fontTools.ttLib import TTFont

from velamen.core.job.document import Job, brief_for
from velamen.web.jobs import history
from velamen.web.library.models import Typeface

SAYS = {"licence": "SIL Open Font License", "allowed": "yes"}


@pytest.fixture(scope="module")
def ttf():
    """A typeface as people have it: an unpacked file."""
    font = TTFont(io.BytesIO(files("velamen.core.artwork").joinpath("typefaces", "oswald.woff").read_bytes()))
    font.flavor, out = None, io.BytesIO()
    font.save(out)
    return out.getvalue()


def bring(client, data, **says):
    return client.post(reverse("typefaces"), {"file": SimpleUploadedFile("sea.ttf", data), **says})


def empty_job(shop, maren):
    return history.create(shop, maren, Job(name="Cap", brief=brief_for("cap", "cap130x60")))


def set_text(client, job, **asked):
    sent = {"do": "text", "text": "TIDE", "letter_height": "25", "letter_spacing": "0", "fit_width": "0",
            "letter_arch": "0", "letter_circle": "0", "as": "letters", "revision": job.head.number, **asked}  # fmt: skip
    return client.post(reverse("edit-shapes", args=[job.pk]), sent)


def test_a_typeface_is_brought_in_with_its_licence_set_in_and_taken_away(signed_in, shop, maren, ttf):
    for says, told in (({}, "Say what the licence"), ({"licence": "bought"}, "lets you sew with it")):
        answer = bring(signed_in, ttf, **says)
        assert answer.status_code == 422 and told in answer.content.decode() and not Typeface.objects.exists()
    assert bring(signed_in, ttf, **SAYS).status_code == 302
    (one,) = Typeface.objects.all()
    page = signed_in.get(reverse("typefaces")).content.decode()
    assert one.name in page and "SIL Open Font License" in page and "fits, strokes" in page
    job = empty_job(shop, maren)
    assert one.key in signed_in.get(reverse("artwork", args=[job.pk])).content.decode()
    assert set_text(signed_in, job, typeface=one.key, sewn="puff").status_code == 200
    job.refresh_from_db()
    document = job.head.read()
    assert [piece.construct for piece in document.pieces] == ["puff"] * 4
    assert document.makers[0].typeface == one.key
    signed_in.post(reverse("remove-typeface", args=[one.key]))
    assert not Typeface.objects.exists()
    assert signed_in.get(reverse("prove", args=[job.pk])).status_code == 200  # letters stay as they are
    assert set_text(signed_in, job, typeface=one.key).status_code == 422


@pytest.mark.parametrize("data", [b"", b"<svg/>", b"OTTO" + bytes(300)])
def test_a_file_that_is_none_is_told(signed_in, data):
    answer = bring(signed_in, data, **SAYS)
    assert answer.status_code == 422 and 'class="wrong"' in answer.content.decode()
    assert not Typeface.objects.exists()


def test_another_shop_neither_sees_nor_sets_it(client, shop, maren, stranger, ttf):
    client.force_login(maren)
    bring(client, ttf, **SAYS)
    (one,) = Typeface.objects.all()
    client.force_login(stranger)
    assert one.key not in client.get(reverse("typefaces")).content.decode()
    theirs = history.create(stranger.member.shop, stranger, Job(name="Cap", brief=brief_for("cap", "cap130x60")))
    answer = set_text(client, theirs, typeface=one.key)
    assert answer.status_code == 422 and "There is no typeface" in answer.content.decode()
    client.post(reverse("remove-typeface", args=[one.key]))
    assert Typeface.objects.count() == 1


def test_typefaces_are_judged_for_a_text_sewn_as_puff(signed_in, shop):
    asked = {"construct": "puff", "text": "TIDE", "height": "25 mm"}
    found = signed_in.get(reverse("typefaces-judged"), asked).json()
    assert found["rubik"] == {"fits": True, "told": found["rubik"]["told"]} and not found["graduate"]["fits"]
    small = signed_in.get(reverse("typefaces-judged"), {**asked, "height": "0.3 in"}).json()
    assert not small["rubik"]["fits"]
    for wrong in (
        {"construct": "fill"},
        {"construct": "nothing"},
        {"height": "tall"},
        {"height": "-3"},
        {"text": " "},
    ):
        assert signed_in.get(reverse("typefaces-judged"), {**asked, **wrong}).json() == {}
    missing = signed_in.get(reverse("typefaces-judged"), {**asked, "text": "Ж"}).json()
    assert "no letter" in missing["rubik"]["told"]
