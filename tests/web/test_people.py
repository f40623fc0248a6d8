"""People of a shop: it is begun, they come by invitation, do what their role allows, and leave without losing work."""

import re
from datetime import timedelta

import pytest
from django.contrib.auth.models import User
from django.core import mail
from django.test import Client
from django.urls import get_resolver, reverse
from django.utils import timezone

from velamen.web.accounts import people
from velamen.web.accounts.models import Invitation, Member, Role, Session, Shop
from velamen.web.accounts.roles import OWN, OWNERS
from velamen.web.jobs import bin as bin_
from velamen.web.jobs.models import Job

GOOD = "tide-and-thread"
NEW = {"username": "nils", "email": "nils@ormsel-loft.example", "password": GOOD}


def text(answer):
    return answer.content.decode()


def invited(client, role="digitizer", mail=""):
    """The path of the link that an invitation shows once."""
    answer = client.post(reverse("invite"), {"role": role, "mail": mail})
    return re.search(r'value="http://testserver(/join/[^"]+)"', text(answer))[1]


def test_a_shop_is_begun_by_its_owner(client, db):
    answer = client.post(reverse("sign-up"), {"shop": "Quay Nine", **NEW}, follow=True)
    assert "No jobs yet" in text(answer)
    member = Member.objects.get(user__username="nils")
    assert (member.shop.name, member.role) == ("Quay Nine", Role.OWNER)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"password": "short"}, "at least 8"),
        ({"password": "password123"}, "too common"),
        ({"password": "nils@ormsel-loft.e"}, "too similar"),
        ({"username": "Maren"}, "signs in with that name"),
        ({"email": "nowhere"}, "valid email"),
        ({"shop": ""}, "required"),
    ],
)
def test_what_is_wrong_with_a_beginning_is_said_and_nothing_is_kept(client, shop, change, said):
    answer = client.post(reverse("sign-up"), {"shop": "Quay Nine", **NEW, **change})
    assert said in text(answer).lower() and Shop.objects.count() == 1 and User.objects.count() == 1


def test_beginning_shops_can_be_closed(client, db, settings):
    settings.SIGN_UP = False
    assert client.get(reverse("sign-up")).status_code == 404


def test_from_one_address_few_shops_are_begun_a_day(client, db):
    def begun(nth, address="192.0.2.7"):
        sent = {"shop": f"Quay {nth}", **NEW, "username": f"nils{nth}", "email": f"n{nth}@ormsel-loft.example"}
        answer = client.post(reverse("sign-up"), sent, headers={"X-Real-IP": address})
        client.logout()
        return answer

    assert [begun(nth).status_code for nth in range(people.MOST_BEGUN)] == [302] * people.MOST_BEGUN
    assert "5 shops were begun from your address" in text(begun(8)) and not User.objects.filter(username="nils8")
    assert begun(9, "192.0.2.8").status_code == 302
    Shop.objects.update(begun=timezone.now() - timedelta(days=2))
    assert begun(8).status_code == 302


def test_an_invitation_opens_once_for_a_role(signed_in, shop):
    link = invited(signed_in, "machine")
    other = Client()
    assert "Ormsel Loft" in text(other.get(link))
    assert other.post(link, NEW).status_code == 302
    assert Member.objects.get(user__username="nils").role == Role.MACHINE
    again = Client().post(link, {**NEW, "username": "ole"})
    assert again.status_code == 404 and not User.objects.filter(username="ole").exists()


def test_an_invitation_is_sent_taken_back_and_ends_by_itself(signed_in, shop):
    link = invited(signed_in, mail="nils@ormsel-loft.example")
    assert link in mail.outbox[0].body and mail.outbox[0].to == ["nils@ormsel-loft.example"]
    assert link.split("/")[2] not in str(Invitation.objects.values())  # the secret itself is kept nowhere
    Invitation.objects.update(until=timezone.now() - timedelta(minutes=1))
    assert Client().get(link).status_code == 404
    link = invited(signed_in)
    signed_in.post(reverse("take-back", args=[shop.invitations.get().pk]))
    assert Client().get(link).status_code == 404


def test_who_is_signed_in_takes_no_second_place(signed_in, stranger):
    link = invited(signed_in)
    other = Client()
    other.force_login(stranger)
    assert other.get(link).status_code == 409


def test_roles_are_set_and_an_owner_stays(signed_in, shop, runa, maren):
    signed_in.post(reverse("set-role", args=[runa.member.pk]), {"role": "digitizer"})
    assert Member.objects.get(user=runa).role == Role.DIGITIZER
    for address, sent in (("set-role", {"role": "machine"}), ("remove-person", {})):
        answer = signed_in.post(reverse(address, args=[maren.member.pk]), sent)
        assert answer.status_code == 422 and "needs an owner" in text(answer)
    assert signed_in.post(reverse("set-role", args=[runa.member.pk]), {"role": "king"}).status_code == 422


def test_the_machine_side_looks_and_changes_nothing(client, runa, job):
    """Every address, so that a new one is closed until somebody opens it."""
    client.force_login(runa)
    names = {name for name in get_resolver().reverse_dict if isinstance(name, str)}
    known = {"piece": "p1", "number": 1, "name": "cut.svg", "key": "terry", "token": "t", "nth": 0, "kind": "bases",
             "job_id": job.pk, "preset": 1, "recipe": 1, "member": 1, "invitation": 1}  # fmt: skip
    visitors = {"sign-in", "sign-up", "join", "healthz", "reset", "reset-sent", "reset-set", "reset-done"}
    before = Job.objects.values().get(), Session.objects.count()
    for name in sorted(names - OWN - visitors - {"freeze"}):
        for possible in get_resolver().reverse_dict.getlist(name):
            params = possible[0][0][1]
            answer = client.post(reverse(name, kwargs={one: known[one] for one in params}), {"revision": 1})
            assert answer.status_code == 403, name
    assert (Job.objects.values().get(), Session.objects.count()) == before
    for stage in ("brief", "artwork", "build", "prove", "hand-over"):
        assert client.get(reverse(stage, args=[job.pk])).status_code == 200
    assert client.get(reverse("file", args=[job.pk, "cut.svg"])).status_code == 200
    assert "New job" not in text(client.get("/")) and 'class=" looks-only"' in text(client.get("/"))


def test_what_is_for_owners_is_closed_to_all_others(client, runa, shop, signed_in):
    Member.objects.filter(user=runa).update(role=Role.DIGITIZER)
    client = Client()
    client.force_login(runa)
    for name in OWNERS:
        params = get_resolver().reverse_dict.getlist(name)[0][0][0][1]
        answer = client.post(reverse(name, kwargs=dict.fromkeys(params, 1)))
        assert answer.status_code == 403 and "owners" in text(answer)
    assert "People" not in text(client.get("/"))


def test_people_of_another_shop_are_not_there(client, stranger, runa, signed_in, shop):
    link = invited(signed_in)
    other = Client()
    other.force_login(stranger)
    assert "runa" not in text(other.get(reverse("people")))
    for name in ("set-role", "remove-person"):
        assert other.post(reverse(name, args=[runa.member.pk]), {"role": "owner"}).status_code == 404
    other.post(reverse("take-back", args=[shop.invitations.get().pk]))
    assert Client().get(link).status_code == 200


def test_who_is_removed_is_out_and_their_work_stays(signed_in, shop, runa, job):
    theirs = Client()
    theirs.force_login(runa)
    job.revisions.update(author=runa)
    signed_in.post(reverse("remove-person", args=[runa.member.pk]))
    assert theirs.get("/").status_code == 302 and not User.objects.filter(username="runa").exists()
    assert job.revisions.get().author is None and job.revisions.get().read().name == "Buoy towel"


def test_a_forgotten_password_is_set_by_mail(client, maren):
    assert client.post(reverse("reset"), {"email": "maren@ormsel-loft.example"}).status_code == 302
    link = re.search(r"http://testserver(/password/\S+)", mail.outbox[0].body)[1]
    page = client.get(link, follow=True)
    new = {"new_password1": "harbour-4-lights", "new_password2": "harbour-4-lights"}
    assert "is set" in text(client.post(page.request["PATH_INFO"], new, follow=True))
    assert User.objects.get(username="maren").check_password("harbour-4-lights")
    assert "opens nothing" in text(Client().get(link, follow=True))


def test_nobody_learns_which_addresses_are_known(client, maren):
    answers = [
        text(client.post(reverse("reset"), {"email": one}, follow=True))
        for one in ("maren@ormsel-loft.example", "x@y.example")
    ]
    answers = [re.sub(r"CSRFToken[^}]+", "", one) for one in answers]
    assert answers[0] == answers[1] and len(mail.outbox) == 1


def signed(agent):
    one = Client(headers={"user-agent": agent})
    one.post("/sign-in/", {"username": "maren", "password": GOOD})
    return one


def test_sessions_are_listed_and_ended(maren):
    here, there, third = signed("Firefox/140 Linux"), signed("Chrome/140 Windows"), signed("Safari/600 iPhone")
    page = here.get(reverse("account"))
    assert all(one in text(page) for one in ("Firefox on Linux", "Chrome on Windows", "Safari on iPhone"))
    assert not any(one.session_key in text(page) for one in Session.objects.all())
    (chrome,) = [one for one in page.context["sessions"] if "Chrome" in one["session"].agent]
    here.post(reverse("end-session"), {"session": chrome["name"]})
    assert there.get("/").status_code == 302 and third.get("/").status_code == 200
    here.post(reverse("end-others"))
    assert third.get("/").status_code == 302 and here.get("/").status_code == 200


def test_a_changed_password_ends_all_other_sessions(maren):
    here, there = signed("Firefox/140"), signed("Chrome/140")
    new = {"old_password": GOOD, "new_password1": "harbour-4-lights", "new_password2": "harbour-4-lights"}
    assert here.post(reverse("account"), {**new, "old_password": "x"}).status_code == 422
    here.post(reverse("account"), new)
    assert here.get("/").status_code == 200 and there.get("/").status_code == 302


def test_a_mail_address_is_changed(signed_in, maren):
    signed_in.post(reverse("account"), {"email": "m@ormsel-loft.example"})
    assert User.objects.get(pk=maren.pk).email == "m@ormsel-loft.example"


def test_a_shop_goes_into_the_bin_and_comes_back_or_is_deleted(signed_in, shop, runa, job, stranger):
    assert signed_in.post(reverse("put-shop-in-bin"), {"name": "Ormsel"}).status_code == 422
    signed_in.post(reverse("put-shop-in-bin"), {"name": "Ormsel Loft"})
    theirs = Client()
    theirs.force_login(runa)
    for one in (signed_in, theirs):
        answer = one.get(reverse("build", args=[job.pk]))
        assert answer.status_code == 403 and "is in the bin" in text(answer)
    assert theirs.post(reverse("shop-back")).status_code == 403
    signed_in.post(reverse("shop-back"))
    assert signed_in.get(reverse("build", args=[job.pk])).status_code == 200
    Shop.objects.filter(pk=shop.pk).update(binned=timezone.now() - timedelta(days=31))
    bin_.empty_bins()
    assert (
        not Shop.objects.filter(pk=shop.pk).exists() and User.objects.get() == stranger and not Job.objects.exists()
    )


def test_a_shop_is_taken_along_as_open_files(signed_in, shop, job, upload):
    import io
    import json
    import zipfile

    from velamen.core.job.reading import read_job
    from velamen.web.stages.sources import keep

    keep(shop, "../../Buoy drawing.svg", upload().read())
    answer = signed_in.get(reverse("export-shop"))
    assert answer["Content-Disposition"] == 'attachment; filename="ormsel-loft.zip"'
    folder = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    names = folder.namelist()
    assert f"jobs/buoy-towel-{job.pk}.json" in names and not any(".." in one for one in names)
    assert read_job(folder.read(f"jobs/buoy-towel-{job.pk}.json")).name == "Buoy towel"
    assert json.loads(folder.read("library.json"))["shop"] == "Ormsel Loft"
    assert any(one.endswith("buoy-drawing.svg") for one in names)
