"""Loads the demo shop and its jobs into an empty database."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from importlib.resources import files

from django.contrib.auth.models import User
from django.db import transaction

from velamen.core.artwork.svg import read_svg
from velamen.core.edits.shapes.bring_in import bring_in, fitting_hoop
from velamen.core.edits.shapes.live_shapes import with_maker
from velamen.core.edits.stack.grounds import with_ground, with_name_piece
from velamen.core.edits.stack.own_values import with_own
from velamen.core.job.document import Job, Repeat, brief_for, change
from velamen.core.job.shape import Text
from velamen.core.materials.colour import nearest_thread
from velamen.core.materials.library import shipped
from velamen.web.accounts.models import Member, Role, Shop
from velamen.web.demo.chenille import CRAB, PICTURE, crab_document
from velamen.web.demo.cutwork import NAPKIN, napkin_document
from velamen.web.demo.foam import STARFISH, TIDE, starfish_document, tide_document
from velamen.web.demo.lace import EDGING, FAN, edging_document, fan_document
from velamen.web.demo.rope import LIST, ROPE, rope_document
from velamen.web.jobs import history
from velamen.web.stages.sources import keep, keep_stitches, stitches_of

SHOP = "Ormsel Loft"
PERSON, MAIL = "maren", "maren@ormsel-loft.example"


def calm_ground(job: Job) -> Job:
    """A job on a knockdown that leaves no pile standing in a gap of its design."""
    job = with_ground(job, "knockdown")
    return with_own(job, [job.pieces[0].id], "knockdown_gap", "16")


@dataclass(frozen=True)
class DemoJob:
    """One demo job: artwork, base, construction, what each piece is made of, its own values, and a last touch."""

    name: str
    artwork: str
    base: str
    makeup: dict[str, tuple[str, str]]
    own: dict[str, dict[str, float | str | bool]] = field(default_factory=dict)
    construct: str = "applique"
    hoop: str = ""
    finish: Callable[[Job], Job] = lambda job: job


def towel(job: Job) -> Job:
    """The motif embossed in thread of the towel's own colour."""
    thread = nearest_thread(job.library.bases[job.brief.base].colour, job.library).key
    return change(job, pieces=[change(piece, thread=thread) for piece in job.pieces])


JOBS = (
    DemoJob(
        "Whale-tail bath towel",
        "whale-tail.svg",
        "terry",
        {},
        {"Whale tail": {"emboss_margin": 18.0}},
        "emboss",
        "h180x300",
        towel,
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
        finish=calm_ground,
    ),
)
PENNANT = "Boat-shed pennant"
BADGE = DemoJob(
    "Lighthouse crew badge",
    "lighthouse-crew.svg",
    "none",
    {
        "Badge": ("harbour_blue", "118"),
        "Sea": ("harbour_blue", "121"),
        "Left beam": ("harbour_blue", "133"),
        "Right beam": ("harbour_blue", "133"),
        "Tower": ("harbour_blue", "103"),
        "Upper band": ("harbour_blue", "140"),
        "Lower band": ("harbour_blue", "140"),
        "Gallery": ("harbour_blue", "116"),
        "Lamp": ("harbour_blue", "136"),
        "Cap": ("harbour_blue", "140"),
    },
    {"Left beam": {"fill_angle": 12.0}, "Right beam": {"fill_angle": -12.0}, "Tower": {"fill_angle": 90.0}},
    "fill",
    "h200x300",
)


@transaction.atomic
def load_demo(password: str) -> list[str]:
    """Names of what was made; nothing where a shop stands already."""
    if not password or Shop.objects.exists():
        return []
    shop = Shop.objects.create(name=SHOP)
    person = User.objects.create_user(PERSON, MAIL, password)
    Member.objects.create(user=person, shop=shop, role=Role.OWNER)
    history.create(shop, person, picture_document(shop), "Demo job")
    history.create(shop, person, pennant_document(), "Demo job")
    for demo in JOBS:
        history.create(shop, person, demo_document(demo), "Demo job")
    history.create(shop, person, badge_document(), "Demo job")
    for document in (fan_document(), edging_document(), tide_document(), starfish_document(), napkin_document()):
        history.create(shop, person, document, "Demo job")
    history.create(shop, person, listed_document(shop), "Demo job")
    return [
        SHOP,
        CRAB,
        PENNANT,
        *(demo.name for demo in JOBS),
        BADGE.name,
        FAN,
        EDGING,
        TIDE,
        STARFISH,
        NAPKIN,
        ROPE,
    ]


def picture_document(shop: Shop) -> Job:
    """The demo job that was traced from a scanned drawing, which lies behind it."""
    source, _ = keep(shop, PICTURE, files("velamen.web.demo").joinpath(PICTURE).read_bytes())
    return crab_document(source.key)


def listed_document(shop: Shop) -> Job:
    """The demo job that came out of a stitch file."""
    source = keep_stitches(shop, LIST, files("velamen.web.demo").joinpath(LIST).read_bytes(), "", "")
    return rope_document(source.key, stitches_of(source, "", ""))


def demo_document(demo: DemoJob) -> Job:
    """The job document of a demo job."""
    artwork = read_svg(files("velamen.web.demo").joinpath(demo.artwork).read_bytes())
    brief = brief_for(demo.base, demo.hoop or fitting_hoop(artwork, shipped()) or "h200x300")
    job = bring_in(Job(name=demo.name, brief=brief), artwork, demo.construct)
    pieces = []
    for piece in job.pieces:
        cloth, thread = demo.makeup.get(piece.name, (piece.cloth, piece.thread))
        pieces.append(change(piece, cloth=cloth, thread=thread, own=demo.own.get(piece.name, {})))
    return demo.finish(change(job, pieces=pieces))


def pennant_document() -> Job:
    """The demo job of lettering on a name piece with a raw edge."""
    job = Job(name=PENNANT, brief=brief_for("firm_woven", "h360x200"))
    job = with_maker(job, Text("m1", "Boat shed", "fredoka", 34.0))
    letters = [shape.id for shape in job.shapes]
    pieces = [change(piece, construct="column", thread="104") for piece in job.pieces]
    job = with_name_piece(change(job, pieces=pieces), letters)
    cloth, *words = job.pieces
    raw = change(cloth, name="Pennant", construct="applique", cloth="harbour_blue", thread="118",
                 own={"cover_kind": "raw"})  # fmt: skip
    return change(job, pieces=[raw, *words])


def badge_document() -> Job:
    """The demo job of a patch: a lighthouse under lettering on an arch, with an overlocked edge, six in the hoop."""
    job = demo_document(BADGE)
    before = {one.id for one in job.pieces}
    job = with_maker(job, Text("m1", "LIGHTHOUSE CREW", "rubik", 6.5, circle=52.0))
    badge, pieces = job.pieces[0], []
    for one in job.pieces:
        if one.id == badge.id:
            pieces.append(change(one, construct="patch", own={"patch_edge": "overedge"}))
        else:
            made = {} if one.id in before else {"construct": "column", "cloth": badge.cloth, "thread": "104"}
            pieces.append(change(one, on=badge.id, **made))
    return change(job, pieces=pieces, repeat=Repeat(2, 3))
