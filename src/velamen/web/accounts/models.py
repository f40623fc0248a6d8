"""Shops, who works in them and as what, invitations, and sessions that can be listed and ended."""

from __future__ import annotations

from django.conf import settings
from django.contrib.sessions.base_session import AbstractBaseSession
from django.db import models


class Shop(models.Model):
    """A workshop. Every job and every library row belongs to one.

    begun, begun_from: when and from which address; binned: when it was put into the bin.
    """

    name = models.CharField(max_length=80)
    begun = models.DateTimeField(auto_now_add=True)
    begun_from = models.CharField(max_length=45, default="", db_index=True)
    binned = models.DateTimeField(null=True, default=None, db_index=True)

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    """What a person does in a shop."""

    OWNER = "owner", "Owner"
    DIGITIZER = "digitizer", "Digitizer"
    MACHINE = "machine", "Machine side"


class Member(models.Model):
    """A person's place in a shop. unit: of the sizes they are shown."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="members")
    role = models.CharField(max_length=10, default=Role.DIGITIZER, choices=Role.choices)
    unit = models.CharField(max_length=2, default="mm", choices=(("mm", "mm"), ("in", "inches")))

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.user} of {self.shop}"


class Invitation(models.Model):
    """A place in a shop held for whoever has the link. digest: of the link's secret, which is kept nowhere."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=10, choices=Role.choices)
    mail = models.EmailField(blank=True)
    digest = models.CharField(max_length=64, unique=True)
    until = models.DateTimeField()

    class Meta:
        ordering = ["-until"]

    def __str__(self) -> str:
        return f"{self.role} of {self.shop}"


class Session(AbstractBaseSession):
    """A session, with whose it is and where it was begun."""

    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE, related_name="sessions", db_constraint=False
    )
    agent = models.CharField(max_length=200, default="")
    address = models.CharField(max_length=45, default="")
    seen = models.DateTimeField(auto_now=True)

    class Meta(AbstractBaseSession.Meta):
        ordering = ["-seen"]
