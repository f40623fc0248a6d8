"""Forms of the board."""

from __future__ import annotations

from typing import Any

from django import forms

from velamen.core.materials.library import Library
from velamen.web.stages.forms import base_choices


class NewJobForm(forms.Form):
    """A new job: its name, what it is sewn on, and artwork if there is some already."""

    name = forms.CharField(label="Name", max_length=80)
    recipe = forms.CharField(required=False, max_length=40)
    base = forms.ChoiceField(label="Sewn on", initial="fleece")
    artwork = forms.FileField(
        label="Artwork",
        required=False,
        help_text="An SVG or DXF file at true size, or a picture to trace. It can also be brought in later.",
        widget=forms.ClearableFileInput(attrs={"accept": ".svg,.dxf,.png,.jpg,.jpeg,.webp"}),
    )

    def __init__(self, library: Library, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["base"].choices = base_choices(library)
