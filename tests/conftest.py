"""Fixtures: two shops with a person each, artwork, and jobs."""

import os
from pathlib import Path

import pytest
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import Phase
from hypothesis import settings as hypothesis_settings

from velamen.core.artwork.svg import read_svg
from velamen.core.constructions import constructions, looking_also_in
from velamen.core.edits.shapes.bring_in import bring_in
from velamen.core.job.document import Job, brief_for

# The same examples in every run, and no long search for the smallest failing one; the test command then
# tries fresh ones too, by a seed that it prints (VELAMEN_FRESH=1 with --hypothesis-seed=SEED does so by hand).
# No deadline: how long an example takes says how busy the machine is.
PHASES = (Phase.explicit, Phase.generate)
hypothesis_settings.register_profile("steady", derandomize=True, database=None, phases=PHASES, deadline=None)
hypothesis_settings.register_profile("fresh", database=None, phases=PHASES, deadline=None)
hypothesis_settings.load_profile("fresh" if os.environ.get("VELAMEN_FRESH") else "steady")

BUOY = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
    '<path id="Buoy" fill-rule="evenodd" d="M5 5H55V55H5Z M20 20H40V40H20Z"/></svg>'
)


constructions()  # settles the numbers of roles before any test makes a stitch


@pytest.fixture
def made_up():
    """A construction from a file beside these tests, known for as long as a test lasts."""
    with looking_also_in(Path(__file__).parent / "core" / "made_up"):
        yield constructions()["raised"]


@pytest.fixture
def art():
    return BUOY


@pytest.fixture
def buoy_job():
    """The document of a job with a buoy to be sewn as an appliqué."""
    return bring_in(Job(name="Buoy towel", brief=brief_for("terry", "h100x100")), read_svg(BUOY.encode()), "applique")


@pytest.fixture
def upload():
    def made(text=BUOY, name="buoy.svg"):
        return SimpleUploadedFile(name, text if isinstance(text, bytes) else text.encode(), "image/svg+xml")

    return made


@pytest.fixture
def shop(db):
    from velamen.web.accounts.models import Member, Shop

    made = Shop.objects.create(name="Ormsel Loft")
    person = User.objects.create_user("maren", "maren@ormsel-loft.example", "tide-and-thread")
    Member.objects.create(user=person, shop=made, role="owner")
    return made


@pytest.fixture
def maren(shop):
    return shop.members.get(role="owner").user


@pytest.fixture
def stranger(db):
    from velamen.web.accounts.models import Member, Shop

    other = Shop.objects.create(name="Quay Nine")
    user = User.objects.create_user("ivo", password="tide-and-thread")
    Member.objects.create(user=user, shop=other, role="owner")
    return user


@pytest.fixture
def runa(shop):
    """On the machine side of the shop."""
    from velamen.web.accounts.models import Member

    user = User.objects.create_user("runa", password="tide-and-thread")
    Member.objects.create(user=user, shop=shop, role="machine")
    return user


@pytest.fixture
def job(shop, maren, buoy_job):
    from velamen.web.jobs import history

    return history.create(shop, maren, buoy_job)


@pytest.fixture
def signed_in(client, maren):
    client.force_login(maren)
    return client


@pytest.fixture(autouse=True)
def _quick_passwords(settings):
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture(autouse=True)
def _worked_out_here(settings):
    """Builds are worked out in this process and not kept but where a test says otherwise."""
    settings.WORK_OUTSIDE, settings.KEPT_FOLDER = False, None
