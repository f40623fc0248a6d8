"""The Stack over the web: moves and refusals, grounds, shared stops, threads of passes, hand-over files."""

import json

import pytest
from django.urls import reverse
from shapely import box

from core.jobs import job_of
from velamen.core.edits.shapes import drawing
from velamen.core.job.document import Job, brief_for, change
from velamen.core.job.shape import Text
from velamen.web.jobs import history


@pytest.fixture
def blanket(shop, maren):
    document = job_of(box(-60, -20, -20, 20), box(0, -20, 40, 20), box(-50, -10, -30, 10), base="fleece", name="Crew")
    pieces = [*document.pieces[:2], change(document.pieces[2], cloth="night_ink")]
    return history.create(shop, maren, change(document, pieces=pieces))


def edit(client, job, **values):
    job.refresh_from_db()
    return client.post(
        reverse("edit-stack", args=[job.pk]), {"revision": job.head.number, **values}, HTTP_HX_REQUEST="true"
    )


def order(job):
    job.refresh_from_db()
    return [piece.id for piece in job.head.read().pieces]


def test_a_piece_is_moved_and_a_move_that_cannot_be_is_explained(signed_in, blanket):
    assert edit(signed_in, blanket, do="move", piece="p2", by="-1").status_code == 200
    assert order(blanket) == ["p2", "p1", "p3"]
    refused = edit(signed_in, blanket, do="move", piece="p3", place="0")
    assert refused.status_code == 422 and "wholly under the cloth of piece 1" in refused.content.decode()
    assert order(blanket) == ["p2", "p1", "p3"]
    wrong = edit(signed_in, blanket, do="move-pass", unit="p1:cover", by="-2")
    assert (
        wrong.status_code == 422
        and "Cover cannot come before the tack-down of the same piece" in wrong.content.decode()
    )


def test_a_ground_is_put_under_and_undone(signed_in, blanket):
    answer = edit(signed_in, blanket, do="ground", construct="knockdown", piece="")
    assert answer.status_code == 200 and json.loads(answer["X-Edited"]) == {"piece": "p4", "alone": True}
    assert "Knockdown" in signed_in.get(reverse("piece", args=[blanket.pk, "p4"])).content.decode()
    assert order(blanket)[1:] == ["p1", "p2", "p3"]
    blanket.refresh_from_db()
    signed_in.post(reverse("undo", args=[blanket.pk]), {"revision": blanket.head.number})
    assert order(blanket) == ["p1", "p2", "p3"]
    assert edit(signed_in, blanket, do="ground", construct="lasso").status_code == 422


def test_a_patch_is_made_of_the_design_taken_apart_and_undone(signed_in, blanket):
    assert "Make a patch of it" in signed_in.get(reverse("build", args=[blanket.pk])).content.decode()
    answer = edit(signed_in, blanket, do="ground", construct="patch", piece="")
    assert answer.status_code == 200
    made = json.loads(answer["X-Edited"])["piece"]
    page = signed_in.get(reverse("piece", args=[blanket.pk, made]) + "?open=sewing").content.decode()
    assert "pre-cut cloth on film" in page
    assert edit(signed_in, blanket, do="plain", piece=made).status_code == 200
    blanket.refresh_from_db()
    kinds = [one.construct for one in blanket.head.read().pieces]
    assert kinds == ["applique", "applique", "applique", "applique", "satin_border"]
    for _ in range(2):
        blanket.refresh_from_db()
        signed_in.post(reverse("undo", args=[blanket.pk]), {"revision": blanket.head.number})
    assert order(blanket) == ["p1", "p2", "p3"]
    refused = edit(signed_in, blanket, do="plain", piece="p1")
    assert refused.status_code == 422 and "nothing to take apart" in refused.content.decode()


def test_stops_are_shared_told_and_taken_apart(signed_in, blanket):
    page = signed_in.get(reverse("stack-saves", args=[blanket.pk])).content.decode()
    assert "Share stops" in page and "saves 2 stops, 1 min" in page
    assert edit(signed_in, blanket, do="share").status_code == 200
    page = signed_in.get(reverse("build", args=[blanket.pk])).content.decode()
    assert "Back to the stack" in page and "for piece 1 and piece 2" in page
    edit(signed_in, blanket, do="apart")
    blanket.refresh_from_db()
    assert blanket.head.read().order == []


def test_threads_ends_and_the_cloth_it_decorates_are_set(signed_in, blanket):
    blanket.refresh_from_db()
    url = reverse("set-sewing", args=[blanket.pk, "p2"])
    asked = {
        "revision": blanket.head.number,
        "thread-placement": "118",
        "thread-cover": "140",
        "start": "3, 4",
        "end": "",
    }
    assert signed_in.post(url, asked).status_code == 200
    blanket.refresh_from_db()
    piece = blanket.head.read().pieces[1]
    assert piece.threads == {"placement": "118"} and piece.start == (3.0, 4.0) and piece.end is None
    asked |= {"revision": blanket.head.number, "start": "north"}
    refused = signed_in.post(url, asked)
    assert refused.status_code == 422 and "type it as x, y in mm" in refused.content.decode()


def test_values_are_copied_and_a_fill_becomes_cloth(signed_in, blanket):
    document = blanket.head.read()
    pieces = [change(document.pieces[0], own={"cover_width": 4.0}), change(document.pieces[1], construct="fill"),
              document.pieces[2]]  # fmt: skip
    blanket = history.save(blanket, blanket.head.number, None, change(document, pieces=pieces), "made")
    assert edit(signed_in, blanket, do="copy", piece="p3", **{"from": "p1"}).status_code == 200
    assert edit(signed_in, blanket, do="cloth", piece="p2").status_code == 200
    blanket.refresh_from_db()
    after = blanket.head.read().pieces
    assert after[2].own == {"cover_width": 4.0} and after[1].construct == "applique"


@pytest.mark.parametrize(("name", "kind", "starts"), [
    ("stitches.gcode", "text/plain", b"%"), ("cut.dxf", "image/vnd.dxf", b"  0"),
    ("runsheet.pdf", "application/pdf", b"%PDF"), ("preview.png", "image/png", b"\x89PNG"),
])  # fmt: skip
def test_every_file_is_handed_over(signed_in, blanket, name, kind, starts):
    page = signed_in.get(reverse("hand-over", args=[blanket.pk])).content.decode()
    assert name in page
    answer = signed_in.get(reverse("file", args=[blanket.pk, name]))
    assert answer.status_code == 200 and answer["Content-Type"].startswith(kind) and answer.content.startswith(starts)
    assert f'filename="crew-{name}"' in answer["Content-Disposition"]


def test_another_shop_sees_no_stack(client, stranger, blanket):
    client.force_login(stranger)
    assert client.post(reverse("edit-stack", args=[blanket.pk]), {"revision": 1, "do": "share"}).status_code == 404
    assert client.post(reverse("set-sewing", args=[blanket.pk, "p1"]), {"revision": 1}).status_code == 404


def test_the_basting_that_a_brief_asks_for_can_be_changed_and_taken_out(signed_in, blanket):
    document = blanket.head.read()
    brief = change(document.brief, hold="basting")
    blanket = history.save(blanket, blanket.head.number, None, change(document, brief=brief), "held")
    url = reverse("set-value", args=[blanket.pk, "basting"])
    answer = signed_in.post(url, {"revision": blanket.head.number, "key": "basting_margin", "basting_margin": "8"})
    assert answer.status_code == 200
    blanket.refresh_from_db()
    assert blanket.head.read().pieces[0].own == {"basting_margin": 8.0}
    assert edit(signed_in, blanket, do="remove", piece="basting").status_code == 200
    blanket.refresh_from_db()
    assert blanket.head.read().brief.hold == "none" and order(blanket) == ["p1", "p2", "p3"]


def test_try_outs_belong_to_their_shop_and_job(client, signed_in, stranger, blanket):
    asked = {"piece": "p1", "key1": "cover_width", "list1": "3; 4"}
    begun = signed_in.post(reverse("begin-try-out", args=[blanket.pk]), asked)
    assert begun.status_code == 302
    assert signed_in.get(begun["Location"]).status_code == 200
    assert signed_in.get(reverse("try-picture", args=[blanket.pk, "none", 0])).status_code == 404
    client.force_login(stranger)
    assert client.get(begun["Location"]).status_code == 404


def test_copies_in_the_hoop_are_set_filled_refused_and_undone(signed_in, shop, maren):
    job = history.create(shop, maren, job_of(box(0, 0, 50, 40), base="firm_woven", hoop="h200x300", name="Flag"))
    url, page = reverse("set-copies", args=[job.pk]), reverse("hand-over", args=[job.pk])

    def ask(**values):
        job.refresh_from_db()
        asked = {"revision": job.head.number, "columns": "2", "rows": "3", "gap": "6", "order": "step", **values}
        return signed_in.post(url, asked)

    assert ask(do="set").status_code == 302
    told = signed_in.get(page).content.decode()
    assert "6 in the hoop" in told and "Time for each" in told
    for wanted, back, told in (("20", "prove", "4 hoopings"), ("20", "hand-over", "the last with 2")):
        job.refresh_from_db()
        sent = {"revision": job.head.number, "wanted": wanted, "back": back}
        answer = signed_in.post(reverse("set-wanted", args=[job.pk]), sent)
        assert answer["Location"] == reverse(back, args=[job.pk])
        assert told in signed_in.get(answer["Location"]).content.decode()
    for wanted, told in (
        ("1000000", "is no whole number"),
        ("some", "is no whole number"),
        ("200000", "use 0 to 100000"),
    ):
        job.refresh_from_db()
        sent = {"revision": job.head.number, "wanted": wanted}
        answer = signed_in.post(reverse("set-wanted", args=[job.pk]), sent)
        assert answer.status_code == 422 and told in answer.content.decode(), wanted
    job.refresh_from_db()
    assert (job.head.read().repeat.columns, job.head.read().repeat.rows) == (2, 3)
    assert ask(do="most").status_code == 302
    job.refresh_from_db()
    most = job.head.read().repeat
    assert (most.columns, most.rows, most.turned) == (4, 5, True)  # 3 x 6 as it is drawn
    lines = signed_in.get(reverse("file", args=[job.pk, "stitches.csv"])).content.decode().splitlines()
    assert sum(",stop," in one for one in lines) == 2  # lay and trim, once for all
    for values, says in (({"columns": "many"}, "is no whole number"), ({"gap": "wide"}, "is no length"),
                         ({"rows": "0"}, "rows of a repeat cannot be 0"), ({"order": "spiral"}, "order of copies")):  # fmt: skip
        refused = ask(do="set", **values)
        assert refused.status_code in (400, 422) and says in refused.content.decode()
    signed_in.post(reverse("undo", args=[job.pk]), {"revision": job.head.number})
    job.refresh_from_db()
    assert (job.head.read().repeat.columns, job.head.read().repeat.rows) == (2, 3)
    assert ask(do="set", columns="1", rows="1").status_code == 302
    job.refresh_from_db()
    assert job.head.read().repeat is None


def test_the_order_a_cap_asks_for_is_told_and_switched_off(signed_in, shop, maren):
    document = job_of(box(-40, -10, -20, 10), box(-10, -10, 10, 10), base="cap", hoop="cap130x60", name="Cap")
    job = history.create(shop, maren, document)

    def sewn():
        page = signed_in.get(reverse("build", args=[job.pk])).content.decode()
        report = json.loads(signed_in.get(reverse("file", args=[job.pk, "report.json"])).content)
        return page, [one["piece"] for one in report["steps"] if one["kind"] == "lay"]

    page, order = sewn()
    assert "Sewn from the centre out, bottom up, so that" in page and order == ["p2", "p1"]
    assert edit(signed_in, job, do="course", by="stack").status_code == 200
    page, order = sewn()
    assert "A curved field asks for the centre first" in page and order == ["p1", "p2"]
    assert edit(signed_in, job, do="course", by="sideways").status_code == 422
    job.refresh_from_db()
    assert job.head.label == "Order of sewing changed" and job.head.read().brief.course == "stack"


def test_a_panel_follows_its_words_and_takes_another_form_on_build(signed_in, shop, maren):
    document = drawing.draw_text(Job(brief=brief_for("terry", "h200x300")), Text("", "TIDE", "rubik", 20.0), "fill")
    job = history.create(shop, maren, document)
    assert edit(signed_in, job, do="lay-panel", piece="p1", round="all").status_code == 200
    panel, letter = order(job)[:2]

    def live(piece, **typed):
        job.refresh_from_db()
        sent = {"revision": job.head.number, **typed}
        return signed_in.post(reverse("set-live", args=[job.pk, piece]), sent, HTTP_HX_REQUEST="true")

    def shown(piece):
        return signed_in.get(reverse("piece", args=[job.pk, piece])).content.decode()

    assert "Outline round others" in shown(panel) and 'value="10.0"' in shown(panel)
    assert live(panel, form="oval", wide="160").status_code == 200
    job.refresh_from_db()
    maker = job.head.read().makers[1]
    assert (maker.form, maker.wide, maker.distance) == ("oval", 160.0, 10.0)
    assert "Words" in shown(letter) and live(letter, text="MAXIMILIAN", within="120").status_code == 200
    job.refresh_from_db()
    text, maker = job.head.read().makers
    assert (text.text, text.within, text.height, len(maker.sources)) == ("MAXIMILIAN", 120.0, 20.0, 10)
    wrong = live(panel, distance="-3")
    assert wrong.status_code == 422 and "lies outside them" in wrong.content.decode()
    assert edit(signed_in, job, do="under", piece=panel).status_code == 200
    assert edit(signed_in, job, do="bare", piece=panel).status_code == 200 and order(job)[0] == panel
    gone = live("p77", text="x")
    assert gone.status_code == 422


def test_a_design_larger_than_its_field_says_so_on_build_and_takes_the_hoop(signed_in, shop, maren):
    job = history.create(shop, maren, job_of(box(-60, -30, 60, 30), base="felt", hoop="h100x100"))
    page = signed_in.get(reverse("build", args=[job.pk])).content.decode()
    assert "sewing field" in page and "Take the 130 × 180 hoop" in page
    sent = {"revision": job.head.number, "code": "outside_field", "back": "build"}
    assert signed_in.post(reverse("fix-brief", args=[job.pk]), sent)["Location"] == reverse("build", args=[job.pk])
    job.refresh_from_db()
    assert job.head.read().brief.hoop == "h130x180"
    assert "Take the" not in signed_in.get(reverse("build", args=[job.pk])).content.decode()
