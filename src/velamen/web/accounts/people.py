"""People of a shop: shops begun, invitations, roles, and places given up without losing work."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from velamen.core.errors import BadInput
from velamen.web.accounts.models import Invitation, Member, Role, Session, Shop

VALID = timedelta(days=7)
MOST_BEGUN = 5  # shops a day from one address
MOST_OPEN = 40  # invitations of a shop at once
LAST_OWNER = "A shop needs an owner: make somebody else one first."


@transaction.atomic
def begin_shop(name: str, user: User, address: str = "") -> Shop:
    """A new shop with its owner, a person not saved yet. address: from which it is begun, so many a day at most."""
    since = timezone.now() - timedelta(days=1)
    if address and Shop.objects.filter(begun_from=address, begun__gt=since).count() >= MOST_BEGUN:
        raise BadInput(f"{MOST_BEGUN} shops were begun from your address within a day: begin yours tomorrow.")
    user.save()
    shop = Shop.objects.create(name=name, begun_from=address[:45])
    Member.objects.create(user=user, shop=shop, role=Role.OWNER)
    return shop


def invite(shop: Shop, role: str, mail: str = "") -> str:
    """Holds a place in a shop; the secret of its link, which is told only now."""
    Invitation.objects.filter(until__lt=timezone.now()).delete()
    if shop.invitations.count() >= MOST_OPEN:
        raise BadInput(f"{MOST_OPEN} invitations are open: take some back first.")
    secret = secrets.token_urlsafe(24)
    shop.invitations.create(role=role, mail=mail, digest=_digest(secret), until=timezone.now() + VALID)
    return secret


def invitation_of(secret: str) -> Invitation | None:
    """The invitation behind a link, while it holds."""
    found: Invitation | None = (
        Invitation.objects.select_related("shop")
        .filter(digest=_digest(secret), until__gte=timezone.now(), shop__binned=None)
        .first()
    )
    return found


@transaction.atomic
def join(invitation: Invitation, user: User) -> Member:
    """Gives a place held to a person not saved yet. Raises BadInput where it was given meanwhile."""
    if not Invitation.objects.filter(pk=invitation.pk).delete()[0]:
        raise BadInput("This invitation has been used: ask for another.")
    user.save()
    return Member.objects.create(user=user, shop=invitation.shop, role=invitation.role)


@transaction.atomic
def set_role(member: Member, role: str) -> None:
    """Gives a person another role. Raises BadInput for the last owner."""
    if role not in Role.values:
        raise BadInput("There is no such role: reload the page.")
    if Role(role) is not Role.OWNER:
        _keep_an_owner(member)
    Member.objects.filter(pk=member.pk).update(role=role)


@transaction.atomic
def remove(member: Member) -> None:
    """Ends a person's place and account. Jobs, versions and library stay with the shop."""
    _keep_an_owner(member)
    Session.objects.filter(user=member.user_id).delete()
    member.user.delete()


def end_sessions(user: User, but: str | None = None, only: str | None = None) -> int:
    """Ends sessions of a person: all, all but one, or one; how many."""
    found = Session.objects.filter(user=user)
    found = found.exclude(session_key=but) if but else found
    found = found.filter(session_key=only) if only is not None else found
    count: int = found.delete()[0]
    return count


def _keep_an_owner(member: Member) -> None:
    owners = Member.objects.select_for_update().filter(shop=member.shop_id, role=Role.OWNER)
    if [one.pk for one in owners] == [member.pk]:
        raise BadInput(LAST_OWNER)


def _digest(secret: str) -> str:
    return hashlib.sha256(secret.encode()).hexdigest()
