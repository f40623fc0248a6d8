"""The shop's library: changed, added, restored; jobs keep what they took until their brief is saved."""

import json

import pytest
from django.urls import reverse

from velamen.core.materials.library import shipped
from velamen.core.materials.records import KINDS
from velamen.web.accounts.models import Member
from velamen.web.library import rows
from velamen.web.library.models import Preset, Row

KINDS_AND_KEYS = [(kind, next(iter(shipped().rows(kind)))) for kind in KINDS]


def form_of(kind, key, library=None, **changed):
    """What a row's form sends."""
    fields = (library or shipped()).fields(kind, key)
    settings = {one.key: one for one in KINDS[kind].settings}
    sent = {
        name: settings[name].show(value) if settings[name].kind == "switch" else value
        for name, value in fields.items()
    }
    return {**sent, **changed}


def save(client, kind, key, **changed):
    return client.post(reverse("row", args=[kind, key]), form_of(kind, key, **changed))


@pytest.mark.parametrize(("kind", "key"), KINDS_AND_KEYS)
def test_every_kind_is_listed_edited_and_restored(signed_in, shop, kind, key):
    page = signed_in.get(reverse("library", args=[kind])).content.decode()
    assert shipped().rows(kind)[key].name in page
    assert signed_in.get(reverse("row", args=[kind, key])).status_code == 200
    assert save(signed_in, kind, key, name="Another name").status_code == 302
    assert rows.shop_library(shop).rows(kind)[key].name == "Another name"
    assert ">changed<" in signed_in.get(reverse("library", args=[kind])).content.decode()
    signed_in.post(reverse("restore-row", args=[kind, key]))
    assert rows.shop_library(shop) is shipped() and not Row.objects.exists()


def test_a_copy_becomes_a_row_of_ones_own(signed_in, shop):
    page = signed_in.get(reverse("row", args=["bases", "terry"]) + "?copy=1").content.decode()
    assert "Terry towel copy" in page
    answer = save(signed_in, "bases", "terry", name="Sauna towel", pile="6", copy="1")
    assert answer.status_code == 302 and rows.shop_library(shop).bases["sauna_towel"].pile == 6
    save(signed_in, "bases", "terry", name="Sauna towel", pile="7", copy="1")
    assert rows.shop_library(shop).bases["sauna_towel_2"].pile == 7
    assert ">own<" in signed_in.get(reverse("library", args=["bases"])).content.decode()
    assert "Sauna towel" in signed_in.get(reverse("new-job")).content.decode()


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"pile": "400"}, "Pile height 400 is out of bounds: use 0 to 40 mm."),
        ({"pull": "much"}, "Pull, per side cannot be &#x27;much&#x27;"),
        ({"colour": "red"}, "write it as #rrggbb"),
        ({"name": ""}, "Name must be 1 to 120 characters long"),
        ({"stabilizer": "cardboard"}, "no stabilizer for the base"),
        ({"stretch": "rubber"}, "Stretch cannot be"),
    ],
)
def test_bad_fields_are_told_at_their_place_and_save_nothing(signed_in, changed, words):
    answer = save(signed_in, "bases", "terry", **changed)
    assert answer.status_code == 422 and words in answer.content.decode()
    assert not Row.objects.exists()


def test_lengths_are_taken_in_inches_too(signed_in, shop):
    save(signed_in, "bases", "terry", pile='1/4"')
    assert rows.shop_library(shop).bases["terry"].pile == pytest.approx(6.35)


def test_a_row_that_others_stand_on_is_not_taken_away(signed_in, shop):
    save(signed_in, "stabilizers", "cut_away", name="Felted sheet", copy="1")
    save(signed_in, "bases", "fleece", stabilizer="felted_sheet")
    answer = signed_in.post(reverse("restore-row", args=["stabilizers", "felted_sheet"]))
    assert answer.status_code == 422 and "Change that first." in answer.content.decode()
    assert "felted_sheet" in rows.shop_library(shop).stabilizers


def test_threads_by_nearest_colour(signed_in):
    page = signed_in.get(reverse("library", args=["threads"]), {"near": "#b0362f"}).content.decode()
    assert page.index("Sail red") < page.index("Madder") < page.index("Mint rope") and "Off by" in page
    assert "Off by" not in signed_in.get(reverse("library", args=["threads"]), {"near": "red"}).content.decode()


def test_unknown_shelves_are_not_there(signed_in):
    for address in ("/library/glue/", "/library/bases/marble/", "/library/glue/x/"):
        assert signed_in.get(address).status_code == 404
    assert signed_in.post("/library/glue/x/restore/").status_code == 404


def test_a_shop_sees_and_touches_only_its_own_rows(client, signed_in, shop, stranger):
    save(signed_in, "bases", "terry", name="Ours")
    assert "Ours" in signed_in.get(reverse("library", args=["bases"])).content.decode()
    preset = Preset.objects.create(shop=shop, name="Soft edge", construct="applique", base="terry", values={})
    client.force_login(stranger)
    assert "Ours" not in client.get(reverse("library", args=["bases"])).content.decode()
    assert "Soft edge" not in client.get(reverse("presets")).content.decode()
    client.post(reverse("restore-row", args=["bases", "terry"]))
    assert client.post(reverse("remove-preset", args=[preset.pk])).status_code == 404
    assert rows.shop_library(shop).bases["terry"].name == "Ours" and Preset.objects.count() == 1
    mine = Member.objects.get(user=stranger).shop
    assert rows.shop_library(mine) is shipped()


def test_a_job_keeps_its_rows_until_its_brief_is_saved(signed_in, job):
    save(signed_in, "bases", "terry", pull="0.6")
    page = signed_in.get(reverse("brief", args=[job.pk])).content.decode()
    assert "Changed in the library since this job took it: Terry towel" in page
    assert "0.40: " in signed_in.get(reverse("build", args=[job.pk])).content.decode()
    data = {"revision": 1, "name": "Buoy towel", "base": "terry", "stabilizer": "wash_away", "stabilizer_layers": 1,
            "topping": "film", "hoop": "h100x100", "hooping": "hooped", "hold": "none", "thread": "nearest"}  # fmt: skip
    preview = signed_in.post(reverse("brief", args=[job.pk]), data).content.decode()
    assert "0.40 mm" in preview and "<strong>0.60</strong> mm" in preview
    signed_in.post(reverse("brief", args=[job.pk]), {**data, "decided": "all"})
    job.refresh_from_db()
    document = job.head.read()
    assert document.materials["bases"]["terry"]["pull"] == 0.6
    signed_in.post(reverse("restore-row", args=["bases", "terry"]))
    assert document.library.bases["terry"].pull == 0.6  # the job has its own copy


def test_presets_are_saved_from_a_piece_and_set_on_another(signed_in, job, upload, shop):
    def post(address, piece, **data):
        return signed_in.post(reverse(address, args=[job.pk, piece]), data, headers={"HX-Request": "true"})

    empty = post("save-preset", "p1", name="Nothing")
    assert empty.status_code == 422 and "has no own values to save" in empty.content.decode()
    post("set-value", "p1", revision=1, key="cover_width", cover_width="4.2")
    assert "A preset needs a name" in post("save-preset", "p1", name="  ").content.decode()
    assert "Saved as Wide edge." in post("save-preset", "p1", name=" Wide  edge ").content.decode()
    preset = Preset.objects.get(shop=shop)
    assert preset.values == {"cover_width": 4.2} and (preset.construct, preset.base) == ("applique", "terry")
    signed_in.post(reverse("artwork", args=[job.pk]), {"revision": 2, "artwork": upload()})
    taken = post("take-preset", "p2", revision=3, preset=preset.pk)
    assert json.loads(taken["X-Edited"])["piece"] == "p2"
    job.refresh_from_db()
    assert job.head.read().pieces[1].own == {"cover_width": 4.2} and job.head.label == "Preset Wide edge"
    for wrong in ("", "999999", "x"):
        assert post("take-preset", "p2", revision=4, preset=wrong).status_code == 422
    assert "Wide edge" in signed_in.get(reverse("presets")).content.decode()
    signed_in.post(reverse("remove-preset", args=[preset.pk]))
    assert "No presets yet" in signed_in.get(reverse("presets")).content.decode()


def test_the_rule_table_has_every_rule(signed_in):
    from velamen.core.values.cautions import cautions
    from velamen.core.values.engine import rules

    page = signed_in.get(reverse("rules")).content.decode()
    assert (
        page.count("<tr>") == len(rules().rules) + len(cautions()) + len({rule.group for rule in rules().rules}) + 1
    )
    assert "two layers of stabilizer hold it" in page and "{" not in page.split("<main")[1].split("</main>")[0]


@pytest.mark.parametrize("kind", KINDS)
def test_a_shelf_costs_the_same_queries_however_long(signed_in, kind, django_assert_max_num_queries):
    with django_assert_max_num_queries(7):
        signed_in.get(reverse("library", args=[kind]))


def test_a_shops_own_die_and_foam_go_into_a_job_and_with_it(signed_in, job, shop):
    save(signed_in, "dies", "hull_90", name="Disc 14", outline="M-7,-7H7V7H-7Z", copy="1")
    save(signed_in, "foams", "foam_2", name="Cork 4 mm", thickness="4", copy="1")
    heads = {"HX-Request": "true"}
    data = {"do": "die", "die": "disc_14", "revision": 1, "ids": ""}
    answer = signed_in.post(reverse("edit-shapes", args=[job.pk]), data, headers=heads)
    assert answer.status_code == 200, answer.content.decode()
    page = signed_in.get(reverse("build", args=[job.pk])).content.decode()
    assert "Cork 4 mm" in page
    data = {"key": "padding", "padding": "cork_4_mm", "revision": 2}
    answer = signed_in.post(reverse("set-value", args=[job.pk, "p1"]), data, headers=heads)
    assert answer.status_code == 200, answer.content.decode()
    job.refresh_from_db()
    document = job.head.read()
    assert document.shapes[-1].die == "disc_14" and document.pieces[0].own == {"padding": "cork_4_mm"}
    signed_in.post(reverse("restore-row", args=["foams", "cork_4_mm"]))
    assert document.library.foams["cork_4_mm"].thickness == 4.0  # the job has its own copy
