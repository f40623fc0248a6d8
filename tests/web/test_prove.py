"""Prove: its three pictures, findings with their places, fixes that are taken and undone."""

import pytest
from django.urls import reverse
from shapely import Point, box

from core.jobs import job_of, order_of
from velamen.core.building.build import build_job
from velamen.core.job.document import change
from velamen.core.proofs.told import grouped
from velamen.web.jobs import history


@pytest.fixture
def blocked(shop, maren):
    """A job whose waste is sewn down before it is trimmed."""
    job = job_of(box(-30, -20, 10, 20), Point(12, 0).buffer(8), base="felt")
    job = change(job, pieces=[job.pieces[0], change(job.pieces[1], construct="fill")])
    keys = order_of(build_job(job))
    keys.remove("p2:decoration")
    keys.insert(keys.index("p1:trim"), "p2:decoration")
    return history.create(shop, maren, change(job, order=keys))


def shown(client, job, show="pieces"):
    answer = client.get(reverse("prove", args=[job.pk]), {"show": show})
    assert answer.status_code == 200
    return answer.context, answer.content.decode()


def test_a_finding_is_drawn_listed_and_ended_by_its_fix_which_is_undone(signed_in, blocked):
    context, page = shown(signed_in, blocked)
    (finding,) = [one for one in context["findings"] if one["code"] == "trim_blocked"]
    assert page.count('<g class="spot error"') == len(finding["at"]) and "Places A" in page
    asked = {"code": "trim_blocked", "piece": "p1"}
    (label, *_) = signed_in.get(reverse("finding-mends", args=[blocked.pk]), asked).context["finding"]["mends"]
    data = {"revision": 1, "code": "trim_blocked", "piece": "p1", "label": label}
    signed_in.post(reverse("mend", args=[blocked.pk]), data)
    assert not [one for one in shown(signed_in, blocked)[0]["findings"] if one["code"] == "trim_blocked"]
    again = signed_in.post(reverse("mend", args=[blocked.pk]), {**data, "revision": 2})
    assert again.status_code == 422 and "That finding is gone" in again.content.decode()
    signed_in.post(reverse("undo", args=[blocked.pk]), {"revision": 2, "stage": "prove"})
    assert [one for one in shown(signed_in, blocked)[0]["findings"] if one["code"] == "trim_blocked"]


def test_the_density_map_has_its_picture_limit_reasons_and_densest_places(signed_in, job):
    context, page = shown(signed_in, job, "density")
    assert context["limit"].shown in page and all(str(why)[1:] in page for why in context["limit"].reasons)
    assert [float(one["value"]) for one in context["dense"]] == sorted(
        (float(one["value"]) for one in context["dense"]), reverse=True
    )
    assert "Cover, satin" in page
    image = signed_in.get(reverse("density", args=[job.pk]))
    assert image["Content-Type"] == "image/png" and image.content.startswith(b"\x89PNG")
    kept = signed_in.get(reverse("density", args=[job.pk]), headers={"If-None-Match": image["ETag"]})
    assert kept.status_code == 304


def test_ties_and_trims_lists_every_thread_and_leads_to_the_sew_line(signed_in, job):
    context, page = shown(signed_in, job, "threads")
    figures = context["build"].figures
    assert len(context["threads"]) == figures.trims
    stops = [one["then"] for one in context["threads"] if one["then"].startswith("stop")]
    assert stops == [f"stop {nth}" for nth in range(1, figures.stops + 1)]
    assert f"?row={context['threads'][1]['row']}" in page and page.count("both ends") == figures.trims


def test_an_unknown_picture_shows_the_first(signed_in, job):
    assert shown(signed_in, job, "x")[0]["shown"] == "pieces"


def test_many_findings_of_one_kind_are_one_and_their_ways_out_come_when_looked_at(signed_in, shop, maren):
    """Six hundred cut-outs too small for scissors were six hundred rows, each with ways out that took a tenth second."""
    cut = box(0, 0, 180, 100)
    for nth in range(60):
        cut = cut.difference(box(5 + 8 * (nth % 20), 5 + 8 * (nth // 20), 8 + 8 * (nth % 20), 8 + 8 * (nth // 20)))
    job = history.create(shop, maren, job_of(cut, base="felt", hoop="h200x300"))
    build = build_job(job.head.read())
    small = [one for one in build.findings if one.code == "cutout_small"]
    assert len(small) == 60
    rows = [one for one in grouped(build.findings) if one.code == "cutout_small"]
    assert len(rows) == 1 and len(rows[0].at) == 60 and rows[0].message.endswith("And 59 more like it.")
    page = signed_in.get(reverse("prove", args=[job.pk])).content.decode()
    assert "And 59 more like it." in page and page.count("cutout_small") <= 3
    address = reverse("finding-mends", args=[job.pk])
    shown = signed_in.get(address, {"code": "cutout_small", "piece": "p1"}).content.decode()
    assert "Close the cut-outs too small for scissors" in shown
    assert "<button" not in signed_in.get(address, {"code": "gone", "piece": "p1"}).content.decode()
    data = {
        "code": "cutout_small",
        "piece": "p1",
        "label": "Close the cut-outs too small for scissors",
        "revision": 1,
    }
    signed_in.post(reverse("mend", args=[job.pk]), data)
    job.refresh_from_db()
    assert len(job.head.read().shapes[0].rings) == 1


def test_prove_opens_on_what_matters_and_shows_the_cloth_as_it_is_sewn(signed_in, shop, maren, job, blocked):
    def opens(document):
        made = history.create(shop, maren, document)
        context, page = shown(signed_in, made, "")
        return made, context["shown"], page

    motif = job_of(box(-20, -20, 20, 20), base="terry")
    motif = change(motif, pieces=[change(motif.pieces[0], construct="emboss")])
    made, picture, page = opens(motif)
    assert picture == "pieces" and "stands up in 4 mm of pile" in page
    cloth = signed_in.get(reverse("cloth", args=[made.pk]))
    assert cloth["Content-Type"] == "image/png" and cloth.content.startswith(b"\x89PNG")
    plain = change(motif, pieces=[change(motif.pieces[0], construct="stipple")])
    assert opens(plain)[1] == "density"  # nothing of its own to prove
    dense = job_of(box(0, 0, 40, 40), base="felt")
    dense = change(
        dense, pieces=[change(dense.pieces[0], construct="fill", own={"fill_spacing": 0.2, "fill_length": 1.5})]
    )
    assert opens(dense)[1] == "density"
    assert shown(signed_in, job, "")[0]["shown"] == "pieces"
    page = shown(signed_in, blocked, "")[1]
    assert page.index('class="findings"') < page.index('<h1 class="panel-title">')  # an error comes before the tables
