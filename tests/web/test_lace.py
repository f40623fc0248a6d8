"""Lace over the web: the rinse on Prove, motifs chosen by picture and kept, strips planned, the table it lies on."""

import json

import numpy as np
import pytest
import shapely
from django.urls import reverse
from shapely import box

from core.laces import FAILING, HOLDING, lace
from velamen.core.building.build import build_job
from velamen.core.building.lace import stitches_of
from velamen.core.materials.library import shipped
from velamen.core.stitching.roles import CODE
from velamen.web.demo.lace import edging_document, fan_document
from velamen.web.jobs import history
from velamen.web.library.models import Row
from velamen.web.library.rows import shop_library


def made(shop, maren, document):
    return history.create(shop, maren, document)


def proved(client, job):
    answer = client.get(reverse("prove", args=[job.pk]), {"show": "lace"})
    assert answer.status_code == 200
    return answer.context, answer.content.decode()


def test_lace_that_holds_is_drawn_and_said_so(signed_in, shop, maren):
    context, page = proved(signed_in, made(shop, maren, HOLDING["net"]))
    assert context["shown"] == "lace" and "After the rinse" in page and page.count('class="lace-thread"') == 1
    assert {"name": "Rinse", "held": True, "told": "one part, at least 4 strands hold it"} in context["held_by"]
    assert "4 strands or more hold it everywhere" in page and "lace-cell" not in page


@pytest.mark.parametrize(
    ("name", "drawn", "told"),
    [
        ("net cut through", "lace-thread", "in 2 parts"),
        ("one line between", "lace-weak hinged", "hangs by one strand"),
        ("satin alone", "lace-bare", "rows without thread under them"),
        ("cells too wide", "lace-cell", "cells that sag"),
    ],
)
def test_what_does_not_hold_is_drawn_and_told(signed_in, shop, maren, name, drawn, told):
    context, page = proved(signed_in, made(shop, maren, FAILING[name][0]))
    (line,) = [one for one in context["held_by"] if one["name"] == "Rinse"]
    assert f'class="{drawn}' in page and not line["held"] and told in line["told"]
    assert FAILING[name][1] in {one["code"] for one in context["findings"]}


def test_what_is_no_lace_has_no_such_picture(signed_in, job):
    context, page = proved(signed_in, job)
    assert context["shown"] == "pieces" and "After the rinse" not in page


def header(client, job):
    data = client.get(reverse("plan", args=[job.pk])).content
    return json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])


def test_lace_lies_on_a_table_dark_under_light_thread(signed_in, shop, maren, job):
    light = lace((box(-10, -8, 10, 8), "net"))
    tables = []
    for thread in ("103", "116"):
        pieces = [type(one)(**{name: getattr(one, name) for name in one.__struct_fields__} | {"thread": thread})
                  for one in light.pieces]  # fmt: skip
        document = type(light)(
            **{name: getattr(light, name) for name in light.__struct_fields__} | {"pieces": pieces}
        )
        tables.append(header(signed_in, made(shop, maren, document))["table"])
    assert tables == ["#27303a", "#efe6d6"] and header(signed_in, job)["table"] is None


def values(client, job, **asked):
    return client.get(reverse("piece", args=[job.pk, "p1"]), asked, HTTP_HX_REQUEST="true").content.decode()


def test_motifs_are_chosen_by_picture_and_sent_once_their_list_is_open(signed_in, shop, maren):
    job = made(shop, maren, lace((box(-15, -12, 15, 12), "motif_fill")))
    closed, opened = values(signed_in, job), values(signed_in, job, open="motif")
    assert closed.count("motif-picture") == 1 and opened.count('name="motif" value=') == len(shipped().motifs)
    signed_in.post(
        reverse("set-value", args=[job.pk, "p1"]),
        {"revision": 1, "key": "motif", "motif": "heart"},
        HTTP_HX_REQUEST="true",
    )
    job.refresh_from_db()
    assert job.head.read().pieces[0].own == {"motif": "heart"}
    wrong = {"revision": 2, "key": "motif", "motif": "unicorn"}
    answer = signed_in.post(reverse("set-value", args=[job.pk, "p1"]), wrong, HTTP_HX_REQUEST="true")
    assert answer.status_code == 422 and "no motif" in answer.content.decode()


def test_a_shape_is_kept_as_a_motif_of_the_shop_and_sewn(signed_in, shop, maren):
    job = made(shop, maren, lace((box(-15, -12, 15, 12), "motif_fill")))

    def keep(**data):
        asked = {"open": "presets", **data}
        return signed_in.post(reverse("keep-motif", args=[job.pk, "p1"]), asked, HTTP_HX_REQUEST="true")

    assert "Give the motif a name" in keep(name=" ").content.decode() and not Row.objects.exists()
    assert "Hatch is a motif of the library now" in keep(name="Hatch").content.decode()
    (row,) = Row.objects.filter(shop=shop, kind="motifs")
    assert shop_library(shop).motifs[row.key].path.startswith("M0.00,0.00L")
    signed_in.post(
        reverse("set-value", args=[job.pk, "p1"]),
        {"revision": 1, "key": "motif", "motif": row.key},
        HTTP_HX_REQUEST="true",
    )
    job.refresh_from_db()
    document = job.head.read()
    assert document.pieces[0].own == {"motif": row.key} and row.key in document.materials["motifs"]
    assert "Hatch" in signed_in.get(reverse("library", args=["motifs"])).content.decode()


def test_a_strip_is_planned_by_its_length_and_fullness(signed_in, shop, maren):
    job = made(shop, maren, lace((box(-20, -6, 20, 6), "net")))
    signed_in.post(reverse("set-copies", args=[job.pk]), {
        "revision": 1, "columns": "2", "rows": "1", "gap": "-1.5", "order": "step"})  # fmt: skip
    answer = signed_in.post(reverse("set-wanted", args=[job.pk]), {
        "revision": 2, "strip": "1", "length": "1000", "fullness": "1.5"}, follow=True)  # fmt: skip
    page = answer.content.decode()
    assert "38.5 mm a repeat: 39 repeats" in page and "20 hoopings of 2, the last with 1" in page
    job.refresh_from_db()
    assert job.head.read().strip.fullness == 1.5
    wrong = signed_in.post(reverse("set-wanted", args=[job.pk]), {
        "revision": 3, "strip": "1", "length": "a while", "fullness": "1"})  # fmt: skip
    assert wrong.status_code == 422 and "no length" in wrong.content.decode()
    signed_in.post(reverse("set-wanted", args=[job.pk]), {"revision": 3, "wanted": "12"})
    job.refresh_from_db()
    assert job.head.read().strip is None and job.head.read().wanted == 12


@pytest.mark.parametrize("document", [fan_document, edging_document])
def test_ties_of_the_demo_lie_on_thread_sewn_at_another_time(document):
    plan = build_job(document()).plan
    stitches = stitches_of(plan)
    tie = np.flatnonzero(plan.role[stitches.row] == CODE["tie"])
    lines = shapely.linestrings(np.stack([stitches.start, stitches.stop], axis=1))
    ties = np.split(tie, np.flatnonzero(np.diff(tie) > 1) + 1)
    assert len(ties) > 3
    for one in ties:
        others = np.delete(lines, np.arange(max(one[0] - 6, 0), min(one[-1] + 7, len(lines))))
        assert shapely.dwithin(others, shapely.union_all(lines[one]), 0.15).any()
