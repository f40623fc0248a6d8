"""Rows that a shop has changed or added, presets saved from pieces, recipes kept from jobs, typefaces brought in."""

from django.db import models

from velamen.web.accounts.models import Shop


class Row(models.Model):
    """A material of a shop's own: a changed shipped row, or one of its own making.

    Rows that nobody changed are not stored: they are the shipped ones.
    """

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="rows")
    kind = models.CharField(max_length=20)
    key = models.CharField(max_length=40)
    fields = models.JSONField()

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["shop", "kind", "key"], name="one_row_a_key")]

    def __str__(self) -> str:
        return f"{self.kind} {self.key}"


class Recipe(models.Model):
    """How a shop builds round a design. body: the recipe as JSON (core.job.recipe)."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=60)
    body = models.BinaryField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="one_recipe_a_name")]

    def __str__(self) -> str:
        return self.name


class Preset(models.Model):
    """Values saved from a piece of one construction, worked out on one base."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="presets")
    name = models.CharField(max_length=60)
    construct = models.CharField(max_length=20)
    base = models.CharField(max_length=40)
    values = models.JSONField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["shop", "name"], name="one_preset_a_name")]

    def __str__(self) -> str:
        return self.name


class Typeface(models.Model):
    """A typeface that a shop has brought in. key: by what is in its file; licence: what the shop says of it."""

    shop = models.ForeignKey(Shop, on_delete=models.CASCADE, related_name="typefaces")
    key = models.CharField(max_length=40)
    name = models.CharField(max_length=80)
    licence = models.CharField(max_length=200)
    data = models.BinaryField()

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["shop", "key"], name="one_typeface_a_key")]

    def __str__(self) -> str:
        return self.name
