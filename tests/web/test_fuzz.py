"""Whatever is sent, the answer is one that a person can act on, and the job opens (VELAMEN_LONG=1 for many more)."""

import json
import os
import random

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import get_resolver, reverse

from velamen.core.job.reading import write_job
from velamen.web import urls
from velamen.web.jobs.models import Job
from velamen.web.stages.shapes import EDITS

LONG = bool(os.environ.get("VELAMEN_LONG"))
ROUNDS = 40 if LONG else 1  # of every address
FILES = 600 if LONG else 20
ANSWERS = {200, 204, 302, 304, 400, 403, 404, 405, 409, 413, 422}
FIELDS = ("key", "cover_width", "piece", "construct", "cloth", "thread", "name", "code", "label", "values", "list1", "key1",
          "order", "do", "ids", "dx", "dy", "x", "y", "width", "height", "degrees", "distance", "points", "parts", "fit",
          "text", "typeface", "clip", "amount", "tolerance", "colours", "specks", "smoothing", "states", "skipped", "preset",
          "start", "end", "stage", "base", "hoop", "stabilizer", "note", "again", "open", "rows", "nodes", "columns",
          "gap", "count", "radius", "basic", "die", "across", "edge", "how", "side", "reach", "kind", "line")  # fmt: skip
JUNK = ["", " ", "0", "-1", "1e308", "1e-308", "1e400", "-0", "nan", "inf", "9" * 400, "1/3", "½", "٣", "\x00", "🚀",
        "a" * 5000, "{}", "[]", "null", "[" * 3000, '{"a":' * 200, '{"cover_width": 1e999}', "p1", "p1,p2", "s1", "s1 s1",
        "0,0 1,1 2,2", "1e20,1e20", "0 0;1 1;2 2", "2 to 3 by 0", "<script>", "'; --", "../../etc", "applique", "terry",
        "cover_width", "matched", "3.5", "140", "yes", "move"]  # fmt: skip


@pytest.fixture
def asked(maren):
    """Somebody whose requests that fail are answers, not exceptions."""
    client = Client(raise_request_exception=False)
    client.force_login(maren)
    return client


def opens(client, job):
    """Nothing saved shuts a door: all stages open, and the version before can be shown."""
    for stage in ("brief", "artwork", "build", "prove", "hand-over"):
        assert client.get(reverse(stage, args=[job.pk])).status_code == 200, stage


def addresses(job):
    known = {"piece": "p1", "number": 1, "name": "cut.svg", "key": "a1", "token": "t", "nth": 0, "job_id": job.pk,
             "kind": "cloths", "preset": 1, "member": 1, "invitation": 1, "secret": "x"}  # fmt: skip
    out = {"sign-out", "put-in-bin", "delete-job", "end-others", "end-session", "put-shop-in-bin", "invite"}
    names = [one.name for one in urls.job_patterns] + [
        "set-unit",
        "row",
        "account",
        "restore-row",
        "new-job",
        "under-way",
    ]
    for name in sorted(set(names) - out):
        params = get_resolver().reverse_dict.getlist(name)[0][0][0][1]
        yield name, reverse(name, kwargs={one: known[one] for one in params})


def test_fields_full_of_junk(asked, job):
    chance = random.Random(11)
    for _ in range(ROUNDS):
        for name, address in addresses(job):
            number = Job.objects.get(pk=job.pk).head.number
            fields = {one: chance.choice(JUNK) for one in chance.sample(FIELDS, 25)}
            fields["revision"] = chance.choice([number, number, number, *JUNK])
            for answer in (asked.get(address, fields), asked.post(address, fields, headers={"HX-Request": "true"})):
                assert answer.status_code in ANSWERS, (name, fields)
    opens(asked, job)


def test_edits_of_shapes_full_of_junk(asked, job):
    chance = random.Random(12)
    for _ in range(ROUNDS):
        for do in EDITS:
            number = Job.objects.get(pk=job.pk).head.number
            shapes = [one.id for one in Job.objects.get(pk=job.pk).head.read().shapes]
            fields = {one: chance.choice(JUNK) for one in chance.sample(FIELDS, 30)}
            fields |= {"revision": number, "do": do, "ids": " ".join(shapes[:2])}
            answer = asked.post(reverse("edit-shapes", args=[job.pk]), fields, headers={"HX-Request": "true"})
            assert answer.status_code in ANSWERS, fields
    opens(asked, job)


def harmed(data, chance):
    """Bytes with some of them changed, left out, put twice, or cut off."""
    data = bytearray(data)
    for _ in range(chance.randint(1, 12)):
        at = chance.randrange(max(len(data), 1))
        match chance.randrange(5):
            case 0:
                data[at : at + 1] = bytes([chance.randrange(256)])
            case 1:
                del data[at : at + chance.randrange(40)]
            case 2:
                data[at:at] = data[at : at + chance.randrange(200)]
            case 3:
                data[at:at] = chance.choice(
                    [b"1e308", b"nan", b"-", b"M0 0", b"<g>", b"99999999999", b"\x00", b"&#x0;"]
                )
            case 4:
                del data[at + chance.randrange(500) :]
    return bytes(data)


def files(art):
    from io import BytesIO, StringIO

    import ezdxf
    from PIL import Image

    drawing = ezdxf.new(units=4)
    drawing.modelspace().add_lwpolyline([(0, 0, 0.4), (40, 0, 0), (40, 40, -1), (0, 40, 0)], close=True)
    drawing.modelspace().add_circle((20, 20), 9)
    text = StringIO()
    drawing.write(text)
    picture = BytesIO()
    Image.effect_mandelbrot((60, 60), (-2, -1.5, 1, 1.5), 50).save(picture, "PNG")
    sewn = [(nth * 1.7 % 60, nth // 36 * 0.4) for nth in range(900)]
    listed = "x,y,command,colour\n" + "".join(
        f"{x:.2f},{y:.2f},stitch,{'red' if y < 5 else 'blue'}\n" for x, y in sewn
    )
    moves = "G21 G90\nM6 T1\nG0 X0 Y0\n" + "".join(f"G1 X{x:.2f} Y{y:.2f}\n" for x, y in sewn) + "M2\n"
    return {"a.svg": art.encode(), "a.dxf": text.getvalue().encode(), "a.png": picture.getvalue(),
            "a.csv": listed.encode(), "a.nc": moves.encode()}  # fmt: skip


def test_parts_and_needle_points_asked_for_with_junk(asked, job, art):
    chance = random.Random(14)
    answer = asked.post(reverse("artwork", args=[job.pk]), {
        "artwork": SimpleUploadedFile("a.csv", files(art)["a.csv"]), "revision": 1})  # fmt: skip
    page = answer["Location"]
    words = [*JUNK, "0:keep", "0:keep 1:drop", "0:outline", "0:cloth", "140", "140 108", "5-9", "0-899", "3"]
    asked.post(page, {"revision": 1, "ways": "0:keep"})
    piece = Job.objects.get(pk=job.pk).head.read().pieces[-1].id
    needles = reverse("edit-needles", args=[job.pk, piece])
    for _ in range(12 * ROUNDS):
        fields = {one: chance.choice(words) for one in ("ways", "cloths", "threads", "repeat_from", "repeat_to", "points",
                                                        "dx", "dy", "degrees", "least", "unit", "columns")}  # fmt: skip
        fields |= {"revision": Job.objects.get(pk=job.pk).head.number,
                   "do": chance.choice(["move", "delete", "thin", "turn", "join"])}  # fmt: skip
        fields |= {"repeat": "yes"} if chance.random() < 0.3 else {}
        for answer in (asked.get(page, fields), asked.post(page, fields),
                       asked.post(needles, fields, headers={"HX-Request": "true"})):  # fmt: skip
            assert answer.status_code in ANSWERS, fields
    opens(asked, job)


def test_files_that_are_harmed(asked, job, art):
    chance = random.Random(13)
    known = files(art)
    for nth in range(FILES):
        name = list(known)[nth % len(known)]
        upload = SimpleUploadedFile(name, harmed(known[name], chance))
        number = Job.objects.get(pk=job.pk).head.number
        fields = {"artwork": upload, "revision": number, "unit": chance.choice(["", "mm", "in"])}
        if chance.random() < 0.3:
            fields["choose"] = "yes"
        answer = asked.post(reverse("artwork", args=[job.pk]), fields)
        assert answer.status_code in ANSWERS, (nth, name)
        if answer.status_code == 302:
            assert asked.get(answer["Location"]).status_code == 200, (nth, name)
    opens(asked, job)


def test_clips_that_are_harmed(asked, job):
    chance = random.Random(14)
    clip = write_job(job.head.read())
    for nth in range(FILES):
        text = (
            harmed(clip, chance).decode(errors="replace")
            if nth % 2
            else json.dumps(twisted(json.loads(clip), chance))
        )
        number = Job.objects.get(pk=job.pk).head.number
        fields = {"revision": number, "do": "paste", "clip": text}
        answer = asked.post(reverse("edit-shapes", args=[job.pk]), fields, headers={"HX-Request": "true"})
        assert answer.status_code in ANSWERS, (nth, text[:400])
    opens(asked, job)


def twisted(value, chance):
    """A document with some of its values made others, types and all."""
    if chance.random() < 0.02:
        return chance.choice([None, -1, 1e308, 10**30, "", "p9", [], {}, [[]], True, "x" * 3000, 0.1])
    if isinstance(value, dict):
        return {key: twisted(one, chance) for key, one in value.items() if chance.random() > 0.01}
    return [twisted(one, chance) for one in value] if isinstance(value, list) else value
