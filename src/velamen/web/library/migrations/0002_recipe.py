"""Recipes of a shop."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("accounts", "0001_initial"), ("library", "0001_initial")]

    operations = [
        migrations.CreateModel(
            "Recipe",
            [
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60)),
                ("body", models.BinaryField()),
                ("shop", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name="recipes",
                                           to="accounts.shop")),
            ],
            options={
                "ordering": ["name"],
                "constraints": [models.UniqueConstraint(fields=("shop", "name"), name="one_recipe_a_name")],
            },
        ),
    ]
