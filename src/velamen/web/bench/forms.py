"""Forms of the stages."""

from __future__ import annotations

from crispy_forms.helper import FormHelper
from crispy_forms.layout import Column, Layout, Row
from django import forms

from velamen.core.job import Brief
from velamen.core.materials.library import hoops, stabilizers, toppings
from velamen.web.jobs.forms import base_choices


def _named(rows: dict) -> list[tuple[str, str]]:
    return [(key, row.name) for key, row in rows.items()]


class BriefForm(forms.Form):
    """What a job is sewn on."""

    name = forms.CharField(label="Job", max_length=80)
    base = forms.ChoiceField(label="Sewn on", choices=base_choices)
    stabilizer = forms.ChoiceField(label="Stabilizer", choices=lambda: _named(stabilizers()))
    stabilizer_layers = forms.IntegerField(label="Layers", min_value=0, max_value=4)
    topping = forms.ChoiceField(label="Topping", choices=lambda: _named(toppings()))
    hoop = forms.ChoiceField(label="Sewing field, mm", choices=lambda: _named(hoops()))
    revision = forms.IntegerField(widget=forms.HiddenInput)

    def __init__(self, *args, **kwargs) -> None:
        super().__init__(*args, **kwargs)
        self.helper = FormHelper()
        self.helper.form_tag = False
        self.helper.disable_csrf = True
        self.helper.layout = Layout(
            "revision",
            "name",
            "base",
            Row(Column("stabilizer", css_class="col-8"), Column("stabilizer_layers", css_class="col-4")),
            "topping",
            "hoop",
        )

    def brief(self) -> Brief:
        """The brief of a valid form."""
        return Brief(
            **{key: self.cleaned_data[key] for key in Brief.__struct_fields__}  # type: ignore[attr-defined]
        )


class ArtworkForm(forms.Form):
    """Artwork to bring in."""

    artwork = forms.FileField(
        label="SVG file at true size", widget=forms.FileInput(attrs={"accept": ".svg,image/svg+xml"})
    )
    revision = forms.IntegerField(widget=forms.HiddenInput)
