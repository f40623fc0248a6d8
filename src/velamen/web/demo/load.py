"""Loads the demo shop and its jobs into an empty database."""

from __future__ import annotations

from dataclasses import dataclass, field
from importlib.resources import files

from django.contrib.auth.models import User
from django.db import transaction

from velamen.core.artwork.svg import read_svg
from velamen.core.bring_in import bring_in, fitting_hoop
from velamen.core.job import Job, brief_for, change
from velamen.core.materials.library import shipped
from velamen.core.taking import backdrop_of
from velamen.web.accounts.models import Member, Shop
from velamen.web.bench.sources import keep
from velamen.web.jobs import history

SHOP = "Ormsel Loft"
PERSON = "maren"
PICTURE_JOB, PICTURE = "Crab cushion", "crab-cushion.png"


@dataclass(frozen=True)
class DemoJob:
    """One demo job: artwork, base, and per piece name its cloth, thread and own values."""

    name: str
    artwork: str
    base: str
    makeup: dict[str, tuple[str, str]]
    own: dict[str, dict[str, float | str | bool]] = field(default_factory=dict)


JOBS = (
    DemoJob(
        "Boat-shed pennant",
        "boat-shed-pennant.svg",
        "firm_woven",
        {"Pennant": ("harbour_blue", "118"), "Boat": ("deck_cream", "104"), "Sail": ("sail_red", "140")},
        {"Sail": {"precut": True}},
    ),
    DemoJob(
        "Otter crew blanket",
        "otter-crew.svg",
        "fleece",
        {
            "Life ring": ("sail_red", "140"),
            "Otter": ("otter_brown", "108"),
            "Muzzle": ("deck_cream", "103"),
            "Nose": ("night_ink", "116"),
            "Left eye": ("night_ink", "116"),
            "Right eye": ("night_ink", "116"),
        },
        {"Nose": {"cover_width": 2.0}},
    ),
)


@transaction.atomic
def load_demo(password: str) -> list[str]:
    """Names of what was made; nothing where a shop stands already."""
    if not password or Shop.objects.exists():
        return []
    shop = Shop.objects.create(name=SHOP)
    person = User.objects.create_user(PERSON, password=password)
    Member.objects.create(user=person, shop=shop)
    history.create(shop, person, picture_document(shop), "Demo job")
    for demo in JOBS:
        history.create(shop, person, demo_document(demo), "Demo job")
    return [SHOP, PICTURE_JOB, *(demo.name for demo in JOBS)]


def picture_document(shop: Shop) -> Job:
    """The demo job that has only a scanned drawing yet, to be traced."""
    data = files("velamen.web.demo").joinpath(PICTURE).read_bytes()
    source, picture = keep(shop, PICTURE, data)
    job = Job(name=PICTURE_JOB, brief=brief_for("felt", "h200x300"))
    return backdrop_of(job, source.key, picture.width, picture.height)


def demo_document(demo: DemoJob) -> Job:
    """The job document of a demo job."""
    artwork = read_svg(files("velamen.web.demo").joinpath(demo.artwork).read_bytes())
    brief = brief_for(demo.base, fitting_hoop(artwork, shipped()) or "h200x300")
    job = bring_in(Job(name=demo.name, brief=brief), artwork, "applique")
    pieces = []
    for piece in job.pieces:
        cloth, thread = demo.makeup.get(piece.name, (piece.cloth, piece.thread))
        pieces.append(change(piece, cloth=cloth, thread=thread, own=demo.own.get(piece.name, {})))
    return change(job, pieces=pieces)
