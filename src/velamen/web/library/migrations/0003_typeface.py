"""Typefaces of a shop."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_initial"), ("library", "0002_recipe")]

    operations = [
        migrations.CreateModel(
            "Typeface",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=40)),
                ("name", models.CharField(max_length=80)),
                ("licence", models.CharField(max_length=200)),
                ("data", models.BinaryField()),
                ("shop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="typefaces",
                                           to="accounts.shop")),
            ],
            options={
                "ordering": ["name"],
                "constraints": [models.UniqueConstraint(fields=("shop", "key"), name="one_typeface_a_key")],
            },
        ),
    ]
