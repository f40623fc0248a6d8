"""The Brief: what follows, preview, taking all, some or none, sizes in mm and inches, fixes."""

import json

import pytest
from django.urls import reverse

from velamen.core.job.document import change
from velamen.core.materials.library import shipped
from velamen.web.accounts.models import Member
from velamen.web.jobs import history

BRIEF = {"name": "Buoy towel", "base": "terry", "stabilizer": "wash_away", "stabilizer_layers": 1, "topping": "film",
         "hoop": "h100x100", "hooping": "hooped", "hold": "none", "thread": "nearest"}  # fmt: skip


def post(client, job, revision=1, **changed):
    return client.post(reverse("brief", args=[job.pk]), {**BRIEF, "revision": revision, **changed})


def document(job):
    job.refresh_from_db()
    return job.head.read()


def ids(answer):
    return [one.id for changes in answer.context["pieces"] for one in changes]


def test_a_change_is_shown_before_anything_is_saved(signed_in, job):
    answer = post(signed_in, job, base="jersey", stabilizer="tear_away", topping="none")
    page = answer.content.decode()
    assert "What the new brief would change" in page and "a stretch knit without cut-away under it" in page
    assert set(ids(answer)) == {"p1.cover_pull", "p1.cover_underlay"}
    assert document(job).brief.base == "terry" and job.head.number == 1


def test_all_some_or_none_are_one_step_that_can_be_undone(signed_in, job):
    jersey = {"base": "jersey", "stabilizer": "tear_away", "topping": "none"}
    post(signed_in, job, **jersey, decided="some", take=["p1.cover_pull"])
    some = document(job)
    assert some.brief.base == "jersey" and some.pieces[0].own == {"cover_underlay": "double_zigzag"}
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": 2})
    assert document(job).brief.base == "terry" and document(job).pieces[0].own == {}
    post(signed_in, job, **jersey, decided="none", take=["p1.cover_pull"])
    assert document(job).pieces[0].own.keys() == {"cover_pull", "cover_underlay"}
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": 3})
    post(signed_in, job, **jersey, decided="all")
    assert document(job).pieces[0].own == {} and document(job).brief.base == "jersey"
    assert job.revisions.count() == 4


def test_own_values_are_marked_and_kept_unless_ticked(signed_in, job):
    own = change(job.head.read(), pieces=[change(job.head.read().pieces[0], own={"cover_pull": 0.2})])
    history.save(job, 1, None, own, "own")
    answer = post(signed_in, job, 2, base="jersey", stabilizer="cut_away", topping="none")
    assert "own value, kept unless ticked" in answer.content.decode()
    post(
        signed_in,
        job,
        2,
        base="jersey",
        stabilizer="cut_away",
        topping="none",
        decided="some",
        take=["p1.cover_underlay"],
    )
    assert document(job).pieces[0].own == {"cover_pull": 0.2}


def test_a_brief_that_changes_no_value_is_saved_at_once(signed_in, job):
    answer = post(signed_in, job, hold="basting", name="Buoy towel two")
    assert answer.status_code == 302 and document(job).brief.hold == "basting" and job.name == "Buoy towel two"
    assert "Basting, box 6" in signed_in.get(reverse("build", args=[job.pk])).content.decode()


def test_as_the_base_asks_takes_stabilizer_topping_and_hooping(signed_in, job):
    answer = post(signed_in, job, base="leather", asked="1")
    assert 'name="asked" value="1"' in answer.content.decode()
    post(signed_in, job, base="leather", asked="1", decided="all")
    brief = document(job).brief
    assert (brief.stabilizer, brief.topping, brief.hooping, brief.hold) == ("cut_away", "none", "floated", "adhesive")


def test_somebody_elses_edit_in_between_is_a_conflict(signed_in, job):
    history.save(job, 1, None, change(job.head.read(), name="Renamed"), "renamed")
    answer = post(signed_in, job, 1, base="jersey", stabilizer="cut_away", topping="none", decided="all")
    assert answer.status_code == 409 and "Your edit is kept as version 3" in answer.content.decode()
    assert document(job).brief.base == "terry"


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({"stabilizer_layers": 9}, "less than or equal to 4"),
        ({"base": "marble"}, "Select a valid choice"),
        ({"hooping": "glued"}, "Select a valid choice"),
        ({"width": "wide"}, "is no length: write it like 63.5, 2.5 in or 2 1/2"),
        ({"width": "4000"}, "use 5 to 1000 mm"),
        ({"width": "5.5"}, "is too narrow"),
        ({"name": ""}, "This field is required"),
        ({"revision": "x"}, "Enter a whole number"),
    ],
)
def test_bad_briefs_are_told_and_save_nothing(signed_in, job, changed, words):
    answer = post(signed_in, job, **changed)
    assert answer.status_code == 422 and (words in answer.content.decode() or changed.get("revision"))
    assert job.revisions.count() == 1


@pytest.mark.parametrize(("typed", "unit", "wanted"), [("63.5", "mm", 63.5), ("2.5 in", "mm", 63.5), ('2 1/2"', "mm", 63.5), ("2.5", "in", 63.5), ("80 mm", "in", 80.0)])  # fmt: skip
def test_a_finished_width_scales_the_design_in_either_unit(signed_in, job, typed, unit, wanted):
    Member.objects.update(unit=unit)
    post(signed_in, job, width=typed, decided="all")
    build = signed_in.get(reverse("brief", args=[job.pk])).context["build"]
    assert build.figures.width == pytest.approx(wanted, abs=0.1)
    shown = f"{wanted / 25.4:.2f}" if unit == "in" else f"{wanted:.1f}"
    assert f'value="{shown}"' in signed_in.get(reverse("brief", args=[job.pk])).content.decode()


def test_the_shown_width_sent_back_changes_nothing(signed_in, job):
    for unit in ("mm", "in"):
        Member.objects.update(unit=unit)
        form = signed_in.get(reverse("brief", args=[job.pk])).context["form"]
        post(signed_in, job, width=form["width"].value())
    assert job.revisions.count() == 1


def test_a_wished_width_waits_for_the_artwork(signed_in, shop, maren, upload):
    from velamen.core.job.document import Job as Document

    empty = history.create(shop, maren, Document(name="Empty"))
    post(signed_in, empty, name="Empty", base="firm_woven", stabilizer="tear_away", topping="none", width='2"')
    assert document(empty).brief.width == pytest.approx(50.8)
    signed_in.post(reverse("artwork", args=[empty.pk]), {"revision": 2, "artwork": upload()})
    build = signed_in.get(reverse("brief", args=[empty.pk])).context["build"]
    assert build.figures.width == pytest.approx(50.8, abs=0.1)


def test_units_are_the_persons_own(signed_in, job, client, stranger):
    page = reverse("artwork", args=[job.pk])
    assert "mm</strong>" in signed_in.get(page).content.decode()
    answer = signed_in.post(reverse("set-unit"), {"unit": "in", "back": page})
    assert answer["Location"] == page and " in</strong>" in signed_in.get(page).content.decode()
    assert Member.objects.get(user=stranger).unit == "mm"
    assert (
        signed_in.post(reverse("set-unit"), {"unit": "in", "back": "https://elsewhere.example/"})["Location"] == "/"
    )
    assert signed_in.post(reverse("set-unit"), {"unit": "ell"}).status_code == 422


def follows(client, job, **changed):
    address = reverse("brief-follows", args=[job.pk])
    return client.post(address, {**BRIEF, "revision": 1, **changed}, headers={"HX-Request": "true"})


def test_what_follows_answers_the_unsaved_form(signed_in, job):
    text = follows(signed_in, job, base="leather").content.decode()
    assert "Not saved yet" in text and "bears neither water nor heat" in text and "80/12 leather point" in text
    assert "topping=none" in text and "hold=adhesive" in text
    assert "cannot be read yet" in follows(signed_in, job, width="wide").content.decode()
    assert "too narrow" in follows(signed_in, job, width="6").content.decode()
    assert job.revisions.count() == 1


def test_a_hoop_too_small_names_the_next_that_fits(signed_in, job):
    text = follows(signed_in, job, width="150").content.decode()
    assert "of the sewing field" not in text  # the design is as it was until it is saved
    history.save(job, 1, None, change(job.head.read(), brief=change(job.head.read().brief, hoop="cap130x60")), "cap")
    job.refresh_from_db()
    page = signed_in.get(reverse("brief", args=[job.pk])).content.decode()
    assert "over the Cap 130 × 60 sewing field: the 100 × 100 field holds it" in page and "hoop=h100x100" in page


def test_findings_of_the_brief_are_fixed_by_their_button(signed_in, job):
    brief = change(job.head.read().brief, topping="none", hooping="floated")
    history.save(job, 1, None, change(job.head.read(), brief=brief), "bare")
    page = signed_in.get(reverse("prove", args=[job.pk])).content.decode()
    assert "stitches sink in and pile comes through" in page and "Lay a wash-away topping" in page
    address = reverse("fix-brief", args=[job.pk])
    signed_in.post(address, {"revision": 2, "code": "pile_open"})
    signed_in.post(address, {"revision": 3, "code": "floated_loose"})
    assert (document(job).brief.topping, document(job).brief.hold) == ("film", "basting")
    for code in ("pile_open", "", "nonsense"):
        assert signed_in.post(address, {"revision": 4, "code": code}).status_code == 422
    assert signed_in.get(reverse("prove", args=[job.pk])).content.decode().count("Baste it") == 0


def test_the_section_answers_numbers_and_refuses_others(signed_in, job):
    address = reverse("section", args=[job.pk])
    answer = signed_in.get(address, {"x": 25, "y": 0, "angle": 0, "length": 12})
    data = json.loads(answer.content)
    assert answer["Content-Type"] == "application/json" and data["sheets"][0]["kind"] == "stabilizer"
    assert signed_in.get(address, {"x": "nan", "y": 0, "angle": 0, "length": 12}).status_code == 422
    for wrong in ({}, {"x": "a", "y": 0, "angle": 0, "length": 9}, {"x": 0, "y": 0, "angle": 0, "length": 9e9}):
        assert signed_in.get(address, wrong).status_code == 422


def test_the_base_has_a_colour_of_the_jobs_own_that_grounds_and_pictures_go_by(signed_in, job):
    others, own = (shipped().bases[key].colour for key in ("fleece", "terry"))
    for typed, kept in (("#1d2b4f", "#1d2b4f"), (others, others), (own, "")):
        answer = post(signed_in, job, job.head.number, base_colour=typed, decided="all")
        assert answer.status_code == 302, answer.content[-400:]
        job.refresh_from_db()
        assert job.head.read().brief.base_colour == kept
        shown = kept or shipped().bases["terry"].colour
        assert f'value="{shown}"' in signed_in.get(reverse("brief", args=[job.pk])).content.decode()
        assert shown in signed_in.get(reverse("picture", args=[job.pk])).content.decode()
    wrong = post(signed_in, job, job.head.number, base_colour="navy")
    assert wrong.status_code == 422 and "#rrggbb" in wrong.content.decode()
