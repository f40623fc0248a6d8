"""Shops and who works in them."""

from django.conf import settings
from django.db import models


class Shop(models.Model):
    """A workshop. Every job and every library row belongs to one."""

    name = models.CharField(max_length=80)

    def __str__(self) -> str:
        return self.name


class Member(models.Model):
    """A person's place in a shop. unit: of the sizes they are shown."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="members")
    unit = models.CharField(max_length=2, default="mm", choices=(("mm", "mm"), ("in", "inches")))

    def __str__(self) -> str:
        return f"{self.user} of {self.shop}"
